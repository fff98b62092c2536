/**
 * Writes the usual times of sound units into the library's unit files: medians over simulated vehicles with nothing wrong,
 * driven and read like those of the examiner's tuning set. Run it after the simulator or the measures of a shift change:
 *   npm run usual-times [-- unit-id …]
 */
import { readFileSync, writeFileSync } from "node:fs";
import { usualTimes } from "@gearsense/core/drive";

import type { Usual } from "@gearsense/core/unit";
import { drawSound, driveVehicle } from "@gearsense/evaluation";
import { libraryKnowledge } from "../cli/src/knowledge.ts";
import { libraryUnits } from "../cli/src/units.ts";

const SEED = 31;
const VEHICLES = 12;
/** What fewer shifts show is chance. */
const LEAST_SHIFTS = 20;
const FILES = new URL("../library/units/", import.meta.url);

/** The unit file with its usual times, beside the limits: the rest of it stays as it was written. */
function withUsual(file: string, usual: Usual, version: number): string {
  const text = JSON.stringify(usual, null, 2).replaceAll("\n", "\n  ");
  const [without, after] = [file.replace(/\n {2}"usual": \{[\s\S]*?\n {2}\},(?=\n)/, ""), '\n  "fluid": {'];
  if (without.split(after).length !== 2) throw new Error("the unit file has no one place for its usual times");
  return without.replace(after, `\n  "usual": ${text},${after}`).replace(/"version": \d+/, `"version": ${version}`);
}

const units = libraryUnits();
const knowledge = libraryKnowledge();
const wanted = process.argv.slice(2);
for (const unit of units.filter((u) => wanted.length === 0 || wanted.includes(u.id))) {
  const logs = Array.from({ length: VEHICLES }, (_, n) =>
    driveVehicle(drawSound(SEED, n, unit, knowledge), unit, units),
  )
    .flatMap((v) => v.analyses)
    .map((analysis, i) => ({ logId: `log-${i}`, entryId: `log-${i}`, analysis }));
  const path = new URL(`${unit.id}.unit.json`, FILES);
  const usual = usualTimes(logs, LEAST_SHIFTS);
  if (JSON.stringify(unit.usual) === JSON.stringify(usual)) continue;
  writeFileSync(path, withUsual(readFileSync(path, "utf8"), usual, unit.version + 1));
  console.log(`${unit.id}: ${Object.keys(usual.shifts ?? {}).length} shifts of ${VEHICLES} sound vehicles`);
}
