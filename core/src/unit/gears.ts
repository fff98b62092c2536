import { elementSlip, solveTrain, type TorqueShares, type TrainState, torqueShares } from "./solve.ts";
import type { Joint } from "./train.ts";
import type { Element, Unit } from "./unit.ts";

const jointOf = (e: Element, towards: string | undefined): Joint | undefined => {
  const joins = e.kind === "fork" ? e.positions?.[towards ?? ""] : e.joins;
  return joins && { id: e.id, joins };
};

/** Every joint an element of the unit can make; a fork makes one for each gear of its own. */
export function jointsOf(unit: Unit): Joint[] {
  return unit.elements.flatMap((e): Joint[] =>
    e.kind === "fork"
      ? Object.entries(e.positions ?? {}).map(([gear, joins]) => ({ id: `${e.id}:${gear}`, joins }))
      : e.joins
        ? [{ id: e.id, joins: e.joins }]
        : [],
  );
}

/** What the solver needs of a unit: ratios may still be missing. */
export type TrainOf = Pick<Unit, "elements" | "application" | "gearTrain"> & {
  readonly gears: readonly { readonly name: string }[];
};

/** The joints that are made in a gear of the application chart. Elements without a place in the train are left out. */
export function jointsIn(unit: TrainOf, gear: string): Joint[] {
  return (unit.application[gear] ?? []).flatMap((a) => {
    const element = unit.elements.find((e) => e.id === a.element);
    const joint = element && jointOf(element, a.towards);
    return joint ? [joint] : [];
  });
}

const neutralByUnit = new WeakMap<Unit, ReadonlySet<string>>();

/**
 * Elements that make a gear, or stop the input, with those that stay applied in neutral: one of them that drags holds the
 * turbine of a vehicle at rest. Any other one only turns something along.
 * @returns empty for a unit without a gear train
 */
export function closesNeutral(unit: Unit): ReadonlySet<string> {
  const known = neutralByUnit.get(unit);
  if (known) return known;
  const { gearTrain, neutral = [] } = unit;
  const joints = jointsOf(unit);
  const kept = joints.filter((j) => neutral.includes(j.id));
  const closes = (j: Joint) => {
    const state = gearTrain && solveTrain(gearTrain, [...kept, j]);
    return state?.kind === "gear" || (state?.kind === "tie-up" && state.locked === "input");
  };
  const closing = joints.filter((j) => !neutral.includes(j.id) && closes(j));
  const found = new Set(closing.map((j) => j.id));
  neutralByUnit.set(unit, found);
  return found;
}

export interface GearState {
  readonly gear: string;
  readonly applied: readonly Joint[];
  readonly state: TrainState;
  readonly shares: TorqueShares | undefined;
}

/** What the gear train makes of every gear of the chart. @returns undefined for a unit that has ratios only */
export function gearStates(unit: TrainOf): GearState[] | undefined {
  const { gearTrain } = unit;
  if (!gearTrain) return undefined;
  return unit.gears.map(({ name }) => {
    const applied = jointsIn(unit, name);
    return {
      gear: name,
      applied,
      state: solveTrain(gearTrain, applied),
      shares: torqueShares(gearTrain, applied),
    };
  });
}

type SharesByGear = ReadonlyMap<string, ReadonlyMap<string, number>>;

/** Solving the train of every gear takes longer than all that is asked of the shares. */
const sharesByUnit = new WeakMap<Unit, SharesByGear>();

/** Share of the input torque that an element carries in each gear, as an absolute value; gears without a share are left out. */
export function sharesByGear(unit: Unit): SharesByGear {
  const known = sharesByUnit.get(unit);
  if (known) return known;
  const found = new Map<string, Map<string, number>>();
  for (const { gear, shares } of gearStates(unit) ?? []) {
    const own = new Map<string, number>();
    for (const [id, share] of shares?.elements ?? []) if (share !== undefined) own.set(id, Math.abs(share));
    found.set(gear, own);
  }
  sharesByUnit.set(unit, found);
  return found;
}

export interface ShiftPlan {
  readonly from: string;
  readonly to: string;
  readonly offGoing: readonly string[];
  readonly onComing: readonly string[];
  /** ratio of the old gear over that of the new */
  readonly step: number;
  /**
   * How fast each on-coming element slips before the shift, per input speed of the old gear: what the inertia phase
   * must bring to zero. Empty for a unit that has ratios only.
   */
  readonly slipBefore: ReadonlyMap<string, number>;
}

/** What changes in a shift, and the slip that the on-coming elements must take up. @throws RangeError for an unknown gear */
export function shiftPlan(unit: Unit, from: string, to: string): ShiftPlan {
  const ratio = (name: string) => {
    const gear = unit.gears.find((g) => g.name === name);
    if (!gear) throw new RangeError(`${unit.name} has no gear ${name}`);
    return gear.ratio;
  };
  const key = (a: { element: string; towards?: string | undefined }) => `${a.element}>${a.towards ?? ""}`;
  const [old, next] = [unit.application[from] ?? [], unit.application[to] ?? []];
  const offGoing = old.filter((a) => !next.some((b) => key(a) === key(b)));
  const onComing = next.filter((b) => !old.some((a) => key(a) === key(b)));
  const slipBefore = new Map<string, number>();
  if (unit.gearTrain) {
    const onComingJoints = jointsIn(unit, to).filter((j) => onComing.some((a) => a.element === j.id));
    // the on-coming element's shafts belong to the train before it is applied too
    const state = solveTrain(unit.gearTrain, jointsIn(unit, from), onComingJoints);
    for (const joint of onComingJoints) {
      const slip = elementSlip(state, joint);
      if (slip !== undefined) slipBefore.set(joint.id, slip);
    }
  }
  return {
    from,
    to,
    offGoing: offGoing.map((a) => a.element),
    onComing: onComing.map((a) => a.element),
    step: ratio(from) / ratio(to),
    slipBefore,
  };
}
