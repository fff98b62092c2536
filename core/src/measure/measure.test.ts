// Guards: readings to outcomes: copper at 20 °C, windows from the unit file, uncertainty by the textbook, limits just inside and
// just outside, the surest measure decides, and the weight a number carries into the odds.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { foldJob } from "../job/index.ts";
import type { Instrument, Measure } from "../knowledge/index.ts";
import { believe, checkEntry, collectEvidence, generateChecks, SuspectModel, siftEvidence } from "../suspect/index.ts";
import { madeTimeline } from "../testing/index.ts";
import { libraryKnowledge, libraryUnit, libraryUnits } from "../testing/units.ts";
import {
  copperAt20,
  judgeReadings,
  measuresFor,
  outcomeOf,
  readingsIn,
  SURE_ENOUGH,
  uncertaintyOf,
  weightOf,
  windowOf,
  windowText,
} from "./index.ts";

const knowledge = libraryKnowledge();
const brae = libraryUnit("brae-p6");
const measureOf = (check: string, id: string): Measure => {
  const m = knowledge.checks.find((c) => c.id === check)?.measures?.find((x) => x.id === id);
  if (!m) throw new Error(`no measure ${check} ${id}`);
  return m;
};
const instrument = (id: string): Instrument => {
  const i = knowledge.instruments.find((x) => x.id === id);
  if (!i) throw new Error(`no instrument ${id}`);
  return i;
};
const clearance = measureOf("pack-measure", "clearance");
const feeler = instrument("feeler");
const window = windowOf(brae, clearance, "TC");
if (!window) throw new Error("no window");

describe("windows", () => {
  it("come from the unit file for the component, or from the trade", () => {
    expect(window).toMatchObject({ from: 0.9, to: 1.8 });
    expect(windowOf(brae, measureOf("resistance", "coil"), "sol_LC")).toMatchObject({ from: 4.8, to: 5.6 });
    expect(windowOf(brae, measureOf("pack-measure", "friction"), "TC")).toMatchObject({ from: 1.6, to: undefined });
    expect(windowOf(brae, measureOf("engagement-watch", "D"), "unit")).toMatchObject({ to: 1.2 });
    expect(windowOf(brae, measureOf("ground-drop", "case"), "unit")).toMatchObject({ to: 200, source: "trade rule" });
    expect(windowOf(brae, measureOf("supply-voltage", "loaded"), "net_8v")).toMatchObject({ from: 7.6, to: 8.4 });
  });
  it("of a stall speed follow the torque as its root", () => {
    const stall = measureOf("stall-speed", "stall");
    const at = (torque?: number) => windowOf(brae, stall, "unit", torque);
    expect(at()?.from).toBeCloseTo(2250 * 0.9, 6);
    expect(at()?.to).toBeCloseTo(2250 * 1.1, 6);
    expect((at(70)?.from ?? 0) / (at(280)?.from ?? 1)).toBeCloseTo(0.5, 9);
  });
  it("of the line pressure in reverse lie above those in first where reverse works an element harder, never under zero", () => {
    for (const unit of libraryUnits().filter((u) => u.kind === "planetary"))
      for (const id of ["D", "R"]) {
        const w = windowOf(unit, measureOf("line-gauge", id), "unit");
        if (w) expect(w.from).toBeGreaterThan(0);
        if (w?.to !== undefined) expect(w.to).toBeGreaterThan(w.from ?? 0);
      }
  });
  it("are not made up: what the unit file does not give is undefined", () => {
    const bare = { ...brae, elements: brae.elements.map(({ bench: _, ...e }) => e) };
    expect(windowOf(bare, clearance, "TC")).toBeUndefined();
    expect(windowOf(brae, clearance, "no-such")).toBeUndefined();
  });
  // no unit of the library switches its clutches with plain on-off solenoids; a shop's own may
  const switched = { ...brae, solenoids: brae.solenoids.map((x) => ({ ...x, kind: "on-off" as const })) };
  it("each measure of each check has one in some unit, but for those of the maker's data", () => {
    for (const c of knowledge.checks)
      for (const m of c.measures ?? []) {
        const found = [...libraryUnits(), switched].some((u) =>
          generateChecks(u, knowledge)
            .filter((x) => x.kindId === c.id)
            .some((x) => measuresFor(u, [m], x.component).some((y) => windowOf(u, y, x.component) !== undefined)),
        );
        const typed = "of" in m.window && m.window.of === "maker";
        expect([c.id, m.id, found]).toEqual([c.id, m.id, !typed]);
      }
  });
  it("of a current is what the weakest supply drives through the hottest coil", () => {
    const w = windowOf(brae, measureOf("solenoid-current", "full"), "sol_LC");
    // 5.6 Ω at 20 °C are 7.36 Ω at 100 °C; 11 V drive 1.49 A through them
    expect(w?.from).toBeCloseTo(11 / (5.6 * 1.3144), 9);
    expect(w?.to).toBeUndefined();
  });
  it("of a level are what the unit file allows, either way; of its loss one way", () => {
    const litres = brae.fluid.level.toleranceL;
    expect(windowOf(brae, measureOf("level", "mark"), "unit")).toMatchObject({ from: -litres, to: litres });
    expect(windowOf(brae, measureOf("level-next-day", "lost"), "unit")).toMatchObject({ from: undefined, to: litres });
  });
  it("of learned values are as many as the unit learns: all of them, or those of one clutch", () => {
    const read = knowledge.checks.find((c) => c.id === "adaptation-read")?.measures ?? [];
    const all = measuresFor(brae, read, "unit");
    expect(all.map((m) => m.id)).toEqual(brae.adaptations?.map((a) => a.id));
    expect(windowOf(brae, all[0] as Measure, "unit")).toMatchObject({ from: 50, to: 170 });
    expect(all[0]).toMatchObject({ unit: "ms", instrument: "scan-time" });
    const machair = libraryUnit("machair-d6");
    const touch = measuresFor(machair, knowledge.checks.find((c) => c.id === "touch-point")?.measures ?? [], "K2");
    expect(touch.map((m) => m.id)).toEqual(["touch_K2", "wear"]);
    expect(touch[0]).toMatchObject({ unit: "kPa", instrument: "scan-pressure" });
    expect(measuresFor({ ...brae, adaptations: [] }, read, "unit")).toEqual(read);
  });
  it("of slip are one for each forward gear that is held", () => {
    const held = measuresFor(brae, knowledge.checks.find((c) => c.id === "gears-held")?.measures ?? [], "unit");
    expect(held.map((m) => m.name)).toEqual([1, 2, 3, 4, 5, 6].map((g) => `Slip in gear ${g}`));
    expect(windowOf(brae, held[5] as Measure, "unit")).toMatchObject({ from: undefined, to: brae.limits.slipRpm });
  });
  it("are told in words", () => {
    expect(windowText(window, "mm")).toBe("0.9 – 1.8 mm");
    expect(windowText({ from: 1.6, to: undefined, source: "" }, "mm")).toBe("at least 1.6 mm");
    expect(windowText({ from: undefined, to: 1.2, source: "" }, "s")).toBe("at most 1.2 s");
  });
});

