import { confidence, type Finding, overall } from "../finding.ts";
import { limp } from "../gear/limp.measure.ts";
import { either, hasFinding, type Measure } from "../measure.ts";
import type { Frame } from "../signal/frame.ts";
import { analyseCoolDown, type CoolDown, SLOW_DECAY_S } from "./cool-down.ts";

export const coolDown: Measure<"coolDown"> = {
  id: "coolDown",
  measure: (drive) => analyseCoolDown(drive.frame, drive.of(limp)?.startS),
  findings: (measured, { frame }) => coolDownFindings(frame, measured.coolDown),
  compares: {
    "cool-down": {
      by: "state",
      rateHz: 0.2,
      leastS: 4,
      label: "launches, and rolling on after them",
      state: ({ coolDown: found }) => found && { value: found.decayS, seconds: found.windows },
    },
  },
  evidence(_unit, analysis, add) {
    if (analysis.coolDown)
      either(
        add,
        "cool-down",
        hasFinding(analysis, "cool-down"),
        ["slow", "Clutches cool down slowly"],
        ["soon", "Clutches cool down after a launch"],
      );
  },
};

function coolDownFindings(frame: Frame, coolDown: CoolDown | undefined): Finding[] {
  if (!coolDown || coolDown.decayS <= SLOW_DECAY_S) return [];
  return [
    overall(frame, "cool-down", {
      title: "Clutches cool down slowly after a launch",
      measures: [
        { name: "decay time", value: coolDown.decayS, quantity: "duration" },
        { name: "windows", value: coolDown.windows, quantity: "count" },
      ],
      limit: { value: SLOW_DECAY_S, quantity: "duration", source: "typical" },
      confidence: confidence(frame, coolDown.windows, coolDown.windows, 10),
    }),
  ];
}
