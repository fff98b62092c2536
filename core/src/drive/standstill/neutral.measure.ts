import { confidence, type Finding, overall } from "../finding.ts";
import { either, hasFinding, type Measure } from "../measure.ts";
import type { Frame } from "../signal/frame.ts";
import { analyseNeutral, DRAWN_DOWN_RATIO, heldPct, type NeutralPull } from "./neutral.ts";

export const neutral: Measure<"neutral"> = {
  id: "neutral",
  measure: ({ frame }) => analyseNeutral(frame),
  findings: (measured, { frame }) => neutralFindings(frame, measured.neutral),
  compares: {
    "neutral-pull": {
      by: "state",
      rateHz: 3,
      leastS: 3,
      label: "at rest in P and N",
      lacks: ({ derived }) => (derived.length > 0 ? "engine or turbine was not recorded" : undefined),
      state: ({ neutral: found }) => found && { value: heldPct(found), seconds: found.seconds },
    },
  },
  evidence(_unit, analysis, add) {
    if (analysis.neutral)
      either(
        add,
        "neutral-pull",
        hasFinding(analysis, "neutral-pull"),
        ["held", "Turbine is held in neutral"],
        ["free", "Turbine runs free in neutral"],
      );
  },
};

function neutralFindings(frame: Frame, neutral: NeutralPull | undefined): Finding[] {
  if (!neutral || neutral.speedRatio >= DRAWN_DOWN_RATIO) return [];
  return [
    overall(frame, "neutral-pull", {
      title: "Turbine is held in neutral: an element drags that should be released",
      measures: [
        { name: "turbine under engine at rest in P and N", value: heldPct(neutral), quantity: "percent" },
        { name: "at rest for", value: neutral.seconds, quantity: "duration" },
      ],
      limit: { value: (1 - DRAWN_DOWN_RATIO) * 100, quantity: "percent", source: "typical" },
      confidence: confidence(frame, 1, neutral.seconds, 5),
    }),
  ];
}
