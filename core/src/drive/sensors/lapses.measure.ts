import { drivenAsWarm } from "../comparer.ts";
import { confidence, type Finding, range } from "../finding.ts";
import { limp } from "../gear/limp.measure.ts";
import { either, hasFinding, type Measure } from "../measure.ts";
import type { Frame } from "../signal/frame.ts";
import { findLapses, type Lapse } from "./lapses.ts";

/** A single one may be a reading that was missed. */
const LAPSES = 2;

/** The controller itself falls out. */
export const lapses: Measure<"lapses"> = {
  id: "lapses",
  measure: (drive) => findLapses(drive.recording, drive.frame, drive.of(limp)?.startS),
  findings: (measured, { frame }) => lapseFindings(frame, measured.lapses),
  compares: {
    lapse: {
      by: "event",
      rateHz: 5,
      driving: "every gear",
      lacks: (a) => (a.lapses ? undefined : "fewer than three solenoids were recorded"),
      events: (a) => a.lapses?.length ?? 0,
      exposureS: (a, f) => drivenAsWarm(a, f),
    },
  },
  evidence(_unit, analysis, add) {
    if (analysis.lapses)
      either(
        add,
        "lapse",
        hasFinding(analysis, "lapse"),
        ["lapses", "All solenoids lose power for a moment"],
        ["none", "Solenoids stay powered"],
      );
  },
};

function lapseFindings(frame: Frame, lapses: readonly Lapse[] = []): Finding[] {
  if (lapses.length < LAPSES) return [];
  return [
    {
      id: "lapse",
      kind: "lapse",
      title: "All solenoids without power for a moment: the control unit, or what feeds it",
      subject: {},
      severity: "fault",
      startS: lapses[0]?.startS ?? 0,
      endS: lapses.at(-1)?.endS ?? 0,
      occurrences: lapses.map((l) => ({ startS: l.startS, endS: l.endS, value: l.endS - l.startS })),
      conditions: { gears: [], vehicleKmh: range(lapses.map((l) => l.vehicleKmh)) },
      measures: [{ name: "times", value: lapses.length, quantity: "count" }],
      limit: { value: LAPSES, quantity: "count", source: "typical" },
      confidence: confidence(frame, lapses.length, lapses.length, 10),
    },
  ];
}
