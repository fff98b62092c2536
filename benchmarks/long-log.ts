import { readFileSync } from "node:fs";
import type { Unit } from "@gearsense/core/unit";
import { DIALECTS, type DialectName, simulateDrive, writeLog } from "@gearsense/simulator";

export const unit = JSON.parse(
  readFileSync(new URL("../library/units/brae-p6.unit.json", import.meta.url), "utf8"),
) as Unit;

/** The log that speed is measured on: so many minutes at 20 rows a second; what the unit lacks of the channels is filled up. */
export function longLog(
  minutes: number,
  channels: number,
  dialect: DialectName = "plain",
): { text: string; channels: number; rows: number } {
  const { columns } = simulateDrive({
    unit,
    seed: 5,
    rateHz: 20,
    durationS: minutes * 60,
    profile: "mixed",
    startFluidC: 40,
    faults: [{ kind: "element-worn", component: "TC" }],
  });
  const wide = new Map(columns);
  const rows = columns.get("time_s")?.length ?? 0;
  wide.set("gear_reported", columns.get("gear_commanded") as Float64Array);
  for (let k = 0; wide.size < channels; k++)
    wide.set(
      `adapt_fill_${k}`,
      Float64Array.from({ length: rows }, (_, i) => 110 + (k % 7) + Math.round(Math.sin(i / 900 + k) * 40) / 10),
    );
  return { text: writeLog(wide, DIALECTS[dialect]), channels: wide.size, rows };
}
