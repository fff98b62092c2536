// Guards: a plan can be done and leaves nothing over: what is shared stands once, every removal has its refit on the far side
// of all that needed it, and whatever is possible is done in whatever order, it ends.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { compose, endsOf, NoPlan, openSteps, type Plan, type Procedure, planTo, waitsFor, waysTo } from "./index.ts";
import { NAMES, PROCEDURES, UNITS, unitOf } from "./testing/library.ts";

const REPAIRS = NAMES.repairs.map((r) => r.id);
/** every repair of every unit that has a procedure, by every way to its ends */
const CASES = UNITS.flatMap((unit) =>
  REPAIRS.filter((r) => endsOf(PROCEDURES, unit, r).length > 0).flatMap((r) => {
    const plain = compose(PROCEDURES, unit, [r]);
    const ends = new Set(PROCEDURES.filter((p) => plan_has(plain, p)).map((p) => p.end));
    const ways = [...ends].flatMap((e) => waysTo(PROCEDURES, unit, e)).filter((w) => !plan_has(plain, w));
    return [[], ...ways.map((w) => [w.id])].map((strategies) => ({
      unit,
      strategies,
      plan: strategies.length > 0 ? compose(PROCEDURES, unit, [r], strategies) : plain,
    }));
  }),
);
function plan_has(plan: Plan, p: Procedure): boolean {
  return plan.procedures.includes(p.id);
}

/** Where each step stands in an order of keys. */
const places = (keys: readonly string[]) => new Map(keys.map((k, i) => [k, i]));

/** What is out of place in an order of a plan's steps, by their keys. */
function outOfPlace(plan: Plan, keys: readonly string[]): string[] {
  const at = places(keys);
  const place = (k: string | undefined) => at.get(k ?? "") ?? Number.NaN;
  const wrong = at.size === plan.steps.length ? [] : ["not every step once"];
  const refit = (of: { id: string; procedure: string } | undefined) =>
    plan.steps.find(
      (x) => x.undoes?.split("/").at(-1) === of?.id && (x.procedure === of?.procedure || x.undoes?.includes("/")),
    )?.key;
  for (const s of plan.steps) {
    for (const b of s.before) if (!(place(b) < place(s.key))) wrong.push(`${s.key} before ${b}`);
    if ((s.removes || s.opens) && !(place(refit(s)) > place(s.key))) wrong.push(`${s.key} is not undone after it`);
    for (const n of s.needs ?? []) {
      const opener = plan.steps.find((x) => x.opens === n);
      if (!(place(opener?.key) < place(s.key) && place(refit(opener)) > place(s.key)))
        wrong.push(`${s.key} outside of ${n}`);
    }
  }
  return wrong;
}

describe("the shipped procedures", () => {
  it("have many cases to be tried on", () => {
    expect(CASES.length).toBeGreaterThan(250);
    expect(new Set(CASES.map((c) => c.unit.id)).size).toBe(8);
    expect(CASES.filter((c) => c.strategies.length > 0).length).toBeGreaterThan(80);
  });
  it("make plans that hold together, for every unit, repair and way", () => {
    for (const { plan, strategies } of CASES) {
      const keys = plan.steps.map((s) => s.key);
      expect(outOfPlace(plan, keys)).toEqual([]);
      expect(plan.procedures).toEqual(expect.arrayContaining([...strategies]));
    }
  });
  it("can be done in any order that is possible, step by step, to the end", () => {
    fc.assert(
      fc.property(fc.constantFrom(...CASES), fc.infiniteStream(fc.nat()), ({ plan }, picks) => {
        const done = new Set<string>();
        while (done.size < plan.steps.length) {
          const open = openSteps(plan, done);
          if (open.length === 0) throw new Error(`nothing can be done after ${[...done].at(-1)}`);
          done.add(open[(picks.next().value as number) % open.length]?.key as string);
        }
        expect(outOfPlace(plan, [...done])).toEqual([]);
      }),
      { numRuns: 60 },
    );
  });
  it("share what two repairs have in common, and add nothing", () => {
    const unit = unitOf("brae-p6");
    const keys = (repairs: string[]) => new Set(compose(PROCEDURES, unit, repairs).steps.map((s) => s.key));
    const [a, b, both] = [keys(["solenoid:S1"]), keys(["valve-body"]), keys(["solenoid:S1", "valve-body"])];
    expect(both).toEqual(new Set([...a, ...b]));
    expect(both.size).toBeLessThan(a.size + b.size - 20);
    expect([...both].filter((k) => k.endsWith("/pan-off"))).toHaveLength(1);
  });
  it("do not start an engine while anything is off, nor before it is filled", () => {
    for (const { plan } of CASES) {
      const at = places(plan.steps.map((s) => s.key));
      const start = at.get("fill/start");
      if (start === undefined) continue;
      expect(plan.steps.find((s) => s.key === "fill/start")?.before).toEqual(
        expect.arrayContaining(plan.steps.filter((s) => /\/first-/.test(s.key)).map((s) => s.key)),
      );
      const late = plan.steps.filter((s) => s.undoes && (at.get(s.key) as number) > start).map((s) => s.key);
      expect(late.filter((k) => !k.startsWith("machine-exchange/"))).toEqual([]);
    }
  });
  it("hold a unit that goes in: converter home, then faces by hand, then the bolts", () => {
    for (const unit of UNITS.filter((u) => u.converter))
      for (const way of waysTo(PROCEDURES, unit, "unit-out")) {
        const plan = compose(PROCEDURES, unit, ["converter"], [way.id]);
        const of = (id: string) => plan.steps.find((s) => s.id === id && s.procedure === way.id);
        expect(of("home")?.hold?.opensBy).toBe("depth");
        expect(of("unit-in")?.before).toContain(`${way.id}/home`);
        expect(of("unit-in")?.hold?.opensBy).toBe("gap");
        expect(of("converter-bolts-in")?.before).toContain(`${way.id}/unit-in`);
        expect(of("home")?.before).toContain("converter/on");
        expect(plan.steps.find((s) => s.key === "converter-filled/pre-fill")?.hold).toBeDefined();
      }
  });
  it("ask nothing that a unit does not have", () => {
    const dry = compose(PROCEDURES, unitOf("machair-d6"), ["dual-clutch-pack"]);
    expect(dry.steps.some((s) => /filter|converter|cooler/.test(s.title.toLowerCase()))).toBe(false);
    expect(dry.steps.some((s) => s.key === "fill/start")).toBe(false);
    const stick = compose(PROCEDURES, unitOf("tarn-f4"), ["fluid"]).steps.map((s) => s.key);
    expect(stick).toContain("fill/set-dipstick");
    expect(stick).not.toContain("fill/set-overflow");
  });
  it("name no unit", () => {
    const text = JSON.stringify(PROCEDURES).toLowerCase();
    for (const u of UNITS) for (const word of [u.id, u.name.toLowerCase()]) expect(text).not.toContain(word);
  });
});

