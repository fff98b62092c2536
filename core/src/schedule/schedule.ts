import type { ThreePoint } from "../chance/index.ts";
import { both, type Calendar, calendarOf, nextWorking, type Spans, workedUntil } from "./calendar.ts";

/** A piece of work on a job that is not laid down for another. */
export interface Task {
  readonly id: string;
  readonly minutes: ThreePoint;
  readonly people: 1 | 2;
  /** the vehicle stands on a lift for it; from the first such task to the last it keeps the lift */
  readonly lift: boolean;
  /** what one at least of those who do it has to be able to do */
  readonly skill?: string | undefined;
  /** ids of tasks of the same job */
  readonly before: readonly string[];
  /** what runs on by itself afterwards, before what follows can begin */
  readonly wait?: ThreePoint | undefined;
  /** not before this moment: a part that comes, a vehicle that is brought; Infinity: nobody knows when */
  readonly notBeforeMin?: number | undefined;
}

export interface ShopJob {
  readonly id: string;
  readonly tasks: readonly Task[];
  readonly fromMin: number;
  readonly promisedMin?: number | undefined;
  /** pinned: first among those that want the same */
  readonly pinned?: { readonly fromMin: number; readonly lift?: string | undefined } | undefined;
  /** stands on this lift already, taken apart */
  readonly onLift?: string | undefined;
}

export interface Person {
  readonly id: string;
  readonly skills: readonly string[];
  readonly working: Spans;
}

export interface Shop {
  readonly lifts: readonly string[];
  readonly people: readonly Person[];
}

export interface Slot {
  readonly job: string;
  readonly task: string;
  readonly startMin: number;
  readonly endMin: number;
  readonly people: readonly string[];
  readonly lift: string | undefined;
}

export interface Done {
  readonly job: string;
  /** Infinity: it is finished within eight weeks that is looked at */
  readonly endMin: number;
  /** why it is not */
  readonly problem: string | undefined;
}

export interface Schedule {
  readonly slots: readonly Slot[];
  readonly jobs: readonly Done[];
}

/** How a schedule is made from an order of precedence. */
export interface Policy {
  /** by job and task, in the order of the shop's jobs: the smaller goes first */
  readonly rank: readonly ArrayLike<number>[];
  /** by job and task: who leads it, by position among the people; −1 or absent: whoever can begin it soonest */
  readonly lead?: readonly ArrayLike<number>[] | undefined;
  /** what goes first may be waited for so long while something else could begin, min */
  readonly patienceMin: number;
}

/** A shop prepared for many schedules. */
export class Bench {
  readonly shop: Shop;
  readonly jobs: readonly ShopJob[];
  readonly calendars: readonly Calendar[];
  private readonly pairs: (Calendar | undefined)[];
  /** by job and task: positions of the tasks before it, and of those after it */
  readonly beforeOf: readonly (readonly number[])[][];
  readonly afterOf: readonly (readonly number[])[][];
  /** by job and task: likely minutes to the end of the job along the longest way, itself counted */
  readonly tails: readonly Float64Array[];
  /** by job and task: people who can do it alone or lead it */
  readonly leads: readonly (readonly number[])[][];

  /** @throws RangeError naming a task that waits for one that is not there */
  constructor(shop: Shop, jobs: readonly ShopJob[]) {
    this.shop = shop;
    this.jobs = jobs;
    this.calendars = shop.people.map((p) => calendarOf(p.working));
    this.pairs = [];
    this.beforeOf = jobs.map((j) => {
      const at = new Map(j.tasks.map((t, i) => [t.id, i]));
      return j.tasks.map((t) =>
        t.before.map((b) => {
          const i = at.get(b);
          if (i === undefined) throw new RangeError(`${t.id} of ${j.id} waits for ${b}, which is no task of it`);
          return i;
        }),
      );
    });
    this.afterOf = this.beforeOf.map((before) => {
      const after: number[][] = before.map(() => []);
      before.forEach((bs, i) => {
        for (const b of bs) after[b]?.push(i);
      });
      return after;
    });
    this.tails = jobs.map((j, k) => tails(j, this.afterOf[k] as (readonly number[])[]));
    this.leads = jobs.map((j) =>
      j.tasks.map((t) =>
        shop.people.flatMap((p, i) => (t.skill === undefined || p.skills.includes(t.skill) ? [i] : [])),
      ),
    );
  }

  /** Working time of two people together. */
  pair(a: number, b: number): Calendar {
    const [low, high] = a < b ? [a, b] : [b, a];
    const key = low * this.shop.people.length + high;
    const { people } = this.shop;
    const known = this.pairs[key];
    if (known) return known;
    const made = calendarOf(both((people[low] as Person).working, (people[high] as Person).working));
    this.pairs[key] = made;
    return made;
  }
}

