import { componentName } from "../../unit/index.ts";
import { drivenAsWarm, recorded } from "../comparer.ts";
import { type Finding, range } from "../finding.ts";
import { either, type Measure } from "../measure.ts";
import { dropouts } from "../sensors/dropouts.measure.ts";
import { sensorMask } from "../sensors/mask.ts";
import type { Frame } from "../signal/frame.ts";
import { findLimp, type Limp } from "./limp.ts";

/** Of what was driven on the whole drive the part before limp mode: of its own gear in proportion, the others are driven no more. */
function before({ startS, gear }: Limp, driven: Record<string, number>): Record<string, number> {
  const all = Object.values(driven).reduce((s, x) => s + x, 0);
  const part = Math.min(1, startS / Math.max(all, 1));
  return Object.fromEntries(
    Object.entries(driven).map(([kind, s]) => [kind, kind.startsWith(`gear ${gear},`) ? s * part : s]),
  );
}

export const limp: Measure<"limp"> = {
  id: "limp",
  measure: (drive) => findLimp(drive.frame, drive.of(dropouts), sensorMask(drive)),
  findings: (measured, { frame }) => limpFinding(frame, measured.limp),
  compares: {
    limp: {
      by: "event",
      measure: "limp mode",
      quantity: "count",
      limit: () => 0,
      rateHz: 2,
      driving: "all gears, as warm as when it came",
      lacks: (a, f) =>
        f.confidence.reason.includes("line pressure") &&
        !recorded(a, "line_pressure_kpa") &&
        !recorded(a, "line_pressure_measured_kpa")
          ? "the line pressure was not recorded, by which it showed before"
          : undefined,
      events: (a) => (a.limp ? 1 : 0),
      // up to the moment in which it came
      exposureS: (a, f) => {
        const driven = drivenAsWarm(a, f, { byGear: true });
        return a.limp ? before(a.limp, driven) : driven;
      },
    },
  },
  evidence(_unit, analysis, add) {
    const is = analysis.limp !== undefined;
    either(add, "limp", is, ["limp", "Limp mode in the log"], ["none", "No limp mode in the log"]);
  },
};

function limpFinding(frame: Frame, limp: Limp | undefined): Finding[] {
  if (!limp) return [];
  const before = limp.preceded
    ? `, after ${componentName(frame.unit, limp.preceded.sensor).toLowerCase()} lost its signal`
    : "";
  return [
    {
      id: "limp",
      kind: "limp",
      title: `Limp mode in gear ${limp.gear}${before}`,
      subject: { gear: limp.gear, ...(limp.preceded ? { component: limp.preceded.sensor } : {}) },
      severity: "fault",
      startS: limp.startS,
      endS: limp.endS,
      occurrences: [{ startS: limp.startS, endS: limp.endS, value: limp.endS - limp.startS }],
      conditions: { gears: [limp.gear], fluidC: range([limp.fluidC]), vehicleKmh: range([limp.vehicleKmh]) },
      measures: [{ name: "begins at", value: limp.startS, quantity: "duration" }],
      limit: undefined,
      confidence: {
        level: limp.signs.length > 1 && limp.certain ? "high" : "medium",
        reason: [
          ...limp.signs,
          ...(limp.certain ? [] : ["it was in that gear already, so limp mode may have begun later than it seems"]),
        ].join("; "),
        raise: limp.signs.length > 1 && limp.certain ? undefined : "record line pressure and commanded gear",
      },
    },
  ];
}
