import type { SimulatedLog } from "../record.ts";

/** What a technician would notice of a drive, in numbers: from its truth and its channels. */
export interface Symptoms {
  readonly codes: readonly string[];
  readonly limp: boolean;
  /** gears in which it slipped */
  readonly slipGears: readonly string[];
  readonly slipPeakRpm: number;
  readonly slipSeconds: number;
  readonly wrongGears: readonly string[];
  readonly failedShifts: readonly string[];
  readonly shudderSeconds: number;
  readonly shudderHz: number;
  readonly dropouts: readonly string[];
  /** of the first engagement, s; Infinity when the input was never pulled down */
  readonly engageS: number;
  readonly engageJoltMS2: number;
  /** medians over shifts that were made */
  readonly shiftDelayS: number;
  readonly shiftInertiaS: number;
  readonly shiftJoltMS2: number;
  readonly flareRpm: number;
  /** change of acceleration by shift, median, m/s² */
  readonly joltByShift: Readonly<Record<string, number>>;
  /** from command to the first movement, by shift, median, s */
  readonly delayByShift: Readonly<Record<string, number>>;
  readonly shifts: number;
  readonly highestFluidC: number;
  readonly highestClutchC: number;
  /** |engine − turbine| while the converter clutch is commanded, median, rpm */
  readonly converterSlipRpm: number;
  /** share of the driving time in which the converter clutch was commanded */
  readonly converterShare: number;
  readonly highestKmh: number;
  /** time from rest to 35 km/h at the first start, s */
  readonly to35S: number;
  /** engine speed, highest in the first two seconds under pedal while hardly moving */
  readonly launchRpm: number;
  /** how high output speed vibrates about its own line in half a second while a gear is held, rpm; upper third */
  readonly outputRippleRpm: number;
  /** the same below 22 km/h with the pedal down */
  readonly launchRippleRpm: number;
  readonly otherVibrationSeconds: number;
  /** free travel each time the drive's torque turns round, mean, s */
  readonly freeTravelS: number;
  readonly lowestEngineRpm: number;
  readonly engineRippleRpm: number;
  readonly idleRpm: number;
  readonly gearsSeen: readonly number[];
}

const median = (values: readonly number[]): number => {
  const sorted = values.filter((v) => !Number.isNaN(v)).sort((a, b) => a - b);
  return sorted[sorted.length >> 1] ?? Number.NaN;
};
const quantile = (values: readonly number[], q: number): number => {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.min(sorted.length - 1, Math.floor(q * sorted.length))] ?? 0;
};

/** Height of what is left of a channel around a straight line over windows of half a second. */
function ripple(values: Float64Array, rateHz: number, use: (i: number) => boolean): number {
  const n = Math.max(4, Math.round(rateHz * 0.5));
  const heights: number[] = [];
  for (let at = 0; at + n <= values.length; at += n) {
    let all = true;
    for (let k = 0; k < n; k++) if (!use(at + k)) all = false;
    if (!all) continue;
    // least squares line
    let [sx, sy, sxx, sxy] = [0, 0, 0, 0];
    for (let k = 0; k < n; k++) {
      const y = values[at + k] as number;
      sx += k;
      sy += y;
      sxx += k * k;
      sxy += k * y;
    }
    const slope = (n * sxy - sx * sy) / (n * sxx - sx * sx);
    const mean = (sy - slope * sx) / n;
    let [low, high] = [Infinity, -Infinity];
    for (let k = 0; k < n; k++) {
      const r = (values[at + k] as number) - mean - slope * k;
      low = Math.min(low, r);
      high = Math.max(high, r);
    }
    heights.push(high - low);
  }
  return quantile(heights, 0.7);
}

