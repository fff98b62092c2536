// Guards: no schedule puts two things where one can be: people, lifts, skills, hours, waits, parts; the search is never worse than
// first come first served and near the optimum; promises hold as often as they say.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { seededRandom } from "../chance/index.ts";
import {
  Bench,
  costOf,
  drawnEnds,
  drawnMinutes,
  findSchedule,
  firstCome,
  LATE_WEIGHT,
  likelyMinutes,
  nextWorking,
  oddsBy,
  promiseAt,
  type Schedule,
  type Shop,
  type ShopJob,
  scheduleBy,
  type Task,
  workingBetween,
} from "./index.ts";
import { exactCost } from "./testing/exact.ts";
import { drawnShop } from "./testing/shops.ts";

const always = [[0, 1e6]] as const;
const one: Shop = { lifts: ["a"], people: [{ id: "Iona", skills: [], working: always }] };
const task = (id: string, likely: number, over: Partial<Task> = {}): Task => ({
  id,
  minutes: [likely, likely, likely],
  people: 1,
  lift: false,
  before: [],
  ...over,
});
const job = (id: string, tasks: Task[], over: Partial<ShopJob> = {}): ShopJob => ({ id, tasks, fromMin: 0, ...over });
const plain = (shop: Shop, jobs: ShopJob[]) => {
  const bench = new Bench(shop, jobs);
  return scheduleBy(bench, firstCome(bench), likelyMinutes(jobs));
};
const ends = (s: Schedule) => Object.fromEntries(s.jobs.map((d) => [d.job, d.endMin]));

/** What a schedule breaks; empty when it breaks nothing. */
function broken(shop: Shop, jobs: readonly ShopJob[], s: Schedule): string[] {
  const out: string[] = [];
  const bench = new Bench(shop, jobs);
  const overlap = (a: readonly number[], b: readonly number[]) =>
    (a[0] as number) < (b[1] as number) - 1e-9 && (b[0] as number) < (a[1] as number) - 1e-9;
  shop.people.forEach((p, i) => {
    const own = s.slots.filter((x) => x.people.includes(p.id));
    own.forEach((x, n) => {
      for (const y of own.slice(n + 1))
        if (overlap([x.startMin, x.endMin], [y.startMin, y.endMin])) out.push(`${p.id} is at two places`);
      if (nextWorking(bench.calendars[i] as never, x.startMin) !== x.startMin) out.push(`${p.id} begins in free time`);
    });
  });
  for (const j of jobs) {
    const own = new Map(s.slots.filter((x) => x.job === j.id).map((x) => [x.task, x]));
    for (const t of j.tasks) {
      const x = own.get(t.id);
      if (!x) continue;
      if (x.startMin < Math.max(j.fromMin, t.notBeforeMin ?? 0)) out.push(`${t.id} is begun too early`);
      for (const b of t.before) {
        const first = own.get(b);
        const wait = j.tasks.find((y) => y.id === b)?.wait?.[1] ?? 0;
        if (!first || x.startMin < first.endMin + wait - 1e-9) out.push(`${t.id} stands before ${b} and its wait`);
      }
      if (x.people.length !== t.people) out.push(`${t.id} has ${x.people.length} people`);
      if (t.skill && !x.people.some((p) => shop.people.find((q) => q.id === p)?.skills.includes(t.skill as string)))
        out.push(`${t.id} lacks its skill`);
      if ((x.lift !== undefined) !== t.lift) out.push(`${t.id} and its lift`);
      const calendars = x.people.map((p) => bench.calendars[shop.people.findIndex((q) => q.id === p)]);
      if (
        calendars.length === 1 &&
        Math.abs(workingBetween(calendars[0] as never, x.startMin, x.endMin) - t.minutes[1]) > 1e-6
      )
        out.push(`${t.id} takes other than its minutes`);
    }
  }
  // a lift is held from the first to the last task on it
  const held = jobs.flatMap((j) => {
    const own = s.slots.filter((x) => x.job === j.id && x.lift !== undefined);
    if (own.length === 0) return [];
    if (new Set(own.map((x) => x.lift)).size > 1) out.push(`${j.id} changes the lift`);
    return [
      { lift: own[0]?.lift, span: [Math.min(...own.map((x) => x.startMin)), Math.max(...own.map((x) => x.endMin))] },
    ];
  });
  held.forEach((a, n) => {
    for (const b of held.slice(n + 1)) if (a.lift === b.lift && overlap(a.span, b.span)) out.push(`two on ${a.lift}`);
  });
  return out;
}