function tails(job: ShopJob, after: readonly (readonly number[])[]): Float64Array {
  const out = new Float64Array(job.tasks.length).fill(-1);
  const at = (i: number, depth: number): number => {
    if ((out[i] as number) >= 0) return out[i] as number;
    if (depth > job.tasks.length) throw new RangeError(`tasks of ${job.id} go in a circle`);
    const t = job.tasks[i] as Task;
    let next = 0;
    for (const a of after[i] ?? []) next = Math.max(next, at(a, depth + 1));
    const whole = t.minutes[1] + (t.wait?.[1] ?? 0) + next;
    out[i] = whole;
    return whole;
  };
  job.tasks.forEach((_, i) => {
    at(i, 0);
  });
  return out;
}

/** Minutes of a task in one run: likely ones, or drawn. */
export interface Minutes {
  readonly hands: readonly ArrayLike<number>[];
  readonly waits: readonly ArrayLike<number>[];
}

export const likelyMinutes = (jobs: readonly ShopJob[]): Minutes => ({
  hands: jobs.map((j) => j.tasks.map((t) => t.minutes[1])),
  waits: jobs.map((j) => j.tasks.map((t) => t.wait?.[1] ?? 0)),
});

interface Place {
  readonly startMin: number;
  readonly endMin: number;
  readonly lead: number;
  /** −1: nobody */
  readonly helper: number;
  /** −1: none is needed */
  readonly lift: number;
}

/**
 * A schedule by an order of precedence: of the tasks that can begin soonest (or within the patience) the one of the job that goes
 * first is placed, again and again (parallel schedule generation scheme). People, lifts, skills, working hours, waits and parts
 * are respected; a person goes to other work while something waits; a job that has a lift keeps it until nothing of it needs one.
 */
