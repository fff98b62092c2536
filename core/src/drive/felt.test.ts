// Guards: a road test that was felt and not measured proves by the same power as a log: enough times, as the customer drives it.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { type FeltComplaint, type FeltDrive, feltProofs, feltSentence } from "./felt.ts";

const complaint: FeltComplaint = {
  what: "slips",
  where: ["4"],
  load: "hard",
  temperature: "hot",
  howOften: "sometimes",
};
const drive = (times: number, felt = 0, more: Partial<FeltDrive> = {}): FeltDrive => ({
  where: "4",
  times,
  felt,
  load: "hard",
  temperature: "hot",
  ...more,
});
const verdict = (c: FeltComplaint, ...drives: FeltDrive[]) => feltProofs([c], drives)[0];

describe("a felt proof", () => {
  it("takes as many times as a fault that comes one in three would have shown in with 95 %: eight, not seven", () => {
    // (2/3)^7 = 5.9 %, (2/3)^8 = 3.9 %
    expect(verdict(complaint, drive(8))?.verdict).toBe("gone");
    expect(verdict(complaint, drive(7))).toMatchObject({
      verdict: "not shown yet",
      drive: "1 time more, as the customer drives it",
    });
    expect(verdict(complaint, drive(4), drive(4))?.verdict).toBe("gone");
  });
  it("by the customer's words: always five, often five, once many", () => {
    const least = (howOften: FeltComplaint["howOften"]) =>
      Array.from({ length: 80 }, (_, n) => n).find(
        (n) => verdict({ ...complaint, howOften }, drive(n))?.verdict === "gone",
      );
    expect(least("always")).toBe(5);
    expect(least("often")).toBe(5);
    expect(least(undefined)).toBe(5);
    // 1.5 of 21: 0.93^n is under 5 % from 41 on
    expect(least("once")).toBe(41);
  });
  it("once felt is not gone, however often it was driven", () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 60 }), fc.integer({ min: 1, max: 60 }), (times, felt) => {
        expect(verdict(complaint, drive(Math.max(times, felt), felt))?.verdict).toBe("same");
      }),
    );
  });
  it("another gear, load or temperature is not the complaint's", () => {
    for (const other of [{ where: "5" }, { load: "light" }, { temperature: "cold" }] as const)
      expect(verdict(complaint, drive(30, 0, other))?.verdict).toBe("not exercised");
    expect(verdict({ ...complaint, load: "any", temperature: "any" }, drive(8, 0, { load: "light" }))?.verdict).toBe(
      "gone",
    );
  });
  it("each gear and shift of a complaint is proved by itself, one without any anywhere", () => {
    const both = feltProofs([{ ...complaint, where: ["4", "3-4"] }], [drive(8)]);
    expect(both.map((p) => [p.complaint, p.verdict])).toEqual([
      ["slips, gear 4, hard load, hot", "gone"],
      ["slips, shift 3-4, hard load, hot", "not exercised"],
    ]);
    expect(verdict({ ...complaint, where: [] }, drive(8, 0, { where: "" }))?.verdict).toBe("gone");
  });
  it("says in one sentence what is gone, still felt and not proved, and that it was felt", () => {
    const sentence = feltSentence(feltProofs([{ ...complaint, where: ["4", "5"] }], [drive(9)]));
    expect(sentence).toMatch(/^Felt on a road test, not measured: gone: slips, gear 4/);
    expect(sentence).toMatch(/not proved yet: slips, gear 5/);
    expect(feltSentence([])).toBe("");
  });
});
