import { analyseDrive, shiftsOf } from "@gearsense/core/drive";
import { buildRecording, openLog, proposeMapping } from "@gearsense/core/log";
import {
  advanceRelearn,
  beginRelearn,
  codeOfWord,
  judgeConditions,
  learnedUsed,
  type RelearnEnd,
  relearnAfter,
  wantedOf,
} from "@gearsense/core/relearn";
import { type DrivenProcedure, elementsIn, type Unit } from "@gearsense/core/unit";
import {
  exportLog,
  LiveVehicle,
  learnedChannels,
  PLAIN_STYLE,
  type RunningRoutine,
  type SimulatedFault,
  seededRandom,
  simulateDrive,
  usualChannels,
} from "@gearsense/simulator";

/** One vehicle after a repair of its inside, with what the controller had learned of the broken part. */
export interface RelearnScore {
  readonly unitId: string;
  readonly repair: "rebuild" | "valve body" | "control-unit" | "fluid service" | "sensor";
  /** furthest of the old values on the way to its limit, 0…1 */
  readonly furthest: number;
  /** shifts outside their limit with the old values, and after the relearn */
  readonly before: readonly string[];
  readonly after: readonly string[];
  readonly advised: "required" | "drive-first" | "leave" | "none";
  readonly end: RelearnEnd["outcome"] | "not begun";
  readonly say: string;
}

const DRIVE_S = 300;
const LEARNING = 8;
const STEP_S = 0.1;
const LONGEST_S = 240;

const draw = <T>(random: () => number, list: readonly T[]): T => list[Math.floor(random() * list.length)] as T;

interface Vehicle {
  readonly unit: Unit;
  readonly seed: number;
  readonly vehicleSeed: number;
}
const drive = ({ unit, seed, vehicleSeed }: Vehicle, faults: SimulatedFault[], more: object = {}) =>
  simulateDrive({
    unit,
    seed,
    vehicleSeed,
    durationS: DRIVE_S,
    profile: "mixed",
    faults,
    channels: [...usualChannels(unit), ...learnedChannels(unit)],
    startFluidC: 75,
    ...more,
  });

/** Shifts that are outside their limit on a drive that begins with these learned values. */
function shiftsOutside(v: Vehicle, adaptations: Readonly<Record<string, number>>) {
  const { columns } = drive(v, [], { adaptations });
  const { table } = openLog(exportLog(columns, PLAIN_STYLE), {});
  return shiftsOf([analyseDrive(buildRecording(table, proposeMapping(table, v.unit)), v.unit)]);
}

/** Goes through a standing routine as the server does, ten times a second, with a helper who does as told. */
export function standStill(unit: Unit, live: LiveVehicle, procedure: DrivenProcedure): RelearnEnd | undefined {
  const { machine } = procedure;
  const channels = new Set(
    [...machine.preconditions, ...machine.guards, ...machine.stages.flatMap((s) => s.until ?? [])].map(
      (c) => c.channel,
    ),
  );
  let routine: RunningRoutine | undefined;
  const read = () => {
    const values = new Map<string, number>();
    for (const c of channels) values.set(c, live.value(c) ?? Number.NaN);
    values.set("supply_v", live.supplyV);
    values.set("codes", live.codes.length);
    if (routine) {
      values.set("routine_state", codeOfWord("routine_state", routine.state) ?? Number.NaN);
      if (routine.lever) values.set("routine_lever", codeOfWord("routine_lever", routine.lever) ?? Number.NaN);
    }
    return values;
  };
  live.advance(2);
  if (judgeConditions(machine.preconditions, read()).some((j) => j.holds !== true)) return undefined;
  let state = beginRelearn(machine, live.timeS);
  const tell = (event: Parameters<typeof advanceRelearn>[3]) => {
    state = advanceRelearn(machine, unit, state, event);
  };
  for (let t = 0; t < LONGEST_S && !state.end; t += STEP_S) {
    live.advance(STEP_S);
    const { state: s, code, element } = routine ?? {};
    tell({
      kind: "live",
      timeS: live.timeS,
      values: read(),
      routine: s && code !== undefined && element !== undefined ? { state: s, code, element } : undefined,
    });
    const wanted = wantedOf(machine, state);
    if (wanted === "start") {
      const begun = live.startRoutine(procedure);
      if (typeof begun === "number") tell({ kind: "refused", why: `0x${begun.toString(16)}` });
      else {
        routine = begun;
        tell({ kind: "granted" });
      }
    }
    if (wanted === "read") tell({ kind: "learned", values: learnedOf(unit, live) });
  }
  return state.end;
}