describe("a schedule", () => {
  it("uses the wait of one job for another", () => {
    const soak = job("soak", [task("spray", 10, { wait: [60, 60, 60] }), task("undo", 10, { before: ["spray"] })]);
    const s = plain(one, [soak, job("other", [task("work", 50)], { fromMin: 1 })]);
    expect(ends(s)).toEqual({ soak: 80, other: 60 });
  });
  it("keeps a lift from the first to the last task on it, a wait between them counted", () => {
    const under = (id: string, fromMin = 0) =>
      job(id, [task("a", 10, { lift: true, wait: [30, 30, 30] }), task("b", 10, { lift: true, before: ["a"] })], {
        fromMin,
      });
    expect(ends(plain(one, [under("first"), under("second", 1)]))).toEqual({ first: 50, second: 100 });
    const two: Shop = { ...one, lifts: ["a", "b"] };
    expect(ends(plain(two, [under("first"), under("second", 1)]))).toEqual({ first: 50, second: 60 });
  });
  it("puts two people where two are needed, and the skilled where a skill is", () => {
    const shop: Shop = {
      lifts: [],
      people: [
        { id: "Iona", skills: [], working: always },
        { id: "Marl", skills: ["electric"], working: [[100, 1e6]] },
      ],
    };
    const s = plain(shop, [
      job("j", [task("lift it", 10, { people: 2 }), task("wire", 5, { skill: "electric", before: ["lift it"] })]),
    ]);
    expect(s.slots.map((x) => [x.task, x.startMin, [...x.people].sort()])).toEqual([
      ["lift it", 100, ["Iona", "Marl"]],
      ["wire", 110, ["Marl"]],
    ]);
  });
  it("goes on after the night, and keeps out of days off", () => {
    const days = [
      [0, 60],
      [1440, 1500],
    ] as const;
    const shop: Shop = { lifts: [], people: [{ id: "Iona", skills: [], working: days }] };
    expect(ends(plain(shop, [job("j", [task("long", 90)])]))).toEqual({ j: 1470 });
  });
  it("says why a job is not finished: a part of no date, a helper who is away, a skill nobody has, no lift", () => {
    const why = (t: Partial<Task>, shop = one) => plain(shop, [job("j", [task("t", 10, t)])]).jobs[0]?.problem;
    expect(why({ notBeforeMin: Number.POSITIVE_INFINITY })).toMatch(/part with no delivery date/);
    expect(why({ people: 2 })).toMatch(/needs two people/);
    expect(why({ skill: "electric" })).toMatch(/needs the skill “electric”, which nobody here has/);
    expect(why({ lift: true }, { ...one, lifts: [] })).toMatch(/no.* lift|there is none/);
    expect(why({}, { ...one, people: [{ id: "Iona", skills: [], working: [[0, 5]] }] })).toMatch(
      /finished within eight weeks/,
    );
    expect(why({})).toBeUndefined();
  });
  it("leaves what does not wait for such a part to go on", () => {
    const s = plain(one, [
      job("stuck", [task("t", 10, { notBeforeMin: Number.POSITIVE_INFINITY, lift: true })]),
      job("goes", [task("t", 10, { lift: true })]),
    ]);
    expect(ends(s)).toEqual({ stuck: Number.POSITIVE_INFINITY, goes: 10 });
  });
  it("begins with what stands on a lift already, and honours pins", () => {
    const under = (id: string, over: Partial<ShopJob>) => job(id, [task("a", 10, { lift: true })], over);
    expect(ends(plain(one, [under("waits", {}), under("apart", { fromMin: 5, onLift: "a" })]))).toEqual({
      waits: 25,
      apart: 15,
    });
    expect(ends(plain(one, [under("early", {}), under("pinned", { pinned: { fromMin: 0 } })]))).toEqual({
      early: 20,
      pinned: 10,
    });
    expect(ends(plain(one, [under("later", { pinned: { fromMin: 300 } })]))).toEqual({ later: 310 });
    const two: Shop = { ...one, lifts: ["a", "b"] };
    expect(plain(two, [under("left", { pinned: { fromMin: 0, lift: "b" } })]).slots[0]?.lift).toBe("b");
  });
  it("refuses a task that waits for none of its job, or a circle", () => {
    expect(() => new Bench(one, [job("j", [task("t", 1, { before: ["x"] })])])).toThrow(/waits for x/);
    expect(
      () => new Bench(one, [job("j", [task("a", 1, { before: ["b"] }), task("b", 1, { before: ["a"] })])]),
    ).toThrow(/circle/);
  });
  it("breaks nothing, whoever goes first and however patient: drawn shops", () => {
    fc.assert(
      fc.property(
        fc.nat(1e6),
        fc.constantFrom(0, 30, Number.POSITIVE_INFINITY),
        fc.boolean(),
        (seed, patienceMin, nights) => {
          const { shop, jobs } = drawnShop(
            { jobs: 4, tasks: 6, lifts: 2, people: 2, ...(nights ? { dayMin: [480, 960] } : {}) },
            seed,
          );
          const bench = new Bench(shop, jobs);
          const random = seededRandom(seed);
          const rank = jobs.map((j) => j.tasks.map(() => random()));
          const s = scheduleBy(bench, { rank, patienceMin }, likelyMinutes(jobs));
          expect(broken(shop, jobs, s)).toEqual([]);
          expect(s.slots).toHaveLength(24);
        },
      ),
      { numRuns: 150 },
    );
  });
});

