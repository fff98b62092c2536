import { seededRandom } from "@gearsense/core/chance";
import type { Analysis } from "@gearsense/core/drive";
import {
  believe,
  fromLogs,
  type Knowledge,
  ORDERS,
  type Order,
  Planner,
  SuspectModel,
  siftEvidence,
} from "@gearsense/core/suspect";
import type { Unit } from "@gearsense/core/unit";
import type { Truth } from "@gearsense/simulator";
import { codesFound, codesOf, driveVehicle } from "./drive-vehicle.ts";
import { type DriveAgain, type DrivenAgain, type Followed, follow } from "./follow.ts";
import type { JobCase } from "./jobs.ts";
import { placeOf } from "./places.ts";
import { codesRead, firstLook, panDown } from "./workshop.ts";
import { contaminate, worldOf } from "./world.ts";

/** One vehicle from the complaint to the cure. */
export interface JobScore {
  readonly spec: JobCase;
  /** after log and first look: rank of the true fault and of its place, from 1; undefined with two faults or none */
  readonly rank: number | undefined;
  readonly placeRank: number | undefined;
  /** stated probability of the leading fault and of the leading place, and whether they are right */
  readonly leading: { readonly p: number; readonly right: boolean } | undefined;
  readonly leadingPlace: { readonly p: number; readonly right: boolean } | undefined;
  /** Σ over all faults of (stated − true)² */
  readonly brier: number;
  readonly leader: string;
  /** stated of each fault that is there */
  readonly stated: readonly number[];
  /** the other ways of working go on, after a repair that failed, with what was known, and do nothing twice */
  readonly followed: Readonly<Record<Order, Followed>>;
  /** every way of working drives again after a repair that failed, and may do it again */
  readonly informed: Readonly<Record<Order, Followed>>;
  /** somebody who knows at all times what is wrong */
  readonly told: Followed;
}

const HOURLY_RATE = 72;
const LEAST_SLIP_S = 1;
const CONTAMINATION = 299;
/** Added to the seed for the drives after a repair. */
const ANOTHER_DAY = 1000;
const planners = new Map<string, Planner>();

function plannerOf(unit: Unit, knowledge: Knowledge): Planner {
  let planner = planners.get(unit.id);
  if (!planner) {
    planner = new Planner(new SuspectModel(unit, knowledge), { hourlyRate: HOURLY_RATE });
    planners.set(unit.id, planner);
  }
  return planner;
}

/** Gears that slipped for over a second, and those of a fork that is at fault: what the one who drives knows. */
function troubled(unit: Unit, truths: readonly Truth[], faultIds: readonly string[]): string[] {
  const seconds = new Map<string, number>();
  for (const t of truths) for (const s of t.slips) seconds.set(s.gear, (seconds.get(s.gear) ?? 0) + s.endS - s.startS);
  const slipped = [...seconds].filter(([, s]) => s > LEAST_SLIP_S).map(([gear]) => gear);
  const forks = faultIds.filter((id) => id.startsWith("fork-")).map((id) => id.split(":")[1]);
  const moved = unit.gears
    .map((g) => g.name)
    .filter((g) => (unit.application[g] ?? []).some((a) => forks.includes(a.element)));
  return [...new Set([...slipped, ...moved])];
}

const logsOf = (analyses: readonly Analysis[]) =>
  analyses.map((analysis, i) => ({ logId: `log-${i}`, entryId: `log-${i}`, analysis }));

/** On another day, with the faults that are left; the same for every way of working, and as long as nothing more is cured. */
function driveAgain(spec: JobCase, unit: Unit, library: readonly Unit[]): DriveAgain {
  const known = new Map<string, DrivenAgain>();
  return (left) => {
    const key = left.join();
    let driven = known.get(key);
    if (!driven) {
      const faults = spec.faults.filter((_, i) => left.includes(spec.faultIds[i] as string));
      const { truths, analyses } = driveVehicle({ ...spec, seed: spec.seed + ANOTHER_DAY, faults }, unit, library);
      driven = {
        evidence: [...fromLogs(unit, logsOf(analyses)), ...codesRead(unit, codesOf(truths))],
        minutes: spec.drives.slice(0, analyses.length).reduce((s, d) => s + d.durationS, 0) / 60,
      };
      known.set(key, driven);
    }
    return driven;
  };
}

/** Drives, looks, ranks, and follows each way of working to the cure. */
export function judgeJob(spec: JobCase, unit: Unit, library: readonly Unit[], knowledge: Knowledge): JobScore {
  const planner = plannerOf(unit, knowledge);
  const { model } = planner;
  const { truths, analyses } = driveVehicle(spec, unit, library);
  const vehicle = {
    unit,
    faultIds: spec.faultIds,
    codes: codesFound(truths),
    slipGears: troubled(unit, truths, spec.faultIds),
  };
  const world = worldOf(spec.world);
  const seen = [
    ...firstLook(vehicle, model, seededRandom(spec.seed + 99), world.errors),
    ...panDown(vehicle, seededRandom(spec.seed + 199), world.errors),
    ...fromLogs(unit, logsOf(analyses)),
  ];
  const { used } = siftEvidence(
    model,
    contaminate(model, seen, world.contaminated, seededRandom(spec.seed + CONTAMINATION)),
  );
  const again = driveAgain(spec, unit, library);
  const belief = believe(model, used);
  const marginals = belief.marginals();
  const order = Array.from(marginals.keys()).sort((a, b) => (marginals[b] as number) - (marginals[a] as number));
  const ids = order.map((i) => model.faults[i]?.id ?? "");
  const truth = spec.faultIds.length === 0 ? ["nothing"] : spec.faultIds;
  const placeAt = model.faults.map((f) => placeOf(unit, f));
  const byPlace = [...belief.byGroup((i) => placeAt[i] as string)].sort((a, b) => b[1] - a[1]);
  const single = truth.length === 1 && spec.faultIds.length === 1 ? truth[0] : undefined;
  const fault = model.faults.find((f) => f.id === single);
  const truePlace = fault && placeOf(unit, fault);
  const work = (order: Order | "told", drive?: DriveAgain) =>
    follow(planner, used, spec.faultIds, order, spec.seed, drive, world);
  const informed = Object.fromEntries(ORDERS.map((o) => [o, work(o, again)])) as Record<Order, Followed>;
  // one that cures at once never drives again
  const alone = (order: Order) =>
    informed[order].repairs.length > 1 || !informed[order].cured ? work(order) : informed[order];
  const followed: Record<Order, Followed> = {
    "expected-cost": informed["expected-cost"],
    "cheapest-first": alone("cheapest-first"),
    "likeliest-first": alone("likeliest-first"),
  };
  return {
    spec,
    rank: single === undefined ? undefined : ids.indexOf(single) + 1,
    placeRank: truePlace === undefined ? undefined : byPlace.findIndex(([p]) => p === truePlace) + 1,
    leading: truth.length === 1 ? { p: marginals[order[0] ?? 0] as number, right: ids[0] === truth[0] } : undefined,
    leadingPlace:
      truePlace === undefined ? undefined : { p: byPlace[0]?.[1] ?? 0, right: byPlace[0]?.[0] === truePlace },
    brier: model.faults.reduce((s, f, i) => s + ((marginals[i] as number) - (truth.includes(f.id) ? 1 : 0)) ** 2, 0),
    leader: ids[0] ?? "",
    stated: spec.faultIds.map((id) => marginals[model.faults.findIndex((f) => f.id === id)] as number),
    followed,
    informed,
    told: work("told", again),
  };
}
