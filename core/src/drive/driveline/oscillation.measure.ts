import { recorded } from "../comparer.ts";
import { launching } from "../dual-clutch/launches.measure.ts";
import { confidence, type Finding, type MeasuredValue, range } from "../finding.ts";
import { limitsOf, TYPICAL } from "../limits.ts";
import { either, hasFinding, type Measure } from "../measure.ts";
import { sensorMask } from "../sensors/mask.ts";
import { speedsRipple } from "../sensors/quality.ts";
import { shifting } from "../shift/shifts.measure.ts";
import type { Frame } from "../signal/frame.ts";
import { median } from "../signal/stats.ts";
import {
  analyseOscillation,
  type OscillationAnalysis,
  type OscillationWindow,
  SHUDDER_BAND_HZ,
  VIBRATION_RATE_HZ,
  type VibrationCause,
} from "./oscillation.ts";

export const oscillation: Measure<"oscillation"> = {
  id: "oscillation",
  measure: (drive) =>
    analyseOscillation(
      drive.frame,
      sensorMask(drive),
      // a launch vibrates by itself, and is judged by itself
      shifting(drive).map((q, i) => q | (launching(drive)[i] as number)),
      drive.limits.shudderPeakToPeakRpm,
    ),
  // the shafts don't make a vibration that the sensor makes
  findings: (measured, { frame }) =>
    speedsRipple(measured.ripples) ? [] : oscillationFindings(frame, measured.oscillation),
  compares: {
    shudder: {
      by: "occasion",
      measure: "vibration of the slip, peak to peak",
      share: 0.75,
      ofSpeeds: true,
      rateHz: 18,
      together: 4,
      lacks: ({ converter: found }) => (found ? undefined : "what the converter clutch is told was not recorded"),
      occasions: ({ oscillation: { slipWindows } }) =>
        slipWindows.map(({ gear, peakToPeakRpm, ...of }) => ({
          at: `gear ${gear}, converter clutch on`,
          value: peakToPeakRpm,
          ...of,
        })),
    },
    oscillation: {
      by: "occasion",
      share: 0.75,
      ofSpeeds: true,
      rateHz: 18,
      together: 3,
      lacks: (a) => (recorded(a, "engine_rpm") ? undefined : "the engine speed was not recorded"),
      occasions: ({ oscillation: { judged } }, f) =>
        judged.map(({ peakToPeakRpm, cause, gear, ...of }) => ({
          at: `gear ${gear}`,
          value: `oscillation:${cause?.replace(" ", "-")}` === f.id ? peakToPeakRpm : 0,
          ...of,
        })),
    },
  },
  evidence(_unit, analysis, add) {
    const { oscillation } = analysis;
    if (oscillation.rateHz < VIBRATION_RATE_HZ || speedsRipple(analysis.ripples)) return;
    const found = (id: string) => analysis.findings.some((f) => f.id === id);
    if (oscillation.clutchWorking.length > 0) {
      const shudders = hasFinding(analysis, "shudder");
      either(
        add,
        "shudder",
        shudders,
        ["shudders", "Shudder while the converter clutch works"],
        ["smooth", "No shudder while the converter clutch works"],
      );
    }
    if (oscillation.openPeakToPeakRpm !== undefined || oscillation.engineAloneWindows >= ALONE_WINDOWS) {
      const open = found("oscillation:engine");
      either(
        add,
        "open-oscillation",
        open,
        ["present", "Vibration that comes from the engine"],
        ["absent", "No vibration from the engine"],
      );
    }
    const road = found("oscillation:wheels") ? "wheels" : found("oscillation:output-shaft") ? "output-shaft" : "none";
    add(
      "road-oscillation",
      "all",
      {},
      road,
      road === "none"
        ? "No vibration from wheels or shafts"
        : `Vibration that comes from the ${road.replace("-", " ")}`,
      road !== "none",
    );
  },
};

/** With fewer an engine that runs rough need not have shown. */
const ALONE_WINDOWS = 8;

const CAUSE_TITLES: Readonly<Record<Exclude<VibrationCause, "shudder">, string>> = {
  engine: "Vibration that comes from the engine: no shudder",
  "output shaft": "Vibration that follows the output shaft: no shudder",
  wheels: "Vibration that follows the wheels: no shudder",
  unknown: "Oscillation, source unknown",
};
const MIN_VIBRATION_WINDOWS = 4;

