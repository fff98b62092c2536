// Guards: the gear-train solver against closed forms, and what holds of every train: Willis, equilibrium, power.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { reduceRows } from "./reduce.ts";
import { classifyCombinations, elementSlip, solveTrain, torqueShares } from "./solve.ts";
import { equationsOf, type GearTrain, type Joint, nodesOf } from "./train.ts";

const joint = (id: string, a: string, b: string): Joint => ({ id, joins: [a, b] });
const set = (id: string, sunTeeth: number, ringTeeth: number, kind: "single" | "double" = "single") => ({
  id,
  kind,
  sunTeeth,
  ringTeeth,
  planets: 3,
});
const ratio = (train: GearTrain, applied: Joint[]) => {
  const state = solveTrain(train, applied);
  return state.kind === "gear" ? state.ratio : state.kind;
};

describe("a simple set", () => {
  const [s, r] = [30, 72];
  const simple: GearTrain = { sets: [set("P", s, r)], links: [] };
  const run = (input: string, output: string, held: string) =>
    ratio(
      {
        ...simple,
        links: [
          ["input", `P.${input}`],
          ["output", `P.${output}`],
        ],
      },
      [joint("B", `P.${held}`, "case")],
    );
  it.each([
    ["sun", "carrier", "ring", 1 + r / s],
    ["ring", "carrier", "sun", 1 + s / r],
    ["carrier", "ring", "sun", 1 / (1 + s / r)],
    ["carrier", "sun", "ring", 1 / (1 + r / s)],
    ["sun", "ring", "carrier", -r / s],
    ["ring", "sun", "carrier", -s / r],
  ])("%s drives %s with the %s held", (input, output, held, expected) => {
    expect(run(input, output, held)).toBeCloseTo(expected, 12);
  });
  it("two members joined turn as one, two held stand, none held is neutral", () => {
    const train: GearTrain = {
      ...simple,
      links: [
        ["input", "P.sun"],
        ["output", "P.carrier"],
      ],
    };
    expect(ratio(train, [joint("C", "P.sun", "P.ring")])).toBeCloseTo(1, 12);
    expect(solveTrain(train, [])).toMatchObject({ kind: "neutral" });
    expect(solveTrain(train, [joint("B1", "P.ring", "case"), joint("B2", "P.carrier", "case")])).toEqual({
      kind: "tie-up",
      locked: "output",
    });
    expect(solveTrain(train, [joint("B1", "P.ring", "case"), joint("C", "P.ring", "P.carrier")])).toMatchObject({
      kind: "tie-up",
    });
  });
  it("with a double planet reverses the sense of the ring", () => {
    const train: GearTrain = {
      sets: [set("P", s, r, "double")],
      links: [
        ["input", "P.sun"],
        ["output", "P.ring"],
      ],
    };
    expect(ratio(train, [joint("B", "P.carrier", "case")])).toBeCloseTo(r / s, 12);
  });
});

/** Small sun on the double side, large sun on the single side, one ring, one carrier; output at the ring. */
const compound = (s1: number, s2: number, r: number): GearTrain => ({
  sets: [set("S1", s1, r, "double"), set("S2", s2, r)],
  links: [
    ["S1.ring", "S2.ring"],
    ["S1.carrier", "S2.carrier"],
    ["S1.ring", "output"],
  ],
});

describe("a compound set", () => {
  const [s1, s2, r] = [30, 37, 83];
  const train = compound(s1, s2, r);
  const small = joint("A", "input", "S1.sun");
  const large = joint("B", "input", "S2.sun");
  const carrier = joint("C", "input", "S2.carrier");
  const holdLarge = joint("D", "S2.sun", "case");
  const holdCarrier = joint("E", "S2.carrier", "case");
  it.each([
    ["small sun in, carrier held", [small, holdCarrier], r / s1],
    ["small sun in, large sun held", [small, holdLarge], (r * (s1 + s2)) / (s1 * (s2 + r))],
    ["both suns in", [small, large], 1],
    ["small sun and carrier in", [small, carrier], 1],
    ["carrier in, large sun held", [carrier, holdLarge], r / (s2 + r)],
    ["large sun in, carrier held", [large, holdCarrier], -r / s2],
  ])("%s", (_name, applied, expected) => {
    expect(ratio(train, applied)).toBeCloseTo(expected, 12);
  });
});

/** A simple set in front whose held sun makes a slow shaft; its carrier feeds the suns, the input itself the carrier. */
const fed: GearTrain = {
  ...compound(30, 37, 83),
  sets: [set("F", 35, 73), ...compound(30, 37, 83).sets],
  links: [...compound(30, 37, 83).links, ["input", "F.ring"], ["F.sun", "case"]],
};
const FED = [
  joint("LC", "F.carrier", "S1.sun"),
  joint("TC", "F.carrier", "S2.sun"),
  joint("HC", "input", "S2.carrier"),
  joint("SB", "S2.sun", "case"),
  joint("LB", "S2.carrier", "case"),
] as const;
const [LC, TC, HC, SB, LB] = FED;

