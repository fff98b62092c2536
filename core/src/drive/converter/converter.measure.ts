import { confidence, type Finding, range } from "../finding.ts";
import type { Limp } from "../gear/limp.ts";
import { limitsOf } from "../limits.ts";
import { either, hasFinding, type Measure } from "../measure.ts";
import { sensorMask } from "../sensors/mask.ts";
import { shifting } from "../shift/shifts.measure.ts";
import type { Frame } from "../signal/frame.ts";
import { median } from "../signal/stats.ts";
import { analyseConverter, type ConverterAnalysis, HUNTING_CYCLES, neverTakesHold } from "./converter.ts";

const MIN_CLUTCH_S = 10;

export const converter: Measure<"converter"> = {
  id: "converter",
  measure: (drive) =>
    drive.unit.kind === "planetary"
      ? analyseConverter(drive.frame, sensorMask(drive), shifting(drive), drive.limits.residualSlipRpm.value)
      : undefined,
  findings: (measured, { frame }) => [
    ...converterFindings(frame, measured.converter, measured.limp),
    ...huntingFindings(measured.converter),
  ],
  evidence(_unit, analysis, add) {
    if (!analysis.converter || analysis.converter.from === "slip" || analysis.converter.secondsApplied < MIN_CLUTCH_S)
      return;
    const slips = hasFinding(analysis, "converter-slip");
    if (neverTakesHold(analysis.converter))
      add("converter-clutch", "all", {}, "open", "Converter clutch never takes hold: slips as if let go", true);
    else
      either(
        add,
        "converter-clutch",
        slips,
        ["slips", "Converter clutch slips while applied"],
        ["holds", "Converter clutch holds"],
      );
    const hunts = hasFinding(analysis, "hunting");
    either(add, "hunting", hunts, ["hunts", "Converter clutch hunts"], ["calm", "Converter clutch calm"]);
  },
};

function converterFindings(frame: Frame, converter: ConverterAnalysis | undefined, limp: Limp | undefined): Finding[] {
  if (!converter || converter.from === "slip") return [];
  const limit = limitsOf(frame.unit).residualSlipRpm;
  const bad = converter.episodes.filter((e) => e.residualSlipRpm > limit.value && !(limp && e.startS > limp.startS));
  if (bad.length === 0) return [];
  const seconds = bad.reduce((s, e) => s + e.endS - e.startS, 0);
  const opens = bad.flatMap((e) => (e.openSlipRpm === undefined ? [] : [e.openSlipRpm]));
  return [
    {
      id: "converter-slip",
      kind: "converter-slip",
      title: "Converter clutch slips while commanded to hold",
      subject: { component: "converter-clutch" },
      severity: "fault",
      startS: bad[0]?.startS ?? 0,
      endS: bad.at(-1)?.endS ?? 0,
      occurrences: bad.map((e) => ({ startS: e.startS, endS: e.endS, value: e.residualSlipRpm })),
      conditions: {
        gears: [...new Set(bad.flatMap((e) => e.gears))].sort(),
        torqueNm: range(bad.map((e) => e.torqueNm)),
        fluidC: range(bad.map((e) => e.fluidC)),
        vehicleKmh: range(bad.map((e) => e.vehicleKmh)),
      },
      measures: [
        { name: "residual slip", value: median(bad.map((e) => e.residualSlipRpm)), quantity: "speed-rpm" },
        ...(opens.length > 0
          ? [{ name: "with the clutch open it would be", value: median(opens), quantity: "speed-rpm" } as const]
          : []),
        { name: "of applications", value: converter.episodes.length, quantity: "count" },
      ],
      limit: { value: limit.value, quantity: "speed-rpm", source: limit.source },
      confidence: confidence(frame, bad.length, seconds, 2),
    },
  ];
}

function huntingFindings(converter: ConverterAnalysis | undefined): Finding[] {
  const spans = converter?.hunting ?? [];
  const [first] = spans;
  if (!first) return [];
  const gears = [...new Set(spans.map((s) => s.gear))].sort();
  const cycles = spans.reduce((n, s) => n + s.cycles, 0);
  return [
    {
      id: "hunting",
      kind: "hunting",
      title: `Converter clutch hunts in gear ${gears.join(", ")}`,
      subject: { component: "converter-clutch" },
      severity: "notice",
      startS: first.startS,
      endS: spans.at(-1)?.endS ?? first.endS,
      occurrences: spans.map((s) => ({ startS: s.startS, endS: s.endS, value: s.cyclesPerMin })),
      conditions: {
        gears,
        fluidC: range(spans.map((s) => s.fluidC)),
        vehicleKmh: range(spans.map((s) => s.vehicleKmh)),
      },
      measures: [
        { name: "let go and taken again", value: cycles, quantity: "count" },
        { name: "a minute", value: Math.max(...spans.map((s) => s.cyclesPerMin)), quantity: "count" },
      ],
      limit: { value: HUNTING_CYCLES - 1, quantity: "count", source: "typical" },
      confidence: {
        level: "medium",
        reason: "the controller lets it go at a steady speed and pedal",
        raise: "look at the signals that it decides by: pedal, brake switch, fluid temperature, engine torque",
      },
    },
  ];
}