describe("the search", () => {
  it("counts minutes in the shop, and those beyond the promise more", () => {
    const bench = new Bench(one, [job("j", [task("t", 50)], { fromMin: 10, promisedMin: 40 })]);
    const s = scheduleBy(bench, firstCome(bench), likelyMinutes(bench.jobs));
    expect(costOf(bench, s)).toBe(50 + LATE_WEIGHT * 20);
  });
  it("lets the promised one go first, and is never worse than first come first served", () => {
    const jobs = [job("long", [task("t", 300)]), job("due", [task("t", 30)], { fromMin: 0, promisedMin: 40 })];
    const bench = new Bench(one, jobs);
    expect(ends(findSchedule(bench).schedule)).toEqual({ long: 330, due: 30 });
    for (let seed = 0; seed < 20; seed++) {
      const drawn = drawnShop({ jobs: 4, tasks: 5, lifts: 1, people: 2 }, seed);
      const b = new Bench(drawn.shop, drawn.jobs);
      const first = costOf(b, scheduleBy(b, firstCome(b), likelyMinutes(drawn.jobs)));
      const found = findSchedule(b, seed, 80);
      expect(found.cost).toBeLessThanOrEqual(first);
      expect(found.tried).toBeLessThanOrEqual(80);
      expect(broken(drawn.shop, drawn.jobs, found.schedule)).toEqual([]);
    }
  });
  it("stays with the pins", () => {
    const jobs = [
      job("short", [task("t", 10)], { promisedMin: 10 }),
      job("pinned", [task("t", 200)], { pinned: { fromMin: 0 } }),
    ];
    expect(ends(findSchedule(new Bench(one, jobs)).schedule)).toEqual({ short: 210, pinned: 200 });
  });
  it("is near the optimum of small shops, by exact search", () => {
    const over: number[] = [];
    for (let seed = 0; seed < 12; seed++) {
      const { shop, jobs } = drawnShop({ jobs: 2 + (seed % 2), tasks: 5, lifts: 2, people: 2 }, 900 + seed);
      const bench = new Bench(shop, jobs);
      const { cost } = findSchedule(bench, seed);
      const exact = exactCost(bench, cost + 1e-6);
      expect(exact).toBeLessThanOrEqual(cost + 1e-5);
      over.push(cost / exact - 1);
    }
    expect(over.reduce((a, b) => a + b, 0) / over.length).toBeLessThan(0.03);
  });
  it("has an exact yardstick that agrees with closed forms", () => {
    const shop: Shop = { ...one, lifts: [] };
    // shortest first is best for the sum of ends (Smith 1956): 10, 30, 60
    const bench = new Bench(shop, [job("c", [task("t", 30)]), job("a", [task("t", 10)]), job("b", [task("t", 20)])]);
    expect(exactCost(bench, 1e9)).toBe(10 + 30 + 60);
    const wait = new Bench(shop, [
      job("s", [task("a", 10, { wait: [60, 60, 60] }), task("b", 10, { before: ["a"] })]),
      job("o", [task("t", 50)]),
    ]);
    expect(exactCost(wait, 1e9)).toBe(80 + 60);
  });
  it("of jobs with nothing left to do ends at once", () => {
    expect(findSchedule(new Bench(one, [job("done", [])]))).toMatchObject({ cost: 0, schedule: { slots: [] } });
  });
  it("of no jobs is no schedule", () => {
    expect(findSchedule(new Bench(one, []))).toMatchObject({ cost: 0, schedule: { slots: [], jobs: [] } });
  });
});

