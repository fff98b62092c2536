import { readFileSync } from "node:fs";

const LIBRARY = new URL("../../../library/", import.meta.url);
const json = (path) => JSON.parse(readFileSync(new URL(path, LIBRARY), "utf8"));
/** A unit of the library, for tests. */
export const libraryUnit = (id) => json(`units/${id}.unit.json`);
/** The diagnostic knowledge of the library, for tests. */
export function libraryKnowledge() {
  const faults = json("knowledge/faults.json");
  const repairs = json("knowledge/repairs.json");
  const cautions = json("knowledge/cautions.json");
  return {
    version: faults.version,
    faults: faults.classes,
    unknown: faults.unknown,
    nothing: faults.nothing,
    several: faults.several,
    access: json("knowledge/checks.json").access,
    evidence: json("knowledge/evidence.json").tables,
    checks: json("knowledge/checks.json").checks,
    rungs: json("knowledge/observations.json").rungs,
    debris: json("knowledge/debris.json"),
    repairs: repairs.repairs,
    comebackCost: repairs.comebackCost,
    cautions: cautions.cautions,
    standingCaution: cautions.standing,
  };
}
