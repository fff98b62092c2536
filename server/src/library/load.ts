import { readdirSync, readFileSync } from "node:fs";
import { MishapsFile, ProcedureFile, parseKnowledge, UnitFile } from "@gearsense/contract";
import { checkProcedures, type Mishap, type Procedure } from "@gearsense/core/procedure";
import { checkKnowledge, type Knowledge } from "@gearsense/core/suspect";
import { checkUnit, type Unit } from "@gearsense/core/unit";

export interface Library {
  readonly units: readonly Unit[];
  readonly knowledge: Knowledge;
  readonly procedures: readonly Procedure[];
  readonly mishaps: readonly Mishap[];
  unit(id: string): Unit | undefined;
}

const FOLDER = new URL("../../../library/", import.meta.url);
const json = (path: string): unknown => JSON.parse(readFileSync(new URL(path, FOLDER), "utf8"));

/**
 * Reads unit files, diagnostic knowledge and procedures, and refuses to start with a faulty one.
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
    bench: json("knowledge/bench.json"),
    repairs: json("knowledge/repairs.json"),
    cautions: json("knowledge/cautions.json"),
  });
  const problems = checkKnowledge(knowledge);
  if (problems.length > 0) throw new Error(`library/knowledge: ${problems.join("; ")}`);
  const procedures = readdirSync(new URL("procedures/", FOLDER))
    .filter((f) => f.endsWith(".procedure.json"))
    .sort()
    .map((file): Procedure => ProcedureFile.parse(json(`procedures/${file}`)));
  const { mishaps } = MishapsFile.parse(json("procedures/mishaps.json"));
  const wrong = checkProcedures(procedures, units, { ...knowledge, mishaps: mishaps.map((m) => m.name) });
  if (wrong.length > 0)
    throw new Error(`library/procedures: ${wrong.map((p) => `${p.place}: ${p.reason}`).join("; ")}`);
  return { units, knowledge, procedures, mishaps, unit: (id) => units.find((u) => u.id === id) };
}
