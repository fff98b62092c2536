import { readFileSync } from "node:fs";
import { believe, Planner, SuspectModel } from "@gearsense/core/suspect";

const j = (p) => JSON.parse(readFileSync(`library/${p}`, "utf8"));
const faults = j("knowledge/faults.json"),
  repairs = j("knowledge/repairs.json"),
  checks = j("knowledge/checks.json");
const k = {
  faults: faults.classes,
  unknown: faults.unknown,
  nothing: faults.nothing,
  several: faults.several,
  access: checks.access,
  evidence: j("knowledge/evidence.json").tables,
  checks: checks.checks,
  rungs: j("knowledge/observations.json").rungs,
  repairs: repairs.repairs,
  comebackCost: repairs.comebackCost,
};
const model = new SuspectModel(j("units/crag-t10.unit.json"), k);
const g = (x, o) => ({
  id: x,
  table: "gear",
  subject: { gear: x },
  outcome: o,
  label: "",
  entryId: "x",
  abnormal: o === "slips",
});
const ev = [
  g("8", "slips"),
  g("9", "slips"),
  { id: "s", table: "symptom", subject: {}, outcome: "slip", label: "", entryId: "y", abnormal: true },
];
const planner = new Planner(model, { hourlyRate: 72 });
const b = believe(model, ev);
for (let i = 0; i < 12; i++) {
  const t = performance.now();
  planner.advise(b);
  console.log((performance.now() - t).toFixed(0));
}
