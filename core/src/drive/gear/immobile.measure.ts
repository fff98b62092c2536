import type { Analysis } from "../analysis.ts";
import { confidence, type Finding, range } from "../finding.ts";
import { either, type Measure } from "../measure.ts";
import type { Frame } from "../signal/frame.ts";
import { findImmobile, type Immobile } from "./immobile.ts";

const STANDS = {
  held: "the input stands as well: the train is tied up, or something holds the output",
  free: "the input runs free: nothing takes its torque",
  output: "the output shaft turns: splines, shafts or joints behind it, or the road speed is not read",
} as const;

/** Gears in which the vehicle stood under power, and what was seen of them. */
export const standing = (analysis: Analysis): ReadonlyMap<string, "blocked" | "gone"> =>
  new Map(
    analysis.immobile
      .filter((s) => s.input !== "output")
      .map((s) => [s.gear, s.input === "held" ? "blocked" : "gone"] as const),
  );

/** A sound vehicle has moved off by then: however long one stood, it was one start. */
const MOVES_OFF_S = 3;

export const immobile: Measure<"immobile"> = {
  id: "immobile",
  measure: ({ frame }) => findImmobile(frame),
  findings: (measured, { frame }) => immobileFindings(frame, measured.immobile),
  compares: {
    "no-drive": {
      by: "event",
      measure: "times",
      quantity: "count",
      limit: () => 0,
      rateHz: 2,
      driving: "moving off and driving",
      leastS: 10,
      events: ({ immobile: spans }, { subject }) => spans.filter((s) => s.gear === subject.gear).length,
      exposureS: ({ immobile: spans, held }, { subject }) => {
        const stood = spans
          .filter((s) => s.gear === subject.gear)
          .reduce((sum, s) => sum + Math.min(s.endS - s.startS, MOVES_OFF_S), 0);
        const moved = held.gears.filter((g) => g.gear === subject.gear).reduce((sum, g) => sum + g.seconds, 0);
        return { [`gear ${subject.gear}`]: stood + moved };
      },
    },
  },
  evidence(_unit, analysis, add) {
    if (analysis.held.gears.length > 0)
      either(
        add,
        "drive-lost",
        analysis.immobile.some((s) => s.input === "output"),
        ["lost", "Output shaft turns and the vehicle stands"],
        ["none", "The vehicle moves with its output shaft"],
      );
    for (const [gear, outcome] of standing(analysis))
      add(
        "gear",
        gear,
        { gear },
        outcome,
        outcome === "blocked" ? `Gear ${gear} ties up: stands under power` : `Gear ${gear} does not drive`,
        true,
      );
  },
};

function immobileFindings(frame: Frame, spans: readonly Immobile[]): Finding[] {
  return [...new Set(spans.map((s) => s.gear))].map((gear): Finding => {
    const all = spans.filter((s) => s.gear === gear);
    const input = all.find((s) => s.input !== undefined)?.input;
    const seconds = all.reduce((sum, s) => sum + s.endS - s.startS, 0);
    return {
      id: `no-drive:${gear}`,
      kind: "no-drive",
      title: `Does not move in gear ${gear}${input ? `: ${STANDS[input]}` : ""}`,
      subject: { gear },
      severity: "fault",
      startS: all[0]?.startS ?? 0,
      endS: all.at(-1)?.endS ?? 0,
      occurrences: all.map((s) => ({ startS: s.startS, endS: s.endS, value: s.endS - s.startS })),
      conditions: { gears: [gear], torqueNm: range(all.map((s) => s.torqueNm)) },
      measures: [
        { name: "stands under power for", value: seconds, quantity: "duration" },
        { name: "times", value: all.length, quantity: "count" },
      ],
      limit: undefined,
      confidence: confidence(frame, all.length, seconds, 2),
    };
  });
}
