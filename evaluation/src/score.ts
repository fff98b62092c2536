import { type Analysis, gearObservations } from "@gearsense/core/drive";
import { readObservations, sensorValidIn, type Unit } from "@gearsense/core/unit";
import type { Truth } from "@gearsense/simulator";
import { type EvaluationCase, OF_ELEMENT } from "./cases.ts";

/** Hits, false alarms and misses. */
export interface Counts {
  readonly hit: number;
  readonly wrong: number;
  readonly missed: number;
}

/** One case against its truth. A part that the case does not put to the test is undefined. */
export interface CaseScore {
  readonly spec: EvaluationCase;
  /** the log could not be analysed: sentence of the refusal */
  readonly refused: string | undefined;
  readonly shifts: Counts;
  /** |measured − true| of each shift that was measured */
  readonly inertiaErrorS: readonly number[];
  readonly flareErrorRpm: readonly number[];
  readonly slip: { readonly right: boolean; readonly alone: boolean } | undefined;
  /** borderline vibrations are neither */
  readonly shudder: { readonly real: boolean; readonly said: boolean } | undefined;
  readonly shudderErrorHz: readonly { readonly hz: number; readonly underHalfRate: boolean }[];
  readonly dropouts: Counts;
  readonly limp: { readonly real: boolean; readonly said: boolean; readonly errorS: number | undefined } | undefined;
  /** findings over "notice" in a healthy vehicle */
  readonly falseFindings: readonly string[] | undefined;
  readonly mapping: { readonly right: number; readonly all: number };
  /** what went wrong, in words */
  readonly misses: readonly string[];
}

type Columns = ReadonlyMap<string, Float64Array>;

const CLEAR_SLIP_RPM = 100;
const CLEAR_SLIP_S = 0.8;
const CLEAR_SHUDDER_RPM = 40;
const CLEAR_SHUDDER_S = 4;
const MATCH_S = 0.15;
const MOVING_KMH = 14;
const LIMP_DRIVE_S = 15;
const JOIN_S = 0.45;
const TAKES_HOLD_S = 1;

/** The element that a fault takes the grip of. @returns undefined for other faults */
function elementOf(unit: Unit, spec: EvaluationCase): string | undefined {
  const { fault } = spec;
  if (!fault || !OF_ELEMENT.has(fault.kind)) return undefined;
  return unit.solenoids.find((s) => s.id === fault.component)?.feeds ?? fault.component;
}

function scoreShifts(analysis: Analysis, truth: Truth, rateHz: number, misses: string[]) {
  const within = MATCH_S + 1.5 / rateHz;
  const free = new Set(analysis.shifts);
  const inertia: number[] = [];
  const flare: number[] = [];
  let [hit, missed] = [0, 0];
  for (const t of truth.shifts) {
    let best: (typeof analysis.shifts)[number] | undefined;
    for (const s of free)
      if (s.name === t.name && Math.abs(s.commandS - t.commandS) < within)
        if (!best || Math.abs(s.commandS - t.commandS) < Math.abs(best.commandS - t.commandS)) best = s;
    if (!best) {
      if (t.made) {
        missed++;
        misses.push(`shift ${t.name} at ${t.commandS.toFixed(1)} s not found`);
      }
      continue;
    }
    free.delete(best);
    hit++;
    if (!best.measured || !t.made) continue;
    if (best.inertiaS !== undefined) inertia.push(Math.abs(best.inertiaS - (t.endS - t.startS)));
    if (best.flareRpm !== undefined && best.underPower) flare.push(Math.abs(best.flareRpm - Math.max(0, t.flareRpm)));
  }
  for (const s of free) misses.push(`shift ${s.name} at ${s.commandS.toFixed(1)} s wasn't one`);
  return { counts: { hit, wrong: free.size, missed }, inertia, flare };
}

function scoreSlip(analysis: Analysis, truth: Truth, unit: Unit, spec: EvaluationCase, misses: string[]) {
  const element = elementOf(unit, spec);
  if (!element) return undefined;
  const clear = truth.slips.filter((s) => s.peakRpm > CLEAR_SLIP_RPM && s.endS - s.startS > CLEAR_SLIP_S);
  if (clear.length === 0) return undefined;
  const { explanations } = readObservations(unit, gearObservations(analysis));
  const right = explanations.some((e) => e.length === 1 && e[0] === element);
  if (!right)
    misses.push(
      `slip of ${element} in ${[...new Set(clear.map((s) => s.gear))].join(", ")} explained by ${explanations.map((e) => e.join("+")).join(" or ") || "nothing"}`,
    );
  return { right, alone: right && explanations.length === 1 };
}

