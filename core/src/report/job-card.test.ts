// Guards: the paper holds every step once, its cautions and holds, and each part, bolt and litre that is needed.
import { describe, expect, it } from "@jest/globals";
import { planTo, suggestedOrder } from "../procedure/index.ts";
import { PROCEDURES, unitOf } from "../procedure/testing/library.ts";
import { jobCard, partsList } from "./index.ts";

const unit = unitOf("brae-p6");
const plan = planTo(PROCEDURES, unit, ["converter"]);
const order = suggestedOrder(plan.steps).steps;
const card = (done: ReadonlySet<string> = new Set()) =>
  jobCard({
    jobNumber: "0428",
    vehicle: { name: "Island bus", plate: "SK 1" },
    unit,
    decided: "Converter",
    plan,
    order,
    done,
    system: "metric",
    cautions: { "under-vehicle": "STANDS" },
    standingCaution: "MAKER",
  });

describe("job card", () => {
  const rows = (c = card()) => c.sections.filter((s) => s.id !== "parts").flatMap((s) => s.table?.rows ?? []);
  it("has every step once, numbered in the order, ticked when done", () => {
    expect(rows()).toHaveLength(plan.steps.length);
    expect(rows().map((r) => r[1]?.split(".")[0])).toEqual(order.map((_, i) => String(i + 1)));
    const first = order[0]?.key as string;
    expect(rows(card(new Set([first]))).filter((r) => r[0] === "×")).toHaveLength(1);
  });
  it("has the caution before the steps beneath the vehicle, holds, limits and torques", () => {
    const c = card();
    const under = c.sections.filter((s) => s.title.startsWith("Under"));
    expect(under.length).toBeGreaterThan(0);
    expect(under.every((s) => s.paragraphs.includes("STANDS"))).toBe(true);
    const text = JSON.stringify(rows(c));
    expect(text).toMatch(/HOLD: .*clear.* is called/);
    expect(text).toMatch(/Fluid before the drain \(at most 60/);
    expect(text).toMatch(/6 × M10 × 1.25 × 16: 55/);
    expect(c.caution).toBe("MAKER");
  });
});

describe("parts list", () => {
  it("has each part once with its count, one-time bolts of what goes back, and fluid with a reserve", () => {
    const list = partsList(unit, plan);
    expect(new Set(list.map((l) => `${l.kind} ${l.name}`)).size).toBe(list.length);
    expect(list.find((l) => l.kind === "bolt")).toMatchObject({
      quantity: 6,
      alwaysNew: true,
      name: "Converter bolt M10 × 1.25 × 16",
    });
    expect(list[0]).toMatchObject({
      kind: "fluid",
      name: unit.fluid.spec,
      unit: "l",
      quantity: Math.ceil(unit.fluid.totalL * 1.15),
    });
  });
  it("of a drain alone asks for what the pan holds", () => {
    const drain = partsList(unit, planTo(PROCEDURES, unit, ["pan-and-filter"]));
    expect(drain[0]).toMatchObject({ kind: "fluid", quantity: Math.ceil(unit.fluid.panDrainL * 1.15) });
    expect(drain.some((l) => l.kind === "bolt")).toBe(false);
  });
  it("knows the price of what the library prices", () => {
    const priced = partsList(
      unit,
      planTo(PROCEDURES, unit, ["converter", "extra-rear-seal"]),
      new Map([["Crankshaft rear seal", 38]]),
    );
    expect(priced.find((l) => l.name === "Crankshaft rear seal")?.each).toBe(38);
  });
});
