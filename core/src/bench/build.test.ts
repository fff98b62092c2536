// Guards: packs from their readings, whose value it is, what the bench says of drive, cause and aftercare.
import { describe, expect, it } from "@jest/globals";
import { type BenchValue, type EntryBodies, type EntryOf, foldJob } from "../job/index.ts";
import { checkBenchKnowledge, signChance } from "../knowledge/index.ts";
import { madeEntry } from "../testing/index.ts";
import { libraryKnowledge, libraryUnit } from "../testing/units.ts";
import {
  aftercareOf,
  authorsOf,
  benchContradictions,
  causeMissing,
  causeOdds,
  causeSigns,
  chosenParts,
  coilsSay,
  converterSays,
  dualClutchSays,
  dualClutchStates,
  failedPack,
  packSummary,
  placeState,
  pressureSays,
  UNKNOWN_CAUSE,
} from "./index.ts";

const brae = libraryUnit("brae-p6");
const corran = libraryUnit("corran-w7");
const { bench: knowledge } = libraryKnowledge();
let seq = 0;
const value = (id: string, readings: number | readonly number[], more: Partial<BenchValue> = {}): BenchValue => ({
  id,
  name: id,
  unit: "mm",
  readings: typeof readings === "number" ? [readings] : readings,
  instrument: "Micrometer",
  percent: 0,
  fixed: 0.006,
  ...more,
});
const look = (id: string, outcome: string, pass: boolean) => ({ id, name: id, outcome, label: outcome, pass });
const body = (place: string, more: Partial<EntryBodies["bench"]> = {}): EntryBodies["bench"] => ({
  place,
  title: place,
  values: [],
  looks: [],
  chosen: [],
  note: "",
  ...more,
});
const entry = (place: string, more: Partial<EntryBodies["bench"]> = {}) =>
  madeEntry(++seq, "bench", body(place, more)) as EntryOf<"bench">;
const state = (...entries: readonly unknown[]) => foldJob(entries as never);
const element = (id: string) => {
  const e = brae.elements.find((x) => x.id === id);
  if (!e) throw new Error(id);
  return e;
};
const tc = element("TC");
const limits = tc.bench;
if (!limits) throw new Error("no limits");
const plates = (frictionMm: number, steelMm = 1.85) => [
  ...[1, 2, 3, 4].map((i) => value(`plate-${i}`, frictionMm, { from: limits.frictionPlateMinMm })),
  ...[1, 2, 3, 4].map((i) => value(`steel-${i}`, steelMm, { from: limits.steelPlateMinMm })),
];

describe("a pack from its readings", () => {
  it("of new parts comes to its target with the middle ring", () => {
    const sum = packSummary(tc, plates(1.95));
    expect(sum.missing).toBe(0);
    expect(sum.stack?.value).toBeCloseTo(4 * 1.95 + 4 * 1.85 + 4.6, 9);
    expect(sum.selection).toMatchObject({
      kind: "one",
      best: { sizesMm: [2.4], clearanceMm: expect.closeTo(limits.targetMm ?? 0, 9) },
    });
    expect(sum.problems).toEqual([]);
  });
  it("as it was found is drawn with the part that was in it, and nothing is chosen", () => {
    const found = packSummary(tc, [...plates(1.85), value("fitted", 2.4)], true);
    expect(found.selection).toBeUndefined();
    expect(found.drawing?.rows[0]?.parts.at(-1)).toMatchObject({ kind: "selective", mm: 2.4 });
    expect(packSummary(tc, [...plates(1.85), value("fitted", 2.4)]).drawing?.rows[0]?.parts.at(-1)?.mm).toBe(2.8);
  });
  it("worn takes a thicker ring, and none when it is worn beyond all", () => {
    const worn = packSummary(tc, plates(1.85)).selection;
    expect(worn).toMatchObject({ kind: "one", best: { sizesMm: [2.8] } });
    expect(packSummary(tc, plates(1.6)).selection?.kind).toBe("none");
  });
  it("half measured tells how many are missing and chooses nothing", () => {
    const half = packSummary(tc, plates(1.95).slice(0, 5));
    expect(half).toMatchObject({ missing: 3, stack: undefined, selection: undefined, drawing: undefined });
    expect(half.plates).toHaveLength(5);
  });
  it("names a sum that its feeler does not bear out, a pack that is too thick, and a plate thicker than new", () => {
    const fitted = value("fitted", 2.4);
    const feeler = (mm: number) => value("clearance", mm, { fixed: 0.03 });
    const clearance = limits.targetMm ?? 0;
    expect(packSummary(tc, [...plates(1.95), fitted, feeler(clearance + 0.05)]).problems).toEqual([]);
    expect(packSummary(tc, [...plates(1.95), fitted, feeler(clearance + 0.2)]).problems[0]).toMatch(
      /By sum .* by feeler/,
    );
    const thick = packSummary(tc, [...plates(1.95), value("fitted", 4)]);
    expect(thick.clearance?.value).toBeLessThan(0);
    expect(thick.problems[0]).toMatch(/thicker than its drum is deep.*cannot run so/);
    expect(packSummary(tc, plates(2.9)).problems.at(-1)).toMatch(/plates alone are .* thicker than the drum/);
    expect(packSummary(tc, plates(2.1)).problems[0]).toMatch(/2\.10 mm, a new one 1\.95 mm.*Measure it again/);
  });
  it("compares its ends and is drawn with every plate", () => {
    const uneven = plates(1.95).map((v, i) => (i < 2 ? value(v.id, 1.8) : v));
    const sum = packSummary(tc, [...uneven, value("fitted", 2.4)]);
    expect(sum.ends?.differenceMm).toBeCloseTo(-0.15, 9);
    expect(sum.ends?.sure).toBeGreaterThan(0.99);
    const parts = sum.drawing?.rows[0]?.parts ?? [];
    expect(parts.filter((p) => p.kind === "friction")).toHaveLength(4);
    expect(parts.reduce((s, p) => s + p.mm, 0)).toBeCloseTo(limits.depthMm ?? 0, 9);
  });
});

