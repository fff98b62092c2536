import { confidence, type Finding, overall } from "../finding.ts";
import { either, hasFinding, type Measure } from "../measure.ts";
import type { Frame } from "../signal/frame.ts";
import { analyseIdle, type Idle, idleLimit } from "./idle.ts";

export const idle: Measure<"idle"> = {
  id: "idle",
  measure: ({ frame }) => analyseIdle(frame),
  findings: (measured, { frame }) => idleFindings(frame, measured.idle),
  compares: {
    idle: {
      by: "state",
      rateHz: 9,
      leastS: 10,
      label: "stops in gear",
      state: ({ idle: found }) => found && { value: found.dipRpm, seconds: found.seconds },
    },
  },
  evidence(_unit, analysis, add) {
    if (analysis.idle)
      either(
        add,
        "idle",
        hasFinding(analysis, "idle"),
        ["drawn-down", "Idle is drawn down at rest"],
        ["steady", "Idle is steady at rest"],
      );
  },
};

function idleFindings(frame: Frame, idle: Idle | undefined): Finding[] {
  const limit = idle && idleLimit(idle);
  if (!idle || !limit || idle.dipRpm <= limit.value) return [];
  return [
    overall(frame, "idle", {
      title: "Idle is drawn down at rest in gear: a clutch does not open",
      measures: [
        { name: "lowest tenth under the usual idle", value: idle.dipRpm, quantity: "speed-rpm" },
        { name: "stops in gear", value: idle.stops, quantity: "count" },
        { name: "at rest for", value: idle.seconds, quantity: "duration" },
      ],
      limit: { value: limit.value, quantity: "speed-rpm", source: limit.source },
      confidence: confidence(frame, 1, idle.seconds, 10),
    }),
  ];
}
