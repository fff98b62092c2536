import { seededRandom } from "../chance/index.ts";
import { type Bench, likelyMinutes, type Policy, type Schedule, scheduleBy } from "./schedule.ts";

/** A minute late counts as so many minutes that a job stands in the shop. Judgement: a broken promise costs a customer. */
export const LATE_WEIGHT = 4;
/** A job that is not finished at all counts as if it ended this long after its promise, min. */
const NEVER_MIN = 60 * 24 * 90;

/** What a schedule costs: minutes that the jobs stand, and minutes late beyond what was promised, weighted. */
export function costOf(bench: Bench, schedule: Schedule): number {
  return schedule.jobs.reduce((sum, d, k) => {
    const job = bench.jobs[k];
    if (!job) return sum;
    const endMin = Number.isFinite(d.endMin) ? d.endMin : Math.max(job.fromMin, job.promisedMin ?? 0) + NEVER_MIN;
    const late = job.promisedMin === undefined ? 0 : Math.max(0, endMin - job.promisedMin);
    return sum + endMin - job.fromMin + LATE_WEIGHT * late;
  }, 0);
}

const PINNED = 1e6;

/** One job after another by a figure, within a job the longest way to its end first. */
function byJob(bench: Bench, figure: (k: number) => number): Float64Array[] {
  const order = bench.jobs.map((_, k) => k);
  const pin = (k: number) => bench.jobs[k]?.pinned?.fromMin ?? Number.POSITIVE_INFINITY;
  const by = (a: number, b: number) => (a === b ? 0 : a - b);
  order.sort((a, b) => by(pin(a), pin(b)) || by(figure(a), figure(b)) || a - b);
  const out: Float64Array[] = [];
  order.forEach((k, i) => {
    const tails = bench.tails[k] as Float64Array;
    const most = tails.reduce((a, b) => Math.max(a, b), 1);
    // whole numbers part the jobs, what is behind the point the tasks of one; no other job gets before one that is pinned
    const place = bench.jobs[k]?.pinned ? i - PINNED : i;
    out[k] = tails.map((t) => place + (1 - t / most) * 0.9);
  });
  return out;
}

/** First come, first served: the plain rule. Pinned jobs go before all others, in the order of their pins. */
export const firstCome = (bench: Bench): Policy => ({
  rank: byJob(bench, (k) => bench.jobs[k]?.fromMin ?? 0),
  patienceMin: 0,
});

export interface Found {
  readonly policy: Policy;
  readonly schedule: Schedule;
  readonly cost: number;
  /** schedules that were made for it */
  readonly tried: number;
}

/** So many schedules are made at most: of a shop with many tasks fewer, so that it takes no longer. */
export const MOST_TRIED = 150;
const SMALL_TASKS = 60;
const MOST_TRIED_SMALL = 4000;
/** How much dearer a schedule may be taken at the beginning of the search, share of the cost. */
const WARM_SHARE = 0.01;

/**
 * A good schedule: several rules of precedence, then jobs changed about, tasks of a small shop too, keeping what is no worse
 * (local search with restarts from the best). Never worse than first come, first served: that is where it begins.
 * @param tries - schedules made at most; absent: by the size of the shop
 */
export function findSchedule(bench: Bench, seed = 1, tries?: number): Found {
  const { jobs } = bench;
  const minutes = likelyMinutes(jobs);
  const tasks = jobs.reduce((n, j) => n + j.tasks.length, 0);
  const most = tries ?? (tasks <= SMALL_TASKS ? MOST_TRIED_SMALL : MOST_TRIED);
  const random = seededRandom(seed);
  let tried = 0;
  const rate = (policy: Policy): Found => {
    const schedule = scheduleBy(bench, policy, minutes);
    tried++;
    return { policy, schedule, cost: costOf(bench, schedule), tried };
  };
  const work = jobs.map((j) => j.tasks.reduce((s, t) => s + t.minutes[1], 0));
  const longest = bench.tails.map((t) => t.reduce((a, b) => Math.max(a, b), 0));
  const due = (k: number) => jobs[k]?.promisedMin ?? Number.POSITIVE_INFINITY;
  const rules: ((k: number) => number)[] = [
    due,
    (k) => due(k) - (longest[k] as number),
    (k) => work[k] as number,
    (k) => longest[k] as number,
    (k) => (jobs[k]?.fromMin ?? 0) + (work[k] as number),
  ];
  let best = rate(firstCome(bench));
  const patience = [0, 30, 90];
  for (const rule of rules)
    for (const patienceMin of patience) {
      if (tried >= most) break;
      const f = rate({ rank: byJob(bench, rule), patienceMin });
      if (f.cost < best.cost) best = f;
    }
  const free = jobs.flatMap((j, k) => (j.pinned === undefined ? [k] : []));
  const places = free.flatMap((k) => (jobs[k]?.tasks ?? []).map((_, i) => [k, i] as const));
  if (places.length === 0) return { ...best, tried };
  const any = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)] as T;
  let now = best;
  let since = 0;
  // begins warm and cools: worse ones are taken now and then, so that it does not stick (simulated annealing)
  const warm = WARM_SHARE * best.cost;
  while (tried < most) {
    const rank = now.policy.rank.map((r) => Float64Array.from(r));
    let { lead, patienceMin } = now.policy;
    const dice = random();
    const k = any(free);
    if (dice < 0.3) {
      // a whole job before or behind another
      const by = Math.floor((random() - 0.5) * 2 * jobs.length);
      rank[k] = (rank[k] as Float64Array).map((r) => r + by + 0.01);
    } else if (dice < 0.75) {
      const [a, i] = any(places);
      const [b, m] = any(places);
      (rank[a] as Float64Array)[i] = ((rank[b] as Float64Array)[m] as number) + (random() - 0.5) * 0.2;
    } else if (dice < 0.9) {
      const [a, i] = any(places);
      const own = (lead ?? jobs.map((j) => new Int16Array(j.tasks.length).fill(-1))).map((l) => Int16Array.from(l));
      const able = (bench.leads[a] as (readonly number[])[])[i] as readonly number[];
      (own[a] as Int16Array)[i] = random() < 0.4 || able.length === 0 ? -1 : any(able);
      lead = own;
    } else patienceMin = any([0, 10, 30, 60, 120, 240, Number.POSITIVE_INFINITY]);
    const f = rate({ rank, lead, patienceMin });
    const heat = warm * (1 - tried / most) ** 2;
    if (f.cost <= now.cost || random() < Math.exp((now.cost - f.cost) / Math.max(heat, 1e-9))) now = f;
    since = f.cost < best.cost ? 0 : since + 1;
    if (f.cost < best.cost) best = f;
    if (since > most / 6) {
      now = best;
      since = 0;
    }
  }
  return { ...best, tried };
}