function scoreShudder(analysis: Analysis, truth: Truth, unit: Unit, misses: string[]) {
  if (unit.kind !== "planetary") return { verdict: undefined, errors: [] };
  const found = analysis.findings.find((f) => f.kind === "shudder");
  const clear = truth.shudder.filter(
    (s) => s.endS - s.startS >= CLEAR_SHUDDER_S && s.peakToPeakRpm >= CLEAR_SHUDDER_RPM,
  );
  if (clear.length === 0 && truth.shudder.length > 0) return { verdict: undefined, errors: [] };
  const errors = clear.flatMap((t) => {
    // the truth keeps the mean over the span: the first second, in which the clutch takes hold, is left out on both sides
    const within = analysis.oscillation.windows.filter(
      (w) => w.cause === "shudder" && w.startS < t.endS - 0.5 && w.startS > t.startS + TAKES_HOLD_S,
    );
    if (within.length === 0) return [];
    const mean = within.reduce((sum, w) => sum + w.peak.frequencyHz, 0) / within.length;
    return [{ hz: Math.abs(mean - t.frequencyHz), underHalfRate: t.frequencyHz < analysis.rateHz / 2 }];
  });
  const verdict = { real: clear.length > 0, said: found !== undefined };
  if (verdict.real && !verdict.said)
    misses.push(
      `shudder of ${clear[0]?.frequencyHz.toFixed(1)} Hz, ${clear[0]?.peakToPeakRpm.toFixed(0)} rpm not found`,
    );
  if (!verdict.real && verdict.said) misses.push("shudder found where there is none");
  return { verdict, errors };
}

interface Event {
  startS: number;
  endS: number;
}

/** Events that follow each other closely are one. */
function joined(events: readonly Event[]): Event[] {
  const out: Event[] = [];
  for (const e of [...events].sort((a, b) => a.startS - b.startS)) {
    const last = out.at(-1);
    if (last && e.startS - last.endS <= JOIN_S) last.endS = Math.max(last.endS, e.endS);
    else out.push({ startS: e.startS, endS: e.endS });
  }
  return out;
}

function scoreDropouts(
  analysis: Analysis,
  truth: Truth,
  unit: Unit,
  columns: Columns,
  rateHz: number,
  misses: string[],
): Counts {
  const time = columns.get("time_s") ?? new Float64Array();
  const at = (id: string, s: number) =>
    columns.get(id)?.[Math.min(time.length - 1, Math.round(s * rateHz))] ?? Number.NaN;
  let [hit, wrong, missed] = [0, 0, 0];
  for (const sensor of unit.sensors) {
    if (!columns.has(sensor.channel) || !sensor.channel.endsWith("_rpm")) continue;
    const real = joined(truth.dropouts.filter((d) => d.sensor === sensor.id));
    const said = joined(analysis.dropouts.filter((d) => d.sensor === sensor.id));
    const overlaps = (a: Event, b: Event) => a.startS < b.endS + 0.3 && b.startS < a.endS + 0.3;
    // what a log of this rate can show: two readings lost while another channel says that the shaft turns
    const visible = real.filter((d) => {
      let lost = 0;
      for (let s = Math.ceil(d.startS * rateHz) / rateHz; s <= d.endS; s += 1 / rateHz) {
        const gear = at("gear_commanded", s);
        const valid = gear > 0 && sensorValidIn(sensor, String(gear));
        // with the output gone too, road speed is the only witness
        if (at("vehicle_kmh", s) > MOVING_KMH && valid && at(sensor.channel, s) < 1) lost++;
      }
      return lost >= 3;
    });
    for (const d of visible) {
      if (said.some((s) => overlaps(s, d))) hit++;
      else {
        missed++;
        misses.push(
          `drop-out of ${sensor.id} at ${d.startS.toFixed(1)} s, ${(d.endS - d.startS).toFixed(2)} s long, not found`,
        );
      }
    }
    for (const s of said)
      if (!real.some((d) => overlaps(s, d))) {
        wrong++;
        misses.push(`drop-out of ${sensor.id} at ${s.startS.toFixed(1)} s wasn't one`);
      }
  }
  return { hit, wrong, missed };
}

