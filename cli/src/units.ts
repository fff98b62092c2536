import { readdirSync, readFileSync } from "node:fs";
import { basename } from "node:path";
import { WrittenUnitFile } from "@gearsense/contract";
import { checkUnit, gearStates, type Unit } from "@gearsense/core/unit";
import { UsageError } from "./usage-error.ts";

const FOLDER = new URL("../../library/units/", import.meta.url);

/** A unit from its file. @throws UsageError with every place that is wrong */
export function readUnit(path: string | URL, separator = "; "): Unit {
  const name = basename(typeof path === "string" ? path : path.pathname);
  let json: unknown;
  try {
    json = JSON.parse(readFileSync(path, "utf8"));
  } catch (error) {
    throw new UsageError(`${name} is not a readable unit file: ${error instanceof Error ? error.message : error}`);
  }
  const parsed = WrittenUnitFile.safeParse(json);
  if (!parsed.success) {
    throw new UsageError(parsed.error.issues.map((i) => `${name}: ${i.path.join(".")}: ${i.message}`).join(separator));
  }
  const problems = checkUnit(parsed.data);
  if (problems.length > 0) throw new UsageError(problems.map((p) => `${name}: ${p.path}: ${p.reason}`).join(separator));
  return parsed.data;
}

/** What the gear train of a unit gives, for a person. */
export function describeUnit(unit: Unit): string {
  const lines = [`${unit.name} (${unit.id}, version ${unit.version}) is consistent.`];
  const states = gearStates(unit);
  if (!states)
    lines.push("It has ratios only: can’t work out what a stuck element gives or how hard each element works.");
  for (const g of unit.gears) {
    const shares = states?.find((s) => s.gear === g.name)?.shares?.elements ?? [];
    const worked = [...shares].map(([id, share]) => `${id} ${Math.abs(share ?? Number.NaN).toFixed(2)}`).join(", ");
    lines.push(
      `  gear ${g.name.padStart(2)}  ratio ${g.ratio.toFixed(4).padStart(8)}${worked ? `  torque shares ${worked}` : ""}`,
    );
  }
  return lines.join("\n");
}

/** All units of the library. */
export function libraryUnits(): Unit[] {
  return readdirSync(FOLDER)
    .filter((f) => f.endsWith(".unit.json"))
    .sort()
    .map((f) => readUnit(new URL(f, FOLDER)));
}

/** A unit by its id in the library, or from a unit file. @throws UsageError naming the units there are */
export function unitFor(name: string): Unit {
  const units = libraryUnits();
  const known = units.find((u) => u.id === name);
  if (known) return known;
  if (name.endsWith(".json")) return readUnit(name);
  throw new UsageError(
    `The library doesn’t have a unit "${name}". It has: ${units.map((u) => u.id).join(", ")}. A path to a unit file works too.`,
  );
}
