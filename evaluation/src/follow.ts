import { seededRandom } from "@gearsense/core/chance";
import {
  Belief,
  believe,
  cureOf,
  type Evidence,
  nextMove,
  type Order,
  type Planner,
  type Repair,
  type Standing,
  type SuspectModel,
  siftEvidence,
} from "@gearsense/core/suspect";
import { answer, checkEvidence } from "./workshop.ts";
import { contaminate, type World, worldOf } from "./world.ts";

/** How a way of working fared with one vehicle. */
export interface Followed {
  readonly cost: number;
  readonly checks: number;
  readonly repairs: readonly string[];
  /**
   * the first repair that was meant to cure did so, or does so in most vehicles: a cheap one that more likely does not is
   * a check; when nothing is wrong, none was made
   */
  readonly right: boolean;
  /** the same of the very first repair, whatever it was meant to be */
  readonly atOnce: boolean;
  /** the explanation that led when it was decided */
  readonly explained: readonly string[];
  readonly cured: boolean;
  /** repairs that cured nothing of what was wrong */
  readonly inVain: number;
}

const MOST_MOVES = 30;
const CURES = 0.5;
/** Never a try: the vehicle leaves. */
const HAND_BACK = "hand-back";

/** Numbers that depend on what is done and not on when: every way of working meets the same vehicle. */
function luck(seed: number, what: string): number {
  let h = seed >>> 0;
  for (let i = 0; i < what.length; i++) h = Math.imul(h ^ what.charCodeAt(i), 0x01000193) >>> 0;
  return seededRandom(h)();
}

/** A drive after a repair that did not cure: what its logs and the codes show of the faults that are left. */
export interface DrivenAgain {
  readonly evidence: readonly Evidence[];
  readonly minutes: number;
}
/** @param left - ids of the faults that are left */
export type DriveAgain = (left: readonly string[]) => DrivenAgain;

/** A belief that is certain. @param faultIds - one or two */
function certain({ faults, sets }: SuspectModel, faultIds: readonly string[]): Belief {
  const [i = 0, j] = faultIds.map((id) => faults.findIndex((f) => f.id === id)).sort((a, b) => a - b);
  const p = new Float64Array(sets.count);
  p[j === undefined ? i : sets.pair(i, j)] = 1;
  return new Belief(sets, p);
}

/**
 * Follows a way of working from the first evidence to a vehicle that is cured: checks are answered by the truth, repairs
 * cure as often as the catalogue says, what fails comes back.
 * @param order - "told": somebody who knows at all times what is wrong, which nobody can do for less
 * @param driveAgain - absent: after a repair that failed it is gone on with what was known, and nothing is done twice
 */
export function follow(
  planner: Planner,
  first: readonly Evidence[],
  faultIds: readonly string[],
  order: Order | "told",
  seed: number,
  driveAgain?: DriveAgain,
  world: World = worldOf(0),
): Followed {
  const { model } = planner;
  const cures = (repair: Repair, fault: string): number => {
    const i = model.faults.findIndex((f) => f.id === fault);
    const parts = repair.id.split("+").map((id) => model.findRepair(id));
    return 1 - parts.reduce((q, part) => q * (1 - (part ? (cureOf(model, part)[i] as number) : 0)), 1);
  };
  let left = faultIds.length === 0 ? ["nothing"] : [...faultIds];
  const evidence = [...first];
  let standing: Standing = { done: new Set(), tried: new Set(), opened: 0 };
  let cost = 0;
  let checks = 0;
  let right = false;
  let atOnce = false;
  let meant = false;
  let explained: string[] = [];
  const repairs: string[] = [];
  let failed = 0;
  let inVain = 0;
  for (let move = 0; move < MOST_MOVES; move++) {
    const belief = order === "told" ? certain(model, left) : believe(model, siftEvidence(model, evidence).used);
    const space = planner.space(belief, standing);
    const counts = order === "told" || order === "expected-cost";
    const next =
      counts || move < MOST_MOVES - 4
        ? nextMove(space, counts ? "expected-cost" : order, space.start, new Set(), standing.opened)
        : { repair: 0 };
    if ("check" in next) {
      const check = space.checks[next.check];
      if (!check) break;
      cost += space.checkCosts(standing.opened)[next.check] as number;
      checks++;
      const random = seededRandom((seed ^ Math.floor(luck(seed, check.id) * 2 ** 31)) >>> 0);
      const seen = checkEvidence(check, answer(model, left, check, random, world.errors));
      const [noted] = contaminate(model, [seen], world.contaminated, random);
      evidence.push({ ...(noted as Evidence), afterRepairs: failed });
      standing = {
        ...standing,
        done: new Set([...standing.done, check.id]),
        opened: space.opens(standing.opened, next.check),
      };
      continue;
    }
    const repair = space.repairs[next.repair];
    if (!repair) break;
    cost += space.prices(standing.opened)[next.repair] as number;
    const curesMostly = left.every((f) => cures(repair, f) >= CURES);
    // what cures before any repair was meant to has hit it as well
    const hits = !meant;
    if (repairs.length === 0) atOnce = curesMostly;
    if (!meant && (repair.id === HAND_BACK || space.curesOf(space.start, next.repair) >= CURES)) {
      meant = true;
      right = curesMostly;
      explained = belief.best().members.map((i) => model.faults[i]?.id ?? "");
    }
    repairs.push(repair.id);
    const before = left.length;
    left = left.filter((f) => luck(seed, `${repair.id} ${f}`) >= cures(repair, f));
    if (left.length === 0)
      return {
        cost,
        checks,
        repairs,
        right: right || hits,
        atOnce: atOnce || repairs.length === 1,
        explained,
        cured: true,
        inVain,
      };
    if (left.length === before) inVain++;
    cost += model.knowledge.comebackCost;
    const tried = repair.id.split("+");
    // one of two is gone: as often as not what is left hides it
    const outcome = left.length < before && luck(seed, `${repair.id} noticed`) < 0.5 ? "better" : "no-change";
    for (const id of tried)
      evidence.push({
        id: `tried:${id}`,
        table: "tried",
        checkId: id,
        subject: { component: id.split(":")[1] ?? "unit" },
        outcome,
        label: id,
        entryId: `tried:${id}`,
        abnormal: false,
        afterRepairs: failed,
      });
    failed++;
    if (driveAgain) {
      const drive = driveAgain(left);
      cost += (drive.minutes / 60) * planner.money.hourlyRate;
      evidence.push(...drive.evidence.map((e) => ({ ...e, id: `${e.id}@${failed}`, afterRepairs: failed })));
    }
    const once = driveAgain ? [] : model.repairs.filter((r) => tried.includes(r.again ?? "")).map((r) => r.id);
    standing = { ...standing, tried: new Set([...standing.tried, ...tried, ...once, repair.id]), opened: 0 };
  }
  cost += model.knowledge.comebackCost + planner.space(believe(model, []), standing).lastResort;
  return { cost, checks, repairs, right, atOnce, explained, cured: false, inVain };
}