/** One frequency, in windows that overlap, is one span. */
function spansOf(windows: readonly OscillationWindow[]): OscillationWindow[][] {
  const spans: OscillationWindow[][] = [];
  for (const w of windows) {
    const last = spans.at(-1);
    const previous = last?.at(-1);
    if (last && previous && w.startS <= previous.endS && Math.abs(w.peak.frequencyHz - previous.peak.frequencyHz) < 1.2)
      last.push(w);
    else spans.push([w]);
  }
  return spans;
}

function oscillationFindings(frame: Frame, oscillation: OscillationAnalysis): Finding[] {
  const own = oscillation.shudderLimit ?? limitsOf(frame.unit).shudderPeakToPeakRpm;
  const out: Finding[] = [];
  for (const cause of ["shudder", "engine", "output shaft", "wheels", "unknown"] as const) {
    const shudder = cause === "shudder";
    const limit = shudder ? own : { value: TYPICAL.vibrationPeakToPeakRpm, source: "typical" as const };
    const over = oscillation.windows.filter(
      (w) =>
        w.cause === cause &&
        w.peak.peakToPeak > limit.value &&
        (cause !== "unknown" || (w.signal === "slip" && w.working)),
    );
    // a single window may be a step in slip; a vibration is there again and again
    const kept = shudder ? spansOf(over).filter((s) => s.length >= 2) : spansOf(over);
    if (kept.length === 0 || (shudder ? kept.flat() : over).length < MIN_VIBRATION_WINDOWS) continue;
    // beside a vibration whose source is known the rest is its edges
    if (cause === "unknown" && out.length > 0) continue;
    const all = kept.flat();
    const peakToPeak = median(all.map((w) => w.peak.peakToPeak));
    const seconds = kept.reduce((sum, s) => sum + (s.at(-1)?.endS ?? 0) - (s[0]?.startS ?? 0), 0);
    const folded = oscillation.rateHz < 40;
    const base = confidence(frame, kept.length, seconds, 12);
    const order = all.find((w) => w.order)?.order;
    const measures: [MeasuredValue, ...MeasuredValue[]] = [
      { name: "peak to peak", value: peakToPeak, quantity: "speed-rpm" },
      {
        name: order?.folded || cause === "unknown" ? "seen as" : "frequency",
        value: median(all.map((w) => w.peak.frequencyHz)),
        quantity: "frequency",
      },
    ];
    // the log cannot tell a vibration from its image beyond half the rate
    const seenHz = median(all.map((w) => w.peak.frequencyHz));
    if (shudder && oscillation.rateHz - seenHz < SHUDDER_BAND_HZ[1])
      measures.push({
        name: `or, folded at ${oscillation.rateHz.toFixed(0)} readings a second,`,
        value: oscillation.rateHz - seenHz,
        quantity: "frequency",
      });
    if (order) measures.push({ name: `times a turn of the ${order.part}`, value: order.order, quantity: "none" });
    out.push({
      id: shudder ? "shudder" : `oscillation:${cause.replace(" ", "-")}`,
      kind: shudder ? "shudder" : "oscillation",
      title: shudder ? "Shudder while the converter clutch works" : CAUSE_TITLES[cause],
      subject: shudder ? { component: "converter-clutch" } : {},
      severity: shudder || cause !== "unknown" ? "fault" : "notice",
      startS: kept[0]?.[0]?.startS ?? 0,
      endS: kept.at(-1)?.at(-1)?.endS ?? 0,
      occurrences: kept.map((s) => ({
        startS: s[0]?.startS ?? 0,
        endS: s.at(-1)?.endS ?? 0,
        value: median(s.map((w) => w.peak.peakToPeak)),
      })),
      conditions: {
        gears: [...new Set(all.map((w) => w.group.gear))].sort(),
        torqueNm: range(all.map((w) => w.torqueNm)),
        fluidC: range(all.map((w) => w.fluidC)),
        vehicleKmh: range(all.map((w) => w.vehicleKmh)),
      },
      measures,
      limit: { value: limit.value, quantity: "speed-rpm", source: limit.source },
      confidence:
        cause === "unknown"
          ? {
              level: "low",
              reason: `at ${oscillation.rateHz.toFixed(0)} readings a second frequencies over ${(oscillation.rateHz / 2).toFixed(0)} Hz fold down: the true one is unknown`,
              raise: "log fewer channels, 40 readings a second or more, and vary the speed",
            }
          : folded && !order
            ? {
                ...base,
                reason: `${base.reason}; at ${oscillation.rateHz.toFixed(0)} readings a second frequencies over ${(oscillation.rateHz / 2).toFixed(0)} Hz fold down, so the true one may be higher`,
                raise: "log fewer channels, 40 readings a second or more",
              }
            : base,
    });
  }
  return out;
}
