import { confidence, type Finding, overall } from "../finding.ts";
import { ripplesHeld } from "../gear/held.measure.ts";
import type { Measure } from "../measure.ts";
import { sensorMask } from "../sensors/mask.ts";
import { turbineRipples } from "../sensors/quality.ts";
import type { Frame } from "../signal/frame.ts";
import { converter, missingTakenPct, STAYS_ON_PCT } from "./converter.measure.ts";
import { analysePull, type EnginePull, missingPct, PULL_LOW, pullOutcome } from "./pull.ts";

const STATOR = "stator";

export const pull: Measure<"pull"> = {
  id: "pull",
  measure(drive) {
    // a clutch that does not let go makes the converter no dynamometer, a turbine speed that ripples neither
    const letGo = drive.of(converter)?.letGo;
    return turbineRipples(ripplesHeld(drive)) || (letGo && missingTakenPct(letGo.share) > STAYS_ON_PCT)
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
      // an engine that misses now and then lacks a fifth on one road and two fifths on another
      fallsTo: 1 / 3,
      state: ({ pull: found }, { subject }) => {
        const share = subject.component === STATOR ? found?.startShare : found?.share;
        return found && share !== undefined ? { value: missingPct(share), seconds: found.seconds } : undefined;
      },
    },
  },
  evidence(_unit, analysis, add) {
    if (!analysis.pull) return;
    const outcome = pullOutcome(analysis.pull);
    add("engine-pull", "all", {}, outcome, PULLS[outcome], outcome !== "fits");
  },
};

const PULLS = {
  fits: "Engine gives what it reports",
  low: "Converter takes less torque than the engine reports",
  "from-rest": "Converter takes too little torque from rest and all of it near coupling",
} as const;

function pullFindings(frame: Frame, pull: EnginePull | undefined): Finding[] {
  const outcome = pull && pullOutcome(pull);
  if (!pull || outcome === "fits") return [];
  const fromRest = outcome === "from-rest";
  const worst = fromRest ? (pull.startShare as number) : pull.share;
  return [
    overall(frame, "engine-pull", {
      title: fromRest
        ? "Converter takes too little torque from rest and all of it near coupling: the stator slips"
        : "Converter takes less torque than the engine reports: the engine is weak, or the converter",
      subject: { component: fromRest ? STATOR : "converter" },
      measures: [
        { name: "missing of the torque reported", value: missingPct(worst), quantity: "percent" },
        { name: "steady pulls with the converter open", value: pull.seconds, quantity: "duration" },
      ],
      limit: { value: (1 - PULL_LOW) * 100, quantity: "percent", source: "typical" },
      confidence: confidence(frame, 1, pull.seconds, 5),
    }),
  ];
}
