// Guards: odds of mishaps by rust, age and distance; ways on the same drawn jobs; what flips the choice; extras, trays, own minutes,
// critical path against closed forms.
import { readFileSync } from "node:fs";
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import {
  type Conditions,
  compareWays,
  criticalPath,
  extrasOf,
  leftInTray,
  type Mishap,
  oddsOf,
  ownMinutes,
  type Plan,
  type PlanStep,
  type Procedure,
  planOf,
  planTo,
  RUST,
  SHOP_SPREAD,
  scaled,
  suggestedOrder,
  TIME_SPREAD,
  tickProblem,
  timeLost,
  trayOf,
} from "./index.ts";
import { PROCEDURES, unitOf } from "./testing/library.ts";

const MISHAPS = JSON.parse(readFileSync(new URL("../../../library/procedures/mishaps.json", import.meta.url), "utf8"))
  .mishaps as Mishap[];
const usual: Conditions = { ageYears: 10, odometerKm: 200_000, rust: "light", helper: true, crane: true };
const rusty: Mishap = { name: "stuck", odds: 0.1, by: "rust", minutes: [60, 60, 60], remedy: "" };
const unit = unitOf("ness-x6");

/** Two ways to one end: a quick one that rust hurts, and a slow one that it does not. */
const way = (id: string, minutes: number, mishaps: string[], people: 1 | 2 = 1, tools: string[] = []): Procedure => ({
  format: "gearsense-procedure",
  version: 1,
  id,
  title: id,
  end: "out",
  repairs: ["converter"],
  steps: [{ id: `do-${id}`, title: id, place: "bench", minutes: [minutes, minutes, minutes], mishaps, people, tools }],
});

describe("odds of a mishap", () => {
  it("are those of the file on a vehicle of ten years, 200,000 km and light rust", () => {
    for (const m of MISHAPS) expect(oddsOf(m, usual)).toBeCloseTo(m.odds, 12);
  });
  it("grow with rust, years and distance, stay below one, and of the hand's own do not move", () => {
    fc.assert(
      fc.property(fc.nat(40), fc.nat(600_000), fc.constantFrom(...MISHAPS), (ageYears, odometerKm, m) => {
        const at = RUST.map((rust) => oddsOf(m, { ...usual, ageYears, odometerKm, rust }));
        expect(at).toEqual([...at].sort((a, b) => a - b));
        expect(at.every((p) => p >= 0 && p < 1)).toBe(true);
        if (m.by === "care") for (const p of at) expect(p).toBeCloseTo(m.odds, 12);
        if (m.by === "age") expect(at[0]).toBe(at[3]);
        expect(oddsOf(m, { ...usual, ageYears: ageYears + 1, odometerKm })).toBeGreaterThanOrEqual(
          oddsOf(m, { ...usual, ageYears, odometerKm }),
        );
      }),
    );
  });
});

