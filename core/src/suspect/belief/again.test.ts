// Guards: a repair that did not cure, done once more: how likely it cures then, what that says of the fault, when it is
// offered, and that an exchange which cures isn't giving up.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { seededRandom } from "../../chance/index.ts";
import { faultAt, madeEvidence } from "../../testing/index.ts";
import { libraryKnowledge, libraryUnit } from "../../testing/units.ts";
import { Belief, believe, cureOf, doneAgain, Planner, type Repair, SuspectModel, siftEvidence } from "../index.ts";

const knowledge = libraryKnowledge();
const model = new SuspectModel(libraryUnit("brae-p6"), knowledge);
const planner = new Planner(model, { hourlyRate: 72 });
const at = (id: string) => faultAt(model, id);
const { tried, gear, item } = madeEvidence();
const sure = (id: string, rest: readonly (readonly [string, number])[] = []) => {
  const p = new Float64Array(model.sets.count);
  const others = rest.reduce((s, [, w]) => s + w, 0);
  p[at(id)] = 1 - others;
  for (const [other, w] of rest) p[at(other)] = w;
  return new Belief(model.sets, p);
};
const fill = model.findRepair("fill") as Repair;
const withCure = (p: number): Repair => ({ ...fill, cures: [{ faults: ["fluid-low"], relation: "any", p }] });
const cureAgain = (p: number, workmanshipFailure: number) =>
  doneAgain(withCure(p), { workmanshipFailure }).cures[0]?.p as number;

describe("a repair done again", () => {
  it("cures as the drawn vehicles do: some are not reached, some work fails by its own making", () => {
    const random = seededRandom(5);
    for (const [reach, failure] of [
      [0.9, 0.05],
      [0.6, 0.2],
      [1, 0.1],
    ] as const) {
      let [failed, cured] = [0, 0];
      for (let n = 0; n < 200_000; n++) {
        const reached = random() < reach;
        if (reached && random() >= failure) continue;
        failed++;
        if (reached && random() >= failure) cured++;
      }
      expect(Math.abs(cureAgain(reach * (1 - failure), failure) - cured / failed)).toBeLessThan(0.015);
    }
  });
  it("never cures more surely than at first, and what cures half only is hardly worth it again", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.01, max: 0.99, noNaN: true }),
        fc.double({ min: 0.001, max: 0.5, noNaN: true }),
        (p, failure) => {
          const again = cureAgain(p, failure);
          expect(again).toBeGreaterThanOrEqual(0);
          expect(again).toBeLessThanOrEqual(p + 1e-9);
        },
      ),
    );
    expect(cureAgain(0.95, 0.05)).toBeCloseTo(0.95, 9);
    expect(cureAgain(0.5, 0.05)).toBeLessThan(0.06);
  });
  it("has a name, a part and a price like the first time", () => {
    const firsts = model.repairs.filter((r) => r.again === undefined);
    expect(model.repairs).toHaveLength(2 * firsts.length);
    expect(new Set(model.repairs.map((r) => r.id)).size).toBe(model.repairs.length);
    for (const repair of firsts) {
      const again = model.repairs.find((r) => r.again === repair.id) as Repair;
      expect(again).toMatchObject({ component: repair.component, partsCost: repair.partsCost, hours: repair.hours });
      expect(again.id.split(":")[1]).toBe(repair.id.split(":")[1]);
    }
  });
  it("is offered once the first did not cure, and only once", () => {
    const b = sure("element-worn:TC");
    const ids = (...done: string[]) =>
      planner.options(b, { done: new Set(), tried: new Set(done), opened: 0 }).map((o) => o.repair.id);
    expect(ids()).toContain("rebuild:TC");
    expect(ids()).not.toContain("rebuild-again:TC");
    expect(ids("rebuild:TC")[0]).toBe("rebuild-again:TC");
    expect(ids("rebuild:TC")).not.toContain("rebuild:TC");
    const twice = ids("rebuild:TC", "rebuild-again:TC");
    expect(twice.some((id) => /^rebuild(-again)?:TC$/.test(id))).toBe(false);
  });
  it("speaks against its fault once more, by what it would have cured", () => {
    const seen = [gear("2", "slips"), item("symptom", "slip"), tried("rebuild:TC")];
    const twice = [...seen, tried("rebuild-again:TC", "no-change", 1)];
    expect(siftEvidence(model, twice).problems).toEqual([]);
    const [worn, other] = [at("element-worn:TC"), at("pump-worn")];
    const ratio = (list: typeof seen) => {
      const m = believe(model, list).p;
      return (m[worn] as number) / (m[other] as number);
    };
    const again = model.findRepair("rebuild-again:TC") as Repair;
    const cure = cureOf(model, again)[worn] as number;
    const onPump = cureOf(model, again)[other] as number;
    // pairs of which one was cured add next to nothing
    expect(ratio(twice) / ratio(seen)).toBeCloseTo((1 - cure) / (1 - onPump), 3);
  });
});

describe("giving up", () => {
  const done = new Set(model.checks.map((c) => c.id));
  const stop = (b: Belief, ...tried: string[]) => planner.advise(b, { done, tried: new Set(tried), opened: 0 }).stop;
  it("is not what an exchange does that most likely cures", () => {
    const b = sure("valve-sticks:TC");
    const tried = ["valve-repair:TC", "valve-repair-again:TC", "valve-body", "valve-body-again"];
    const [first] = planner.options(b, { done, tried: new Set(tried), opened: 0 });
    expect(first?.repair.id).toBe("exchange");
    expect(first?.cures).toBeGreaterThan(0.9);
    expect(stop(b, ...tried)).not.toBe("gives-up");
  });
  it("is what is left when nothing cures what is most likely wrong", () => {
    expect(stop(sure("wheel-vibration"), "wheels", "wheels-again")).toBe("gives-up");
  });
});