describe("a simple set that feeds a compound set", () => {
  const k = 1 + 35 / 73;
  it.each([
    ["first", [LC, LB], k * (83 / 30)],
    ["second", [LC, SB], (k * 83 * 67) / (30 * 120)],
    ["third", [LC, TC], k],
    ["sixth", [HC, SB], 83 / 120],
    ["reverse", [TC, LB], -k * (83 / 37)],
    // carrier at input speed, small sun at 1/k: Nr·ω = Ns1/k + (Nr − Ns1)
    ["fourth", [LC, HC], 83 / (30 / k + 53)],
    // carrier at input speed, large sun at 1/k: Nr·ω = (Ns2 + Nr) − Ns2/k
    ["fifth", [TC, HC], 83 / (120 - 37 / k)],
  ])("%s", (_name, applied, expected) => {
    expect(ratio(fed, applied as Joint[])).toBeCloseTo(expected, 12);
  });
  it("gives seven gears by two elements, ties up by three, and is neutral by one", () => {
    const all = classifyCombinations(fed, FED);
    expect(all.filter((c) => c.elements.length === 1).every((c) => c.state === "neutral")).toBe(true);
    const two = all.filter((c) => c.elements.length === 2);
    expect(two.filter((c) => c.state === "gear")).toHaveLength(7);
    expect(two.filter((c) => c.state !== "gear").map((c) => c.elements.join("+"))).toEqual(
      expect.arrayContaining(["TC+SB", "HC+LB", "SB+LB"]),
    );
    // three may agree on one ratio only where two of them hold the same thing
    for (const c of all.filter((x) => x.elements.length === 3)) expect(c.state).not.toBe("neutral");
  });
  it("speeds of released elements are what they must be pulled to", () => {
    const first = solveTrain(fed, [LC, LB]);
    // brake on the large sun: it turns backwards at ω_s2 = −(Nr/Ns2)·ω_ring
    expect(elementSlip(first, SB)).toBeCloseTo(-(83 / 37) / (k * (83 / 30)), 12);
    expect(elementSlip(first, LB)).toBe(0);
    expect(elementSlip(first, HC)).toBeCloseTo(1, 12);
  });
});

describe("two coupled simple sets", () => {
  const [s1, r1, s2, r2] = [34, 74, 30, 78];
  const train: GearTrain = {
    sets: [set("A", s1, r1), set("B", s2, r2)],
    links: [
      ["A.sun", "B.sun"],
      ["A.carrier", "B.ring"],
      ["A.carrier", "output"],
    ],
  };
  const ringIn = joint("FC", "input", "A.ring");
  const sunIn = joint("DC", "input", "A.sun");
  const holdSun = joint("IB", "A.sun", "case");
  const holdCarrier = joint("LB", "B.carrier", "case");
  it.each([
    ["first", [ringIn, holdCarrier], 1 + s1 / r1 + (s1 * r2) / (s2 * r1)],
    ["second", [ringIn, holdSun], 1 + s1 / r1],
    ["third", [ringIn, sunIn], 1],
    ["reverse", [sunIn, holdCarrier], -r2 / s2],
  ])("%s", (_name, applied, expected) => {
    expect(ratio(train, applied)).toBeCloseTo(expected, 12);
  });
});

describe("a layshaft", () => {
  const train: GearTrain = {
    sets: [],
    pairs: [
      { id: "g1", driver: "shaft1", driven: "wheel1", driverTeeth: 13, drivenTeeth: 44 },
      { id: "g2", driver: "shaft2", driven: "wheel2", driverTeeth: 22, drivenTeeth: 43 },
      { id: "gR", driver: "shaft2", driven: "wheelR", driverTeeth: 12, drivenTeeth: 40, idler: true },
      { id: "out", driver: "lay", driven: "output", driverTeeth: 30, drivenTeeth: 31 },
    ],
    links: [],
  };
  const k1 = joint("K1", "input", "shaft1");
  const k2 = joint("K2", "input", "shaft2");
  const first = joint("F1", "wheel1", "lay");
  const second = joint("F2", "wheel2", "lay");
  const back = joint("FR", "wheelR", "lay");
  it("multiplies its pairs; an idler turns the sense", () => {
    expect(ratio(train, [k1, first])).toBeCloseTo((44 / 13) * (31 / 30), 12);
    expect(ratio(train, [k2, back])).toBeCloseTo(-(40 / 12) * (31 / 30), 12);
  });
  it("turns the preselected shaft at its own ratio, and ties up with both clutches", () => {
    const state = solveTrain(train, [k1, first, second]);
    expect(state.kind === "gear" && state.speeds.get("shaft2")).toBeCloseTo(43 / 22 / (44 / 13), 12);
    expect(solveTrain(train, [k1, k2, first, second]).kind).toBe("tie-up");
    expect(solveTrain(train, [k1]).kind).toBe("neutral");
  });
});

