// Guards: what the examiner draws of a vehicle: all of it is known to the library, shares follow what is wrong, and nobody looks into a pan that is not there.
import { seededRandom } from "@gearsense/core/chance";
import { type Evidence, generateFaults, SuspectModel, siftEvidence } from "@gearsense/core/suspect";
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { knowledge, units } from "./testing/library.ts";
import { answer, checkEvidence, firstLook, panDown, type Vehicle } from "./workshop.ts";

const models = new Map(units.map((u) => [u.id, new SuspectModel(u, knowledge)]));
const modelOf = (id: string) => models.get(id) as SuspectModel;
const vehicle = (unitId: string, faultIds: readonly string[]): Vehicle => ({
  unit: modelOf(unitId).unit,
  faultIds,
  codes: [],
  slipGears: ["2"],
});
const SEEDS = Array.from({ length: 300 }, (_, i) => i + 1);
/** How often an outcome of a table is drawn. */
function share(draws: (seed: number) => readonly Evidence[], table: string, outcomes: readonly string[]): number {
  const seen = SEEDS.flatMap((s) => draws(s).filter((e) => e.table === table));
  return seen.length === 0 ? 0 : seen.filter((e) => outcomes.includes(e.outcome)).length / seen.length;
}
const look = (v: Vehicle) => (seed: number) => firstLook(v, modelOf(v.unit.id), seededRandom(seed));
const pan = (v: Vehicle) => (seed: number) => panDown(v, seededRandom(seed));

describe("what is drawn of a vehicle", () => {
  it("is known to the library, whatever is wrong with whichever unit", () => {
    const any = fc.constantFrom(...units).chain((u) => {
      const ids = generateFaults(u, knowledge).map((f) => f.id);
      return fc.tuple(fc.constant(u.id), fc.subarray(ids, { maxLength: 2 }), fc.nat(1e6));
    });
    fc.assert(
      fc.property(any, ([unitId, ids, seed]) => {
        const v = vehicle(unitId, ids);
        const all = [...look(v)(seed), ...pan(v)(seed)];
        expect(siftEvidence(modelOf(unitId), all).problems).toEqual([]);
        expect(look(v)(seed)).toEqual(look(v)(seed));
      }),
      { numRuns: 60 },
    );
  });
  it("a sound pan is seldom alarming, and shows what breaks when it breaks", () => {
    const loose = ["some", "much"];
    const sound = vehicle("brae-p6", []);
    expect(share(pan(sound), "debris-slivers", loose)).toBeLessThan(0.12);
    expect(share(pan(vehicle("brae-p6", ["gear-damage"])), "debris-slivers", loose)).toBeGreaterThan(0.6);
    expect(share(pan(vehicle("brae-p6", ["fluid-low"])), "drained-volume", ["short"])).toBeGreaterThan(0.75);
    expect(share(pan(sound), "drained-volume", ["short"])).toBeLessThan(0.2);
    expect(share(pan(vehicle("brae-p6", ["filter-blocked"])), "filter-opened", ["blocked"])).toBeGreaterThan(0.6);
  });
  it("of two faults the one that shows most is what is seen", () => {
    const both = vehicle("brae-p6", ["fluid-low", "gear-damage"]);
    expect(share(pan(both), "drained-volume", ["short"])).toBeGreaterThan(0.75);
    expect(share(pan(both), "debris-paste", ["over"])).toBeGreaterThan(0.55);
  });
  it("a broken wire is seen in the loom more often than not, a failed sensor hardly ever", () => {
    const seen = (id: string) =>
      share((s) => look(vehicle("brae-p6", [id]))(s).filter((e) => e.checkId === "harness"), "observation", [
        "damaged",
      ]);
    expect(seen("wire:net_turbine")).toBeGreaterThan(0.3);
    expect(seen("sensor-failed:sen_turbine")).toBeLessThan(0.1);
  });
  it("a unit with dry clutches has no pan to take down, nor a sample of its linings' fluid", () => {
    const dry = vehicle("machair-d6", ["dual-clutch-worn:K1"]);
    expect(pan(dry)(1)).toEqual([]);
    expect(look(dry)(1).some((e) => e.table === "blot" || e.table === "cloudiness")).toBe(false);
  });
  it("milky fluid is not told twice", () => {
    const water = look(vehicle("brae-p6", ["fluid-water"]));
    const milky = SEEDS.map(water).filter((list) => list.some((e) => e.outcome === "milky"));
    expect(milky.length).toBeGreaterThan(SEEDS.length / 2);
    for (const list of milky) expect(list.filter((e) => e.outcome === "milky")).toHaveLength(1);
  });
  it("linings wear out late, and history is told only where something happened", () => {
    const old = ["high", "very-high"];
    const worn = look(vehicle("brae-p6", ["element-worn:TC"]));
    const software = look(vehicle("brae-p6", ["controller-software"]));
    expect(share(worn, "mileage", old)).toBeGreaterThan(share(software, "mileage", old) + 0.1);
    const told = SEEDS.flatMap(worn).filter((e) => /^(event|history|duty)-/.test(e.table));
    expect(told.length).toBeGreaterThan(0);
    expect(told.every((e) => e.outcome === "yes" && !e.abnormal)).toBe(true);
  });
});

describe("checks", () => {
  it("are answered as often as the catalogue's error rates say, and now and then by a slip of the hand", () => {
    const model = modelOf("brae-p6");
    const check = model.checks.find((c) => c.id === "misfire-count");
    if (!check) throw new Error("the catalogue has changed");
    const outcomes = check.outcomes.map((o) => o.id);
    const often = (faultIds: readonly string[], outcome: string) =>
      SEEDS.filter((s) => answer(model, faultIds, check, seededRandom(s)) === outcome).length / SEEDS.length;
    for (const [ids, name] of [
      [["misfire"], "misfire"],
      [["element-worn:TC"], "element-worn:TC"],
    ] as const) {
      const i = model.faults.findIndex((f) => f.id === name);
      for (const o of outcomes)
        expect(Math.abs(often(ids, o) - (model.likelihoods(check, o)[i] as number))).toBeLessThan(0.09);
    }
    const healthy = checkEvidence(check, outcomes[0] as string);
    expect(healthy.abnormal).toBe(false);
    expect(checkEvidence(check, outcomes[1] as string).abnormal).toBe(true);
  });
});
