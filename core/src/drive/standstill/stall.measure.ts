import { confidence, type Finding, range } from "../finding.ts";
import { TYPICAL } from "../limits.ts";
import type { Measure } from "../measure.ts";
import type { Frame } from "../signal/frame.ts";
import { findStallTests, type StallTest } from "./standstill.ts";

export const stallTests: Measure<"stallTests"> = {
  id: "stallTests",
  measure: ({ frame }) => findStallTests(frame),
  findings: (measured, { frame }) => stallFindings(frame, measured.stallTests),
  compares: {
    stall: {
      by: "occasion",
      measure: "stall speed off by",
      quantity: "percent",
      limit: () => TYPICAL.stallShare * 100,
      share: 0.5,
      rateHz: 4,
      occasions: ({ stallTests: list }) =>
        list.flatMap((t) =>
          t.expectedRpm === undefined
            ? []
            : [{ at: "stall test", value: Math.abs(t.engineRpm / t.expectedRpm - 1) * 100 }],
        ),
    },
  },
  evidence(_unit, analysis, add) {
    if (analysis.stallTests.length === 0) return;
    const off = analysis.findings.find((f) => f.kind === "stall");
    const [is, expected] = [off?.measures[0].value ?? 0, off?.measures[1]?.value ?? 0];
    const outcome = !off ? "normal" : is < expected ? "low" : "high";
    add("stall-speed", "all", {}, outcome, `Stall speed ${outcome}`, outcome !== "normal");
  },
};

function stallFindings(frame: Frame, tests: readonly StallTest[]): Finding[] {
  return tests.flatMap((t, i): Finding[] => {
    if (t.expectedRpm === undefined) return [];
    const off = t.engineRpm / t.expectedRpm - 1;
    if (Math.abs(off) <= TYPICAL.stallShare) return [];
    return [
      {
        id: `stall:${i + 1}`,
        kind: "stall",
        title: `Stall speed too ${off > 0 ? "high: something slips" : "low: the converter or the engine is weak"}`,
        subject: { component: "converter" },
        severity: "fault",
        startS: t.startS,
        endS: t.endS,
        occurrences: [{ startS: t.startS, endS: t.endS, value: t.engineRpm }],
        conditions: { gears: [], fluidC: range([t.fluidC]) },
        measures: [
          { name: "stall speed", value: t.engineRpm, quantity: "speed-rpm" },
          { name: "expected at this torque", value: t.expectedRpm, quantity: "speed-rpm" },
        ],
        limit: undefined,
        confidence: confidence(frame, 1, t.endS - t.startS, 4),
      },
    ];
  });
}
