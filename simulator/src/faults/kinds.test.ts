// Guards: kinds of faults, from the elements to the converter: each shows what a technician knows it by. Second half: kinds-rest.test.ts.
import { describe, expect, it } from "@jest/globals";
import { expectSymptoms, FAULT_CASES } from "../testing/fault-cases.ts";
import { load } from "../testing/units.ts";
import { FAULT_KINDS } from "./catalogue.ts";
import { componentsFor, faultKind, faultKindsFor } from "./kinds.ts";

it("has a case for every kind, and at least forty kinds", () => {
  expect(Object.keys(FAULT_CASES).sort()).toEqual(FAULT_KINDS.map((k) => k.id).sort());
  expect(FAULT_KINDS.length).toBeGreaterThanOrEqual(40);
});

it("offers a unit only what it has parts for", () => {
  const ids = (unit: string) => faultKindsFor(load(unit)).map((k) => k.id);
  expect(ids("tarn-f4")).toContain("one-way-slips");
  expect(ids("brae-p6")).not.toContain("one-way-slips");
  expect(ids("corran-w7")).not.toContain("converter-worn");
  expect(componentsFor(load("corran-w7"), faultKind("dual-clutch-worn"))).toEqual(["K1", "K2"]);
  expect(() => faultKind("gremlins")).toThrow(/no fault "gremlins".*element-worn/);
});

const all = FAULT_KINDS.map((k) => [k.id, k.symptom] as const);
describe.each(
  all.slice(
    0,
    all.findIndex(([id]) => id === "fluid-low"),
  ),
)("%s", (kind, symptom) => {
  it(symptom, () => expectSymptoms(kind));
});
