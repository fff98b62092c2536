import { readdirSync, readFileSync } from "node:fs";
import type { Knowledge } from "@gearsense/core/suspect";
import type { Unit } from "@gearsense/core/unit";

const FOLDER = new URL("../../../library/units/", import.meta.url);
/** All units of the library. */
export const units = readdirSync(FOLDER)
  .filter((f) => f.endsWith(".unit.json"))
  .sort()
  .map((f) => JSON.parse(readFileSync(new URL(f, FOLDER), "utf8")) as Unit);
const KNOWLEDGE = new URL("../../../library/knowledge/", import.meta.url);
const file = (name: string) => JSON.parse(readFileSync(new URL(`${name}.json`, KNOWLEDGE), "utf8"));
const [faults, repairs, cautions, checks] = ["faults", "repairs", "cautions", "checks"].map(file);
export const knowledge: Knowledge = {
  ...faults,
  ...repairs,
  ...checks,
  faults: faults.classes,
  evidence: file("evidence").tables,
  rungs: file("observations").rungs,
  debris: file("debris"),
  cautions: cautions.cautions,
  holds: cautions.holds,
  standingCaution: cautions.standing,
};

export const unitOf = (id: string): Unit => units.find((u) => u.id === id) as Unit;
