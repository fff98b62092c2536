// Guards: what comes and goes together counts for less than so many independent witnesses, and never for more.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { libraryKnowledge, libraryUnit } from "../../testing/units.ts";
import { believe, type Evidence, SuspectModel, siftEvidence } from "../index.ts";

const unit = libraryUnit("crag-t10");
const model = new SuspectModel(unit, libraryKnowledge());
const piece = (table: string, outcome: string, subject: Evidence["subject"], abnormal = true): Evidence => ({
  id: `${table}:${Object.values(subject).join()}`,
  table,
  subject,
  outcome,
  label: `${table} ${outcome}`,
  entryId: "entry",
  abnormal,
});
const powers = (list: readonly Evidence[]) => siftEvidence(model, list).used.map((e) => e.power ?? 1);
const elements = unit.elements.map((e) => e.id);
const codes = unit.codes.map((c) => c.code);
const stored = (n: number, outcome: "present" | "absent") =>
  codes.slice(0, n).map((code) => piece("code", outcome, { code }, outcome === "present"));
const times = (n: number, outcome: string) =>
  elements.slice(0, n).map((component) => piece("delay-warm", outcome, { component }, outcome !== "usual"));

describe("witnesses that are not independent", () => {
  it.each<[string, (n: number) => Evidence[]]>([
    ["codes of one event", (n) => stored(n, "present")],
    ["times as usual", (n) => times(n, "usual")],
    ["times that are late", (n) => times(n, "late")],
    ["gears that slip", (n) => unit.gears.slice(0, n).map((g) => piece("gear", "slips", { gear: g.name }))],
  ])("%s: together worth more than one, less than their number, and more with every further one", (_, make) => {
    fc.assert(
      fc.property(fc.integer({ min: 2, max: Math.min(elements.length, codes.length) }), (n) => {
        const worth = (k: number) => powers(make(k)).reduce((a, b) => a + b, 0);
        expect(worth(1)).toBe(1);
        expect(worth(n)).toBeGreaterThan(1);
        expect(worth(n)).toBeLessThan(n);
        expect(worth(n)).toBeGreaterThan(worth(n - 1));
      }),
    );
  });
  it("codes that are absent stand each for itself", () => {
    expect(powers(stored(6, "absent"))).toEqual(Array(6).fill(1));
  });
  it("what is as usual does not take weight from what is not", () => {
    const [late] = times(1, "late");
    const usual = elements.slice(1).map((component) => piece("delay-warm", "usual", { component }, false));
    const used = siftEvidence(model, [late as Evidence, ...usual]).used;
    expect(used.find((e) => e.outcome === "late")?.power ?? 1).toBe(1);
    expect(used.find((e) => e.outcome === "usual")?.power).toBeLessThan(1);
  });
  it("times of cold, warm, releases and engagements are one crowd: they come from the same drive", () => {
    const [a = ""] = elements;
    const mixed = [
      piece("delay-cold", "late", { component: a }),
      piece("inertia-warm", "long", { component: a }),
      piece("delay-release", "late", { component: a }),
      piece("engage-warm", "late", { gear: "1" }),
    ];
    const found = powers(mixed);
    expect(new Set(found).size).toBe(1);
    expect(found[0]).toBeLessThan(1);
  });
  it("the order in which they are said changes nothing", () => {
    const list = [...stored(4, "present"), ...times(3, "late"), ...times(3, "usual").slice(2)];
    fc.assert(
      fc.property(fc.shuffledSubarray(list, { minLength: list.length }), (shuffled) => {
        const p = (of: readonly Evidence[]) => [...believe(model, siftEvidence(model, of).used).marginals()];
        p(shuffled).forEach((x, i) => {
          expect(x).toBeCloseTo(p(list)[i] as number, 9);
        });
      }),
      { numRuns: 10 },
    );
  });
  it("one that is put aside leaves the rest more weight", () => {
    const four = powers(stored(4, "present"))[0] as number;
    const three = powers(stored(3, "present"))[0] as number;
    expect(three).toBeGreaterThan(four);
  });
});
