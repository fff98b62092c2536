import { writeFileSync } from "node:fs";
import {
  PLAIN_STYLE,
  PROFILES,
  type ProfileName,
  type SimulatedFault,
  simulateDrive,
  writeLog,
} from "@gearsense/simulator";
import { unitFor } from "./units.ts";
import { UsageError } from "./usage-error.ts";

/** Ready-made faults by name, for units that have the part. */
const FAULTS: Readonly<Record<string, (unitId: string) => SimulatedFault[]>> = {
  none: () => [],
  "element-slip": (unitId) => [
    { kind: "element-slip", element: unitId === "corran-w7" ? "K2" : "HC", onsetTorqueNm: 110, rpmPerNm: 1.1 },
  ],
  shudder: () => [{ kind: "shudder", frequencyHz: 6.3, peakToPeakRpm: 58, minTorqueNm: 50, maxTorqueNm: 170 }],
  flare: () => [{ kind: "flare", shift: "2-3", rpm: 230 }],
  limp: () => [{ kind: "sensor-dropout", sensor: "sen_output", atS: [60, 120, 150], lengthS: 1.2, limpAfter: true }],
};

export interface SimulateOptions {
  readonly unit: string;
  readonly fault: string;
  readonly profile: string;
  readonly seed: number;
  readonly seconds: number;
  readonly rateHz: number;
  readonly out: string;
}

/** Writes a made-up log. @throws UsageError when a name is unknown */
export function simulateToFile(o: SimulateOptions): string {
  const unit = unitFor(o.unit);
  const faults = FAULTS[o.fault];
  if (!faults)
    throw new UsageError(`There is no fault "${o.fault}". Choose one of: ${Object.keys(FAULTS).join(", ")}.`);
  if (!(o.profile in PROFILES))
    throw new UsageError(`There is no profile "${o.profile}". Choose one of: ${Object.keys(PROFILES).join(", ")}.`);
  const { columns } = simulateDrive({
    unit,
    seed: o.seed,
    rateHz: o.rateHz,
    durationS: o.seconds,
    profile: o.profile as ProfileName,
    startFluidC: 50,
    finalFluidC: 96,
    faults: faults(unit.id),
  });
  writeFileSync(o.out, writeLog(columns, PLAIN_STYLE));
  return `Wrote ${o.out}: ${unit.name}, fault ${o.fault}, ${o.seconds} s at ${o.rateHz} Hz. All of it is made up.`;
}
