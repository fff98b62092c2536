import { readdirSync, readFileSync } from "node:fs";
import type { Knowledge } from "../suspect/index.ts";
import type { Unit } from "../unit/index.ts";

const LIBRARY = new URL("../../../library/", import.meta.url);
const json = (path: string) => JSON.parse(readFileSync(new URL(path, LIBRARY), "utf8"));

/** A unit of the library, for tests. */
export const libraryUnit = (id: string): Unit => json(`units/${id}.unit.json`) as Unit;

/** All units of the library, for tests. */
export const libraryUnits = (): Unit[] =>
  readdirSync(new URL("units/", LIBRARY)).map((f) => libraryUnit(f.replace(".unit.json", "")));

/** The diagnostic knowledge of the library, for tests. */
export function libraryKnowledge(): Knowledge {
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
    instruments: json("knowledge/checks.json").instruments,
    checks: json("knowledge/checks.json").checks,
    rungs: json("knowledge/observations.json").rungs,
    debris: json("knowledge/debris.json"),
    bench: json("knowledge/bench.json"),
    repairs: repairs.repairs,
    fluidPerL: repairs.fluidPerL,
    filterCost: repairs.filterCost,
    comebackCost: repairs.comebackCost,
    secondLookCost: repairs.secondLookCost,
    workmanshipFailure: repairs.workmanshipFailure,
    cautions: cautions.cautions,
    holds: cautions.holds,
    standingCaution: cautions.standing,
  };
}
