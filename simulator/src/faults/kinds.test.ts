// Guards: kinds of faults, from the elements to the converter: each shows what a technician knows it by. Second half: kinds-rest.test.ts.
import { describe, expect, it } from "@jest/globals";
import { simulateDrive } from "../record.ts";
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
  expect(() => faultKind("gremlins")).toThrow(/"gremlins" isn’t a fault.*element-worn/);
});

it("a wet connector of solenoids stores the codes of several that hang on it, and of no other", () => {
  const unit = load("crag-t10");
  const [net] = unit.nets.filter((n) => n.kind === "supply" && n.connects.every((x) => x.startsWith("sol_")));
  const { truth } = simulateDrive({
    unit,
    seed: 4,
    durationS: 120,
    profile: "mixed",
    faults: [{ kind: "connector-wet", component: net?.id ?? "", severity: 0.8 }],
  });
  const named = truth.codes.map((c) => unit.codes.find((x) => x.code === c.code)?.components ?? []);
  const circuits = named.filter((c) => c.some((x) => x.startsWith("sol_")));
  expect(circuits.length).toBeGreaterThan(1);
  for (const c of circuits) expect(c.some((x) => net?.connects.includes(x))).toBe(true);
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