describe("a place", () => {
  it("passes, fails by one thing, or is open", () => {
    expect(placeState(body("pack:TC"))).toBe("open");
    expect(placeState(body("pack:TC", { values: plates(1.95) }))).toBe("pass");
    expect(placeState(body("pack:TC", { values: [value("plate-1", 1.6, { from: 1.6 })] }))).toBe("open");
    expect(placeState(body("pack:TC", { values: [value("plate-1", 1.5, { from: 1.6 })] }))).toBe("fail");
    expect(placeState(body("pack:TC", { values: plates(1.95), looks: [look("seals", "hard", false)] }))).toBe("fail");
  });
  it("keeps whose value it was through what others stored since", () => {
    const made = (at: number, author: string, values: readonly BenchValue[]): EntryOf<"bench"> => ({
      ...entry("pack:TC", { values }),
      seq: at,
      author,
    });
    const authors = authorsOf([
      made(2, "Iona", [value("plate-1", 1.9), value("plate-2", 1.8)]),
      made(1, "Marl", [value("plate-1", 1.9), value("plate-3", 1.7)]),
      made(3, "Ruan", [value("plate-1", 1.9), value("plate-2", 1.75)]),
    ]);
    expect([...authors].map(([id, a]) => [id, a.author])).toEqual([
      ["plate-1", "Marl"],
      ["plate-2", "Ruan"],
    ]);
  });
});

describe("coils and pressures", () => {
  const coil = (id: string, ohm: number, temperatureC = 20) => value(`coil-${id}`, ohm, { unit: "Ω", temperatureC });
  it("names the twin that differs, not one that is warm", () => {
    const all = brae.solenoids.map((s) => coil(s.id, 5.2));
    expect(coilsSay(brae, all)).toEqual([]);
    const one = (ohm: number) => coilsSay(brae, [...all.slice(1), coil("sol_LC", ohm)]);
    expect(one(5.2 * 1.061)).toEqual([expect.stringMatching(/Solenoid LC .* 6 % more than its twins/)]);
    expect(one(5.2 * 1.059)).toEqual([]);
    expect(coilsSay(brae, [...all.slice(1), coil("sol_LC", 5.2 * (1 + 0.00393 * 40), 60)])).toEqual([]);
    expect(coilsSay(brae, [coil("sol_LC", 5), coil("sol_TC", 5.5)])[0]).toMatch(/one of them is ageing/);
  });
  it("names a slow plunger among its twins", () => {
    const pull = (id: string, ms: number) => value(`pull-${id}`, ms, { unit: "ms" });
    const with3 = (ms: number) => coilsSay(brae, [pull("sol_LC", ms), pull("sol_TC", 10), pull("sol_HC", 10)]);
    expect(with3(12.4)).toEqual([]);
    expect(with3(12.6)).toEqual([expect.stringMatching(/it sticks/)]);
  });
  it("holds pressure against its command: a tenth and 50 kPa", () => {
    const at = (read: number) => pressureSays([value("idle-D", read), value("command-D", 500)]);
    expect(at(401)).toEqual([]);
    expect(at(399)).toEqual([expect.stringMatching(/D: 399 kPa where 500 kPa are commanded, 101 kPa too little/)]);
    expect(at(601)).toEqual([expect.stringMatching(/regulator sticks/)]);
    expect(pressureSays([value("idle-D", 100)])).toEqual([]);
  });
  it("tells what a found thing did", () => {
    const [says] = converterSays(knowledge, { looks: [look("splines", "gone", false), look("stator", "holds", true)] });
    expect(says?.did).toMatch(/No drive in any gear/);
    expect(says?.broke).toMatch(/Struck/);
  });
});

