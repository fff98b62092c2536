// Guards: the fill never lets a pump run in air, asks for what is missing and nothing else, takes a level only inside its window,
// and says so when more went in than came out.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { libraryUnit, libraryUnits } from "../testing/units.ts";
import {
  BURST_SHARE,
  CAN_C,
  EARLY_SHARE,
  type Emptied,
  expandedL,
  FILL_DEEDS,
  FILL_SAW,
  type FillDone,
  fillProblem,
  fillState,
  MOST_AT_ONCE,
  START_SHARE,
  startsWithL,
  stickMarks,
} from "./index.ts";

const plug = libraryUnit("brae-p6");
const stick = libraryUnit("tarn-f4");
const hole = libraryUnit("machair-d6");
const drained = (drainedL: number | null, over: Partial<Emptied> = {}): Emptied => ({
  drainedL,
  drainedC: null,
  spiltL: 0,
  linesOpened: false,
  converterDrained: false,
  dry: false,
  prefilledL: 0,
  ...over,
});
const did = (deed: FillDone["deed"], over: Partial<FillDone> = {}): FillDone => ({
  deed,
  litres: null,
  fluidC: null,
  saw: FILL_SAW[deed][0],
  ...over,
});
const poured = (litres: number, saw = "all-in") => did("poured", { litres, saw });
const started = did("started");
/** filled by the plug, level right */
const full = [
  poured(4.1, "ran-over"),
  started,
  poured(0.5, "ran-over"),
  did("temperature", { fluidC: 40 }),
  did("overflow", { fluidC: 41, saw: "drops" }),
];

describe("the first fill", () => {
  it("asks for what came out, taken to the reference temperature and less what is in already", () => {
    const { ask, missingL } = fillState(plug, drained(4.1, { drainedC: 80 }), []);
    expect(missingL).toBeCloseTo(expandedL(4.1, 80, 40), 9);
    expect(ask).toMatchObject({ deed: "poured", engine: "off" });
    expect(ask.litres).toBeCloseTo(missingL, 1);
    const after = fillState(plug, drained(4.1), [poured(1)]);
    expect(after.missingL).toBeCloseTo(4.1 - expandedL(1, CAN_C, 40), 9);
    expect(after.ask.litres).toBeCloseTo(3.1, 1);
  });
  it("by the stick is four fifths of it, of an unknown drain two thirds of the pan", () => {
    expect(fillState(stick, drained(3.4), []).ask.litres).toBeCloseTo(0.8 * 3.4, 1);
    const unknown = fillState(stick, drained(null), []);
    expect(unknown.ask.litres).toBeCloseTo(0.65 * stick.fluid.panDrainL, 1);
    expect(unknown.told.join()).toMatch(/wasn’t measured/);
    expect(unknown.expectedL).toBeUndefined();
  });
  it("counts a converter that was filled on the bench", () => {
    const dry = fillState(plug, drained(null, { dry: true }), []);
    const pre = fillState(plug, drained(null, { dry: true, prefilledL: 1.5 }), []);
    expect(dry.missingL - pre.missingL).toBeCloseTo(1.5, 9);
    expect(dry.missingL).toBeCloseTo(plug.fluid.totalL, 9);
  });
  it("is enough for the pump before it starts: just under and just over", () => {
    const need = startsWithL(plug);
    expect(need).toBeCloseTo(START_SHARE * plug.fluid.panDrainL, 9);
    const at = (litres: number) => fillProblem(plug, fillState(plug, drained(4.1), [poured(litres)]), started);
    expect(at(need - 0.11)).toMatch(/never started before 2\.3 l/);
    expect(at(need - 0.09)).toBeUndefined();
  });
  it("of a level that is only set needs nothing before the start", () => {
    const state = fillState(plug, drained(0), []);
    expect(state.ask.deed).toBe("started");
    expect(fillProblem(plug, state, started)).toBeUndefined();
  });
});

describe("a start", () => {
  it("is of seconds while converter and lines would draw the pan empty: just under and just over", () => {
    const limit = BURST_SHARE * plug.fluid.panDrainL;
    const inL = expandedL(4, CAN_C, plug.fluid.level.referenceC);
    // what is missing once the pan has run over with the engine off
    const left = (missing: number) => fillState(plug, drained(inL + missing), [poured(4, "ran-over")]).ask;
    expect(left(limit - 0.01).seconds).toBeUndefined();
    expect(left(limit + 0.01)).toMatchObject({ deed: "started", engine: "off", seconds: 15 });
  });
  it("in seconds is followed by the pan being filled again, engine off", () => {
    const dry = drained(null, { dry: true });
    const { ask } = fillState(plug, dry, [poured(4, "ran-over"), started]);
    expect(ask).toMatchObject({ deed: "poured", engine: "off" });
  });
  it("that whines is ended at once, and half a litre is poured", () => {
    const { ask } = fillState(plug, drained(4.1), [poured(4, "ran-over"), did("started", { saw: "whine" })]);
    expect(ask).toMatchObject({ deed: "poured", engine: "off", litres: 0.5 });
    expect(ask.why).toMatch(/draws air/);
  });
});

