// Guards: extras are in an estimate once, and leave it again; hours and parts of the estimate against what it took.
import { describe, expect, it } from "@jest/globals";
import { type EntryBodies, type EntryKind, foldJob } from "../job/index.ts";
import { madeEntry } from "../testing/index.ts";
import { estimateAgainst, withBench, withExtras } from "./index.ts";

const labour = { kind: "labour", what: "Labour", quantity: 5, each: 70 } as const;
const seal = { title: "Crankshaft rear seal renewed", parts: [{ name: "Seal", cost: 38 }], minutes: 25 };

describe("extras in an estimate", () => {
  it("add their hands and parts, once however often, and go when they are taken no more", () => {
    const once = withExtras([labour], [seal], 70);
    expect(once.slice(1)).toEqual([
      { kind: "labour", what: "While it is open: Crankshaft rear seal renewed", quantity: 0.42, each: 70 },
      { kind: "part", what: "While it is open: Seal", quantity: 1, each: 38 },
    ]);
    expect(withExtras(once, [seal], 70)).toEqual(once);
    expect(withExtras(once, [], 70)).toEqual([labour]);
  });
});

describe("parts of the bench in an estimate", () => {
  it("are there once however often, and go when they are chosen no more; extras stay", () => {
    const ring = { name: "Ring 2.60 mm, Third clutch", quantity: 2, costEach: 9 };
    const once = withBench(withExtras([labour], [seal], 70), [ring]);
    expect(once.at(-1)).toEqual({ kind: "part", what: "Bench: Ring 2.60 mm, Third clutch", quantity: 2, each: 9 });
    expect(withBench(once, [ring])).toEqual(once);
    expect(withBench(once, [])).toEqual(withExtras([labour], [seal], 70));
  });
});

describe("estimate against actual", () => {
  let seq = 0;
  const entry = <K extends EntryKind>(kind: K, body: EntryBodies[K]) => madeEntry(++seq, kind, body);
  const decision = entry("decision", {
    ...{
      repairId: "fluid",
      title: "",
      reason: "",
      expectedCost: 0,
      cures: 0.5,
      modelVersion: 1,
      odds: [],
      levelKnown: true,
    },
  });
  const estimate = entry("estimate", {
    optionId: "fluid",
    title: "",
    lines: [labour, { kind: "part", what: "Filter", quantity: 2, each: 30 }],
    taxPercent: 20,
    validDays: 30,
    note: "",
  });
  const step = (n: number, minutes: number | null) =>
    entry("step", { step: `p/${n}`, title: "", minutes, values: [], trouble: [], note: "", overridden: "" });
  const work = entry("work", { text: "", minutes: 90, parts: [{ name: "Filter", quantity: 1, cost: 33 }] });
  const against = (...list: ReturnType<typeof entry>[]) => estimateAgainst(foldJob(list as never));
  it("needs both, and counts hours once where the work was written from the steps", () => {
    expect(against(decision, step(1, 60))).toBeUndefined();
    expect(against(decision, estimate)).toBeUndefined();
    expect(against(decision, estimate, step(1, 60), step(2, null))).toEqual({
      estimatedH: 5,
      takenH: 1,
      estimatedParts: 60,
      usedParts: 0,
    });
    expect(against(decision, estimate, step(1, 60), work)).toMatchObject({ takenH: 1.5, usedParts: 33 });
  });
});
