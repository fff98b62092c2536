// Guards: expansion, dilution, ageing, interval: closed forms, simulation by mixing, tables of reasons.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { libraryUnit } from "../testing/units.ts";
import {
  ageRate,
  equivalentHours,
  exchangeLitresFor,
  expandedL,
  expectedDrainL,
  followUps,
  freshnessCurve,
  type IntervalInput,
  judgeLevel,
  type LevelReading,
  leftAfterDrains,
  leftAfterExchange,
  levelMistakes,
  mixingWarnings,
  nextInterval,
  renewalOptions,
  shareAbove,
} from "./index.ts";

const six = libraryUnit("brae-p6");
const stick = libraryUnit("tarn-f4");
const dry = libraryUnit("machair-d6");
const litres = fc.double({ min: 0.5, max: 20, noNaN: true });
const celsius = fc.double({ min: -30, max: 150, noNaN: true });

describe("expansion", () => {
  it("is ΔV = V₂₀·β·ΔT from 20 °C", () => {
    expect(expandedL(10, 20, 80)).toBeCloseTo(10 + 10 * 0.00075 * 60, 12);
  });
  it("there and back is the same, in one step or two", () => {
    fc.assert(
      fc.property(litres, celsius, celsius, celsius, (v, a, b, c) => {
        expect(expandedL(expandedL(v, a, b), b, a)).toBeCloseTo(v, 9);
        expect(expandedL(expandedL(v, a, b), b, c)).toBeCloseTo(expandedL(v, a, c), 9);
      }),
    );
  });
});

const reading = (patch: Partial<LevelReading>): LevelReading => ({
  fluidC: 40,
  litresFromFull: 0,
  engineRunning: true,
  ...patch,
});

describe("level", () => {
  it("at the reference a reading is what it says", () => {
    expect(judgeLevel(six, reading({ litresFromFull: -0.5 }))?.atReferenceL).toBeCloseTo(-0.5, 9);
  });
  it("full at 35 °C on a stick that is marked for 70 °C will be over by C·β·ΔT", () => {
    const { totalL } = stick.fluid;
    const judged = judgeLevel(stick, reading({ fluidC: 35 }));
    expect(judged?.atReferenceL).toBeCloseTo((totalL * 0.00075 * 35) / (1 + 0.00075 * 15), 9);
    expect(judged?.referenceC).toBe(70);
  });
  it("is surer on an overflow plug in its window than on a stick that is cold", () => {
    const plug = judgeLevel(six, reading({}))?.plusMinusL ?? 0;
    const cold = judgeLevel(stick, reading({ fluidC: 10 }))?.plusMinusL ?? 0;
    expect(plug).toBeGreaterThan(0.1);
    expect(cold).toBeGreaterThan(plug);
    expect(judgeLevel(six, reading({ rangesCycled: false }))?.plusMinusL).toBeGreaterThan(plug);
  });
  it.each([
    [0, "ok"],
    [-0.19, "ok"],
    [-0.24, "undecided"],
    [-0.8, "low"],
    [0.8, "high"],
  ])("%d l from full with ± 0.2 l allowed: %s", (litresFromFull, state) => {
    expect(judgeLevel(six, reading({ litresFromFull }))?.state).toBe(state);
  });
  it("the lower side of the stick counts", () => {
    const judged = judgeLevel(stick, reading({ fluidC: 70, litresFromFull: 0, otherSideL: -0.6 }));
    expect(judged?.atReferenceL).toBeCloseTo(-0.6, 9);
  });
  it.each<[string, typeof six, Partial<LevelReading>, string, boolean]>([
    ["engine off at the plug", six, { engineRunning: false }, "engine-off", true],
    ["engine running at the sight hole", dry, { engineRunning: true, fluidC: 25 }, "engine-on", true],
    ["a stick in a wet tube", stick, { fluidC: 70, minutesSinceFilling: 2 }, "wet-tube", true],
    ["too hot", six, { fluidC: 85 }, "outside-window", false],
    ["ranges not cycled", six, { rangesCycled: false }, "ranges", false],
    ["on a slope", six, { onLevelGround: false }, "ground", false],
    ["two sides that differ", stick, { fluidC: 70, otherSideL: -0.5 }, "sides", false],
  ])("%s is caught", (_, unit, patch, id, spoils) => {
    const found = levelMistakes(unit, reading(patch));
    expect(found.map((m) => m.id)).toContain(id);
    expect(judgeLevel(unit, reading(patch)) === undefined).toBe(spoils);
  });
  it("a careful reading has no mistake", () => {
    expect(levelMistakes(six, reading({ rangesCycled: true, onLevelGround: true }))).toEqual([]);
    expect(levelMistakes(stick, reading({ fluidC: 70, minutesSinceFilling: 30, otherSideL: -0.1 }))).toEqual([]);
  });
  it("a drain brings the pan's volume, more when hot", () => {
    expect(expectedDrainL(six, null)).toBe(six.fluid.panDrainL);
    // the whole fill grows, and all of that stands in the pan
    const grown = expandedL(six.fluid.totalL, six.fluid.level.referenceC, 90) - six.fluid.totalL;
    expect(expectedDrainL(six, 90) - six.fluid.panDrainL).toBeCloseTo(grown, 12);
    expect(grown).toBeGreaterThan(0.1);
  });
});

