import { componentName } from "../../unit/index.ts";
import { confidence, type Finding, overall } from "../finding.ts";
import { limp } from "../gear/limp.measure.ts";
import type { Measure } from "../measure.ts";
import type { Frame } from "../signal/frame.ts";
import { pressureEvidence } from "./pressure-evidence.ts";
import { followPressures, OVER_SHARE, offCommand, type PressureFollows, SHORT_SHARE } from "./pressures.ts";

export const pressures: Measure<"pressures"> = {
  id: "pressures",
  measure: (drive) =>
    drive.unit.kind === "planetary" ? [] : followPressures(drive.recording, drive.frame, drive.of(limp)?.startS),
  compares: {
    pressure: {
      by: "state",
      rateHz: 3,
      leastS: 10,
      label: "steady commands",
      state: ({ pressures: list }, f) => {
        const found = list.find((p) => `pressure:${p.id}` === f.id);
        // what falls short once warm says nothing while it is cold
        if (!found || found.warmShare === undefined || found.highShare === undefined) return undefined;
        const off = offCommand(found);
        return { value: f.measures[0].name.startsWith("short") ? off.shortPct : off.overPct, seconds: found.seconds };
      },
    },
  },
  findings: (measured, { frame }) => pressureFindings(frame, measured.pressures),
  together: pressureEvidence,
};

function pressureFindings(frame: Frame, pressures: readonly PressureFollows[]): Finding[] {
  return pressures.flatMap(({ id, seconds, ...shares }): Finding[] => {
    const { shortPct, overPct } = offCommand(shares);
    const short = shortPct > (1 - SHORT_SHARE) * 100;
    if (!short && overPct <= (OVER_SHARE - 1) * 100) return [];
    const name = id === "line" ? "Line pressure" : `Pressure of ${componentName(frame.unit, id)}`;
    return [
      overall(frame, "pressure", {
        id: `pressure:${id}`,
        title: short ? `${name} stays behind its command` : `${name} is over its command`,
        subject: id === "line" ? {} : { component: id },
        measures: [
          {
            name: short ? "short of its command" : "over its command",
            value: short ? shortPct : overPct,
            quantity: "percent",
          },
          { name: "with a steady command for", value: seconds, quantity: "duration" },
        ],
        limit: {
          value: Math.abs(1 - (short ? SHORT_SHARE : OVER_SHARE)) * 100,
          quantity: "percent",
          source: "typical",
        },
        confidence: confidence(frame, 1, seconds, 10),
      }),
    ];
  });
}