describe("what has no plan", () => {
  const refusal = (make: () => unknown): string => {
    try {
      make();
    } catch (error) {
      if (error instanceof NoPlan) return error.message;
      throw error;
    }
    return "";
  };
  it("says which repair no procedure does on this unit", () => {
    expect(refusal(() => compose(PROCEDURES, unitOf("machair-d6"), ["converter", "fluid"]))).toBe(
      "converter: no procedure does this repair on Machair D6",
    );
  });
  it("says which way is none of this plan, and which there are", () => {
    expect(refusal(() => compose(PROCEDURES, unitOf("ness-x6"), ["converter"], ["unit-out-longitudinal-two"]))).toBe(
      "unit-out-longitudinal-two: it isn’t a way of this plan; there are unit-out-transverse-down, unit-out-transverse-frame",
    );
  });

  const step = (id: string, more: object = {}) => ({
    id,
    title: id,
    place: "bench" as const,
    minutes: [1, 1, 1] as const,
    ...more,
  });
  const library = (...steps: object[]): Procedure[] => [
    { format: "gearsense-procedure", version: 1, id: "p", title: "P", end: "e", steps: steps as Procedure["steps"] },
  ];
  const to = (...steps: object[]) => refusal(() => planTo(library(...steps), unitOf("brae-p6"), ["e"]));
  it("names a circle by its steps", () => {
    expect(to(step("a", { after: ["c"] }), step("b", { after: ["a"] }), step("c", { after: ["b"] }))).toMatch(
      /^p\/(a → p\/b → p\/c → p\/a|b → p\/c → p\/a → p\/b|c → p\/a → p\/b → p\/c): goes in a circle$/,
    );
  });
  it("names what nothing undoes, and what nothing opens", () => {
    expect(to(step("off", { removes: true }))).toBe("p/off: nothing undoes it: it would be left over");
    expect(to(step("off", { removes: true }), step("on", { undoes: "off" }))).toBe("");
    expect(to(step("in", { needs: ["box"] }))).toBe('p/in: needs "box", which nothing in this plan opens');
  });
  it("names an end without a way", () => {
    const one = library(step("a"));
    expect(refusal(() => planTo([{ ...(one[0] as Procedure), includes: ["x"] }], unitOf("brae-p6"), ["e"]))).toBe(
      'p: Brae P6 has no way to "x"',
    );
    expect(refusal(() => planTo([{ ...(one[0] as Procedure), includes: ["x?"] }], unitOf("brae-p6"), ["e"]))).toBe("");
  });
  it("refits what lay within before what it lay in", () => {
    const plan = planTo(
      library(
        step("lid-on", { undoes: "lid-off" }),
        step("lid-off", { opens: "box" }),
        step("part-off", { removes: true, needs: ["box"] }),
        step("part-on", { undoes: "part-off" }),
      ),
      unitOf("brae-p6"),
      ["e"],
    );
    expect(plan.steps.map((s) => s.id)).toEqual(["lid-off", "part-off", "part-on", "lid-on"]);
  });
  it("a step that waits says for what, by title", () => {
    const plan = planTo(library(step("a", { title: "First" }), step("b", { after: ["a"] })), unitOf("brae-p6"), ["e"]);
    expect(waitsFor(plan, "p/b", new Set())).toEqual(["First"]);
    expect(openSteps(plan, new Set()).map((s) => s.key)).toEqual(["p/a"]);
    expect(openSteps(plan, new Set(["p/a"])).map((s) => s.key)).toEqual(["p/b"]);
  });
});