describe("drains", () => {
  it("one by one, by mixing: fill, mix, drain again", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 8 }),
        litres,
        fc.double({ min: 0.1, max: 0.95, noNaN: true }),
        (n, c, share) => {
          const d = c * share;
          let old = c;
          for (let i = 0; i < n; i++) old -= (old / c) * d;
          expect(leftAfterDrains(n, d, c)).toBeCloseTo(old / c, 9);
        },
      ),
    );
  });
  it("more than there is cannot be drained", () => {
    expect(() => leftAfterDrains(1, 11, 10)).toThrow(RangeError);
  });
});

/** Tanks in series: one is ideal mixing, many are plug flow. */
function simulateExchange(passedL: number, totalL: number, tanks: number): number {
  const size = totalL / tanks;
  const old = new Float64Array(tanks).fill(1);
  const steps = 20_000;
  const dv = passedL / steps;
  for (let i = 0; i < steps; i++) {
    let coming = 0;
    for (let k = 0; k < tanks; k++) {
      const was = old[k] as number;
      old[k] = was + ((coming - was) * dv) / size;
      coming = was;
    }
  }
  return old.reduce((s, v) => s + v, 0) / tanks;
}

describe("exchange", () => {
  it.each([
    [5, 10],
    [10, 10],
    [18, 9],
  ])("%d l through %d l: one mixed tank gives exp(−V/C), many in a row come near plug flow", (v, c) => {
    expect(simulateExchange(v, c, 1)).toBeCloseTo(leftAfterExchange(v, c, 1), 3);
    expect(Math.abs(simulateExchange(v, c, 150) - leftAfterExchange(v, c, 0))).toBeLessThan(0.05);
  });
  it("lies between the bounds, falls with litres, and the litres for a target leave that share", () => {
    fc.assert(
      fc.property(
        litres,
        fc.double({ min: 0, max: 30, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (c, v, m) => {
          const left = leftAfterExchange(v, c, m);
          expect(left).toBeGreaterThanOrEqual(leftAfterExchange(v, c, 0) - 1e-12);
          expect(left).toBeLessThanOrEqual(leftAfterExchange(v, c, 1) + 1e-12);
          expect(leftAfterExchange(v + 1, c, m)).toBeLessThanOrEqual(left);
        },
      ),
    );
    fc.assert(
      fc.property(
        litres,
        fc.double({ min: 0.02, max: 0.9, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (c, left, m) => {
          expect(leftAfterExchange(exchangeLitresFor(left, c, m), c, m)).toBeCloseTo(left, 6);
        },
      ),
    );
  });
  it("the curve begins at nothing and joins the closed forms", () => {
    const curve = freshnessCurve(10, 4, 0.6, 20, 40);
    expect(curve[0]).toMatchObject({ litres: 0, exchange: 0, drains: 0 });
    const at = curve.find((p) => p.litres === 12);
    expect(at?.drains).toBeCloseTo(1 - 0.6 ** 3, 9);
    expect(at?.mixed).toBeCloseTo(1 - Math.exp(-1.2), 9);
    expect(at?.plug).toBe(1);
  });
});

describe("ways to renew", () => {
  const input = {
    totalL: 10,
    drainL: 4,
    target: 0.75,
    mixing: 0.6,
    prices: { perLitre: 10, perHour: 60 },
    exchangeable: true,
  };
  it("three drains of four in ten litres leave 21.6 %: litres, minutes and cost add up", () => {
    const drains = renewalOptions(input).find((o) => o.kind === "drain-and-fill" && o.reaches);
    expect(drains).toMatchObject({ times: 3, litres: 12, minutes: 3 * 40 + 2 * 20 });
    expect(drains?.fresh).toBeCloseTo(0.784, 9);
    expect(drains?.cost).toBeCloseTo(12 * 10 + (160 / 60) * 60, 9);
  });
  it("the cheapest that reaches the target stands first, and none is beaten that stands before", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.3, max: 0.97, noNaN: true }),
        fc.double({ min: 1, max: 40, noNaN: true }),
        (target, perLitre) => {
          const options = renewalOptions({ ...input, target, prices: { perLitre, perHour: 60 } });
          const reaching = options.filter((o) => o.reaches);
          expect(options[0]?.reaches).toBe(true);
          expect(options[0]?.cost).toBe(Math.min(...reaching.map((o) => o.cost)));
        },
      ),
    );
  });
  it("a dry dual clutch has no cooler line to exchange through, and one drain takes nearly all", () => {
    const { totalL, panDrainL } = dry.fluid;
    const options = renewalOptions({ ...input, totalL, drainL: panDrainL, target: 0.9, exchangeable: false });
    expect(options.map((o) => [o.kind, o.times])).toEqual([["drain-and-fill", 1]]);
  });
});