const ALREADY_S = 2;

/** Was a gear commanded all through the seconds before a moment? */
function alreadyIn(gear: string, columns: Columns, atS: number, rateHz: number): boolean {
  const commanded = columns.get("gear_commanded");
  if (!commanded) return false;
  for (let i = Math.max(0, Math.round((atS - ALREADY_S) * rateHz)); i < atS * rateHz; i++)
    if (commanded[i] !== Number(gear)) return false;
  return true;
}

function scoreLimp(analysis: Analysis, truth: Truth, unit: Unit, columns: Columns, rateHz: number, misses: string[]) {
  const kmh = columns.get("vehicle_kmh") ?? new Float64Array();
  const real = truth.limpS;
  if (real !== undefined) {
    let moving = 0;
    for (let i = Math.ceil(real * rateHz); i < kmh.length; i++)
      if ((kmh[i] as number) > MOVING_KMH) moving += 1 / rateHz;
    let before = 0;
    for (let i = 0; i < Math.min(kmh.length, real * rateHz); i++)
      if ((kmh[i] as number) > MOVING_KMH) before += 1 / rateHz;
    // too little driving on either side of it to tell
    if (moving < LIMP_DRIVE_S || before < LIMP_DRIVE_S) return undefined;
    // a dual clutch that drives in its limp gear already changes nothing at that moment
    if (unit.kind !== "planetary" && alreadyIn(unit.limp.gear, columns, real, rateHz)) return undefined;
  }
  const said = analysis.limp?.startS;
  const errorS = real !== undefined && said !== undefined ? Math.abs(said - real) : undefined;
  if (real !== undefined && said === undefined) misses.push(`limp mode at ${real.toFixed(1)} s not found`);
  if (real === undefined && said !== undefined) misses.push(`limp mode at ${said.toFixed(1)} s wasn't one`);
  if (errorS !== undefined && errorS > 1)
    misses.push(`limp mode at ${real?.toFixed(1)} s put at ${said?.toFixed(1)} s`);
  return { real: real !== undefined, said: said !== undefined, errorS };
}

/** Compares an analysis with what really happened. */
export function scoreCase(
  spec: EvaluationCase,
  unit: Unit,
  analysis: Analysis,
  truth: Truth,
  columns: Columns,
  mapping: { readonly right: number; readonly all: number; readonly wrong: readonly string[] },
): CaseScore {
  const misses: string[] = mapping.wrong.map((w) => `column ${w}`);
  const shifts = scoreShifts(analysis, truth, spec.rateHz, misses);
  const shudder = scoreShudder(analysis, truth, unit, misses);
  const falseFindings =
    spec.group === "healthy" ? analysis.findings.filter((f) => f.severity === "fault").map((f) => f.title) : undefined;
  for (const f of falseFindings ?? []) misses.push(`healthy, but: ${f}`);
  return {
    spec,
    refused: undefined,
    shifts: shifts.counts,
    inertiaErrorS: shifts.inertia,
    flareErrorRpm: shifts.flare,
    slip: scoreSlip(analysis, truth, unit, spec, misses),
    shudder: shudder.verdict,
    shudderErrorHz: shudder.errors,
    dropouts: scoreDropouts(analysis, truth, unit, columns, spec.rateHz, misses),
    limp: scoreLimp(analysis, truth, unit, columns, spec.rateHz, misses),
    falseFindings,
    mapping: { right: mapping.right, all: mapping.all },
    misses,
  };
}

/** A case whose log was refused: everything in it is missed. */
export const refusedScore = (spec: EvaluationCase, message: string): CaseScore => ({
  spec,
  refused: message,
  shifts: { hit: 0, wrong: 0, missed: 0 },
  inertiaErrorS: [],
  flareErrorRpm: [],
  slip: spec.group === "element" ? { right: false, alone: false } : undefined,
  shudder: spec.group === "shudder" ? { real: true, said: false } : undefined,
  shudderErrorHz: [],
  dropouts: { hit: 0, wrong: 0, missed: 0 },
  limp: spec.group === "limp" ? { real: true, said: false, errorS: undefined } : undefined,
  falseFindings: undefined,
  mapping: { right: 0, all: 0 },
  misses: [`refused: ${message}`],
});