/** A chain of two to four sets with random joints between them, and elements among all nodes. */
const trains = fc
  .record({
    sets: fc.array(fc.tuple(fc.integer({ min: 20, max: 45 }), fc.integer({ min: 12, max: 30 }), fc.boolean()), {
      minLength: 1,
      maxLength: 4,
    }),
    picks: fc.array(fc.tuple(fc.nat(40), fc.nat(40)), { minLength: 8, maxLength: 16 }),
    links: fc.nat(3),
    applied: fc.integer({ min: 1, max: 4 }),
  })
  .map(({ sets, picks, links, applied }) => {
    const train: GearTrain = {
      sets: sets.map(([sun, planet, double], i) =>
        set(`P${i}`, sun, double ? sun + 2 * planet + 20 : sun + 2 * planet, double ? "double" : "single"),
      ),
      links: [],
    };
    const nodes = nodesOf(train);
    const pairs = picks
      .map(([a, b]) => [nodes[a % nodes.length] as string, nodes[b % nodes.length] as string] as const)
      .filter(([a, b]) => a !== b && !(a === "input" && b === "case"));
    const joined: GearTrain = { ...train, links: [["input", "P0.ring"], ...pairs.slice(0, links)] };
    return { train: joined, applied: pairs.slice(links, links + applied).map(([a, b], i) => joint(`E${i}`, a, b)) };
  });

describe("every train", () => {
  it("obeys its equations, equilibrium and power balance, whatever is joined", () => {
    let gears = 0;
    fc.assert(
      fc.property(trains, ({ train, applied }) => {
        const state = solveTrain(train, applied);
        if (state.kind === "tie-up") return;
        for (const { terms } of equationsOf(train)) {
          const speeds = [...terms].map(([n, k]) => [k, state.speeds.get(n)] as const);
          if (speeds.some(([, w]) => w === undefined)) continue;
          const size = Math.max(...speeds.map(([k, w]) => Math.abs(k * (w as number))), 1);
          expect(Math.abs(speeds.reduce((s, [k, w]) => s + k * (w as number), 0)) / size).toBeLessThan(1e-9);
        }
        for (const [a, b] of [...train.links, ...applied.map((j) => j.joins)]) {
          expect(state.speeds.get(a) ?? null).toEqual(state.speeds.get(b) ?? null);
        }
        const shares = torqueShares(train, applied);
        if (state.kind !== "gear") {
          expect(shares).toBeUndefined();
          return;
        }
        gears++;
        // power in = power out
        expect(Math.abs((shares?.output ?? 0) / state.ratio - 1)).toBeLessThan(1e-9);
      }),
      { numRuns: 400 },
    );
    expect(gears).toBeGreaterThan(40);
  });
  it("carries by its brakes what the output gives more than the input: the housing stands still", () => {
    for (const c of classifyCombinations(fed, FED, [2])) {
      if (c.state !== "gear") continue;
      const applied = FED.filter((j) => c.elements.includes(j.id));
      const shares = torqueShares(fed, applied);
      const brakes = applied.filter((j) => j.joins[1] === "case");
      // the front sun is fixed for good and takes its share too: Ns/(Ns + Nr) of what the carrier carries
      const held = brakes.reduce((s, j) => s + (shares?.elements.get(j.id) ?? 0), 0);
      const front = applied
        .filter((j) => j.joins[0] === "F.carrier")
        .reduce((s, j) => s + (shares?.elements.get(j.id) ?? 0), 0);
      expect(1 - (shares?.output ?? 0) + held - (35 / 108) * front).toBeCloseTo(0, 9);
    }
  });
  it("does not care which way an element is named, nor about the order", () => {
    const turned = FED.map((j) => joint(j.id, j.joins[1], j.joins[0]));
    for (const c of classifyCombinations(fed, FED)) {
      const twin = classifyCombinations(fed, [...turned].reverse()).find(
        (x) => [...x.elements].sort().join() === [...c.elements].sort().join(),
      );
      expect(twin?.state).toBe(c.state);
      if (c.ratio !== undefined) expect(twin?.ratio).toBeCloseTo(c.ratio, 9);
    }
  });
});

describe("reduceRows", () => {
  it("solves what has one answer, and leaves free what has many", () => {
    const m = Float64Array.of(2, 1, -1, 8, -3, -1, 2, -11, -2, 1, 2, -3);
    expect([...reduceRows(m, 3, 4)]).toEqual([0, 1, 2, -1]);
    expect([m[3], m[7], m[11]].map((x) => Math.round((x as number) * 1e9) / 1e9)).toEqual([2, 3, -1]);
    const free = Float64Array.of(1, 2, 3, 2, 4, 6);
    expect([...reduceRows(free, 2, 3)]).toEqual([0, -1, -1]);
  });
});
