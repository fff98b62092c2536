import { drivenAsWarm } from "../comparer.ts";
import { confidence, type Finding, range } from "../finding.ts";
import { limp } from "../gear/limp.measure.ts";
import { either, hasFinding, type Measure } from "../measure.ts";
import type { Frame } from "../signal/frame.ts";
import { findPowerLosses, type PowerLoss } from "./power-losses.ts";

/** A single one may be a reading that was missed. */
const LOSSES = 2;

/** The controller itself falls out. */
export const powerLosses: Measure<"powerLosses"> = {
  id: "powerLosses",
  measure: (drive) => findPowerLosses(drive.recording, drive.frame, drive.of(limp)?.startS),
  findings: (measured, { frame }) => powerLossFindings(frame, measured.powerLosses),
  compares: {
    "power-loss": {
      by: "event",
      rateHz: 5,
      driving: "every gear",
      lacks: (a) => (a.powerLosses ? undefined : "fewer than three solenoids were recorded"),
      events: (a) => a.powerLosses?.length ?? 0,
      exposureS: (a, f) => drivenAsWarm(a, f),
    },
  },
  evidence(_unit, analysis, add) {
    if (analysis.powerLosses)
      either(
        add,
        "power-loss",
        hasFinding(analysis, "power-loss"),
        ["power-lost", "All solenoids lose power for a moment"],
        ["none", "Solenoids stay powered"],
      );
  },
};

function powerLossFindings(frame: Frame, powerLosses: readonly PowerLoss[] = []): Finding[] {
  if (powerLosses.length < LOSSES) return [];
  return [
    {
      id: "power-loss",
      kind: "power-loss",
      title: "All solenoids without power for a moment: the control unit, or what feeds it",
      subject: {},
      severity: "fault",
      startS: powerLosses[0]?.startS ?? 0,
      endS: powerLosses.at(-1)?.endS ?? 0,
      occurrences: powerLosses.map((l) => ({ startS: l.startS, endS: l.endS, value: l.endS - l.startS })),
      conditions: { gears: [], vehicleKmh: range(powerLosses.map((l) => l.vehicleKmh)) },
      measures: [{ name: "times", value: powerLosses.length, quantity: "count" }],
      limit: { value: LOSSES, quantity: "count", source: "typical" },
      confidence: confidence(frame, powerLosses.length, powerLosses.length, 10),
    },
  ];
}
