// Guards: the customer's sheet — its sums are those of hours, rate and part; what is not known or not decided is not promised.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { foldJob } from "../job/index.ts";
import { generateRepairs, type Repair } from "../suspect/index.ts";
import { BODY, madeTimeline } from "../testing/index.ts";
import { libraryKnowledge, libraryUnit } from "../testing/units.ts";
import { buildEstimate, type EstimateInput } from "./index.ts";

const repairs = generateRepairs(libraryUnit("brae-p6"), libraryKnowledge());
const sourced = repairs.find((r) => (r.sources?.length ?? 0) > 1) as Repair;
const plain = repairs.find((r) => !r.sources) as Repair;
const decided: EstimateInput["decision"] = {
  repairId: sourced.id,
  title: sourced.title,
  reason: "it costs least in the end",
  expectedCost: 1234.4,
  cures: 0.84,
  modelVersion: 1,
  odds: [
    { title: "High clutch worn", probability: 0.84 },
    { title: "Its solenoid leaks", probability: 0.1 },
    { title: "Line pressure low", probability: 0.004 },
  ],
  levelKnown: true,
};
function estimate(patch: Partial<EstimateInput> = {}) {
  const { entries, write } = madeTimeline();
  write("intake", { ...BODY.intake, complaint: "it slips in fourth" });
  return buildEstimate({
    shopName: "Harbour Road",
    currency: "EUR",
    hourlyRate: 72,
    jobNumber: "0430",
    madeOn: "26 Nov 2026",
    validUntil: "26 Dec 2026",
    vehicle: { name: "Library van", plate: "SK 1 001", owner: "Skerrow Library" },
    odometer: "100 000 km",
    state: foldJob(entries),
    decision: decided,
    repair: sourced,
    others: [],
    standingCaution: "Follow the maker's instructions.",
    ...patch,
  });
}
const section = (made: ReturnType<typeof estimate>, id: string) => made.sections.find((s) => s.id === id);
const euros = (cell: string | undefined) => Number(cell?.replace("EUR ", ""));

describe("the price", () => {
  it("is labour at the likely hours and the part from where it was chosen, and lies between best and worst", () => {
    for (const source of sourced.sources ?? []) {
      const rows = section(estimate({ decision: { ...decided, source: source.id } }), "price")?.table?.rows ?? [];
      const [likely, best, worst] = (rows.at(-1) ?? []).slice(1).map(euros) as [number, number, number];
      expect(rows[1]?.[0]).toContain(source.title);
      expect(likely).toBe(Math.round(sourced.hours[1] * 72 + source.partsCost));
      expect(best).toBeLessThanOrEqual(likely);
      expect(worst).toBeGreaterThanOrEqual(likely);
    }
  });
  it("grows with the rate by the hours, whatever the repair", () => {
    fc.assert(
      fc.property(fc.constantFrom(...repairs), fc.integer({ min: 20, max: 150 }), (repair, hourlyRate) => {
        const of = (rate: number) =>
          (section(estimate({ repair, hourlyRate: rate }), "price")?.table?.rows.at(-1) ?? []).slice(1).map(euros);
        const [cheap, dear] = [of(hourlyRate), of(hourlyRate + 10)];
        // the columns are likely, best, worst; sums are rounded to whole money
        [1, 0, 2].forEach((h, column) => {
          const more = (dear[column] as number) - (cheap[column] as number);
          expect(Math.abs(more - 10 * (repair.hours[h as 0 | 1 | 2] as number))).toBeLessThanOrEqual(1);
        });
      }),
      { numRuns: 60 },
    );
  });
  it("without a choice of sources names parts and material, and promises neither day nor warranty", () => {
    const made = estimate({ repair: plain, decision: { ...decided, repairId: plain.id } });
    expect(section(made, "price")?.table?.rows[1]?.[0]).toBe("Parts and material");
    expect(section(made, "time")).toBeUndefined();
  });
  it("there isn't one when the vehicle is left as it is", () => {
    const made = estimate({ repair: undefined });
    expect(section(made, "price")).toBeUndefined();
    expect(section(made, "proposed")).toBeDefined();
  });
});

describe("the words", () => {
  it.each([
    [0.95, "very likely"],
    [0.75, "likely"],
    [0.5, "about as likely as not"],
    [0.2, "not likely"],
  ])("a cure of %d is %s", (cures, word) => {
    const text = section(estimate({ decision: { ...decided, cures } }), "proposed")?.paragraphs.join(" ");
    expect(text).toContain(`It is ${word} that this cures it (${Math.round(cures * 100)} of 100)`);
  });
  it("names what else it may be, but not what is hardly possible", () => {
    const text = section(estimate(), "found")?.paragraphs.join(" ");
    expect(text).toContain("Its solenoid leaks (10 of 100)");
    expect(text).not.toContain("Line pressure low");
  });
  it("says that the level was not recorded, when it was not", () => {
    const of = (levelKnown: boolean) =>
      section(estimate({ decision: { ...decided, levelKnown } }), "found")?.paragraphs.join(" ") ?? "";
    expect(of(false)).toContain("level was not recorded");
    expect(of(true)).not.toContain("level was not recorded");
  });
  it("tells the spread where it was drawn, the mean where it was not", () => {
    const text = (spread?: [number, number, number]) =>
      section(estimate({ decision: { ...decided, spread } }), "if-not")?.paragraphs.join(" ");
    expect(text()).toContain("EUR 1234 on average");
    expect(text([900, 1100, 2200])).toMatch(/under EUR 1100 in half .* under EUR 2200 in nine of ten/);
  });
  it("lists other ways only when there were some, and always says how long it holds and the caution", () => {
    expect(section(estimate(), "others")).toBeUndefined();
    const others = section(estimate({ others: [{ title: "Exchange", cost: 3100, cures: 0.97 }] }), "others");
    expect(others?.table?.rows).toEqual([["Exchange", "EUR 3100", "97 of 100"]]);
    expect(section(estimate(), "holds")?.paragraphs[0]).toContain("holds until 26 Dec 2026");
    expect(estimate().caution).toBe("Follow the maker's instructions.");
  });
});