const learnedOf = (unit: Unit, live: LiveVehicle): Record<string, number> =>
  Object.fromEntries((unit.adaptations ?? []).map((a) => [a.id, live.value(`adapt_${a.id}`) ?? Number.NaN]));

/**
 * Draws a vehicle, has its controller learn with a fault, repairs it, and drives it with the old values and after the relearn.
 * Every second one had a repair that leaves the inside alone, with values that fit.
 */
export function drawRelearn(units: readonly Unit[], seed: number): RelearnScore {
  const random = seededRandom(seed * 2_654_435 + 11);
  const unit = draw(random, units);
  const v: Vehicle = { unit, seed: seed + 1, vehicleSeed: seed };
  const applied = unit.gears.filter((g) => g.ratio > 0).map((g) => elementsIn(unit, g.name));
  const comesOn = [...new Set(applied.slice(1).flatMap((to, i) => to.filter((e) => !applied[i]?.includes(e))))].filter(
    (e) => (unit.adaptations ?? []).some((a) => a.component === e),
  );
  const component = draw(random, comesOn);
  const severity = 0.4 + 0.6 * random();
  const kind = random();
  const repair =
    kind < 0.3
      ? "rebuild"
      : kind < 0.45
        ? "valve body"
        : kind < 0.6
          ? "control-unit"
          : kind < 0.8
            ? "fluid service"
            : "sensor";
  const faults: SimulatedFault[] =
    repair === "rebuild"
      ? [{ kind: "element-worn", component, severity }]
      : repair === "valve body"
        ? [{ kind: "valve-sticks", component, severity }]
        : // a used control unit brings values of another vehicle, far too short for this one
          repair === "control-unit"
          ? [{ kind: "adaptation-off", severity }]
          : [];
  const learns = repair === "control-unit" ? 0 : LEARNING;
  const old = drive({ ...v, seed: seed + 7 }, faults, { learning: learns, rateHz: 1 }).adaptations.after;
  // what is advised rests on another drive than the one that shows whether it was needed
  const advice = relearnAfter(
    unit,
    [{ kindId: repair, option: repair === "control-unit" || repair === "sensor" ? "in the vehicle" : repair }],
    false,
    { learned: old, shifts: shiftsOutside({ ...v, seed: seed + 13 }, old) },
  );
  const before = shiftsOutside(v, old).outside;
  const procedure = unit.relearn?.find((p) => p.machine?.kind === "stationary");
  if (!procedure?.machine) throw new RangeError(`${unit.name} has no standing routine`);
  const live = new LiveVehicle({
    unit,
    seed,
    vehicleSeed: v.vehicleSeed,
    faults: [],
    driver: "as-told",
    adaptations: old,
  });
  const end = standStill(unit, live, { ...procedure, machine: procedure.machine });
  return {
    unitId: unit.id,
    repair,
    furthest: Math.max(0, ...(unit.adaptations ?? []).map((a) => learnedUsed(a, old[a.id] ?? a.newValue))),
    before,
    after: end?.outcome === "done" ? shiftsOutside(v, learnedOf(unit, live)).outside : before,
    advised: advice?.policy ?? "none",
    end: end?.outcome ?? "not begun",
    say: end?.say ?? "",
  };
}

export interface RelearnFigures {
  readonly inside: number;
  /** of repairs of the inside: vehicles whose shifts were outside with the old values, and those of them inside afterwards */
  readonly outsideBefore: number;
  readonly insideAfter: number;
  /** vehicles whose shifts were inside as they were, and those of them that were told to relearn */
  readonly unneeded: number;
  readonly advisedUnneeded: number;
  readonly notDone: readonly RelearnScore[];
}

export function summariseRelearns(scores: readonly RelearnScore[]): RelearnFigures {
  const inside = scores.filter(
    (s) => s.repair === "rebuild" || s.repair === "valve body" || s.repair === "control-unit",
  );
  const outside = inside.filter((s) => s.before.length > 0);
  const fine = scores.filter((s) => s.before.length === 0);
  return {
    inside: inside.length,
    outsideBefore: outside.length,
    insideAfter: outside.filter((s) => s.after.length === 0).length,
    unneeded: fine.length,
    advisedUnneeded: fine.filter((s) => s.advised === "required").length,
    notDone: scores.filter((s) => s.end !== "done"),
  };
}
