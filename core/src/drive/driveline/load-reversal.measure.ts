import { confidence, type Finding } from "../finding.ts";
import type { Measure } from "../measure.ts";
import { sensorMask } from "../sensors/mask.ts";
import { speedsRipple } from "../sensors/quality.ts";
import { shifting } from "../shift/shifts.measure.ts";
import type { Frame } from "../signal/frame.ts";
import { findLoadReversals, KNOCKS_RPM, type LoadReversal, usualVibrationRpm, VIBRATES_RPM } from "./load-reversal.ts";
import { engineRunsRough } from "./rough-engine.ts";

export const loadReversals: Measure<"loadReversals"> = {
  id: "loadReversals",
  measure: (drive) => findLoadReversals(drive.frame, shifting(drive), sensorMask(drive)),
  findings: ({ loadReversals: found, oscillation, ripples }, { frame }) =>
    loadReversalFindings(frame, found, engineRunsRough(oscillation) || speedsRipple(ripples)),
  compares: {
    "load-reversal": {
      by: "occasion",
      share: 0.5,
      ofSpeeds: true,
      rateHz: 18,
      occasions: ({ loadReversals: list }) =>
        list.map((r) => ({ at: `foot on and off in gear ${r.gear}`, value: r.vibrationRpm })),
    },
  },
  evidence(_unit, analysis, add) {
    const vibration = usualVibrationRpm(analysis.loadReversals);
    if (engineRunsRough(analysis.oscillation) || speedsRipple(analysis.ripples)) return;
    if (Number.isNaN(vibration)) return;
    const outcome = vibration > KNOCKS_RPM ? "knocks" : vibration > VIBRATES_RPM ? "vibrates" : "quiet";
    add(
      "load-reversal",
      "all",
      {},
      outcome,
      outcome === "quiet" ? "Quiet when load comes and goes" : `Driveline ${outcome} when load comes and goes`,
      outcome !== "quiet",
    );
  },
};

function loadReversalFindings(frame: Frame, reversals: readonly LoadReversal[], rough: boolean): Finding[] {
  const vibration = usualVibrationRpm(reversals);
  if (!(vibration > VIBRATES_RPM)) return [];
  const hits = reversals.filter((r) => r.vibrationRpm > VIBRATES_RPM);
  return [
    {
      id: "load-reversal",
      kind: "load-reversal",
      title:
        vibration > KNOCKS_RPM
          ? "Knocks when load comes and goes: play in the driveline"
          : "Rocks when load comes and goes: a soft mount, or play",
      subject: {},
      severity: rough ? "notice" : "fault",
      startS: hits[0]?.startS ?? 0,
      endS: hits.at(-1)?.startS ?? 0,
      occurrences: hits.map((r) => ({ startS: r.startS, endS: r.startS + 1, value: r.vibrationRpm })),
      conditions: { gears: [...new Set(hits.map((r) => r.gear))] },
      measures: [
        { name: "vibration at the wheels, peak to peak", value: vibration, quantity: "speed-rpm" },
        { name: "load reversals", value: reversals.length, quantity: "count" },
      ],
      limit: { value: VIBRATES_RPM, quantity: "speed-rpm", source: "typical" },
      confidence: confidence(frame, reversals.length, reversals.length, 18),
    },
  ];
}