describe("the level at a plug", () => {
  it("is filled again with the engine running, warmed, and read inside the window", () => {
    expect(fillState(plug, drained(4.1), full.slice(0, 2)).ask).toMatchObject({ deed: "poured", engine: "idle" });
    expect(fillState(plug, drained(4.1), full.slice(0, 3)).ask).toMatchObject({ deed: "temperature", engine: "idle" });
    expect(fillState(plug, drained(4.1), full.slice(0, 4)).ask.deed).toBe("overflow");
    expect(fillState(plug, drained(4.1), full)).toMatchObject({ levelRight: true, ask: { deed: "leaks" } });
  });
  it("counts inside the window only: just in and just out, either end", () => {
    const at = (fluidC: number) =>
      fillState(plug, drained(4.1), [...full.slice(0, 4), did("overflow", { fluidC, saw: "drops" })]).levelRight;
    expect([34.9, 35, 45, 45.1].map(at)).toEqual([false, true, true, false]);
  });
  it("hot is let cool, and the ranges are cycled again before it is read: the converter ran back", () => {
    const hot = [...full.slice(0, 3), did("temperature", { fluidC: 60 })];
    expect(fillState(plug, drained(4.1), hot).ask).toMatchObject({
      deed: "temperature",
      engine: "off",
      aimC: [35, 45],
    });
    const cooled = [...hot, did("temperature", { fluidC: 42 })];
    expect(fillState(plug, drained(4.1), cooled)).toMatchObject({ running: false, ask: { deed: "started" } });
    expect(fillState(plug, drained(4.1), [...cooled, started]).ask.deed).toBe("overflow");
  });
  it("that shows nothing asks for the litres that at least are missing there", () => {
    const { ask, missingL, levelRight } = fillState(plug, drained(4.1), [
      ...full.slice(0, 4),
      did("overflow", { fluidC: 40, saw: "nothing" }),
    ]);
    expect(levelRight).toBe(false);
    expect(missingL).toBeGreaterThanOrEqual(0.08 - 1e-9);
    expect(ask).toMatchObject({ deed: "poured", engine: "idle" });
  });
  it("is lost when something is poured after it", () => {
    expect(fillState(plug, drained(4.1), [...full, poured(0.2)]).levelRight).toBe(false);
  });
});

describe("the level at a stick", () => {
  const filled = [poured(2.7), started];
  it("is read cold first, converted: what is missing is poured", () => {
    expect(fillState(stick, drained(3.4), filled).ask.deed).toBe("stick");
    const read = fillState(stick, drained(3.4), [...filled, did("stick", { litres: -0.9, fluidC: 30 })]);
    expect(read.ask).toMatchObject({ deed: "poured", engine: "idle" });
    expect(read.missingL).toBeGreaterThan(0.4);
    expect(read.missingL).toBeLessThan(0.9);
  });
  it("has marks: hot ones by their litres, and a cold one at which a right fill reads as nothing missing", () => {
    const marks = Object.fromEntries(stickMarks(stick).map((m) => [m.id, m.litresFromFull]));
    expect(marks).toMatchObject({ full: 0, middle: -0.25, add: -0.5 });
    const { missingL } = fillState(stick, drained(0), [
      started,
      did("stick", { litres: marks.cold as number, fluidC: 25 }),
      did("stick", { litres: marks.cold as number, fluidC: 25 }),
    ]);
    expect(missingL).toBeCloseTo(0, 6);
    expect(stickMarks(plug)).toEqual([]);
  });
  it("takes two readings", () => {
    const once = [...filled, poured(0.7), did("temperature", { fluidC: 66 }), did("stick", { litres: 0, fluidC: 70 })];
    const one = fillState(stick, drained(3.4), once);
    const two = fillState(stick, drained(3.4), [...once, did("stick", { litres: 0.02, fluidC: 70 })]);
    expect(one.unsureL).toBeGreaterThan(two.unsureL);
    expect(two.levelRight).toBe(true);
  });
  it("too full is let out, engine off, and started again", () => {
    const over = [
      ...filled,
      poured(1.4),
      did("temperature", { fluidC: 66 }),
      did("stick", { litres: 0.6, fluidC: 70 }),
      did("stick", { litres: 0.6, fluidC: 70 }),
    ];
    const { ask } = fillState(stick, drained(3.4), over);
    expect(ask).toMatchObject({ deed: "let-out", engine: "off" });
    expect(ask.litres).toBeGreaterThan(0.4);
    const after = fillState(stick, drained(3.4), [...over, did("let-out", { litres: ask.litres ?? 0 })]);
    expect(after).toMatchObject({ running: false, ask: { deed: "started" } });
  });
});

