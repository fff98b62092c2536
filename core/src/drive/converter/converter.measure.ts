import type { Analysis } from "../analysis.ts";
import { confidence, type Finding, overall, range } from "../finding.ts";
import type { Limp } from "../gear/limp.ts";
import { limitsOf } from "../limits.ts";
import { type Add, either, hasFinding, type Measure } from "../measure.ts";
import { sensorMask } from "../sensors/mask.ts";
import { turbineRipples } from "../sensors/quality.ts";
import { shifting } from "../shift/shifts.measure.ts";
import type { Frame } from "../signal/frame.ts";
import {
  analyseConverter,
  type ConverterAnalysis,
  HUNTING_CYCLES,
  neverTakesHold,
  type SlipUnderLoad,
} from "./converter.ts";

const MIN_CLUTCH_S = 10;

export const converter: Measure<"converter"> = {
  id: "converter",
  measure: (drive) =>
    drive.unit.kind === "planetary"
      ? analyseConverter(drive.frame, sensorMask(drive), shifting(drive), drive.limits.residualSlipRpm.value)
      : undefined,
  findings: (measured, { frame }) => [
    // the slip of a turbine speed that ripples is the sensor's
    ...(turbineRipples(measured.ripples) ? [] : converterFindings(frame, measured.converter, measured.limp)),
    ...staysOnFindings(frame, measured.converter),
    ...huntingFindings(measured.converter),
  ],
  compares: {
    "converter-slip": {
      by: "occasion",
      measure: "slip of an application where it carries most",
      share: 0.5,
      harder: true,
      ofSpeeds: true,
      rateHz: 3,
      lacks: (a) =>
        !a.converter || a.converter.from === "slip" ? "what the converter clutch is told was not recorded" : undefined,
      occasions: ({ converter: found }) =>
        (found?.episodes ?? []).flatMap((e) =>
          e.loadedSlipRpm === undefined
            ? []
            : [
                {
                  at: "converter clutch",
                  value: e.loadedSlipRpm,
                  load: e.load,
                  fluidC: e.fluidC,
                  vehicleKmh: e.vehicleKmh,
                },
              ],
        ),
    },
    "converter-stays-on": {
      by: "state",
      rateHz: 3,
      leastS: 4,
      label: "pulling with the converter clutch let go",
      state: ({ converter: found }) =>
        found?.letGo && { value: missingTakenPct(found.letGo.share), seconds: found.letGo.seconds },
    },
    hunting: {
      by: "event",
      rateHz: 2,
      driving: "steady speed in the gears of the converter clutch",
      lacks: (a) =>
        !a.converter || a.converter.from === "slip" ? "what the converter clutch is told was not recorded" : undefined,
      events: ({ converter: found }) => (found?.hunting ?? []).reduce((sum, h) => sum + h.cycles, 0),
      exposureS: ({ converter: found }, f) =>
        Object.fromEntries(f.conditions.gears.map((g) => [`gear ${g}`, found?.byGear[g] ?? 0])),
    },
  },
  evidence(_unit, analysis, add) {
    if (!analysis.converter || analysis.converter.from === "slip" || analysis.converter.secondsApplied < MIN_CLUTCH_S)
      return;
    // of a turbine speed that ripples nothing is said of how the clutch holds; what it is told stands
    if (!turbineRipples(analysis.ripples)) howItHolds(analysis, analysis.converter, add);
    const hunts = hasFinding(analysis, "hunting");
    either(add, "hunting", hunts, ["hunts", "Converter clutch hunts"], ["calm", "Converter clutch calm"]);
  },
};

/** Does the clutch hold, slip, never take hold or never let go? */
function howItHolds(analysis: Analysis, found: ConverterAnalysis, add: Add): void {
  const slips = hasFinding(analysis, "converter-slip");
  if (hasFinding(analysis, "converter-stays-on"))
    add("converter-clutch", "all", {}, "stays", "Converter clutch does not let go", true);
  else if (neverTakesHold(found))
    add("converter-clutch", "all", {}, "open", "Converter clutch never takes hold: slips as if let go", true);
  else
    either(
      add,
      "converter-clutch",
      slips,
      ["slips", "Converter clutch slips while applied"],
      ["holds", "Converter clutch holds"],
    );
}