describe("readings", () => {
  it("of copper are taken to 20 °C: 5.9 Ω at 60 °C are 5.1 Ω", () => {
    expect(copperAt20(5.9, 60)).toBeCloseTo(5.9 / (1 + 0.00393 * 40), 12);
    expect(copperAt20(5.2, 20)).toBe(5.2);
    const coil = measureOf("resistance", "coil");
    const w = windowOf(brae, coil, "sol_LC");
    if (!w) throw new Error("no window");
    const at = (c: number) => judgeReadings(coil, w, instrument("ohmmeter"), [5.9], c);
    expect(at(60).value).toBeCloseTo(5.0985, 3);
    expect(at(60).outcome).toBe("in-window");
    expect(at(20).outcome).toBe("out");
  });
  it("carry the instrument and the mean: root of the squares, s over √n", () => {
    expect(uncertaintyOf({ percent: 3, fixed: 4 }, 100)).toBeCloseTo(5, 12);
    const j = judgeReadings(clearance, window, feeler, [1.5, 1.56, 1.44]);
    expect(j.value).toBeCloseTo(1.5, 12);
    expect(j.uncertainty).toBeCloseTo(Math.hypot(0.03, 0.06 / Math.sqrt(3)), 9);
  });
  it("on a limit are as likely in as out; two deviations inside they are in by 97.7 %", () => {
    expect(judgeReadings(clearance, window, feeler, [1.8]).inside).toBeCloseTo(0.5, 6);
    expect(judgeReadings(clearance, window, feeler, [1.8 - 0.06]).inside).toBeCloseTo(0.97725, 4);
    expect(judgeReadings(clearance, window, feeler, [1.8 + 0.06]).above).toBeCloseTo(0.97725, 4);
    expect(judgeReadings(clearance, window, feeler, [0.9 - 0.06])).toMatchObject({ outcome: "warped" });
  });
  it("of an instrument that is never wrong are in or out, nothing between", () => {
    const exact = { id: "exact", name: "exact", percent: 0, fixed: 0 };
    expect(judgeReadings(clearance, window, exact, [1.79])).toMatchObject({ below: 0, inside: 1, above: 0 });
    expect(judgeReadings(clearance, window, exact, [1.81])).toMatchObject({ below: 0, inside: 0, above: 1 });
    expect(judgeReadings(clearance, window, exact, [0.89])).toMatchObject({ below: 1, inside: 0, above: 0 });
  });
  it("just under and just over what is sure enough", () => {
    // 0.8416 deviations are 80 %
    const at = (z: number) => judgeReadings(clearance, window, feeler, [1.8 - z * 0.03]).inside;
    expect(at(0.83)).toBeLessThan(SURE_ENOUGH);
    expect(at(0.85)).toBeGreaterThan(SURE_ENOUGH);
  });
  it("chances sum to one, whatever is read", () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0, max: 4, noNaN: true }), { minLength: 1, maxLength: 6 }),
        fc.constantFrom(...knowledge.instruments),
        (readings, by) => {
          const j = judgeReadings(clearance, window, by, readings);
          expect(j.below + j.inside + j.above).toBeCloseTo(1, 9);
          expect(j.chance).toBeGreaterThanOrEqual(1 / 3 - 1e-9);
        },
      ),
    );
  });
  it("are refused when there are none or one isn’t a number, and read out of a line", () => {
    expect(() => judgeReadings(clearance, window, feeler, [])).toThrow(/no reading/);
    expect(() => judgeReadings(clearance, window, feeler, [1, Number.NaN])).toThrow(/isn’t a number/);
    expect(readingsIn("1.52 1,55;1.50")).toEqual([1.52, 1.55, 1.5]);
    expect(readingsIn("  ")).toEqual([]);
    expect(readingsIn("1.5 mm")).toBeUndefined();
  });
});