describe("ways compared", () => {
  const library = [way("quick", 100, ["stuck"]), way("slow", 111, [])];
  const at = (rust: Conditions["rust"]) =>
    compareWays(library, [rusty], unit, ["converter"], { ...usual, rust }, 60, 2000);
  it("cost their hands and what goes wrong on average: closed form", () => {
    const { ways } = at("light");
    const cost = Object.fromEntries(ways.map((w) => [w.title, w.cost]));
    expect(cost.slow).toBeCloseTo(111, 9);
    // 100 min and one in ten times 60 min, at 60 an hour
    expect(cost.quick).toBeGreaterThan(100 + 6 - 1.5);
    expect(cost.quick).toBeLessThan(100 + 6 + 1.5);
    expect(ways[0]?.title).toBe("quick");
    expect(ways.reduce((s, w) => s + w.bestShare, 0)).toBeCloseTo(1, 9);
  });
  it("are flipped by rust, and say so from either side", () => {
    expect(at("light").flips).toEqual([
      { when: "with heavy rust", way: "slow" },
      { when: "with rotten rust", way: "slow" },
    ]);
    expect(at("rotten").ways[0]?.title).toBe("slow");
    expect(at("rotten").flips.map((f) => f.when)).toEqual(["with no rust", "with light rust"]);
  });
  it("count who has to be called and what has to be borrowed", () => {
    const two = [way("alone", 130, []), way("two", 60, [], 2, ["engine bar"])];
    const best = (c: Partial<Conditions>) => compareWays(two, [], unit, ["converter"], { ...usual, ...c }, 60, 50);
    expect(best({}).ways[0]).toMatchObject({ title: "two", people: 2, lacks: [] });
    expect(best({ helper: false }).ways[0]).toMatchObject({ title: "alone", people: 1 });
    expect(best({ helper: false }).ways[1]?.lacks).toEqual(["a helper is called in once"]);
    expect(best({ crane: false }).ways[1]?.lacks).toEqual(["engine bar is borrowed"]);
    expect(best({}).flips.map((f) => f.when)).toEqual(["without a helper", "without a crane or engine bar"]);
  });
  it("have their middle between one in ten and nine in ten: of a triangle from 0 to 100 about 22, 50, 78", () => {
    const spread = (id: string) => ({
      ...way(id, 0, []),
      steps: [{ id: "s", title: id, place: "bench" as const, minutes: [0, 50, 100] as const }],
    });
    const [first] = compareWays([spread("a"), spread("b")], [], unit, ["converter"], usual, 60, 4000).ways;
    // quantiles of the triangle: 100·√(u/2) below the middle
    [22.4, 50, 77.6].forEach((q, i) => {
      expect(Math.abs((first?.minutes[i] as number) - q)).toBeLessThan(2.5);
    });
  });
  it("draw the same jobs for all, and the same again with the same seed", () => {
    expect(at("light")).toEqual(at("light"));
    const twin = compareWays(
      [way("a", 50, ["stuck"]), { ...way("b", 50, ["stuck"]), steps: way("a", 50, ["stuck"]).steps }],
      [rusty],
      unit,
      ["converter"],
      usual,
      60,
      400,
    );
    expect(twin.ways[0]?.cost).toBe(twin.ways[1]?.cost);
  });
  it("take what their suggested order takes: moves of the lift and from place to place counted", () => {
    const about = (id: string): Procedure => ({
      ...way(id, 1, []),
      steps: (["under", "top", "under", "cabin"] as const).map((place, i) => ({
        id: `s${i}`,
        title: place,
        place,
        lift: place === "cabin" ? ("down" as const) : undefined,
        minutes: [10, 10, 10] as const,
        ...(i > 0 ? { after: [`s${i - 1}`] } : {}),
      })),
    });
    const moving = [about("a"), about("b")];
    const { ways } = compareWays(moving, [], unit, ["converter"], usual, 60, 20);
    const order = suggestedOrder((planOf(moving, unit, ["converter"], []).plan as Plan).steps);
    expect(order.liftChanges).toBeGreaterThan(0);
    expect(order.placeChanges).toBeGreaterThan(0);
    expect(ways[0]?.minutes).toEqual([order.totalMin, order.totalMin, order.totalMin]);
  });
  it("of which there is one are none", () => {
    expect(compareWays([way("only", 10, [])], [], unit, ["converter"], usual, 60).ways).toEqual([]);
  });
  it("of the shipped transverse unit flip with rust", () => {
    const shipped = (rust: Conditions["rust"]) =>
      compareWays(PROCEDURES, MISHAPS, unit, ["converter"], { ...usual, ageYears: 12, rust }, 60, 300).ways[0]?.ways;
    expect(shipped("light")).toEqual(["unit-out-transverse-down"]);
    expect(shipped("heavy")).toEqual(["unit-out-transverse-frame"]);
  });
});

