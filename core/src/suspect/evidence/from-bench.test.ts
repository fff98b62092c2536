// Guards: what the bench measured moves the odds as the check of the same thing would, once, with the weight of its numbers.
import { describe, expect, it } from "@jest/globals";
import { type BenchValue, type EntryBodies, type EntryKind, foldJob } from "../../job/index.ts";
import { madeEntry } from "../../testing/index.ts";
import { libraryKnowledge, libraryUnit } from "../../testing/units.ts";
import { believe, collectEvidence, SuspectModel, siftEvidence } from "../index.ts";

const unit = libraryUnit("brae-p6");
const corran = libraryUnit("corran-w7");
const knowledge = libraryKnowledge();
let seq = 0;
const entry = <K extends EntryKind>(kind: K, body: EntryBodies[K]) => madeEntry(++seq, kind, body);
const value = (id: string, reading: number, more: Partial<BenchValue> = {}): BenchValue => ({
  ...{ id, name: id, unit: "mm", readings: [reading], instrument: "Micrometer", percent: 0, fixed: 0.006 },
  ...more,
});
const look = (id: string, outcome: string) => ({ id, name: id, outcome, label: outcome, pass: false });
const at = (place: string, values: readonly BenchValue[], looks: readonly ReturnType<typeof look>[] = []) =>
  entry("bench", { place, title: place, values, looks, chosen: [], note: "" });
const seen = (of: typeof unit, ...entries: ReturnType<typeof entry>[]) =>
  collectEvidence(of, foldJob(entries as never), [], knowledge.debris);
const plates = (mm: number) => [1, 2, 3, 4].map((i) => value(`plate-${i}`, mm, { from: 1.6 }));

describe("what the bench says", () => {
  it("of a pack is within when all is measured, worn by the thinnest plate, seal before wear", () => {
    expect(seen(unit, at("pack:TC", plates(1.9)))).toMatchObject([
      { checkId: "pack-measure:TC", outcome: "within", abnormal: false, subject: { component: "TC" } },
    ]);
    expect(seen(unit, at("pack:TC", plates(1.9).slice(1)))).toEqual([]);
    expect(seen(unit, at("pack:TC", [...plates(1.9).slice(1), value("plate-1", 1.5, { from: 1.6 })]))).toMatchObject([
      { outcome: "worn", abnormal: true },
    ]);
    expect(seen(unit, at("pack:TC", plates(1.5), [look("seals", "torn")]))).toMatchObject([{ outcome: "seal" }]);
    expect(seen(unit, at("pack:TC", plates(1.9), [look("spring", "broken")]))).toMatchObject([{ outcome: "warped" }]);
    const wide = value("clearance", 2.4, { from: 0.9, to: 1.8, fixed: 0.03 });
    const tight = value("clearance", 0.6, { from: 0.9, to: 1.8, fixed: 0.03 });
    expect(seen(unit, at("pack:TC", [wide]))).toMatchObject([{ outcome: "worn" }]);
    expect(seen(unit, at("pack:TC", [tight]))).toMatchObject([{ outcome: "warped" }]);
  });
  it("of new plates that go in isn’t evidence", () => {
    expect(seen(unit, at("pack-in:TC", plates(1.5)))).toEqual([]);
  });
  it("of everything else is what its check would have said", () => {
    const found = seen(
      unit,
      at("electrical", [
        value("coil-sol_TC", 9, { unit: "Ω", from: 4.8, to: 5.6, fixed: 0.2 }),
        value("bus", 60, { unit: "Ω", from: 55, to: 65, fixed: 0.2 }),
      ]),
      at("air", [], [look("air-TC", "hisses"), look("air-LB", "holds")]),
      at("valve-body", [value("vacuum-TC", 40, { from: 61, fixed: 1 })], [look("moves-sol_TC", "sticks")]),
      at("cooler", [value("flow", 1, { unit: "l/min", from: 2, fixed: 0.05 })]),
      at("pressure", [value("idle-D", 200, { unit: "kPa", from: 330, to: 560, fixed: 15 })]),
      at("converter-open", [], [look("splines", "gone")]),
    );
    expect(Object.fromEntries(found.map((e) => [e.checkId, e.outcome]))).toEqual({
      "resistance:sol_TC": "out",
      "bus-measure": "good",
      "air-check:TC": "hiss",
      "air-check:LB": "thud",
      "vacuum-bore:TC": "leaks",
      "valve-free:TC": "sticks",
      "cooler-flow": "low",
      "line-gauge": "low",
      "converter-bench:converter-clutch": "splines",
    });
    // every one of them is known to the tables
    expect(siftEvidence(new SuspectModel(unit, knowledge), found).problems).toEqual([]);
  });
  it("of dual clutches is by their heights", () => {
    const [, k2] = corran.bench?.dualClutches ?? [];
    const [from, to] = k2?.packHeightMm ?? [0, 0];
    const found = seen(
      corran,
      at("dual-clutch", [value("height-K2", from - 0.3, { from, to }), value("fork-F13", 9, { from: 8.2, to: 9.4 })]),
    );
    expect(found.map((e) => [e.checkId, e.outcome])).toEqual([
      ["clutch-stack:K2", "worn"],
      ["fork-travel:F13", "full"],
    ]);
    expect(siftEvidence(new SuspectModel(corran, knowledge), found).problems).toEqual([]);
  });
  it("is not counted twice beside a check of the same thing", () => {
    const check = entry("check", {
      ...{ checkId: "pack-measure:TC", component: "TC", title: "", outcome: "within", outcomeLabel: "" },
      ...{ abnormal: false, minutes: null, note: "" },
    });
    expect(seen(unit, check, at("pack:TC", plates(1.5))).map((e) => e.outcome)).toEqual(["within"]);
  });
  it("moves the odds: a worn pack confirms what the drive accused, a sound one clears it, one on its limit hardly", () => {
    const model = new SuspectModel(unit, knowledge);
    const fault = model.faults.findIndex((f) => f.id === "element-worn:TC");
    const odds = (...entries: ReturnType<typeof entry>[]) =>
      believe(model, siftEvidence(model, seen(unit, ...entries)).used).marginals()[fault] as number;
    const before = odds(entry("intake", { complaint: "", symptoms: [], doneAlready: "", recentEvents: "" }));
    const worn = odds(at("pack:TC", plates(1.5)));
    const sound = odds(at("pack:TC", plates(1.9)));
    const close = odds(at("pack:TC", plates(1.599)));
    expect(worn).toBeGreaterThan(5 * before);
    expect(sound).toBeLessThan(0.3 * before);
    expect(Math.abs(close - before)).toBeLessThan(0.3 * (worn - before));
  });
});