describe("the outcome of a check", () => {
  const friction = measureOf("pack-measure", "friction");
  const thick = windowOf(brae, friction, "TC");
  if (!thick) throw new Error("no window");
  const gap = (mm: number) => ({ measure: clearance, judged: judgeReadings(clearance, window, feeler, [mm]) });
  const plate = (mm: number) => ({
    measure: friction,
    judged: judgeReadings(friction, thick, instrument("micrometer"), [mm]),
  });
  it("is what lies outside, the surest of several; within only when all are", () => {
    expect(outcomeOf([])).toBeUndefined();
    expect(outcomeOf([gap(1.4), plate(1.9)])?.outcome).toBe("within");
    expect(outcomeOf([gap(2.4), plate(1.9)])?.outcome).toBe("worn");
    expect(outcomeOf([gap(1.4), plate(1.2)])?.outcome).toBe("worn");
    expect(outcomeOf([gap(0.5), plate(1.9)])?.outcome).toBe("warped");
    const close = outcomeOf([gap(1.79), plate(1.9)]);
    expect(close?.outcome).toBe("within");
    expect(close?.chance).toBeLessThan(0.7);
  });
  it("late in both ranges is another outcome than late in one", () => {
    const d = measureOf("engagement-watch", "D");
    const w = windowOf(brae, d, "unit");
    if (!w) throw new Error("no window");
    const at = (s: number) => ({ measure: d, judged: judgeReadings(d, w, instrument("stopwatch"), [s]) });
    expect(outcomeOf([at(2.4), at(0.6)])?.outcome).toBe("late-one");
    expect(outcomeOf([at(2.4), at(2.2)])?.outcome).toBe("late-both");
    expect(outcomeOf([at(0.6), at(0.5)])?.outcome).toBe("prompt");
    // two of three learned values over their limits, the third not read: not all of them
    expect(outcomeOf([at(2.4), at(2.2)], 3)?.outcome).toBe("late-one");
  });
  it("weighs as it is sure: nothing when as likely as not, nearly all when sure", () => {
    expect(weightOf(0.5)).toBe(0.02);
    expect(weightOf(0.75)).toBeCloseTo(0.5, 12);
    expect(weightOf(1)).toBe(0.99);
  });
  it("moves the odds by the number: a clear wear more than a close one", () => {
    const model = new SuspectModel(brae, knowledge);
    const check = model.checks.find((c) => c.id === "pack-measure:TC");
    if (!check) throw new Error("no check");
    const odds = (mm: number) => {
      const read = [gap(mm)];
      const found = outcomeOf(read);
      if (!found) throw new Error("no outcome");
      const { entries, write } = madeTimeline();
      write("check", checkEntry(check, found.outcome, 30, "", { values: [], weight: weightOf(found.chance) }));
      const { used } = siftEvidence(model, collectEvidence(brae, foldJob(entries), [], knowledge.debris));
      const at = model.faults.findIndex((f) => f.id === "element-worn:TC");
      return believe(model, used).marginals()[at] as number;
    };
    expect(odds(2.2)).toBeGreaterThan(1.2 * odds(1.805));
    expect(odds(1.805)).toBeGreaterThan(odds(1.4));
  });
});
