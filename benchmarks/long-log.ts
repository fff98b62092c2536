import { readFileSync } from "node:fs";
import type { Unit } from "@gearsense/core/unit";
import { PLAIN_STYLE, simulateDrive, writeLog } from "@gearsense/simulator";

export const unit = JSON.parse(
  readFileSync(new URL("../library/units/brae-p6.unit.json", import.meta.url), "utf8"),
) as Unit;

/** The log that speed is measured on: 30 minutes, 20 rows a second, 20 channels. */
export function longLog(): { text: string; channels: number; rows: number } {
  const { columns } = simulateDrive({
    unit,
    seed: 5,
    rateHz: 20,
    durationS: 1800,
    profile: "mixed",
    startFluidC: 40,
    faults: [{ kind: "element-worn", component: "HC" }],
  });
  // the twentieth channel
  const wide = new Map([...columns, ["gear_reported", columns.get("gear_commanded") as Float64Array] as const]);
  return { text: writeLog(wide, PLAIN_STYLE), channels: wide.size, rows: columns.get("time_s")?.length ?? 0 };
}
