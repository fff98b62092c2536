import { componentName } from "../../unit/index.ts";
import { type Finding, range } from "../finding.ts";
import { either, type Measure } from "../measure.ts";
import { dropouts } from "../sensors/dropouts.measure.ts";
import { sensorMask } from "../sensors/mask.ts";
import type { Frame } from "../signal/frame.ts";
import { findLimp, type Limp } from "./limp.ts";

export const limp: Measure<"limp"> = {
  id: "limp",
  measure: (drive) => findLimp(drive.frame, drive.of(dropouts), sensorMask(drive)),
  findings: (measured, { frame }) => limpFinding(frame, measured.limp),
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
