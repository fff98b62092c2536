// Guards: the customer's sheet — its sums are those of hours, rate and part; what is not known or not decided is not promised.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { foldJob } from "../job/index.ts";
import { generateRepairs, priceOf, type Repair } from "../suspect/index.ts";
import { BODY, madeTimeline } from "../testing/index.ts";
import { libraryKnowledge, libraryUnit } from "../testing/units.ts";
import { buildEstimate, type EstimateInput } from "./index.ts";

const unit = libraryUnit("brae-p6");
const knowledge = libraryKnowledge();
const repairs = generateRepairs(unit, knowledge);
const offer = (
  repair: Repair,
  more: { source?: string; rate?: number; typed?: NonNullable<EstimateInput["offer"]>["typed"] } = {},
): EstimateInput["offer"] => ({
  repair,
  price: priceOf(
    unit,
    knowledge,
    repair,
    repair.sources?.find((s) => s.id === more.source),
    0,
    { hourlyRate: more.rate ?? 72 },
  ),
  typed: more.typed,
});
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
    offer: offer(sourced),
    terms: "",
    approval: undefined,
    others: [],
    standingCaution: "Follow the maker's instructions.",
    ...patch,
  });
}
const section = (made: ReturnType<typeof estimate>, id: string) => made.sections.find((s) => s.id === id);
const euros = (cell: string | undefined) => Number(cell?.replace("EUR ", ""));

const amount = (rows: readonly (readonly string[])[], what: string) =>
  euros(rows.find((r) => r[0]?.startsWith(what))?.[3]);

describe("the price", () => {
  it("is labour at the likely hours, the part from where it was chosen, fluid and filter: the lines sum to it", () => {
    for (const source of sourced.sources ?? []) {
      const made = estimate({
        decision: { ...decided, source: source.id },
        offer: offer(sourced, { source: source.id }),
      });
      const rows = section(made, "price")?.table?.rows ?? [];
      expect(amount(rows, source.title)).toBe(source.partsCost);
      expect(amount(rows, "Labour")).toBeCloseTo(sourced.hours[1] * 72, 2);
      const price = amount(rows, "Price");
      const lines = rows.slice(
        0,
        rows.findIndex((r) => r[0] === "Price"),
      );
      expect(lines.reduce((s, r) => s + euros(r[3]), 0)).toBeCloseTo(price, 2);
      const [low, high] = (/Between EUR (\d+) and EUR (\d+)/.exec(section(made, "price")?.paragraphs[0] ?? "") ?? [])
        .slice(1)
        .map(Number) as [number, number];
      expect(low).toBeLessThan(price);
      expect(high).toBeGreaterThan(price);
    }
  });
  it("grows with the rate by the hours, whatever the repair", () => {
    fc.assert(
      fc.property(fc.constantFrom(...repairs), fc.integer({ min: 20, max: 150 }), (repair, rate) => {
        const at = (r: number) =>
          amount(section(estimate({ offer: offer(repair, { rate: r }) }), "price")?.table?.rows ?? [], "Price");
        expect(at(rate + 10) - at(rate)).toBeCloseTo(10 * repair.hours[1], 1);
      }),
      { numRuns: 60 },
    );
  });
  it("is what the shop typed, with tax and note, where it did", () => {
    const typed = {
      optionId: "x",
      title: "x",
      lines: [
        { kind: "labour", what: "Labour", quantity: 5, each: 80 },
        { kind: "other", what: "Courier", quantity: 1, each: 45.5 },
      ],
      taxPercent: 20,
      validDays: 14,
      note: "Come on a Tuesday.",
    } as const;
    const made = section(estimate({ offer: offer(sourced, { typed }) }), "price");
    const rows = made?.table?.rows ?? [];
    expect([amount(rows, "Price"), amount(rows, "Tax 20 %"), amount(rows, "Together")]).toEqual([445.5, 89.1, 534.6]);
    expect(made?.paragraphs).toContain("Come on a Tuesday.");
  });
  it("a pack job brings its fluid and filter; a wire does not", () => {
    const rows = (id: string) => {
      const repair = repairs.find((r) => r.id === id) as Repair;
      return (section(estimate({ offer: offer(repair) }), "price")?.table?.rows ?? []).map((r) => r[0]).join();
    };
    expect(rows("rebuild:HC")).toMatch(/Fluid: .*Filter/);
    expect(rows("solenoid:sol_HC")).toMatch(/Fluid: .*Filter/);
    expect(rows("harness:net_output")).not.toMatch(/Fluid|Filter/);
  });
  it("without a choice of sources names parts and material, and promises neither day nor warranty", () => {
    const made = estimate({ offer: offer(plain), decision: { ...decided, repairId: plain.id } });
    expect(section(made, "time")).toBeUndefined();
  });
  it("there isn't one when the vehicle is left as it is", () => {
    const made = estimate({ offer: undefined });
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
    const others = section(estimate({ others: [{ title: "Exchange", price: 3100, cures: 0.97 }] }), "others");
    expect(others?.table?.rows).toEqual([["Exchange", "EUR 3100", "very likely (97 of 100)"]]);
    expect(section(estimate(), "holds")?.paragraphs[0]).toContain("holds until 26 Dec 2026");
    expect(estimate().caution).toBe("Follow the maker's instructions.");
  });
});

it("bears the shop’s terms and, once the customer agreed to this price, the signature instead of a line to sign on", () => {
  const { entries, write } = madeTimeline();
  write("approval", {
    optionId: "x",
    title: "Rebuild",
    net: 600,
    withTax: 720,
    by: "Skerrow Library",
    how: "signed",
    signature: [[1, 2, 3, 4]],
    deposit: null,
    terms: "",
    note: "",
  });
  const approval = foldJob(entries).approval as NonNullable<EstimateInput["approval"]>["approval"];
  const section = (r: ReturnType<typeof estimate>, id: string) => r.sections.find((s) => s.id === id);
  const agreed = estimate({ terms: "Twelve months.", approval: { approval, moved: undefined } });
  expect(section(agreed, "terms")?.paragraphs).toEqual(["Twelve months."]);
  expect(section(agreed, "approval")?.signature).toEqual([[1, 2, 3, 4]]);
  expect(section(agreed, "holds")?.paragraphs.join()).not.toMatch(/____/);
  for (const a of [undefined, { approval, moved: { what: "option" } as const }]) {
    expect(section(estimate({ approval: a }), "approval")).toBeUndefined();
    expect(section(estimate({ approval: a }), "holds")?.paragraphs.join()).toMatch(/Agreed: ____/);
  }
});
