import type { Opened } from "./price.ts";
import type { PlanSpace } from "./space.ts";

export const MOST_TRIES = 5;
export const NEGLIGIBLE = 0.01;
/** First repairs that are worked out to the end, the rest by their ratio of cure to money. */
const FIRST_REPAIRS = 5;

export interface Act {
  /** position in the repairs of the space, -1 when there is none */
  readonly repair: number;
  readonly expected: number;
}

/**
 * Sets below this are not planned for: what they cost is a comeback and their own cure, in proportion to their
 * probability. It has to be so little that a check seems worth nothing for making a set thin.
 */
const THIN = 2e-4;

/** Room that is used again and again: plans ask for the best repair thousands of times. */
const room = {
  at: new Int32Array(0),
  of: new Int32Array(0),
  first: new Float64Array(0),
  left: new Float64Array(0),
  next: new Float64Array(0),
};

function roomFor(n: number): void {
  if (room.at.length >= n) return;
  room.at = new Int32Array(n);
  room.of = new Int32Array(n);
  room.first = new Float64Array(n);
  room.left = new Float64Array(n);
  room.next = new Float64Array(n);
}

/**
 * The best repair now, without another check: what {@link optionsOf} finds, for the sets that matter and for the repairs
 * with the most cure for their money.
 */
export function actNow(space: PlanSpace, p: Float64Array, opened: Opened): Act {
  const prices = space.prices(opened);
  const { comebackCost } = space.model.knowledge;
  const last = comebackCost + space.lastResort;
  const count = space.sets.length;
  const repairs = space.repairs.length;
  roomFor(count);
  const { at, of, first } = room;
  of.fill(-1, 0, count);
  let n = 0;
  const take = (k: number) => {
    if ((of[k] as number) >= 0) return;
    of[k] = n;
    at[n++] = k;
  };
  for (let k = 0; k < count; k++) {
    if ((p[k] as number) < THIN) continue;
    take(k);
    for (const part of space.parts[k] as readonly number[]) take(part);
  }
  for (let i = 0; i < n; i++) first[i] = p[at[i] as number] as number;
  let best = -1;
  let expected = Number.POSITIVE_INFINITY;
  const ratio = new Float64Array(repairs);
  for (let r = 0; r < repairs; r++)
    ratio[r] = curesIn(space.cures[r] as Float64Array, first, n) / (comebackCost + (prices[r] as number));
  for (let tries = 0; tries < Math.min(FIRST_REPAIRS, repairs); tries++) {
    let r = 0;
    for (let k = 1; k < repairs; k++) if ((ratio[k] as number) > (ratio[r] as number)) r = k;
    if ((ratio[r] as number) <= 0) break;
    ratio[r] = -1;
    let cost = (prices[r] as number) + failureIn(space, r, n, prices);
    const cures = space.cures[r] as Float64Array;
    for (let k = 0; k < count; k++)
      if ((of[k] as number) < 0)
        cost += (p[k] as number) * (1 - (cures[k] as number)) * (space.looksAgain ? space.lookAgain(k) : last);
    if (cost < expected) {
      expected = cost;
      best = r;
    }
  }
  return best < 0 ? { repair: -1, expected: last } : { repair: best, expected };
}

function curesIn(cures: Float64Array, mass: Float64Array, n: number): number {
  let sum = 0;
  const { at } = room;
  for (let i = 0; i < n; i++) sum += (mass[i] as number) * (cures[at[i] as number] as number);
  return sum;
}

/** What a repair leaves, in the room. */
function leave(space: PlanSpace, r: number, from: Float64Array, to: Float64Array, n: number): number {
  const cures = space.cures[r] as Float64Array;
  const steps = space.steps[r] as PlanSpace["steps"][number];
  const { at, of } = room;
  to.fill(0, 0, n);
  let open = 0;
  for (let i = 0; i < n; i++) {
    const mass = from[i] as number;
    if (mass === 0) continue;
    const k = at[i] as number;
    const way = steps[k];
    if (way) {
      for (const s of way) {
        const j = of[s.to] as number;
        to[j] = (to[j] as number) + mass * s.p;
        open += mass * s.p;
      }
    } else {
      const rest = mass * (1 - (cures[k] as number));
      to[i] = (to[i] as number) + rest;
      open += rest;
    }
  }
  return open;
}

/** As {@link afterFailure}, in the room. */
function failureIn(space: PlanSpace, tried: number, n: number, prices: Float64Array): number {
  const { comebackCost } = space.model.knowledge;
  const repairs = space.repairs.length;
  let [left, next] = [room.left, room.next];
  let open = leave(space, tried, room.first, left, n);
  let looked = 0;
  for (let i = 0; i < n; i++) looked += (left[i] as number) * space.lookAgain(room.at[i] as number);
  if (!space.looksAgain) looked = Number.POSITIVE_INFINITY;
  let expected = 0;
  for (let step = 0; step < MOST_TRIES && open > NEGLIGIBLE; step++) {
    let best = -1;
    let worth = 0;
    for (let r = 0; r < repairs; r++) {
      const value = curesIn(space.cures[r] as Float64Array, left, n) / (comebackCost + (prices[r] as number));
      if (value > worth) {
        worth = value;
        best = r;
      }
    }
    if (best < 0) break;
    expected += open * (comebackCost + (prices[best] as number));
    open = leave(space, best, left, next, n);
    [left, next] = [next, left];
    if (expected > looked) return looked;
  }
  return Math.min(looked, expected + open * (comebackCost + space.lastResort));
}
