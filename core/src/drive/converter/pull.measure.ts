import { confidence, type Finding, overall } from "../finding.ts";
import { either, hasFinding, type Measure } from "../measure.ts";
import { sensorMask } from "../sensors/mask.ts";
import type { Frame } from "../signal/frame.ts";
import { converter, missingSlipPct, STAYS_ON_PCT } from "./converter.measure.ts";
import { analysePull, type EnginePull, missingPct, PULL_LOW } from "./pull.ts";

export const pull: Measure<"pull"> = {
  id: "pull",
  measure(drive) {
    // a clutch that does not let go makes the converter no dynamometer
    const letGo = drive.of(converter)?.letGo;
    return letGo && missingSlipPct(letGo.share) > STAYS_ON_PCT
      ? undefined
      : analysePull(drive.frame, sensorMask(drive));
  },
  findings: (measured, { frame }) => pullFindings(frame, measured.pull),
  compares: {
    "engine-pull": {
      by: "state",
      rateHz: 3,
      leastS: 3,
      label: "steady pulls with the converter open",
      state: ({ pull: found }) => found && { value: missingPct(found), seconds: found.seconds },
    },
  },
  evidence(_unit, analysis, add) {
    if (analysis.pull)
      either(
        add,
        "engine-pull",
        hasFinding(analysis, "engine-pull"),
        ["low", "Converter takes less torque than the engine reports"],
        ["fits", "Engine gives what it reports"],
      );
  },
};

function pullFindings(frame: Frame, pull: EnginePull | undefined): Finding[] {
  if (!pull || pull.share >= PULL_LOW) return [];
  return [
    overall(frame, "engine-pull", {
      title: "Converter takes less torque than the engine reports: the engine is weak, or the converter",
      subject: { component: "converter" },
      measures: [
        { name: "missing of the torque reported", value: missingPct(pull), quantity: "percent" },
        { name: "steady pulls with the converter open", value: pull.seconds, quantity: "duration" },
      ],
      limit: { value: (1 - PULL_LOW) * 100, quantity: "percent", source: "typical" },
      confidence: confidence(frame, 1, pull.seconds, 5),
    }),
  ];
}
