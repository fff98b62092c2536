import { seededRandom, type ThreePoint, triangular } from "../chance/index.ts";
import { type Bench, type Minutes, type Policy, scheduleBy } from "./schedule.ts";

/**
 * What all steps of a job share beyond their own luck, as a factor on its minutes: a rusty vehicle, a day with the phone at the
 * ear. One standard deviation of its logarithm. Judgement.
 */
export const SHARED_SPREAD = 0.15;

/** Minutes of every task as they may turn out, with one shared factor a job. @param random - uniform, 0…1 */
export function drawnMinutes(bench: Bench, random: () => number): Minutes {
  const of = (t: ThreePoint) => triangular(t, random());
  const hands: Float64Array[] = [];
  const waits: Float64Array[] = [];
  for (const job of bench.jobs) {
    // a normal deviate by Box and Muller
    const shared = Math.exp(SHARED_SPREAD * Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random()));
    hands.push(Float64Array.from(job.tasks, (t) => shared * of(t.minutes)));
    waits.push(Float64Array.from(job.tasks, (t) => (t.wait ? of(t.wait) : 0)));
  }
  return { hands, waits };
}

/** By job, the ends of drawn runs of a shop that works by one order of precedence, sorted; Infinity where it never ended. */
export function drawnEnds(bench: Bench, policy: Policy, draws: number, seed: number): Float64Array[] {
  const random = seededRandom(seed);
  const ends = bench.jobs.map(() => new Float64Array(draws));
  for (let n = 0; n < draws; n++) {
    const { jobs } = scheduleBy(bench, policy, drawnMinutes(bench, random));
    jobs.forEach((d, k) => {
      (ends[k] as Float64Array)[n] = d.endMin;
    });
  }
  for (const e of ends) e.sort();
  return ends;
}

/** The moment by which a job ends with such odds. @param ends - sorted @param odds - 0…1 */
export function promiseAt(ends: ArrayLike<number>, odds: number): number {
  const n = ends.length;
  // Hyndman and Fan's sixth quantile, unbiased for what the next draw will do
  const at = Math.min(n - 1, Math.max(0, odds * (n + 1) - 1));
  const low = Math.floor(at);
  const [a, b] = [ends[low] as number, ends[Math.min(n - 1, low + 1)] as number];
  return Number.isFinite(a) && Number.isFinite(b) ? a + (at - low) * (b - a) : at > low ? b : a;
}

/** Odds that a job ends by a moment, 0…1. @param ends - sorted */
export function oddsBy(ends: ArrayLike<number>, min: number): number {
  let n = 0;
  while (n < ends.length && (ends[n] as number) <= min) n++;
  return n / ends.length;
}
