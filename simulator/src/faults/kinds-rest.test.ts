// Guards: kinds of faults, from the fluid to the dual clutch: each shows what a technician knows it by.
import { describe, it } from "@jest/globals";
import { expectSymptoms } from "../testing/fault-cases.ts";
import { FAULT_KINDS } from "./catalogue.ts";

const all = FAULT_KINDS.map((k) => [k.id, k.symptom] as const);
describe.each(all.slice(all.findIndex(([id]) => id === "fluid-low")))("%s", (kind, symptom) => {
  it(symptom, () => expectSymptoms(kind));
});