export function scheduleBy(bench: Bench, policy: Policy, minutes: Minutes): Schedule {
  const { jobs, shop } = bench;
  const freeMin = new Float64Array(shop.people.length);
  const liftFreeMin = new Float64Array(shop.lifts.length);
  const holder = new Int32Array(shop.lifts.length).fill(-1);
  const liftOf = new Int32Array(jobs.length).fill(-1);
  /** since when a job has its lift, and until when what is on it takes */
  const liftFromMin = new Float64Array(jobs.length);
  const liftToMin = new Float64Array(jobs.length);
  const liftLeft = jobs.map((j) => j.tasks.filter((t) => t.lift).length);
  const left = bench.beforeOf.map((b) => b.map((x) => x.length));
  const readyMin = jobs.map((j) =>
    j.tasks.map((t) => Math.max(j.fromMin, j.pinned?.fromMin ?? 0, t.notBeforeMin ?? 0)),
  );
  const open: number[][] = left.map((l) => l.flatMap((n, i) => (n === 0 ? [i] : [])));
  const lastLead = new Int32Array(jobs.length).fill(-1);
  const endMin = new Float64Array(jobs.length);
  const slots: Slot[] = [];
  jobs.forEach((j, k) => {
    const lift = j.onLift === undefined ? -1 : shop.lifts.indexOf(j.onLift);
    if (lift < 0 || (liftLeft[k] as number) === 0 || holder[lift] !== -1) return;
    holder[lift] = k;
    liftOf[k] = lift;
  });
  const rankOf = (k: number, i: number) => (policy.rank[k] as ArrayLike<number>)[i] as number;

  for (;;) {
    let best: Place | undefined;
    let bestJob = -1;
    let bestTask = -1;
    let bestRank = Number.POSITIVE_INFINITY;
    const found: { place: Place; k: number; i: number }[] = [];
    let soonest = Number.POSITIVE_INFINITY;
    for (let k = 0; k < jobs.length; k++)
      for (const i of open[k] as number[]) {
        const place = placeOf(k, i);
        if (!place) continue;
        found.push({ place, k, i });
        soonest = Math.min(soonest, place.startMin);
      }
    if (found.length === 0) break;
    for (const { place, k, i } of found) {
      if (place.startMin > soonest + policy.patienceMin) continue;
      const rank = rankOf(k, i);
      const better = best === undefined || rank < bestRank || (rank === bestRank && place.startMin < best.startMin);
      if (better) {
        best = place;
        bestJob = k;
        bestTask = i;
        bestRank = rank;
      }
    }
    commit(best as Place, bestJob, bestTask);
  }

  return {
    slots,
    jobs: jobs.map((j, k) => {
      const undone = left[k]?.some((n) => n >= 0) ?? false;
      return {
        job: j.id,
        endMin: undone ? Number.POSITIVE_INFINITY : Math.max(endMin[k] as number, j.fromMin),
        problem: undone ? problemOf(k) : undefined,
      };
    }),
  };

  function placeOf(k: number, i: number): Place | undefined {
    const job = jobs[k] as ShopJob;
    const t = job.tasks[i] as Task;
    let fromMin = (readyMin[k] as number[])[i] as number;
    if (!Number.isFinite(fromMin)) return undefined;
    let lift = liftOf[k] as number;
    if (t.lift && lift < 0) {
      for (let l = 0; l < holder.length; l++) {
        if (holder[l] !== -1 || (job.pinned?.lift !== undefined && shop.lifts[l] !== job.pinned.lift)) continue;
        if (lift < 0 || (liftFreeMin[l] as number) < (liftFreeMin[lift] as number)) lift = l;
      }
      if (lift < 0) return undefined;
      fromMin = Math.max(fromMin, liftFreeMin[lift] as number);
    } else if (t.lift) fromMin = Math.max(fromMin, liftFromMin[k] as number);
    const hands = (minutes.hands[k] as ArrayLike<number>)[i] as number;
    let best: Place | undefined;
    const asked = policy.lead?.[k]?.[i] ?? -1;
    for (const lead of (bench.leads[k] as (readonly number[])[])[i] as readonly number[]) {
      if (asked >= 0 && lead !== asked) continue;
      if (t.people === 1) {
        const calendar = bench.calendars[lead] as Calendar;
        const startMin = nextWorking(calendar, Math.max(fromMin, freeMin[lead] as number));
        if (best && startMin > best.startMin) continue;
        const place = {
          startMin,
          endMin: workedUntil(calendar, startMin, hands),
          lead,
          helper: -1,
          lift: t.lift ? lift : -1,
        };
        if (better(place, best, k)) best = place;
        continue;
      }
      for (let helper = 0; helper < shop.people.length; helper++) {
        if (helper === lead) continue;
        const calendar = bench.pair(lead, helper);
        const both = Math.max(fromMin, freeMin[lead] as number, freeMin[helper] as number);
        const startMin = nextWorking(calendar, both);
        if (best && startMin > best.startMin) continue;
        const place = {
          startMin,
          endMin: workedUntil(calendar, startMin, hands),
          lead,
          helper,
          lift: t.lift ? lift : -1,
        };
        if (better(place, best, k)) best = place;
      }
    }
    return best && Number.isFinite(best.endMin) ? best : undefined;
  }

  /** sooner; of two at once whoever is at the job already, then who could do least else */
  function better(a: Place, b: Place | undefined, k: number): boolean {
    if (b === undefined || a.startMin !== b.startMin) return b === undefined || a.startMin < b.startMin;
    if (a.endMin !== b.endMin) return a.endMin < b.endMin;
    if ((a.lead === lastLead[k]) !== (b.lead === lastLead[k])) return a.lead === lastLead[k];
    const skills = (p: number) => shop.people[p]?.skills.length ?? 0;
    return skills(a.lead) < skills(b.lead);
  }

  function commit(p: Place, k: number, i: number): void {
    const job = jobs[k] as ShopJob;
    const t = job.tasks[i] as Task;
    freeMin[p.lead] = p.endMin;
    if (p.helper >= 0) freeMin[p.helper] = p.endMin;
    lastLead[k] = p.lead;
    if (t.lift) {
      if ((liftOf[k] as number) < 0) liftFromMin[k] = liftFreeMin[p.lift] as number;
      liftOf[k] = p.lift;
      holder[p.lift] = k;
      liftToMin[k] = Math.max(liftToMin[k] as number, p.endMin);
      liftLeft[k] = (liftLeft[k] as number) - 1;
      if (liftLeft[k] === 0) {
        holder[p.lift] = -1;
        liftFreeMin[p.lift] = liftToMin[k] as number;
      }
    }
    const over = p.endMin + ((minutes.waits[k] as ArrayLike<number>)[i] as number);
    endMin[k] = Math.max(endMin[k] as number, over);
    (left[k] as number[])[i] = -1;
    open[k] = (open[k] as number[]).filter((x) => x !== i);
    for (const a of (bench.afterOf[k] as (readonly number[])[])[i] as readonly number[]) {
      const ready = readyMin[k] as number[];
      ready[a] = Math.max(ready[a] as number, over);
      const n = ((left[k] as number[])[a] as number) - 1;
      (left[k] as number[])[a] = n;
      if (n === 0) (open[k] as number[]).push(a);
    }
    slots.push({
      job: job.id,
      task: t.id,
      startMin: p.startMin,
      endMin: p.endMin,
      people: [p.lead, ...(p.helper >= 0 ? [p.helper] : [])].map((x) => (shop.people[x] as Person).id),
      lift: t.lift ? shop.lifts[p.lift] : undefined,
    });
  }

  function problemOf(k: number): string {
    const job = jobs[k] as ShopJob;
    const i = (open[k] as number[])[0];
    const t = i === undefined ? undefined : job.tasks[i];
    if (!t) return "goes in a circle: its steps wait for each other";
    if (!Number.isFinite((readyMin[k] as number[])[i as number] as number))
      return "waits for a part with no delivery date";
    if ((bench.leads[k] as (readonly number[])[])[i as number]?.length === 0)
      return `needs the skill “${t.skill}”, which nobody here has`;
    if (t.people === 2 && shop.people.length < 2) return "needs two people, and one works here";
    if (t.lift && shop.lifts.length === 0) return "needs a lift, and there is none";
    return "isn’t finished within eight weeks: nobody who can do it is in, or every lift is taken";
  }
}