describe("dual clutches", () => {
  const c = corran.bench?.dualClutches ?? [];
  const top = (i: number) => c[i]?.packHeightMm[1] ?? 0;
  const heights = (k1: number, k2: number) => [
    value("height-K1", top(0) - k1),
    value("height-K2", top(1) - k2, { from: c[1]?.packHeightMm[0], to: top(1) }),
  ];
  it("give the touch point that follows from what is lost, and say which clutch has lost more", () => {
    const states = dualClutchStates(corran, [...heights(0.1, 2), value("learned-K2", 290, { unit: "kPa" })]);
    expect(states[1]).toMatchObject({
      clutch: "K2",
      lostMm: expect.closeTo(2, 9),
      touchKpa: expect.closeTo(290, 9),
      agrees: true,
    });
    const says = dualClutchSays(corran, heights(0.1, 2));
    expect(says).toEqual([
      expect.stringMatching(/^K2 has lost 1\.90 mm more than K1 and is below its limit: K1 is not\.$/),
    ]);
    expect(dualClutchSays(corran, heights(0.1, 0.1))).toEqual([]);
  });
  it("are doubted where what was learned is not what they measure, just over and just under", () => {
    const at = (kpa: number) =>
      dualClutchStates(corran, [...heights(0, 1), value("learned-K2", kpa, { unit: "kPa" })])[1]?.agrees;
    expect(at(250 + 24.9)).toBe(true);
    expect(at(250 + 25.1)).toBe(false);
    expect(at(250 - 25.1)).toBe(false);
    expect(dualClutchSays(corran, [...heights(0, 1), value("learned-K2", 300, { unit: "kPa" })]).join()).toMatch(
      /look at piston and seals/,
    );
  });
});

describe("bench against drive", () => {
  it("names a pack that is in though the drive accuses it, and one that is worn though it was cleared", () => {
    const good = entry("pack:TC", { values: plates(1.95) });
    const worn = entry("pack:LB", { values: [value("plate-1", 1.5, { from: 1.6 })] });
    const drive = { cleared: ["LB"], accused: ["TC"] };
    expect(benchContradictions(brae, state(good, worn), drive).map((c) => c.id)).toEqual([
      "bench-clears-TC",
      "bench-accuses-LB",
    ]);
    expect(benchContradictions(brae, state(good, worn), { cleared: [], accused: [] })).toEqual([]);
    expect(benchContradictions(brae, state(good), { cleared: ["TC"], accused: ["TC"] })).toEqual([]);
    // another accused pack is worn: that explains the drive
    expect(benchContradictions(brae, state(good, worn), { cleared: [], accused: ["TC", "LB"] })).toEqual([]);
    const half = entry("pack:TC", { values: plates(1.95).slice(0, 3) });
    expect(benchContradictions(brae, state(half), drive)).toEqual([]);
  });
});