describe("a promise", () => {
  const bench = new Bench(one, [job("j", [{ ...task("t", 60), minutes: [30, 60, 120] }])]);
  it("is drawn from the steps' own spread and what a job shares: the same seed gives the same", () => {
    const a = drawnEnds(bench, firstCome(bench), 300, 5);
    expect(a).toEqual(drawnEnds(bench, firstCome(bench), 300, 5));
    const middle = promiseAt(a[0] as Float64Array, 0.5);
    expect(middle).toBeGreaterThan(55);
    expect(middle).toBeLessThan(85);
  });
  it("lies between the draws: known quantiles, odds the other way round", () => {
    const draws = Float64Array.from({ length: 9 }, (_, i) => (i + 1) * 10);
    expect([0.1, 0.5, 0.9, 0.95].map((p) => promiseAt(draws, p))).toEqual([10, 50, 90, 90]);
    expect(promiseAt(draws, 0.45)).toBeCloseTo(45, 9);
    expect([9, 10, 45, 90].map((t) => oddsBy(draws, t))).toEqual([0, 1 / 9, 4 / 9, 1]);
    expect(promiseAt([10, Number.POSITIVE_INFINITY], 0.9)).toBe(Number.POSITIVE_INFINITY);
  });
  it("at nine in ten holds about nine times in ten", () => {
    let held = 0;
    let promised = 0;
    for (let seed = 0; seed < 120; seed++) {
      const { shop, jobs } = drawnShop({ jobs: 3, tasks: 5, lifts: 2, people: 2, dayMin: [480, 1020] }, seed);
      const b = new Bench(shop, jobs);
      const policy = firstCome(b);
      const all = drawnEnds(b, policy, 200, 2 * seed + 1);
      const happened = scheduleBy(b, policy, drawnMinutes(b, seededRandom(70_000 + 2 * seed)));
      happened.jobs.forEach((d, k) => {
        promised++;
        if (d.endMin <= promiseAt(all[k] as Float64Array, 0.9)) held++;
      });
    }
    expect(held / promised).toBeGreaterThan(0.85);
    expect(held / promised).toBeLessThan(0.95);
  });
});
