import { componentName } from "../../unit/index.ts";
import { recorded } from "../comparer.ts";
import { type Finding, wholeDrive } from "../finding.ts";
import { ripplesHeld } from "../gear/held.measure.ts";
import { TYPICAL } from "../limits.ts";
import type { Measure } from "../measure.ts";
import type { Frame } from "../signal/frame.ts";
import type { Ripple } from "./quality.ts";

/** What a ripple says of its sensor is told with its drop-outs. */
export const ripples: Measure<"ripples"> = {
  id: "ripples",
  measure: ripplesHeld,
  compares: {
    "sensor-ripple": {
      by: "state",
      rateHz: 10,
      leastS: 60,
      label: "steady gears",
      lacks: (a, { subject }) =>
        recorded(a, a.sensorChannels[subject.component ?? ""] ?? "") ? undefined : "the sensor was not recorded",
      state: (a, { subject }) => {
        const seconds = a.held.gears.reduce((s, g) => s + g.seconds, 0);
        const found = a.ripples.find((r) => r.sensor === subject.component);
        return seconds > 0 ? { value: found?.roughnessRpm ?? 0, seconds } : undefined;
      },
    },
  },
  findings: (measured, { frame }) => rippleFindings(frame, measured.ripples),
};

function rippleFindings(frame: Frame, ripples: readonly Ripple[]): Finding[] {
  return ripples.map(
    (r): Finding => ({
      id: `sensor-ripple:${r.sensor}`,
      kind: "sensor-ripple",
      title: `${componentName(frame.unit, r.sensor)} ripples on its own`,
      subject: { component: r.sensor },
      severity: "fault",
      ...wholeDrive(frame),
      measures: [
        { name: "scatter", value: r.roughnessRpm, quantity: "speed-rpm" },
        { name: "of the shaft that it is geared to", value: r.elsewhereRpm, quantity: "speed-rpm" },
      ],
      limit: { value: TYPICAL.rippleRpm, quantity: "speed-rpm", source: "typical" },
      confidence: {
        level: "high",
        reason: "the shaft that it is geared to runs smoothly: what is measured with this sensor is not to be believed",
        raise: undefined,
      },
    }),
  );
}
