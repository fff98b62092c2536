import { componentName, sensorValidIn } from "../../unit/index.ts";
import { drivenAsWarm, recorded } from "../comparer.ts";
import { confidence, type Finding, range } from "../finding.ts";
import type { Measure } from "../measure.ts";
import type { Frame } from "../signal/frame.ts";
import { median } from "../signal/stats.ts";
import { type Dropout, findDropouts } from "./dropouts.ts";

const MIN_DRIVEN_S = 5;
/** A signal that comes and goes is not away for so long. */
const DEAD_S = 10;
/** A contact that is touched and lost again is away for less. */
const FLICKER_S = 0.32;

export const dropouts: Measure<"dropouts"> = {
  id: "dropouts",
  measure: ({ recording, frame }) => findDropouts(recording, frame),
  findings: (measured, { frame }) => dropoutFindings(frame, measured.dropouts),
  compares: {
    "drop-out": {
      by: "event",
      rateHz: 2,
      limit: () => 0,
      driving: "the gears in which the sensor reads",
      lacks: (a, { subject }) =>
        recorded(a, a.sensorChannels[subject.component ?? ""] ?? "") ? undefined : "the sensor was not recorded",
      events: ({ dropouts: list }, { subject }) => list.filter((d) => d.sensor === subject.component).length,
      exposureS: (a, f) =>
        drivenAsWarm(a, f, { gears: (g) => f.conditions.gears.length === 0 || f.conditions.gears.includes(g) }),
    },
  },
  evidence(unit, analysis, add) {
    const driven = analysis.held.gears.filter((g) => g.seconds > MIN_DRIVEN_S).map((g) => g.gear);
    for (const sensor of unit.sensors) {
      if (!sensor.channel.endsWith("_rpm") && sensor.channel !== "range") continue;
      const drops = analysis.findings.some((f) => f.id === `drop-out:${sensor.id}`);
      const away = analysis.dropouts.flatMap((d) => (d.sensor === sensor.id ? [d.endS - d.startS] : []));
      const dead = away.some((s) => s > DEAD_S);
      const ripples = analysis.findings.some((f) => f.id === `sensor-ripple:${sensor.id}`);
      const seen = driven.some((g) => sensorValidIn(sensor, g)) && !analysis.derived.includes(sensor.channel);
      if (drops && dead)
        add("sensor", sensor.id, { component: sensor.id }, "dead", `${sensor.name} reads nothing`, true);
      else if (drops && median(away) < FLICKER_S)
        add("sensor", sensor.id, { component: sensor.id }, "flickers", `${sensor.name} flickers`, true);
      else if (drops) add("sensor", sensor.id, { component: sensor.id }, "drops-out", `${sensor.name} drops out`, true);
      else if (ripples) add("sensor", sensor.id, { component: sensor.id }, "ripples", `${sensor.name} ripples`, true);
      else if (seen) add("sensor", sensor.id, { component: sensor.id }, "steady", `${sensor.name} steady`, false);
    }
  },
};

const whatItDoes = (list: readonly Dropout[]) =>
  list.some((d) => d.kind === "not D while driving")
    ? "falls out of D while driving"
    : list.every((d) => d.kind === "frozen")
      ? "freezes: it stands still while the shaft turns on"
      : "drops out";

function dropoutFindings(frame: Frame, dropouts: readonly Dropout[]): Finding[] {
  const bySensor = groupBySensor(dropouts);
  return [...bySensor].map(([sensor, list]): Finding => {
    const lost = list.reduce((sum, d) => sum + d.endS - d.startS, 0);
    const gears = [...new Set(list.map((d) => d.gear))].filter((g) => g !== "?");
    return {
      id: `drop-out:${sensor}`,
      kind: "drop-out",
      title: `${componentName(frame.unit, sensor)} ${whatItDoes(list)}`,
      subject: { component: sensor },
      severity: list.some((d) => d.kind !== "no valid reading") ? "fault" : "notice",
      startS: list[0]?.startS ?? 0,
      endS: list.at(-1)?.endS ?? 0,
      occurrences: list.map((d) => ({ startS: d.startS, endS: d.endS, value: d.endS - d.startS })),
      conditions: { gears, fluidC: range(list.map((d) => d.fluidC)) },
      measures: [
        { name: "drop-outs", value: list.length, quantity: "count" },
        { name: "time lost", value: lost, quantity: "duration" },
      ],
      limit: { value: 0, quantity: "count", source: "typical" },
      confidence: confidence(frame, list.length, lost, 2),
    };
  });
}

function groupBySensor(dropouts: readonly Dropout[]): Map<string, Dropout[]> {
  const map = new Map<string, Dropout[]>();
  for (const d of dropouts) map.set(d.sensor, [...(map.get(d.sensor) ?? []), d]);
  return map;
}
