import { type Bench, likelyMinutes, type Person, type ShopJob, type Task } from "../schedule.ts";
import { LATE_WEIGHT } from "../search.ts";

/**
 * The cheapest schedule of a very small shop by exhaustive search with dominance over what is done, for shops whose people all
 * work without a break: every order in which tasks may be begun, every choice of people and lift.
 * @param atMost - a schedule that is known costs so much
 * @returns its cost as `costOf` counts it
 * @throws RangeError for more tasks than a number has bits, or people with breaks
 */
export function exactCost(bench: Bench, atMost: number, mostStates = 600_000): number {
  const { jobs, shop } = bench;
  const tasks = jobs.flatMap((j, k) => j.tasks.map((t, i) => ({ t, k, i })));
  if (tasks.length > 30) throw new RangeError("at most 30 tasks");
  if (shop.people.some((p) => p.working.length !== 1)) throw new RangeError("people work without a break");
  const first = jobs.map((_, k) => tasks.findIndex((x) => x.k === k));
  const before = tasks.map(({ k, i }) =>
    ((bench.beforeOf[k] as (readonly number[])[])[i] as readonly number[]).map((b) => (first[k] as number) + b),
  );
  const needs = before.map((b) => b.reduce((m, x) => m | (1 << x), 0));
  const jobMask = jobs.map((_, k) => tasks.reduce((m, x, n) => (x.k === k ? m | (1 << n) : m), 0));
  const liftMask = jobs.map((_, k) => tasks.reduce((m, x, n) => (x.k === k && x.t.lift ? m | (1 << n) : m), 0));
  const minutes = likelyMinutes(jobs);
  const all = tasks.length === 0 ? 0 : (2 ** tasks.length - 1) | 0;
  const skilled = (p: Person, t: Task) => t.skill === undefined || p.skills.includes(t.skill);
  const costAt = (job: ShopJob, end: number) =>
    end - job.fromMin + LATE_WEIGHT * Math.max(0, end - (job.promisedMin ?? Number.POSITIVE_INFINITY));

  interface State {
    readonly done: number;
    readonly free: readonly number[];
    readonly liftFree: readonly number[];
    readonly holder: readonly number[];
    /** when what follows each task may begin */
    readonly over: readonly number[];
    readonly cost: number;
    readonly bound: number;
    /** tasks are begun in the order of time: no schedule is lost by that, and no order is looked at twice */
    readonly startMin: number;
  }
  /** what the jobs that are not finished cost at least: each along its longest way, none begun before now */
  const boundOf = (done: number, over: readonly number[], free: readonly number[], nowMin: number): number => {
    const soonest = Math.max(nowMin, Math.min(...free));
    let sum = 0;
    for (let k = 0; k < jobs.length; k++) {
      if (((jobMask[k] as number) & ~done) === 0) continue;
      const job = jobs[k] as ShopJob;
      let end = job.fromMin;
      for (let n = first[k] as number; n < tasks.length && tasks[n]?.k === k; n++) {
        if (done & (1 << n)) {
          end = Math.max(end, over[n] as number);
          continue;
        }
        let ready = Math.max(job.fromMin, tasks[n]?.t.notBeforeMin ?? 0, soonest);
        for (const b of before[n] as number[]) if (done & (1 << b)) ready = Math.max(ready, over[b] as number);
        end = Math.max(end, ready + ((bench.tails[k] as Float64Array)[tasks[n]?.i as number] as number));
      }
      sum += costAt(job, end);
    }
    return sum;
  };
  const start: State = {
    done: 0,
    free: shop.people.map((p) => (p.working[0] as readonly [number, number])[0]),
    liftFree: shop.lifts.map(() => 0),
    holder: shop.lifts.map(() => -1),
    over: tasks.map(() => 0),
    cost: 0,
    bound: 0,
    startMin: 0,
  };
  let best = atMost;
  let states = 0;
  let layer = new Map<string, State[]>([["", [start]]]);
  for (let depth = 0; depth < tasks.length; depth++) {
    const next = new Map<string, State[]>();
    for (const list of layer.values())
      for (const s of list)
        tasks.forEach((x, n) => {
          if (s.done & (1 << n) || ((needs[n] as number) & ~s.done) !== 0) return;
          for (const grown of after(s, n, x.t, x.k, x.i)) {
            if (grown.cost + grown.bound >= best - 1e-9) continue;
            if (grown.done === all) {
              best = grown.cost;
              continue;
            }
            const key = `${grown.done}|${grown.holder.join()}`;
            const known = next.get(key) ?? [];
            if (known.some((o) => dominates(o, grown))) continue;
            if (++states > mostStates) throw new RangeError("too many states");
            next.set(key, [...known.filter((o) => !dominates(grown, o)), grown]);
          }
        });
    layer = next;
  }
  return best;

  function after(s: State, n: number, t: Task, k: number, i: number): State[] {
    const job = jobs[k] as ShopJob;
    const ready = Math.max(
      job.fromMin,
      t.notBeforeMin ?? 0,
      ...(before[n] as number[]).map((b) => s.over[b] as number),
    );
    const crews: number[][] = [];
    shop.people.forEach((p, a) => {
      if (!skilled(p, t)) return;
      if (t.people === 1) crews.push([a]);
      else
        shop.people.forEach((_, b) => {
          if (b !== a && !(b < a && skilled(shop.people[b] as Person, t))) crews.push([a, b]);
        });
    });
    const own = s.holder.indexOf(k);
    const lifts = !t.lift ? [-1] : own >= 0 ? [own] : s.holder.flatMap((h, l) => (h === -1 ? [l] : []));
    return crews.flatMap((crew) =>
      lifts.flatMap((l): State[] => {
        const from = Math.max(ready, ...crew.map((c) => s.free[c] as number), l >= 0 ? (s.liftFree[l] as number) : 0);
        if (from < s.startMin) return [];
        const end = from + ((minutes.hands[k] as ArrayLike<number>)[i] as number);
        const done = s.done | (1 << n);
        const free = s.free.map((f, c) => (crew.includes(c) ? end : f));
        const over = s.over.with(n, end + ((minutes.waits[k] as ArrayLike<number>)[i] as number));
        const lastOnLift = t.lift && ((liftMask[k] as number) & ~done) === 0;
        const holder = l < 0 ? s.holder : s.holder.with(l, lastOnLift ? -1 : k);
        const onLift = tasks.map((x, m) =>
          x.k === k && x.t.lift ? (over[m] as number) - ((minutes.waits[k] as ArrayLike<number>)[x.i] as number) : 0,
        );
        // until it is given back it is free since when the job has it
        const liftFree = lastOnLift ? s.liftFree.with(l, Math.max(...onLift)) : s.liftFree;
        const finished = ((jobMask[k] as number) & ~done) === 0;
        const ends = finished ? Math.max(...tasks.map((x, m) => (x.k === k ? (over[m] as number) : 0))) : 0;
        const cost = s.cost + (finished ? costAt(job, ends) : 0);
        return [{ done, free, liftFree, holder, over, cost, bound: boundOf(done, over, free, from), startMin: from }];
      }),
    );
  }

  function dominates(a: State, b: State): boolean {
    if (a.cost > b.cost || a.startMin > b.startMin) return false;
    for (let p = 0; p < a.free.length; p++) if ((a.free[p] as number) > (b.free[p] as number)) return false;
    for (let l = 0; l < a.liftFree.length; l++) if ((a.liftFree[l] as number) > (b.liftFree[l] as number)) return false;
    for (let n = 0; n < tasks.length; n++) {
      // of a job that is finished nothing follows
      if (((jobMask[tasks[n]?.k as number] as number) & ~a.done) === 0) continue;
      if ((a.over[n] as number) > (b.over[n] as number)) return false;
    }
    return true;
  }
}
