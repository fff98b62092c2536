import { writeFileSync } from "node:fs";
import { elementsIn, type Unit } from "@gearsense/core/unit";
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

/** A clutch of the higher gears that first does without: its slip is seen in some gears and not in others. */
function highClutch(unit: Unit): string {
  const forward = unit.gears.filter((g) => g.ratio > 0).map((g) => g.name);
  const first = elementsIn(unit, forward[0] ?? "");
  const others = forward.flatMap((g) => elementsIn(unit, g).filter((e) => !first.includes(e)));
  const count = (id: string) => others.filter((e) => e === id).length;
  const packs = unit.elements.filter((e) => e.kind !== "fork" && e.kind !== "one-way-clutch").map((e) => e.id);
  return packs.reduce((a, b) => (count(b) > count(a) ? b : a));
}

/** Ready-made faults by name, for units that have the part. */
const FAULTS: Readonly<Record<string, (unit: Unit) => SimulatedFault[]>> = {
  none: () => [],
  "element-slip": (unit) => [
    {
      kind: "element-slip",
      element: highClutch(unit),
      onsetTorqueNm: Math.min(110, Math.round(unit.maxInputTorqueNm * 0.26)),
      rpmPerNm: 1.1,
    },
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
    faults: faults(unit),
  });
  writeFileSync(o.out, writeLog(columns, PLAIN_STYLE));
  return `Wrote ${o.out}: ${unit.name}, fault ${o.fault}, ${o.seconds} s at ${o.rateHz} Hz. All of it is made up.`;
}
