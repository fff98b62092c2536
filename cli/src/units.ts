import { readdirSync, readFileSync } from "node:fs";
import { basename } from "node:path";
import { UnitFile } from "@gearsense/contract";
import { checkUnit, type Unit } from "@gearsense/core/unit";
import { UsageError } from "./usage-error.ts";

const FOLDER = new URL("../../library/units/", import.meta.url);

function readUnit(path: string | URL): Unit {
  const name = basename(typeof path === "string" ? path : path.pathname);
  let json: unknown;
  try {
    json = JSON.parse(readFileSync(path, "utf8"));
  } catch (error) {
    throw new UsageError(`${name} is not a readable unit file: ${error instanceof Error ? error.message : error}`);
  }
  const parsed = UnitFile.safeParse(json);
  if (!parsed.success) {
    const issue = parsed.error.issues[0];
    throw new UsageError(`${name}: ${issue?.path.join(".")}: ${issue?.message}`);
  }
  const problem = checkUnit(parsed.data)[0];
  if (problem) throw new UsageError(`${name}: ${problem.path}: ${problem.reason}`);
  return parsed.data;
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
    `There is no unit "${name}". The library has: ${units.map((u) => u.id).join(", ")}. A path to a unit file works too.`,
  );
}