export function symptomsOf(log: SimulatedLog): Symptoms {
  const { truth, columns, rateHz } = log;
  const col = (id: string) => columns.get(id) ?? new Float64Array(columns.get("time_s")?.length ?? 0);
  const [time, kmh, pedal, engine, output, gear, tcc, turbine] = [
    col("time_s"),
    col("vehicle_kmh"),
    col("pedal_pct"),
    col("engine_rpm"),
    col("output_rpm"),
    col("gear_commanded"),
    col("tcc_command"),
    col("turbine_rpm"),
  ] as const;
  const v = (a: Float64Array, i: number) => a[i] as number;
  const made = truth.shifts.filter((s) => s.made);
  const byShift = (of: (s: (typeof made)[number]) => number) =>
    Object.fromEntries(
      [...new Set(made.map((s) => s.name))].map((name) => [name, median(made.filter((s) => s.name === name).map(of))]),
    );
  const [engaged] = truth.engagements;
  let start = -1;
  let to35 = Number.POSITIVE_INFINITY;
  let launch = 0;
  for (let i = 0; i < time.length; i++) {
    if (start < 0 && v(pedal, i) > 5 && v(gear, i) > 0) start = i;
    if (start >= 0 && v(kmh, i) < 8 && v(time, i) < v(time, start) + 2.5) launch = Math.max(launch, v(engine, i));
    if (start >= 0 && v(kmh, i) >= 35) {
      to35 = v(time, i) - v(time, start);
      break;
    }
  }
  const converterSlip: number[] = [];
  let commanded = 0;
  let driving = 0;
  const idle: number[] = [];
  let onSince = 0;
  let changedS = -10;
  for (let i = 0; i < time.length; i++) {
    if (i > 0 && v(gear, i) !== v(gear, i - 1)) changedS = v(time, i);
    if (v(kmh, i) > 5) driving++;
    if (v(tcc, i) > 0) {
      commanded++;
      onSince++;
      if (onSince > 1.6 * rateHz) converterSlip.push(Math.abs(v(engine, i) - v(turbine, i)));
    } else onSince = 0;
    if (v(kmh, i) < 0.5 && v(pedal, i) === 0 && v(time, i) > 6 && v(time, i) > changedS + 1.5) idle.push(v(engine, i));
  }
  const starting = (i: number) =>
    v(kmh, i) > 2 && v(kmh, i) < 22 && v(pedal, i) > 5 && v(output, i) > 0 && gear[i] === 1;
  const steady = (i: number) => {
    for (let k = -Math.round(rateHz); k <= 0; k++) if (gear[i + k] !== gear[i]) return false;
    return v(kmh, i) > 25 && v(output, i) > 0;
  };
  return {
    codes: truth.codes.map((c) => c.code),
    limp: truth.limpS !== undefined,
    slipGears: [...new Set(truth.slips.map((s) => s.gear))].sort(),
    slipPeakRpm: Math.max(0, ...truth.slips.map((s) => s.peakRpm)),
    slipSeconds: truth.slips.reduce((s, x) => s + x.endS - x.startS, 0),
    wrongGears: [...new Set(truth.wrongGears.map((w) => `${w.commanded}>${w.obtained}`))],
    failedShifts: [...new Set(truth.shifts.filter((s) => !s.made).map((s) => s.name))],
    shudderSeconds: truth.shudder.reduce((s, x) => s + x.endS - x.startS, 0),
    shudderHz: median(truth.shudder.map((s) => s.frequencyHz)),
    dropouts: [...new Set(truth.dropouts.map((d) => d.sensor))],
    engageS: engaged === undefined || Number.isNaN(engaged.delayS) ? Number.POSITIVE_INFINITY : engaged.delayS,
    engageJoltMS2: engaged?.joltMS2 ?? 0,
    shiftDelayS: median(made.map((s) => s.startS - s.commandS)),
    shiftInertiaS: median(made.map((s) => s.endS - s.startS)),
    shiftJoltMS2: median(made.map((s) => s.joltMS2)),
    flareRpm: Math.max(0, ...made.map((s) => s.flareRpm)),
    joltByShift: byShift((s) => s.joltMS2),
    delayByShift: byShift((s) => s.startS - s.commandS),
    shifts: truth.shifts.length,
    highestFluidC: truth.highestFluidC,
    highestClutchC: truth.highestClutchC,
    converterSlipRpm: median(converterSlip),
    converterShare: driving > 0 ? commanded / driving : 0,
    highestKmh: Math.max(...kmh),
    to35S: to35,
    launchRpm: launch,
    outputRippleRpm: ripple(output, rateHz, steady),
    launchRippleRpm: ripple(output, rateHz, starting),
    otherVibrationSeconds: truth.otherVibrations.reduce((s, x) => s + x.endS - x.startS, 0),
    freeTravelS: truth.reversals.reduce((s, r) => s + r.freeS, 0) / Math.max(1, truth.reversals.length),
    lowestEngineRpm: Math.min(...engine.filter((_, i) => v(time, i) > 2)),
    engineRippleRpm: ripple(engine, rateHz, steady),
    idleRpm: median(idle),
    gearsSeen: [...new Set(gear)].sort((a, b) => a - b),
  };
}
