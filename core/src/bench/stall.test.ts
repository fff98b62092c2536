// Guards: torque curves, stall speed behind an engine, old against new converter, the factor that a log shows.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { libraryUnit } from "../testing/units.ts";
import { type Converter, stallFactor } from "../unit/index.ts";
import {
  compareConverters,
  converterBehind,
  curveProblem,
  curveTorqueNm,
  FACTOR_BAND,
  factorSays,
  loggedFactor,
  stallOnCurve,
  type TorqueCurve,
} from "./index.ts";

const converter = libraryUnit("brae-p6").converter as Converter;
const flat: TorqueCurve = [
  [1000, 300],
  [2500, 300],
  [4500, 300],
];
const engine: TorqueCurve = [
  [1000, 180],
  [1800, 300],
  [3000, 340],
  [4500, 280],
];

describe("a torque curve", () => {
  it("is straight between its points and holds on beyond them", () => {
    expect(curveTorqueNm(engine, 1400)).toBeCloseTo(240, 9);
    expect(curveTorqueNm(engine, 3000)).toBe(340);
    expect(curveTorqueNm(engine, 500)).toBe(180);
    expect(curveTorqueNm(engine, 6000)).toBe(280);
  });
  it.each([
    [
      [
        [1000, 200],
        [2000, 300],
      ],
      /at least three points, this one has 2/,
    ],
    [
      [
        [1000, 200],
        [3000, 300],
        [2500, 310],
      ],
      /Point 3 at 2500 rpm comes after 3000 rpm.*order of their speeds/,
    ],
    [
      [
        [1000, 200],
        [2000, 300],
        [2000, 310],
      ],
      /Point 3 at 2000 rpm/,
    ],
    [
      [
        [1000, 200],
        [2000, 0],
        [3000, 310],
      ],
      /Point 2 at 2000 rpm: a torque is over 0/,
    ],
    [
      [
        [0, 200],
        [2000, 10],
        [3000, 310],
      ],
      /Point 1: a speed is over 0/,
    ],
    [
      [
        [1000, 200],
        [2000, Number.NaN],
        [3000, 310],
      ],
      /Point 2 isn’t a pair/,
    ],
  ] as const)("%j is refused by its place", (curve, says) => {
    expect(curveProblem(curve as unknown as TorqueCurve)).toMatch(says);
    expect(() => stallOnCurve(curve as unknown as TorqueCurve, 120)).toThrow(says);
  });
  it("three rising points will do", () => {
    expect(curveProblem(flat)).toBeUndefined();
  });
});

describe("stall", () => {
  it("of an even torque is N = K·√T", () => {
    expect(stallOnCurve(flat, 120)).toBeCloseTo(120 * Math.sqrt(300), 6);
  });
  it("lies where engine and pump agree, and rises with the factor", () => {
    fc.assert(
      fc.property(fc.double({ min: 60, max: 220, noNaN: true }), (k) => {
        const n = stallOnCurve(engine, k);
        expect((n / k) ** 2).toBeCloseTo(curveTorqueNm(engine, n), 4);
        expect(stallOnCurve(engine, 1.1 * k)).toBeGreaterThan(n);
      }),
    );
  });
  it("at its own rating gives back its stall speed", () => {
    const at: TorqueCurve = [
      [1000, 280],
      [2000, 280],
      [4000, 280],
    ];
    const behind = converterBehind(converter, at);
    expect(behind.stallRpm).toBeCloseTo(2250, 6);
    expect(behind.launchNm).toBeCloseTo(280 * 1.95, 6);
    expect(behind.stallHeatW).toBeCloseTo((280 * 2250 * 2 * Math.PI) / 60, 3);
  });
});

describe("a change of converter", () => {
  const looser: Converter = { ...converter, stallRpm: 2700, stallTorqueRatio: 2.1 };
  it("to a looser one stalls higher, pulls harder from rest, slips and heats more", () => {
    const { old, fresh, says } = compareConverters(engine, converter, looser);
    expect(fresh.stallRpm - old.stallRpm).toBeGreaterThan(200);
    expect(fresh.launchNm).toBeGreaterThan(old.launchNm);
    expect(fresh.cruiseSlipRpm).toBeGreaterThan(old.cruiseSlipRpm);
    expect(says.join(" ")).toMatch(/rpm higher.*More torque from rest.*heats more.*lock-up as early/);
  });
  it("to the same one says so, and to a tighter one the other way round", () => {
    expect(compareConverters(engine, converter, converter).says).toEqual([
      "Stalls at the same speed within what anybody would feel.",
      "Pulls away as before.",
    ]);
    const tighter = compareConverters(engine, looser, converter).says.join(" ");
    expect(tighter).toMatch(/rpm lower.*Less torque from rest.*heats less/);
    // a change of 40 rpm is felt, of 39 not
    const at = (rpm: number) =>
      compareConverters(flat, converter, { ...converter, stallRpm: converter.stallRpm + rpm }).says[0];
    const scale = Math.sqrt(280 / 300);
    expect(at(41 * scale)).toMatch(/higher/);
    expect(at(39 * scale)).toMatch(/same speed/);
  });
});

describe("the factor in a log", () => {
  const k = stallFactor(converter);
  const pull = (share: number, startShare?: number) => ({ pull: { share, seconds: 5, startShare }, stallTests: [] });
  it("comes from steady pulls by the root of the share of torque, whatever it is near stall", () => {
    expect(loggedFactor(converter, [pull(1)])?.factor).toBeCloseTo(k, 9);
    expect(loggedFactor(converter, [pull(1.44, 1.1)])).toEqual({ factor: expect.closeTo(1.2 * k, 9), from: "pulls" });
    expect(loggedFactor(converter, [])).toBeUndefined();
    expect(loggedFactor({ ...converter, stallTorqueNm: undefined }, [pull(1)])).toBeUndefined();
  });
  it("comes from a stall test where one was made", () => {
    const test = { startS: 0, endS: 3, engineRpm: 2475, expectedRpm: 2250, tooLong: false };
    expect(loggedFactor(converter, [{ ...pull(1), stallTests: [test] }])).toEqual({
      factor: expect.closeTo(1.1 * k, 9),
      from: "stall-test",
    });
  });
  it("is that of the new converter, of the old, between, or another", () => {
    const says = (x: number) => factorSays(x, 150, 120);
    expect(says(150 * (1 + FACTOR_BAND) - 0.01)).toBe("as-predicted");
    expect(says(150 * (1 + FACTOR_BAND) + 0.01)).toBe("other");
    expect(says(120 * (1 + FACTOR_BAND) - 0.01)).toBe("as-before");
    expect(says(120 * (1 + FACTOR_BAND) + 0.01)).toBe("between");
    expect(says(120 * (1 - FACTOR_BAND) - 0.01)).toBe("other");
    // near both: the nearer one
    expect(factorSays(123, 126, 121)).toBe("as-before");
    expect(factorSays(125, 126, 121)).toBe("as-predicted");
  });
});
