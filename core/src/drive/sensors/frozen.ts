/** Readings that stand still, start and end included. */
export interface FrozenRun {
  readonly start: number;
  readonly end: number;
}

/** Slower shafts may well read the same for a while. */
const TURNS_RPM = 25;
const LEAST_READINGS = 4;
/** Readings on either side by which it is told how often two are equal anyway. */
const BESIDE = 30;
const LEAST_BESIDE = 10;
/** A signal whose readings repeat more often than this beside the run says nothing there. */
const LIVE_SHARE = 0.6;
/** The step out of the run against the largest of the steps just before and after it. */
const LEAP = 3;
const LEAP_RPM = 8;
const LEAP_STEPS = 4;
const LEAST_LONG = 8;
/** Of all runs of a log no more than this may come about by chance. */
const BY_CHANCE = 1e-4;

/**
 * Runs in which a speed reads exactly the same again and again although the shaft turns on: the reading leaps when it comes
 * back, or so many equal readings are not to be had by chance. How often two readings are equal anyway is counted beside the
 * run, so that a slow column, a coarse one, or one that stands still in some gears is not taken for a frozen one.
 * @param values - readings of a speed, rpm; NaN where there is none
 * @param moves - does another speed go on changing between two readings?
 * Cost: O(n).
 */
export function frozenRuns(values: Float64Array, moves: (start: number, end: number) => boolean): FrozenRun[] {
  const runs: FrozenRun[] = [];
  let start = 0;
  for (let i = 1; i <= values.length; i++) {
    if (values[i] === values[i - 1]) continue;
    if (i - start >= LEAST_READINGS && (values[start] as number) > TURNS_RPM) runs.push({ start, end: i - 1 });
    start = i;
  }
  return runs.filter(({ start: from, end: to }) => {
    const chance = equalShare(values, from, to);
    if (!(chance < LIVE_SHARE)) return false;
    const tooLong = Math.max(LEAST_LONG, Math.ceil(Math.log(BY_CHANCE / values.length) / Math.log(chance)));
    return (to - from >= tooLong || leaps(values, from, to)) && moves(from, to);
  });
}

/** How often neighbouring readings are equal beside a run, on the side where they are so more often. */
function equalShare(values: Float64Array, from: number, to: number): number {
  const look = (a: number, b: number): number => {
    let [equal, pairs] = [0, 0];
    for (let i = Math.max(1, a); i <= Math.min(values.length - 1, b); i++) {
      const step = (values[i] as number) - (values[i - 1] as number);
      // a shaft at rest reads nothing again and again
      if (step - step !== 0 || !((values[i] as number) > TURNS_RPM)) continue;
      pairs++;
      if (step === 0) equal++;
    }
    return pairs < LEAST_BESIDE ? Number.NaN : (equal + 1) / (pairs + 2);
  };
  const sides = [look(from - BESIDE, from), look(to + 1, to + 1 + BESIDE)].filter((x) => !Number.isNaN(x));
  return sides.length === 0 ? 1 : Math.max(...sides);
}

function leaps(values: Float64Array, from: number, to: number): boolean {
  const next = values[to + 1] ?? Number.NaN;
  const leap = Math.abs(next - (values[from] as number));
  if (!(next > TURNS_RPM && leap > LEAP_RPM)) return false;
  let largest = 0;
  let seen = 0;
  const look = (a: number, b: number) => {
    for (let i = a; i <= b; i++) {
      const step = Math.abs((values[i] ?? Number.NaN) - (values[i - 1] ?? Number.NaN));
      if (step - step !== 0) continue;
      seen++;
      largest = Math.max(largest, step);
    }
  };
  look(from - LEAP_STEPS + 1, from);
  look(to + 2, to + 1 + LEAP_STEPS);
  return seen >= LEAP_STEPS && leap > LEAP * largest;
}