describe("while it is open", () => {
  const planFor = (extras: string[] = []) => planOf(PROCEDURES, unit, ["converter"], [], extras).plan as Plan;
  it("only what the plan opens the way to is offered, on units that have it", () => {
    const ids = (repairs: string[], u = unit) =>
      extrasOf(PROCEDURES, u, planOf(PROCEDURES, u, repairs, []).plan as Plan, usual, 60, null).map((e) => e.id);
    expect(ids(["converter"])).toEqual(
      expect.arrayContaining(["extra-rear-seal", "extra-shaft-boots", "extra-arm-bushes"]),
    );
    expect(ids(["converter"], unitOf("brae-p6"))).not.toContain("extra-shaft-boots");
    expect(ids(["fluid"])).not.toContain("extra-rear-seal");
  });
  it("costs parts and hands now, and the whole way in later, times its odds: closed form", () => {
    const plan = planFor();
    for (const e of extrasOf(PROCEDURES, unit, plan, usual, 60, null)) {
      const { odds, parts } = PROCEDURES.find((p) => p.id === e.id)?.extra ?? { odds: 0, parts: [] };
      const bought = parts.reduce((s, p) => s + p.cost, 0);
      expect(e.odds).toBeCloseTo(odds, 9);
      expect(e.nowCost).toBeCloseTo(bought + e.minutes, 9);
      expect(e.laterCost).toBeGreaterThan(e.nowCost + 120);
      expect(e.worth).toBeCloseTo(e.odds * e.laterCost - e.nowCost, 9);
    }
  });
  it("comes due oftener the longer it is kept", () => {
    const odds = (years: number | null) =>
      extrasOf(PROCEDURES, unit, planFor(), usual, 60, years).find((e) => e.id === "extra-rear-seal")?.odds ?? 0;
    expect(odds(8)).toBeCloseTo(1 - (1 - odds(4)) ** 2, 9);
    expect(odds(null)).toBe(odds(4));
  });
  it("joins the plan when it is taken, and goes when its way in is gone", () => {
    const with_ = planFor(["extra-rear-seal"]);
    expect(with_.steps.map((s) => s.key)).toContain("extra-rear-seal/renew");
    const step = with_.steps.find((s) => s.key === "extra-rear-seal/renew") as PlanStep;
    expect(step.before.some((b) => b.endsWith("/unit-down"))).toBe(true);
    expect(extrasOf(PROCEDURES, unit, with_, usual, 60, null).find((e) => e.id === "extra-rear-seal")?.taken).toBe(
      true,
    );
    const other = planOf(PROCEDURES, unit, ["fluid"], [], ["extra-rear-seal"]).plan;
    expect(other?.steps.some((s) => s.procedure === "extra-rear-seal")).toBe(false);
  });
});

describe("a tray", () => {
  const plan = planTo(PROCEDURES, unit, ["valve-body"]);
  const step = (key: string) => plan.steps.find((s) => s.key === key) as PlanStep;
  it("has a cell for every valve, spring, ball and bolt of known place, other lengths marked", () => {
    const parts = trayOf(unit, plan, step("valve-body/strip"));
    expect(new Set(parts?.cells.map((c) => c.kind))).toEqual(new Set(["valve", "spring", "ball", "strainer"]));
    const bolts = trayOf(unit, plan, step("valve-body/out"));
    expect(bolts?.cells).toHaveLength(12);
    expect(bolts?.cells.filter((c) => c.other).map((c) => c.lengthMm)).toEqual([65, 65, 65]);
  });
  it("is the same at the step that puts things back, and none where nothing is laid out", () => {
    expect(trayOf(unit, plan, step("valve-body/assemble"))).toEqual(trayOf(unit, plan, step("valve-body/strip")));
    expect(trayOf(unit, plan, step("before-work/identify"))).toBeUndefined();
  });
  it("that is not empty stops the refit by name, and not the removal; a reason lets it go on", () => {
    const trays = new Map([["valve-body/strip", ["ball-1", "spring-2"]]]);
    const done = new Set(plan.steps.map((s) => s.key));
    const tick = (key: string, why: string) => {
      done.delete(key);
      return tickProblem(unit, plan, done, key, {}, why, trays);
    };
    expect(tick("valve-body/assemble", "")).toMatch(/still in the tray are Check ball 1, Spring behind/);
    expect(tick("valve-body/assemble", "a spare that lay there before")).toBeUndefined();
    expect(
      tickProblem(unit, plan, done, "valve-body/assemble", {}, "", new Map([["valve-body/strip", []]])),
    ).toBeUndefined();
    expect(leftInTray(unit, plan, step("valve-body/strip"), ["ball-1"])).toEqual([]);
  });
});