describe("what broke it", () => {
  const sign = (id: string, outcome: string) => ({ sign: id, outcome, label: "", entryId: "e" });
  it("without a sign is as common as its weight; odds sum to one whatever is seen", () => {
    const none = causeOdds(knowledge, []);
    expect(none.reduce((s, c) => s + c.probability, 0)).toBeCloseTo(1, 12);
    expect(none[0]?.id).toBe("low-pressure");
    expect(none.some((c) => c.id === UNKNOWN_CAUSE)).toBe(true);
    const seen = causeOdds(knowledge, [sign("damage", "broken"), sign("impact-told", "yes"), sign("no-such", "x")]);
    expect(seen.reduce((s, c) => s + c.probability, 0)).toBeCloseTo(1, 12);
    expect(seen[0]).toMatchObject({ id: "impact" });
    expect(seen[0]?.probability).toBeGreaterThan(0.85);
    expect(seen[0]?.weights[0]?.bits).toBeGreaterThan(2);
  });
  it("weighs half what is judged and half what was counted, where it was", () => {
    const table = {
      sign: "x",
      title: "",
      outcomes: ["a", "b"],
      otherwise: { a: 0.5, b: 0.5 },
      rows: [{ causes: ["heat"], p: { a: 0.8, b: 0.2 }, why: "" }],
      counted: { heat: { units: 40, p: { a: 0.4, b: 0.6 } }, cooler: { units: 40, p: { a: 0.1, b: 0.9 } } },
    };
    expect(signChance(table, "heat", "a")).toBeCloseTo(0.6, 12);
    expect(signChance(table, "cooler", "a")).toBeCloseTo(0.3, 12);
    expect(signChance(table, "impact", "b")).toBe(0.5);
    expect(checkBenchKnowledge({ ...knowledge, signs: [table] })).toEqual([]);
    const wrong = { ...table, counted: { nobody: { units: 1, p: { a: 0.4, b: 0.5 } } } };
    expect(checkBenchKnowledge({ ...knowledge, signs: [wrong] }).join()).toMatch(/no cause "nobody".*sum to 0.9/);
  });
  it("does not depend on the order of the signs", () => {
    const signs = [sign("flow", "low"), sign("smell", "burnt"), sign("heat", "too-hot")];
    const a = causeOdds(knowledge, signs);
    const b = causeOdds(knowledge, [...signs].reverse());
    a.forEach((c) => {
      expect(b.find((x) => x.id === c.id)?.probability).toBeCloseTo(c.probability, 12);
    });
    expect(a[0]?.id).toBe("cooler");
  });
  it("is read from bench, intake and pan, each with its entry", () => {
    const intake = madeEntry(++seq, "intake", {
      complaint: "",
      symptoms: [],
      doneAlready: "",
      recentEvents: "",
      events: [{ kind: "more-power", what: "" }],
      duty: ["hills"],
    });
    const pack = entry("pack:TC", {
      values: [...plates(1.55), value("clearance", (limits.targetMm ?? 0) + 1.6, { fixed: 0.03 })],
      looks: [look("colour", "black", false), look("spots", "spots", false), look("seals", "sound", true)],
    });
    const other = entry("pack:LB", { looks: [look("colour", "normal", true)] });
    const cooler = entry("cooler", {
      values: [value("flow", 3, { unit: "l/min", from: 2, fixed: 0.05 })],
      looks: [look("came-out", "lining", false)],
    });
    const curve = entry("converter-choice", {
      curve: [
        [1000, 500],
        [2000, 700],
        [3000, 900],
      ],
    });
    const job = state(intake, pack, other, cooler, curve);
    expect(failedPack(brae, job)?.element).toBe("TC");
    const signs = Object.fromEntries(causeSigns(brae, job, []).map((s) => [s.sign, s.outcome]));
    expect(signs).toEqual({
      "impact-told": "no",
      "more-power": "yes",
      duty: "yes",
      burnt: "one",
      spots: "spots",
      seals: "sound",
      clearance: "within",
      power: "over",
      flow: "good",
      debris: "lining",
    });
    expect(causeOdds(knowledge, causeSigns(brae, job, []))[0]?.id).toBe("raised-power");
  });
  it("is asked for once something failed, and answered by a cause or by unknown", () => {
    const failed = entry("pack:TC", { values: [value("plate-1", 1.5, { from: 1.6 })] });
    expect(causeMissing(state())).toBe(false);
    expect(causeMissing(state(entry("pack:TC", { values: plates(1.95) })))).toBe(false);
    expect(causeMissing(state(entry("pack-in:TC", { values: [value("plate-1", 1.5, { from: 1.6 })] })))).toBe(false);
    expect(causeMissing(state(failed))).toBe(true);
    expect(
      causeMissing(state(failed, entry("cause", { looks: [{ ...look("cause", "unknown", true), pass: null }] }))),
    ).toBe(false);
  });
});

describe("what follows from a build", () => {
  it("are its parts, the break-in of the unit and what is watched", () => {
    const ring = { id: "selective", name: "Ring 2.40 mm", sizeMm: 2.4, quantity: 1, costEach: 9, why: "" };
    const job = state(
      entry("pack-in:TC", { values: plates(1.95), chosen: [ring, { ...ring, id: "none", quantity: 0 }] }),
      entry("converter-choice"),
      entry("cooler", { looks: [look("came-out", "metal", false)] }),
    );
    expect(chosenParts(job)).toMatchObject([{ name: "Ring 2.40 mm", place: "pack-in:TC" }]);
    const after = aftercareOf(brae, job);
    expect(after.breakInKm).toBe(brae.bench?.breakInKm);
    expect(after.watch.join("; ")).toMatch(/fill times.*Stall speed.*cooler and the filter/);
    expect(aftercareOf(brae, state())).toEqual({ breakInKm: undefined, watch: [] });
    expect(aftercareOf({ ...brae, bench: undefined }, job).breakInKm).toBe(500);
  });
});