describe("mixing", () => {
  it.each<[string, string | undefined, string, RegExp[]]>([
    ["the same all through", "ATF type L", "atf type l ", []],
    ["another fluid in it", "ATF type D", "ATF type L", [/"ATF type D" is in it and 40 %/]],
    ["nobody knows what is in it", undefined, "ATF type L", [/unknown, and 40 %/]],
    ["not what the unit asks for", "ATF type D", "ATF type D", [/not what the unit file asks for/]],
  ])("%s", (_, inUnit, toFill, words) => {
    const said = mixingWarnings("ATF type L", inUnit, toFill, 0.4);
    expect(said).toHaveLength(words.length);
    words.forEach((w, i) => {
      expect(said[i]).toMatch(w);
    });
  });
});

describe("age", () => {
  it.each([
    [60, 1],
    [90, 1],
    [100, 2],
    [120, 8],
  ])("at %d °C it ages %d times as fast as at 90 °C", (c, rate) => {
    expect(ageRate(c)).toBe(rate);
  });
  it("adds up, whatever the order", () => {
    const spells = [
      { fluidC: 80, hours: 1 },
      { fluidC: 115, hours: 0.5 },
      { fluidC: 127, hours: 0.5 },
    ];
    expect(equivalentHours(spells)).toBeCloseTo(1 + 0.5 * 2 ** 2.5 + 0.5 * 2 ** 3.7, 9);
    expect(equivalentHours([...spells].reverse())).toBeCloseTo(equivalentHours(spells), 12);
    expect(shareAbove(spells, 110)).toBeCloseTo(0.5, 9);
    expect(shareAbove([], 90)).toBe(0);
  });
  it("hours are not negative", () => {
    expect(() => equivalentHours([{ fluidC: 100, hours: -1 }])).toThrow(RangeError);
  });
});

const plain: IntervalInput = {
  baseKm: 60_000,
  towing: false,
  stopAndGo: false,
  hills: false,
  fluidMixedOrUnknown: false,
  fluidWasBurnt: false,
  waterWasFound: false,
};
describe("interval", () => {
  it.each<[string, Partial<IntervalInput>, number, string[], number | undefined]>([
    ["plain duty", {}, 60_000, [], undefined],
    ["tows", { towing: true }, 36_000, ["tows"], undefined],
    ["taxi", { stopAndGo: true }, 45_000, ["stop-and-go or taxi work"], undefined],
    ["tows in the hills", { towing: true, hills: true }, 28_000, ["tows", "hills"], undefined],
    ["a tenth of it hot", { shareAbove110C: 0.1 }, 42_000, ["a tenth of the time or more above 110 °C"], undefined],
    ["a quarter of it hot", { shareAbove110C: 0.4 }, 30_000, ["a quarter of the time or more above 110 °C"], undefined],
    ["burnt before", { fluidWasBurnt: true }, 36_000, ["the fluid before was burnt: the linings have suffered"], 2000],
    ["unknown in it", { fluidMixedOrUnknown: true }, 42_000, ["mixed or unknown fluid stays in it"], 2000],
    ["water", { waterWasFound: true }, 60_000, [], 500],
    [
      "everything at once is a fifth at least",
      {
        towing: true,
        stopAndGo: true,
        hills: true,
        shareAbove110C: 0.9,
        fluidMixedOrUnknown: true,
        fluidWasBurnt: true,
      },
      12_000,
      expect.any(Array) as never,
      2000,
    ],
  ])("%s", (_, patch, km, reasons, second) => {
    const i = nextInterval({ ...plain, ...patch });
    expect(i.km).toBe(km);
    expect(i.reasons.map((r) => r.why)).toEqual(reasons);
    expect(i.secondChangeKm).toBe(second);
  });
  it("no hardship ever makes it longer", () => {
    const flag = fc.boolean();
    fc.assert(
      fc.property(flag, flag, flag, flag, flag, fc.double({ min: 0, max: 1, noNaN: true }), (a, b, c, d, e, share) => {
        const input = { ...plain, towing: a, stopAndGo: b, hills: c, fluidMixedOrUnknown: d, fluidWasBurnt: e };
        const { km } = nextInterval(input);
        expect(nextInterval({ ...input, shareAbove110C: share }).km).toBeLessThanOrEqual(km);
        expect(km).toBeLessThanOrEqual(plain.baseKm);
        expect(km % 1000).toBe(0);
      }),
    );
  });
  it("follow-ups: cold, in a month, the second change, the next; dates only where the yearly distance is known", () => {
    const i = nextInterval({ ...plain, fluidWasBurnt: true });
    const list = followUps(i, 18_000);
    expect(list.map((f) => [f.what, f.inDays, f.inKm])).toEqual([
      ["Level and leaks, cold", 1, null],
      ["Level and leaks", 30, null],
      ["Second fluid change", 41, 2000],
      ["Next fluid change", 730, 36_000],
    ]);
    expect(followUps(i, null).at(-1)).toMatchObject({ inDays: null, inKm: 36_000 });
  });
});
