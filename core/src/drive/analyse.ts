import type { Recording } from "../log/index.ts";
import type { Unit } from "../unit/index.ts";
import type { Analysis, GearSpan, Measured } from "./analysis.ts";
import { analyseCoverage } from "./coverage.ts";
import { VIBRATION_RATE_HZ } from "./driveline/oscillation.ts";
import { heldSlipRpm } from "./gear/held.ts";
import { Drive } from "./measure.ts";
import { MEASURES } from "./measures.ts";
import { sensorMask } from "./sensors/mask.ts";
import { judgeQuality } from "./sensors/quality.ts";
import { shifts } from "./shift/shifts.measure.ts";
import { fittingFrame } from "./signal/fit.ts";
import { buildFrame, type Frame } from "./signal/frame.ts";

/** Raised whenever the same log may give other results. */
export const ANALYSIS_VERSION = 16;

/**
 * From a recording and a unit to findings.
 * @param library - other units, to say which fits when this one does not
 * @throws InputError `channels-missing`, `wrong-unit`
 */
export function analyseDrive(recording: Recording, unit: Unit, library: readonly Unit[] = []): Analysis {
  const { frame, fit: ratioFit } = fittingFrame(recording, unit, library);
  const drive = new Drive(recording, frame);
  const measured = Object.fromEntries(MEASURES.map((m) => [m.id, drive.of(m)])) as unknown as Measured;
  return {
    format: "gearsense-analysis",
    version: ANALYSIS_VERSION,
    unitId: unit.id,
    unitVersion: unit.version,
    durationS: recording.durationS,
    rateHz: frame.rateHz,
    ratioFit,
    loadSource: frame.loadSource,
    derived: frame.derived,
    sensorChannels: Object.fromEntries(unit.sensors.map((s) => [s.id, s.channel])),
    gearSpans: gearSpans(frame.timeS, frame.gear),
    ...measured,
    quality: judgeQuality(recording, frame),
    coverage: analyseCoverage(unit, measured),
    findings: MEASURES.flatMap((m) => m.findings?.(measured, drive) ?? []),
    notes: notesOn(frame, measured),
  };
}

/** What the log could not show, and what to record. */
function notesOn(
  { torqueNm, fluidC, unit, rateHz, inputKnown }: Frame,
  { converter, oscillation }: Measured,
): string[] {
  const notes: string[] = [];
  if (!inputKnown)
    notes.push(
      "No turbine speed was recorded: slip in gear and the times of shifts cannot be measured. Record the turbine, or the slip of the converter.",
    );
  if (!torqueNm)
    notes.push(
      "No engine torque was recorded: load is judged by the pedal, and the torque at which slip begins is unknown.",
    );
  if (!fluidC) notes.push("No fluid temperature was recorded: can’t tell cold from hot driving.");
  if (unit.kind === "planetary" && !converter)
    notes.push(
      "Converter clutch command or engine speed was not recorded: slip and shudder of the converter clutch cannot be judged.",
    );
  if (converter && oscillation.rateHz < VIBRATION_RATE_HZ) {
    notes.push(
      `At ${rateHz.toFixed(0)} readings a second this log can’t tell a shudder (3–20 Hz) from other vibrations. Log fewer channels to get 20 or more.`,
    );
  } else if (unit.kind === "planetary" && converter && oscillation.highestHz === undefined) {
    notes.push(`At ${rateHz.toFixed(0)} readings a second shudder (3–20 Hz) cannot be seen. Log fewer channels.`);
  } else if (converter && oscillation.highestHz !== undefined && oscillation.highestHz < 20) {
    notes.push(
      `At ${rateHz.toFixed(0)} readings a second oscillation is judged up to ${oscillation.highestHz.toFixed(0)} Hz only.`,
    );
  }
  return notes;
}

/** Slip of the commanded gear as a channel, for the trace. @throws InputError as `analyseDrive` */
export function slipChannel(
  recording: Recording,
  unit: Unit,
): { timeS: Float64Array; slipRpm: Float64Array; rateHz: number } {
  const frame = buildFrame(recording, unit);
  const drive = new Drive(recording, frame);
  const slipRpm = heldSlipRpm(frame, drive.of(shifts), sensorMask(drive));
  return { timeS: frame.timeS, slipRpm, rateHz: frame.rateHz };
}

function gearSpans(timeS: Float64Array, gear: Float64Array): GearSpan[] {
  const spans: { gear: number; startS: number; endS: number }[] = [];
  for (let i = 0; i < gear.length; i++) {
    const g = gear[i] as number;
    if (Number.isNaN(g)) continue;
    const last = spans.at(-1);
    if (last?.gear === g) last.endS = timeS[i] as number;
    else {
      if (last) last.endS = timeS[i] as number;
      spans.push({ gear: g, startS: timeS[i] as number, endS: timeS[i] as number });
    }
  }
  return spans;
}