describe("a shop's own minutes", () => {
  it("are the file's while nobody speaks, and move by the conjugate update: closed form", () => {
    expect(ownMinutes([])).toMatchObject({ factor: 1, jobs: 0 });
    const three = ownMinutes([2, 2, 2]);
    const weight = 3 / TIME_SPREAD ** 2 / (3 / TIME_SPREAD ** 2 + 1 / SHOP_SPREAD ** 2);
    expect(three.factor).toBeCloseTo(2 ** weight, 9);
    expect(three.from).toBeLessThan(three.factor);
    expect(three.to).toBeGreaterThan(three.factor);
    expect(scaled([10, 20, 40], { factor: 1.5 })).toEqual([15, 30, 60]);
  });
  it("are surer the more jobs speak, and heed no time that is none", () => {
    const width = (n: number) => {
      const o = ownMinutes(Array.from({ length: n }, () => 1.2));
      return Math.log(o.to / o.from);
    };
    expect(width(10)).toBeLessThan(width(2));
    expect(ownMinutes([0, Number.NaN, -1, Number.POSITIVE_INFINITY])).toMatchObject({ factor: 1, jobs: 0 });
  });
  it("find a shop's true factor with enough jobs", () => {
    expect(ownMinutes(Array.from({ length: 400 }, () => 1.6)).factor).toBeCloseTo(1.6, 2);
  });
});

describe("the critical path", () => {
  const s = (key: string, minutes: number, before: string[], wait = 0) => ({
    key,
    before,
    minutes: [minutes, minutes, minutes] as const,
    ...(wait > 0 ? { wait: { what: "soak" as const, minutes: [wait, wait, wait] as const, why: "" } } : {}),
  });
  it("of a textbook net: lengths, and how late each may be", () => {
    const { bars, totalMin } = criticalPath([
      s("a", 3, []),
      s("b", 2, ["a"], 4),
      s("c", 5, ["a"]),
      s("d", 1, ["b", "c"]),
    ]);
    expect(totalMin).toBe(10);
    expect(bars.map((b) => [b.key, b.startMin, b.endMin, b.overMin, b.slackMin])).toEqual([
      ["a", 0, 3, 3, 0],
      ["b", 3, 5, 9, 0],
      ["c", 3, 8, 8, 1],
      ["d", 9, 10, 10, 0],
    ]);
  });
  it("of every shipped plan is no longer than its steps one after another, and some step has no slack", () => {
    const { bars, totalMin } = criticalPath(planTo(PROCEDURES, unit, ["converter"]).steps);
    expect(bars.some((b) => b.slackMin === 0)).toBe(true);
    expect(totalMin).toBeLessThanOrEqual(
      planTo(PROCEDURES, unit, ["converter"]).steps.reduce(
        (sum, x) => sum + x.minutes[1] + (x.wait?.minutes[1] ?? 0),
        0,
      ),
    );
  });
  it("loses time where a step took longer than likely, the most first; what was not timed says nothing", () => {
    const steps = [s("a", 10, []), s("b", 10, []), s("c", 10, [])];
    const took = (step: string, minutes: number | null) => ({ step, title: step, minutes, trouble: [] });
    expect(timeLost(steps, [took("a", 12), took("b", 30), took("c", null)])).toMatchObject({
      lost: [{ key: "b" }, { key: "a" }],
      takenMin: 42,
      plannedMin: 20,
    });
    expect(timeLost(steps, [took("a", 10)]).lost).toEqual([]);
  });
});
