import { confidence, type Finding, range } from "../finding.ts";
import { limitsOf } from "../limits.ts";
import type { Measure } from "../measure.ts";
import type { Frame } from "../signal/frame.ts";
import { median } from "../signal/stats.ts";
import { type Engagement, findEngagements } from "./standstill.ts";

/** How soon they answer is told with the times of the shifts. */
export const engagements: Measure<"engagements"> = {
  id: "engagements",
  measure: ({ frame }) => findEngagements(frame),
  compares: {
    "late-engagement": {
      by: "occasion",
      share: 0.5,
      rateHz: 4,
      occasions: ({ engagements: list }, { subject }) => {
        const range = subject.gear === "R" ? "R" : "D";
        return list
          .filter((e) => e.range === range)
          .map((e) => ({ at: `from rest into ${range}`, value: e.delayS ?? e.endS - e.commandS, fluidC: e.fluidC }));
      },
    },
  },
  findings: (measured, { frame }) => engagementFindings(frame, measured.engagements),
};

function engagementFindings(frame: Frame, engagements: readonly Engagement[]): Finding[] {
  const limit = limitsOf(frame.unit).engagementDelayS;
  return (["D", "R"] as const).flatMap((into): Finding[] => {
    const all = engagements.filter((e) => e.range === into);
    const late = all.filter((e) => (e.delayS ?? Infinity) > limit.value);
    if (late.length === 0) return [];
    const never = late.filter((e) => e.delayS === undefined).length;
    return [
      {
        id: `late-engagement:${into}`,
        kind: "late-engagement",
        title: never === all.length ? `${into} does not engage` : `${into} engages late`,
        subject: { gear: into === "R" ? "R" : "1" },
        severity: late.length * 2 >= all.length ? "fault" : "notice",
        startS: late[0]?.commandS ?? 0,
        endS: late.at(-1)?.endS ?? 0,
        occurrences: late.map((e) => ({
          startS: e.commandS,
          endS: e.endS,
          value: e.delayS ?? e.endS - e.commandS,
        })),
        conditions: { gears: [into === "R" ? "R" : "1"], fluidC: range(late.map((e) => e.fluidC)) },
        measures: [
          {
            name: never > 0 ? "delay, at least" : "delay",
            value: median(late.map((e) => e.delayS ?? e.endS - e.commandS)),
            quantity: "duration",
          },
          { name: "late", value: late.length, quantity: "count" },
          { name: "engagements made", value: all.length, quantity: "count" },
        ],
        limit: { value: limit.value, quantity: "duration", source: limit.source },
        confidence: confidence(frame, late.length, late.length * 2, 4),
      },
    ];
  });
}