describe("the end", () => {
  it("needs leaks looked for before and after the drive, and the level again", () => {
    const dry = did("leaks");
    const to = (...more: FillDone[]) => fillState(plug, drained(4.1), [...full, ...more]).ask.deed;
    expect(to(dry)).toBe("drove");
    expect(to(dry, did("drove", { fluidC: 80 }))).toBe("leaks");
    expect(to(dry, did("drove", { fluidC: 80 }), dry)).toBe("temperature");
    const again = [did("temperature", { fluidC: 42 }), started, did("overflow", { fluidC: 42, saw: "drops" })];
    expect(to(dry, did("drove", { fluidC: 80 }), dry, ...again)).toBe("done");
  });
  it("is not reached while it drips; a weep is told and goes on", () => {
    expect(fillState(plug, drained(4.1), [...full, did("leaks", { saw: "drips" })]).ask.deed).toBe("mend");
    expect(fillState(plug, drained(4.1), [...full, did("leaks", { saw: "weeps" })]).ask.deed).toBe("drove");
  });
  it("tells of more than a tenth over what was expected: just under and just over", () => {
    const told = (litres: number) => fillState(plug, drained(4), [poured(litres)]).told.length;
    expect(told(4 * 1.1 + 0.09)).toBe(0);
    expect(told(4 * 1.1 + 0.11)).toBe(1);
  });
  it("tells of a pan that ran over too early: just under and just over", () => {
    const told = (litres: number) => fillState(plug, drained(4), [poured(litres, "ran-over")]).told.length;
    expect(told(EARLY_SHARE * 4 + 0.01)).toBe(0);
    expect(told(EARLY_SHARE * 4 - 0.01)).toBe(1);
  });
  it("by the hole is filled at rest, never started", () => {
    const done = [
      poured(1.9, "ran-over"),
      did("temperature", { fluidC: 25 }),
      did("sight", { fluidC: 25, saw: "at-the-edge" }),
    ];
    expect(fillState(hole, drained(1.9), []).ask).toMatchObject({ engine: "off" });
    expect(fillState(hole, drained(1.9), done)).toMatchObject({ levelRight: true });
  });
});

describe("what is told of a fill", () => {
  const state = fillState(plug, drained(4.1), [poured(4)]);
  it.each([
    [did("poured", { litres: null }), /how many litres/],
    [did("poured", { litres: -1 }), /how many litres/],
    [did("overflow", { fluidC: null }), /temperature/],
    [did("temperature"), /temperature/],
    [did("stick", { fluidC: 60 }), /how far from full/],
    [did("leaks", { saw: "blue" }), /one of: dry/],
    [did("temperature", { fluidC: 181 }), /cannot be/],
  ])("is refused when it says nothing: %j", (d, why) => {
    expect(fillProblem(plug, state, d)).toMatch(why);
  });
  it("is a slip of the pen far above the whole fill: just under and just over", () => {
    const most = MOST_AT_ONCE * plug.fluid.totalL;
    expect(fillProblem(plug, state, poured(most))).toBeUndefined();
    expect(fillProblem(plug, state, poured(most + 0.01))).toMatch(/far more than the whole fill/);
  });
  it("never leads to a start in air or a negative pour, whatever is told, on every unit", () => {
    const deed = fc
      .tuple(
        fc.constantFrom(...FILL_DEEDS),
        fc.double({ min: 0, max: 6, noNaN: true }),
        fc.double({ min: 5, max: 120, noNaN: true }),
        fc.nat(2),
      )
      .map(([d, litres, fluidC, k]): FillDone => {
        const saw = FILL_SAW[d];
        return { deed: d, litres, fluidC, saw: saw[k % saw.length] as string };
      });
    for (const unit of libraryUnits())
      fc.assert(
        fc.property(
          fc.array(deed, { maxLength: 14 }),
          fc.option(fc.double({ min: 0, max: 6, noNaN: true })),
          (deeds, litres) => {
            const done: FillDone[] = [];
            for (const d of deeds) {
              const s = fillState(unit, drained(litres), done);
              if (fillProblem(unit, s, d) === undefined) done.push(d);
              expect(s.unsureL).toBeGreaterThan(0);
              if (s.ask.litres !== undefined) expect(s.ask.litres).toBeGreaterThan(0);
              if (s.ask.deed === "started") expect(fillProblem(unit, s, started)).toBeUndefined();
            }
          },
        ),
        { numRuns: 40 },
      );
  });
});
