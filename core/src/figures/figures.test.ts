// Guards: stays and their money as they were at the hand-over; what came back, was tried before or is not proved is not right first; the
// sums of the repairs are those of the shop.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import type { EntryBodies } from "../job/index.ts";
import { BODY, madeTimeline } from "../testing/index.ts";
import { moneyLines, shopFigures, visitsOf } from "./index.ts";

const LINES: EntryBodies["estimate"]["lines"] = [
  { kind: "labour", what: "Labour", quantity: 8, each: 60 },
  { kind: "part", what: "Kit", quantity: 2, each: 45.5 },
];
const PRICE: EntryBodies["decision"]["price"] = [600, 500, 800];
interface Stay {
  readonly repairId?: string;
  readonly minutes?: number;
  readonly estimated?: boolean;
  readonly proved?: boolean;
  readonly tried?: boolean;
  /** how it came back after it; undefined: it did not */
  readonly back?: "lasted-not" | "other";
}

function job(stays: readonly Stay[], open = false) {
  const t = madeTimeline();
  t.write("intake", BODY.intake);
  stays.forEach(({ repairId = "rebuild:TC", minutes = 600, estimated = true, proved = true, tried, back }, i) => {
    const decision = { ...BODY.decision, repairId, source: undefined, title: `Do ${repairId}`, price: PRICE };
    if (tried) t.write("tried", { repairId: "fluid", title: "Fluid", outcome: "no-change", note: "" } as never);
    t.write("decision", decision);
    if (estimated)
      t.write("estimate", { optionId: repairId, title: "", lines: LINES, taxPercent: 20, validDays: 30, note: "" });
    if (minutes > 0) t.write("work", BODY.work(minutes));
    if (proved) t.write("proof", BODY.proof);
    if (open && i === stays.length - 1) return;
    t.write("handover", BODY.handover);
    if (back) {
      t.write("comeback", { what: "again", odometerKm: 1, repairId: back === "other" ? null : repairId });
      if (back === "lasted-not")
        t.write("tried", { repairId, title: "", outcome: "no-change", note: "Came back" } as never);
    }
  });
  return visitsOf({ number: "0417", customer: "Skerrow Council", vehicle: "Library van", entries: t.entries });
}

describe("stays", () => {
  it("end with their hand-over; one that goes on is none yet", () => {
    expect(job([{}])).toHaveLength(1);
    expect(job([{}], true)).toEqual([]);
    expect(job([{ back: "lasted-not" }, { repairId: "exchange" }]).map((v) => v.decision?.body.repairId)).toEqual([
      "rebuild:TC",
      "exchange",
    ]);
  });
  it("a hand-over that was taken back, and written anew, is one stay", () => {
    const t = madeTimeline();
    t.write("decision", BODY.decision);
    t.write("work", BODY.work(60));
    const wrong = t.write("handover", BODY.handover);
    t.write("retraction", { entryId: wrong.id, reason: "" });
    expect(visitsOf({ number: "", customer: "", vehicle: "", entries: t.entries })).toEqual([]);
    t.write("handover", BODY.handover);
    expect(visitsOf({ number: "", customer: "", vehicle: "", entries: t.entries })).toHaveLength(1);
  });
  it.each([
    [[{}], [true]],
    [[{ proved: false }], [false]],
    [[{ tried: true }], [false]],
    [
      [{ back: "other" }, {}],
      [true, true],
    ],
    [
      [{ back: "lasted-not" }, {}],
      [false, true],
    ],
    [
      [{ back: "lasted-not" }, { tried: true }],
      [false, false],
    ],
  ] as const)("%j are right first: %j", (stays, right) => {
    expect(job(stays as readonly Stay[]).map((v) => shopFigures([v]).rightFirst === 1)).toEqual(right);
  });
});

it.each([
  [{}, 1],
  [{ tried: true }, 1],
  [{ proved: false }, 0],
  [{ back: "lasted-not" }, 0],
  [{ back: "other" }, 1],
] as const)("a stay %j cured: %d", (stay, cured) => {
  const [first] = job("back" in stay ? [stay as Stay, {}] : [stay as Stay]);
  expect(shopFigures(first ? [first] : []).cured).toBe(cured);
});

describe("figures", () => {
  it("count hours where both sides are known, and leave out what was neither decided nor worked on", () => {
    const visits = [...job([{}]), ...job([{ estimated: false }]), ...job([{ minutes: 0 }]), ...job([{ minutes: 90 }])];
    expect(shopFigures(visits)).toMatchObject({ jobs: 3, timed: 2, estimatedH: 16, takenH: 11.5 });
    expect(shopFigures([])).toEqual({
      jobs: 0,
      repairs: [],
      cameBack: 0,
      cured: 0,
      rightFirst: 0,
      timed: 0,
      estimatedH: 0,
      takenH: 0,
    });
  });
  it("of the repairs add up to those of the shop", () => {
    const stay = fc.record({
      repairId: fc.constantFrom("rebuild:TC", "exchange", "fluid"),
      minutes: fc.integer({ min: 0, max: 900 }),
      estimated: fc.boolean(),
      proved: fc.boolean(),
      tried: fc.boolean(),
      back: fc.constantFrom("lasted-not" as const, "other" as const),
    });
    fc.assert(
      fc.property(fc.array(fc.array(stay, { minLength: 1, maxLength: 3 }), { maxLength: 5 }), (jobs) => {
        const figures = shopFigures(jobs.flatMap((s) => job(s)));
        for (const key of ["jobs", "cameBack", "cured", "rightFirst", "timed"] as const)
          expect(figures.repairs.reduce((n, r) => n + r[key], 0)).toBe(figures[key]);
        for (const key of ["estimatedH", "takenH"] as const)
          expect(figures.repairs.reduce((n, r) => n + r[key], 0)).toBeCloseTo(figures[key], 6);
        expect(figures.rightFirst).toBeLessThanOrEqual(figures.cured);
        expect(figures.cured + figures.cameBack).toBeLessThanOrEqual(figures.jobs);
        expect(figures.rightFirst + figures.cameBack).toBeLessThanOrEqual(figures.jobs);
      }),
      { numRuns: 60 },
    );
  });
});

describe("money", () => {
  it("is the lines of the estimate, less what was paid beforehand", () => {
    const t = madeTimeline();
    t.write("decision", { ...BODY.decision, repairId: "x", source: undefined });
    t.write("estimate", { optionId: "x", title: "", lines: LINES, taxPercent: 20, validDays: 30, note: "" });
    t.write("approval", {
      optionId: "x",
      title: "",
      net: 571,
      withTax: 685.2,
      by: "A",
      how: "told",
      signature: [],
      deposit: 100,
      terms: "",
      note: "",
    });
    t.write("work", BODY.work(60));
    t.write("handover", BODY.handover);
    const lines = visitsOf({ number: "0001", customer: "A", vehicle: "B", entries: t.entries }).flatMap(moneyLines);
    expect(lines.map((l) => [l.kind, l.quantity, l.each, l.amount, l.taxPercent])).toEqual([
      ["labour", 8, 60, 480, 20],
      ["part", 2, 45.5, 91, 20],
      ["deposit", 1, -100, -100, 0],
    ]);
    expect(lines[0]?.day).toMatch(/^\d{4}-\d\d-\d\d$/);
  });
  it("is the price of the decision where no estimate was stored, its tax not known", () => {
    const [visit] = job([{ estimated: false }]);
    const lines = visit ? moneyLines(visit) : [];
    expect(lines).toMatchObject([{ kind: "price", quantity: 1, amount: 600 }]);
    expect(lines[0]?.taxPercent).toBeUndefined();
  });
});
