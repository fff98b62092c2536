import { confidence, type Finding, overall } from "../finding.ts";
import { either, hasFinding, type Measure } from "../measure.ts";
import type { Frame } from "../signal/frame.ts";
import { analyseIdle, IDLE_DIP_RPM, type Idle } from "./idle.ts";

export const idle: Measure<"idle"> = {
  id: "idle",
  measure: ({ frame }) => analyseIdle(frame),
  findings: (measured, { frame }) => idleFindings(frame, measured.idle),
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
  if (!idle || idle.dipRpm <= IDLE_DIP_RPM) return [];
  return [
    overall(frame, "idle", {
      title: "Idle is drawn down at rest: a clutch does not open, or the engine runs rough",
      measures: [
        { name: "lowest tenth under the usual idle", value: idle.dipRpm, quantity: "speed-rpm" },
        { name: "at rest for", value: idle.seconds, quantity: "duration" },
      ],
      limit: { value: IDLE_DIP_RPM, quantity: "speed-rpm", source: "typical" },
      confidence: confidence(frame, 1, idle.seconds, 10),
    }),
  ];
}
