import { elementsIn, gearName } from "../../unit/index.ts";
import type { Measured } from "../analysis.ts";
import { engineRunsRough } from "../driveline/rough-engine.ts";
import { confidence, type Finding, range } from "../finding.ts";
import { TYPICAL } from "../limits.ts";
import type { Drive, Measure } from "../measure.ts";
import { speedsRipple } from "../sensors/quality.ts";
import type { Frame } from "../signal/frame.ts";
import { median, within } from "../signal/stats.ts";
import { findLaunches, judderRpm, type Launch } from "./launches.ts";

/** The shafts vibrate for so long after the clutch has closed. */
const AFTER_LAUNCH_S = 0.6;
const MIN_LAUNCHES = 2;

export const launches: Measure<"launches"> = {
  id: "launches",
  measure: ({ frame }) => findLaunches(frame, gearName),
  findings: (measured, { frame }) => launchFindings(frame, measured.launches, unsteady(measured)),
  compares: {
    judder: {
      by: "occasion",
      share: 0.9,
      ofSpeeds: true,
      rateHz: 12,
      occasions: ({ launches: list }, { subject }) =>
        list.flatMap((l) =>
          l.judder && (subject.gear === undefined || l.gear === subject.gear)
            ? [{ at: `launches in ${l.gear}`, value: judderRpm(l) ?? 0, fluidC: l.clutchC }]
            : [],
        ),
    },
  },
  /** Moving off, by the clutch that does it. */
  evidence(unit, analysis, add) {
    if (unsteady(analysis)) return;
    const clutches = unit.elements.filter((e) => e.kind === "dual-clutch");
    for (const { id, name } of clutches) {
      const own = analysis.launches.filter((l) => l.judder && elementsIn(unit, l.gear).includes(id));
      const judders = analysis.findings.some((f) => f.kind === "judder" && own.some((l) => l.gear === f.subject.gear));
      if (judders) add("judder", id, { component: id }, "judders", `${name} judders while moving off`, true);
      else if (own.length >= MIN_LAUNCHES)
        add("judder", id, { component: id }, "smooth", `${name} moves off smoothly`, false);
    }
  },
};

/** Does the engine, or a sensor that ripples, shake what a launch is judged by? */
const unsteady = ({ oscillation, ripples }: Pick<Measured, "oscillation" | "ripples">): boolean =>
  engineRunsRough(oscillation) || speedsRipple(ripples);

/** 1 while it launches and the shafts still vibrate from it; length of the frame. */
export const launching = (drive: Drive): Uint8Array =>
  drive.once(launching, () =>
    within(
      drive.frame.timeS,
      drive.of(launches).map((l) => [l.startS, l.endS + AFTER_LAUNCH_S]),
    ),
  );

/** One launch may be a foot that trembled. */
const JUDDERS_OFTEN = { launches: 2, share: 0.3, surely: 3 };

/** By the gear that launches: each belongs to one of the two clutches. */
function launchFindings(frame: Frame, launches: readonly Launch[], rough: boolean): Finding[] {
  const limit = TYPICAL.judderPeakToPeakRpm;
  return [...new Set(launches.map((l) => l.gear))].flatMap((gear): Finding[] => {
    const judged = launches.filter((l) => l.gear === gear && l.judder);
    const hits = judged.filter((l) => (judderRpm(l) ?? 0) > limit);
    const [first] = hits;
    if (!first || hits.length < JUDDERS_OFTEN.launches || hits.length < JUDDERS_OFTEN.share * judged.length) return [];
    return [
      {
        id: `judder:${gear}`,
        kind: "judder",
        title: `Judder while it launches in ${gear}`,
        subject: { gear },
        severity: hits.length >= JUDDERS_OFTEN.surely && !rough ? "fault" : "notice",
        startS: first.startS,
        endS: hits.at(-1)?.endS ?? 0,
        occurrences: hits.map((l) => ({ startS: l.startS, endS: l.endS, value: judderRpm(l) ?? 0 })),
        conditions: {
          gears: [gear],
          torqueNm: range(hits.map((l) => l.torqueNm)),
          fluidC: range(hits.map((l) => l.clutchC)),
        },
        measures: [
          { name: "peak to peak", value: median(hits.map((l) => judderRpm(l) ?? 0)), quantity: "speed-rpm" },
          { name: "frequency", value: median(hits.map((l) => l.judder?.frequencyHz ?? 0)), quantity: "frequency" },
          { name: "launches over the limit", value: hits.length, quantity: "count" },
          { name: "launches made", value: judged.length, quantity: "count" },
        ],
        limit: { value: limit, quantity: "speed-rpm", source: "typical" },
        confidence: confidence(frame, hits.length, hits.length * 2, 12),
      },
    ];
  });
}