/** Regulated slip wanders: so much over the limit it is the clutch. */
const OVER = 1.2;
/** A clutch that is said to be locked has hardly any. */
const LOCKED_SHARE = 0.6;
const LEAST_EPISODES = 2;

/** Slip under load over the limit, of one of the two ways in which the clutch is held. */
export function slipsUnderLoad(
  converter: ConverterAnalysis,
  limitRpm: number,
): (SlipUnderLoad & { readonly limitRpm: number }) | undefined {
  const of = (load: SlipUnderLoad | undefined, most: number) =>
    load && load.slipRpm > most ? { ...load, limitRpm: most } : undefined;
  return of(converter.regulated, OVER * limitRpm) ?? of(converter.locked, LOCKED_SHARE * limitRpm);
}

function converterFindings(frame: Frame, converter: ConverterAnalysis | undefined, limp: Limp | undefined): Finding[] {
  if (!converter || converter.from === "slip") return [];
  const limit = limitsOf(frame.unit).residualSlipRpm;
  const over = slipsUnderLoad(converter, limit.value);
  const bad = converter.episodes.filter(
    (e) => (e.loadedSlipRpm ?? 0) > (over?.limitRpm ?? Infinity) && !(limp && e.startS > limp.startS),
  );
  if (!over || bad.length < Math.min(LEAST_EPISODES, converter.episodes.length)) return [];
  const seconds = bad.reduce((s, e) => s + e.endS - e.startS, 0);
  return [
    {
      id: "converter-slip",
      kind: "converter-slip",
      title: "Converter clutch slips while commanded to hold",
      subject: { component: "converter-clutch" },
      severity: "fault",
      startS: bad[0]?.startS ?? 0,
      endS: bad.at(-1)?.endS ?? 0,
      occurrences: bad.map((e) => ({ startS: e.startS, endS: e.endS, value: e.loadedSlipRpm as number })),
      conditions: {
        gears: [...new Set(bad.flatMap((e) => e.gears))].sort(),
        torqueNm: range(bad.map((e) => e.torqueNm)),
        fluidC: range(bad.map((e) => e.fluidC)),
        vehicleKmh: range(bad.map((e) => e.vehicleKmh)),
      },
      measures: [
        { name: "slip where it carries most", value: over.slipRpm, quantity: "speed-rpm" },
        ...(over.openRpm === undefined
          ? []
          : [{ name: "with the clutch open it would be", value: over.openRpm, quantity: "speed-rpm" } as const]),
        { name: "of applications", value: converter.episodes.length, quantity: "count" },
      ],
      limit: { value: over.limitRpm, quantity: "speed-rpm", source: limit.source },
      confidence: confidence(frame, bad.length, seconds, 2),
    },
  ];
}

/** An open converter takes what the engine gives, and a weak one gives half of what it reports; one that is held takes nearly none. */
export const STAYS_ON_PCT = 70;
export const missingTakenPct = (share: number): number => Math.min(100, Math.max(0, 1 - share) * 100);

function staysOnFindings(frame: Frame, converter: ConverterAnalysis | undefined): Finding[] {
  const letGo = converter?.letGo;
  const missing = letGo && missingTakenPct(letGo.share);
  if (!letGo || missing === undefined || missing <= STAYS_ON_PCT) return [];
  return [
    overall(frame, "converter-stays-on", {
      title: "Converter clutch does not let go when it is told to",
      subject: { component: "converter-clutch" },
      measures: [
        { name: "missing of the torque that an open converter takes", value: missing, quantity: "percent" },
        { name: "let go and pulling for", value: letGo.seconds, quantity: "duration" },
      ],
      limit: { value: STAYS_ON_PCT, quantity: "percent", source: "typical" },
      confidence: confidence(frame, 1, letGo.seconds, 4),
    }),
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
