import type { PlanStep } from "./compose.ts";
import { type Lift, liftOf, type Place } from "./procedure.ts";

/** Raising or lowering a vehicle, with stands and chocks, minutes. */
export const LIFT_MINUTES = 4;
/** From one place at the vehicle to another with tools and lamp, minutes. */
export const PLACE_MINUTES = 1.5;

type Ordered = Pick<PlanStep, "key" | "before" | "place" | "lift" | "minutes" | "wait">;

export interface Placed {
  readonly key: string;
  /** minutes from the beginning, by likely times, one person */
  readonly startMin: number;
  readonly endMin: number;
  /** the vehicle is raised or lowered before it */
  readonly liftTo: "up" | "down" | undefined;
}

export interface Order {
  readonly steps: readonly Placed[];
  /** until the last step is done and its wait is over */
  readonly totalMin: number;
  /** standing about because a wait is not over */
  readonly idleMin: number;
  readonly liftChanges: number;
  readonly placeChanges: number;
}

interface State {
  readonly done: ReadonlySet<string>;
  readonly at: Place | undefined;
  readonly lift: Exclude<Lift, "any">;
  readonly timeMin: number;
  readonly idleMin: number;
  readonly lifts: number;
  readonly places: number;
  /** when what each step waits for is over */
  readonly free: ReadonlyMap<string, number>;
  readonly steps: readonly Placed[];
  readonly lastFreeMin: number;
}

const START: State = {
  done: new Set(),
  at: undefined,
  lift: "down",
  timeMin: 0,
  idleMin: 0,
  lifts: 0,
  places: 0,
  free: new Map(),
  steps: [],
  lastFreeMin: 0,
};

/** The same with one step more. */
function then(s: State, step: Ordered): State {
  const asked = liftOf(step);
  const wanted = asked === "any" ? s.lift : asked;
  const lifts = wanted !== s.lift;
  const moves = s.at !== undefined && s.at !== step.place;
  const ready = Math.max(0, ...step.before.map((b) => s.free.get(b) ?? 0));
  const there = s.timeMin + (lifts ? LIFT_MINUTES : 0) + (moves ? PLACE_MINUTES : 0);
  const startMin = Math.max(there, ready);
  const endMin = startMin + step.minutes[1];
  const over = endMin + (step.wait?.minutes[1] ?? 0);
  return {
    done: new Set(s.done).add(step.key),
    at: step.place,
    lift: wanted,
    timeMin: endMin,
    idleMin: s.idleMin + startMin - there,
    lifts: s.lifts + Number(lifts),
    places: s.places + Number(moves),
    free: new Map(s.free).set(step.key, over),
    steps: [...s.steps, { key: step.key, startMin, endMin, liftTo: lifts ? wanted : undefined }],
    lastFreeMin: Math.max(s.lastFreeMin, over),
  };
}

const asOrder = (s: State): Order => ({
  steps: s.steps,
  totalMin: Math.max(s.timeMin, s.lastFreeMin),
  idleMin: s.idleMin,
  liftChanges: s.lifts,
  placeChanges: s.places,
});

/** How long an order takes that is given. @throws RangeError when a step stands before one that it waits for */
export function timed(steps: readonly Ordered[]): Order {
  const all = new Set(steps.map((s) => s.key));
  let state = START;
  for (const step of steps) {
    const missing = step.before.find((b) => all.has(b) && !state.done.has(b));
    if (missing) throw new RangeError(`${step.key} stands before ${missing}, for which it waits`);
    state = then(state, step);
  }
  return asOrder(state);
}

/** So many unfinished orders are kept side by side. */
const KEPT = 80;
/** Of what may be done next so many are tried from each: those that promise the soonest end. */
const TRIED = 10;

/**
 * An order for one person that saves changes of place and of the lift and works while something waits: orders grow side by
 * side, of those with as many steps the ones that can still end the soonest are kept (beam search). One that has the same steps
 * done, stands at the same place and is later in everything is dropped.
 * @returns never slower than the steps as they stand
 */
export function suggestedOrder(steps: readonly Ordered[]): Order {
  const keys = new Set(steps.map((s) => s.key));
  const tails = tailsOf(steps);
  const hands = steps.reduce((sum, s) => sum + s.minutes[1], 0);
  const rank = new Map(steps.map((s, i) => [s.key, i]));
  const minutes = new Map(steps.map((s) => [s.key, s.minutes[1]]));
  /** the soonest that it can still end: all that is left to be done by hand, or the longest way that is left */
  const soonest = (s: State): number => {
    let left = hands;
    let most = 0;
    for (const { key, endMin } of s.steps) {
      left -= minutes.get(key) as number;
      most = Math.max(most, endMin + (tails.get(key) as number));
    }
    return Math.max(s.timeMin + left, most);
  };
  let beam: { readonly state: State; readonly bound: number }[] = [{ state: START, bound: 0 }];
  for (let n = 0; n < steps.length; n++) {
    const grown = new Map<string, { state: State; bound: number }[]>();
    for (const { state } of beam) {
      const open = steps.filter(
        (x) => !state.done.has(x.key) && x.before.every((b) => state.done.has(b) || !keys.has(b)),
      );
      const next = open
        .map((step) => ({ state: then(state, step), step }))
        .map((x) => ({ ...x, bound: soonest(x.state) }))
        .sort((a, b) => a.bound - b.bound || (rank.get(a.step.key) as number) - (rank.get(b.step.key) as number))
        .slice(0, TRIED);
      for (const { state: t, bound } of next) {
        const like = `${[...t.done].sort().join()}|${t.at}|${t.lift}`;
        const known = grown.get(like) ?? [];
        if (known.some((k) => noLater(k.state, t))) continue;
        grown.set(like, [...known.filter((k) => !noLater(t, k.state)), { state: t, bound }]);
      }
    }
    beam = [...grown.values()]
      .flat()
      .sort((a, b) => a.bound - b.bound)
      .slice(0, KEPT);
  }
  const best = beam.map((b) => asOrder(b.state)).reduce((a, b) => (b.totalMin < a.totalMin ? b : a));
  const plain = timed(steps);
  return best.totalMin <= plain.totalMin ? best : plain;
}

/** Whether one is ready for everything no later than another with the same steps done. */
function noLater(a: State, b: State): boolean {
  if (a.timeMin > b.timeMin) return false;
  for (const [key, free] of a.free) if (free > a.timeMin && free > (b.free.get(key) as number)) return false;
  return true;
}

/** Minutes that at least follow a step, waits with them: along the longest way to the end. */
function tailsOf(steps: readonly Ordered[]): ReadonlyMap<string, number> {
  const after = new Map<string, Ordered[]>(steps.map((s) => [s.key, []]));
  for (const s of steps) for (const b of s.before) after.get(b)?.push(s);
  const tails = new Map<string, number>();
  const tail = (s: Ordered): number => {
    const known = tails.get(s.key);
    if (known !== undefined) return known;
    const next = Math.max(0, ...(after.get(s.key) ?? []).map((n) => n.minutes[1] + tail(n)));
    const value = (s.wait?.minutes[1] ?? 0) + next;
    tails.set(s.key, value);
    return value;
  };
  for (const s of steps) tail(s);
  return tails;
}
