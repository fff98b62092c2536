// Guards: the customer's word holds for the option and the price it was given on, just up to half a unit of money; papers say so.
import { describe, expect, it } from "@jest/globals";
import { type EntryBodies, foldJob } from "../job/index.ts";
import { BODY, madeTimeline } from "../testing/index.ts";
import { approvalLines, approvalNow } from "./approval.ts";

const LINE = { kind: "labour", what: "Labour", quantity: 10, each: 60 } as const;
const estimate = (each = 60): EntryBodies["estimate"] => ({
  optionId: "rebuild:TC",
  title: "Rebuild TC",
  lines: [{ ...LINE, each }],
  taxPercent: 20,
  validDays: 30,
  note: "",
});
const word: EntryBodies["approval"] = {
  optionId: "rebuild:TC",
  title: "Rebuild TC",
  net: 600,
  withTax: 720,
  by: "Skerrow Library",
  how: "signed",
  signature: [[0, 0, 10, 10]],
  deposit: 200,
  terms: "Twelve months.",
  note: "Not before Friday.",
};
const decision: EntryBodies["decision"] = { ...BODY.decision, repairId: "rebuild:TC", source: undefined };

function now(write: (t: ReturnType<typeof madeTimeline>) => void) {
  const t = madeTimeline();
  t.write("decision", decision);
  t.write("estimate", estimate());
  write(t);
  return approvalNow(foldJob(t.entries));
}

it("is nothing before somebody agreed, and none once nothing is decided", () => {
  expect(now(() => undefined)).toBeUndefined();
  const t = madeTimeline();
  t.write("approval", word);
  expect(approvalNow(foldJob(t.entries))).toBeUndefined();
});

describe("the word", () => {
  it.each([
    [60, undefined],
    [60.05, undefined],
    [60.06, "price"],
    [59.94, "price"],
  ])("with ten hours at %s has moved: %s", (each, moved) => {
    const n = now((t) => {
      t.write("approval", word);
      t.write("estimate", estimate(each));
    });
    expect(n?.moved?.what).toBe(moved);
  });
  it("does not hold for another option, nor for the same part from elsewhere", () => {
    for (const other of [
      { ...decision, repairId: "exchange" },
      { ...decision, source: "used" },
    ]) {
      const n = now((t) => {
        t.write("approval", word);
        t.write("decision", other);
      });
      expect(n?.moved).toEqual({ what: "option" });
    }
  });
  it("that is given anew counts", () => {
    const n = now((t) => {
      t.write("approval", word);
      t.write("estimate", estimate(70));
      t.write("approval", { ...word, net: 700, withTax: 840, how: "told", signature: [] });
    });
    expect(n).toMatchObject({ moved: undefined, approval: { body: { net: 700 } } });
  });
});

it("papers say who agreed to what, what was paid, and that the price has moved since", () => {
  const n = now((t) => {
    t.write("approval", word);
    t.write("estimate", estimate(70));
  });
  if (!n) throw new Error("no word");
  expect(approvalLines(n, "EUR").join(" | ")).toMatch(
    /^Skerrow Library signed on \d{4}-\d\d-\d\d: Rebuild TC, 600\.00 EUR, with tax 720\.00 EUR\. \| Paid beforehand: 200\.00 EUR\. \| Offered now: 700\.00 EUR without tax; not agreed to yet\. \| Terms: Twelve months\. \| Not before Friday\.$/,
  );
});
