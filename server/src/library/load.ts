import { readdirSync, readFileSync } from "node:fs";
import { parseKnowledge, UnitFile } from "@gearsense/contract";
import { checkKnowledge, type Knowledge } from "@gearsense/core/suspect";
import { checkUnit, type Unit } from "@gearsense/core/unit";

export interface Library {
  readonly units: readonly Unit[];
  readonly knowledge: Knowledge;
  unit(id: string): Unit | undefined;
}

const FOLDER = new URL("../../../library/", import.meta.url);
const json = (path: string): unknown => JSON.parse(readFileSync(new URL(path, FOLDER), "utf8"));

/**
 * Reads unit files and diagnostic knowledge, and refuses to start with a faulty one.
 * @throws Error naming file, place and reason
 */
export function loadLibrary(): Library {
  const units = readdirSync(new URL("units/", FOLDER))
    .filter((f) => f.endsWith(".unit.json"))
    .sort()
    .map((file) => {
      const unit = UnitFile.parse(json(`units/${file}`));
      const problems = checkUnit(unit);
      if (problems.length > 0) throw new Error(`${file}: ${problems.map((p) => `${p.path}: ${p.reason}`).join("; ")}`);
      return unit;
    });
  const knowledge = parseKnowledge({
    faults: json("knowledge/faults.json"),
    evidence: json("knowledge/evidence.json"),
    checks: json("knowledge/checks.json"),
    observations: json("knowledge/observations.json"),
    debris: json("knowledge/debris.json"),
    repairs: json("knowledge/repairs.json"),
    cautions: json("knowledge/cautions.json"),
  });
  const problems = checkKnowledge(knowledge);
  if (problems.length > 0) throw new Error(`library/knowledge: ${problems.join("; ")}`);
  return { units, knowledge, unit: (id) => units.find((u) => u.id === id) };
}
