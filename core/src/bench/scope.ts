import Papa from "papaparse";
import { mean, median, sampleStandardDeviation } from "simple-statistics";

/** A recording of a scope: one time axis, one or more channels. */
export interface ScopeFile {
  readonly timeS: readonly number[];
  readonly channels: readonly { readonly name: string; readonly values: readonly number[] }[];
}

/** A recording that cannot be read: where, and what to do. */
export class ScopeError extends Error {}

const LEAST_ROWS = 50;
const MOST_ROWS = 2_000_000;
const SECONDS: Readonly<Record<string, number>> = { s: 1, sec: 1, ms: 1e-3, us: 1e-6, µs: 1e-6, μs: 1e-6 };

const numberOf = (cell: string | undefined): number => {
  const text = (cell ?? "").trim().replace(",", ".");
  return text === "" ? Number.NaN : Number(text);
};

/**
 * Reads a scope's table: a heading line with names and units, time in the first column, a channel in each other.
 * @throws ScopeError naming line or column and the remedy
 */
export function readScope(text: string): ScopeFile {
  const { data } = Papa.parse<string[]>(text.replace(/^\ufeff/, "").trim(), { skipEmptyLines: "greedy" });
  const head = data[0] ?? [];
  if (data.length === 0 || head.every((c) => c.trim() === ""))
    throw new ScopeError("The file is empty. Save the recording as CSV with time and channel.");
  const firstNumbers = data.findIndex((r) => r.length > 0 && Number.isFinite(numberOf(r[0])));
  if (firstNumbers < 0)
    throw new ScopeError("No line begins with a time. Save the recording as CSV: time first, then its channels.");
  const names = (firstNumbers > 0 ? data[0] : undefined) ?? head.map((_, i) => (i === 0 ? "time (s)" : `channel ${i}`));
  const width = (data[firstNumbers] as string[]).length;
  if (width < 2)
    throw new ScopeError(
      `Line ${firstNumbers + 1} has a time and no channel. Switch the channel on and save it with the recording.`,
    );
  const unit = /\(?\b(s|sec|ms|us|µs|μs)\b\)?/i.exec(
    (
      data
        .slice(0, firstNumbers)
        .map((r) => r[0])
        .join(" ") || "s"
    ).toLowerCase(),
  );
  const perS = SECONDS[unit?.[1] ?? "s"] ?? 1;
  const rows = data.slice(firstNumbers);
  if (rows.length < LEAST_ROWS)
    throw new ScopeError(
      `The recording has ${rows.length} rows, at least ${LEAST_ROWS} are needed: record for longer or faster.`,
    );
  if (rows.length > MOST_ROWS)
    throw new ScopeError(`The recording has ${rows.length} rows, more than ${MOST_ROWS}: save a shorter span of it.`);
  const timeS: number[] = [];
  const values: number[][] = Array.from({ length: width - 1 }, () => []);
  for (const [i, row] of rows.entries()) {
    const at = firstNumbers + i + 1;
    const t = numberOf(row[0]) * perS;
    if (!Number.isFinite(t))
      throw new ScopeError(
        `Line ${at}: "${row[0] ?? ""}" isn’t a time. Take the line out, or save the recording again.`,
      );
    const last = timeS.at(-1);
    if (last !== undefined && t <= last)
      throw new ScopeError(`Line ${at}: time goes back from ${last} to ${t} s. Save one recording in a file.`);
    timeS.push(t);
    for (let c = 1; c < width; c++) {
      const v = numberOf(row[c]);
      if (!Number.isFinite(v))
        throw new ScopeError(
          `Line ${at}, column ${c + 1} (${names[c] ?? `channel ${c}`}): "${row[c] ?? ""}" isn’t a number.`,
        );
      (values[c - 1] as number[]).push(v);
    }
  }
  return {
    timeS,
    channels: values.map((list, i) => ({ name: (names[i + 1] ?? `channel ${i + 1}`).trim(), values: list })),
  };
}

/**
 * The one channel of a recording, or the one that is named.
 * @throws ScopeError when there is more than one and none is named: asked, not guessed
 */
export function channelOf(file: ScopeFile, name?: string): readonly number[] {
  if (name !== undefined) {
    const found = file.channels.find((c) => c.name === name);
    if (!found)
      throw new ScopeError(
        `The recording has no channel "${name}". It has: ${file.channels.map((c) => c.name).join(", ")}.`,
      );
    return found.values;
  }
  const [only, second] = file.channels;
  if (!only) throw new ScopeError("The recording has no channel. Switch the channel on and save it again.");
  if (second)
    throw new ScopeError(
      `The recording has ${file.channels.length} channels: choose one of ${file.channels.map((c) => c.name).join(", ")}.`,
    );
  return only.values;
}

/** What a current ramp says of a solenoid. */
export interface Ramp {
  readonly finalA: number;
  /** from the first current to the bottom of the dip, where the plunger lands; undefined: it does not move */
  readonly pullInMs: number | undefined;
  readonly dipA: number;
}

/** A ramp begins at this share of its final current. */
const BEGINS = 0.03;
/** Span of the smoothing, share of the recording. */
const SMOOTH = 1 / 400;
/** A dip is more than the noise by so much, and at least this share of the final current. */
const DIP_NOISE = 5;
const DIP_SHARE = 0.012;
/** The plunger lands while the current still rises: later falls are ripple of the supply. */
const STILL_RISING = 0.96;

function smooth(values: readonly number[], half: number): number[] {
  const sums = [0];
  for (const v of values) sums.push((sums.at(-1) as number) + v);
  return values.map((_, i) => {
    const from = Math.max(0, i - half);
    const to = Math.min(values.length, i + half + 1);
    return ((sums[to] as number) - (sums[from] as number)) / (to - from);
  });
}

/**
 * Reads the current of a solenoid that is switched on: the plunger that lands induces against the current, which dips before it
 * rises on (Faraday; the usual test of solenoids and injectors).
 * @param timeS - rising; both lists of one length
 * @throws ScopeError when no current rises
 */
export function currentRamp(timeS: readonly number[], currentA: readonly number[]): Ramp {
  const n = currentA.length;
  const calm = smooth(currentA, Math.max(1, Math.round(n * SMOOTH)));
  const noise = sampleStandardDeviation(currentA.slice(1).map((v, i) => v - (currentA[i] as number))) / Math.SQRT2;
  const finalA = mean(calm.slice(Math.floor(0.9 * n)));
  const rest = median(calm.slice(0, Math.max(5, Math.floor(0.02 * n))));
  if (!(finalA - rest > Math.max(0.02, 5 * noise)))
    throw new ScopeError(
      "No current rises in this recording: clamp round one wire only, switch on within the recording.",
    );
  const start = calm.findIndex((v) => v > rest + BEGINS * (finalA - rest));
  // the deepest fall from what was reached before
  let peak = calm[start] as number;
  let peakAt = start;
  let dipA = 0;
  let bottom = -1;
  for (let i = start; i < n; i++) {
    const v = calm[i] as number;
    if (v > peak) {
      peak = v;
      peakAt = i;
    } else if (peak - v > dipA && i > peakAt && peak - rest < STILL_RISING * (finalA - rest)) {
      dipA = peak - v;
      bottom = i;
    }
  }
  // smoothing over m points leaves 1/√m of the noise
  const left = noise / Math.sqrt(2 * Math.max(1, Math.round(n * SMOOTH)) + 1);
  const real = bottom >= 0 && dipA > Math.max(DIP_NOISE * left, DIP_SHARE * (finalA - rest));
  return {
    finalA: finalA - rest,
    pullInMs: real ? 1000 * ((timeS[bottom] as number) - (timeS[start] as number)) : undefined,
    dipA: real ? dipA : 0,
  };
}

/** What the pulses of a speed sensor say. */
export interface ToothSignal {
  readonly pulses: number;
  /** slowest and fastest by period, pulses a second */
  readonly hz: readonly [number, number];
  /** places a turn where a tooth is missing or damaged: one period is long */
  readonly missing: number;
  /** once-a-turn change of the amplitude, half of its span over its mean, % */
  readonly runOutPct: number;
  /** by how much the swing grows as the speed doubles, V over V: near 2 for a coil, near 1 for a Hall sensor; undefined: one speed only */
  readonly growth: number | undefined;
  readonly swingV: readonly [number, number];
}

/** A period longer than its neighbours by this factor has lost a tooth. */
const LONG = 1.5;
/** Speeds have to differ by this factor before the growth of the swing is told. */
const SPREAD = 1.3;

/**
 * Reads the signal of a tooth sensor over some turns.
 * @param teeth - of the wheel
 * @throws ScopeError with less than two turns, or without pulses
 */
export function toothSignal(timeS: readonly number[], volts: readonly number[], teeth: number): ToothSignal {
  const high = Math.max(...extremes(volts));
  const low = Math.min(...extremes(volts));
  const middle = (high + low) / 2;
  const swing = high - low;
  const rises: number[] = [];
  const swings: number[] = [];
  let armed = false;
  let top = Number.NEGATIVE_INFINITY;
  let bottom = Number.POSITIVE_INFINITY;
  for (let i = 1; i < volts.length; i++) {
    const v = volts[i] as number;
    top = Math.max(top, v);
    bottom = Math.min(bottom, v);
    if (v < middle - 0.1 * swing * 0.5) armed = true;
    if (armed && v >= middle) {
      const u = volts[i - 1] as number;
      const t0 = timeS[i - 1] as number;
      rises.push(t0 + (((timeS[i] as number) - t0) * (middle - u)) / (v - u || 1));
      swings.push(top - bottom);
      top = Number.NEGATIVE_INFINITY;
      bottom = Number.POSITIVE_INFINITY;
      armed = false;
    }
  }
  const periods = rises.slice(1).map((t, i) => t - (rises[i] as number));
  if (!(swing > 0) || periods.length < 2 * teeth - 2)
    throw new ScopeError(
      `${rises.length} pulses are less than two turns of a wheel with ${teeth} teeth: record for longer, or turn it faster.`,
    );
  const near = (i: number) => median(periods.slice(Math.max(0, i - 4), i + 5));
  const long = periods.map((p, i) => (p > LONG * near(i) ? i : -1)).filter((i) => i >= 0);
  const lost = long.reduce((s, i) => s + Math.round((periods[i] as number) / near(i)) - 1, 0);
  const turns = (periods.length + lost) / teeth;
  const even = periods.filter((_, i) => !long.includes(i));
  const hz: [number, number] = [1 / Math.max(...even), 1 / Math.min(...even)];
  // by the speed: a coil gives volts in proportion to it, so the swing is judged per volt of what is usual at that speed
  const speed = periods.map((p, i) => (long.includes(i) ? 1 / near(i) : 1 / p));
  const own = swings.slice(1);
  const growth = hz[1] / hz[0] >= SPREAD ? slopeOf(speed, own) : undefined;
  const flat = own.map((v, i) => v / (growth === undefined ? 1 : (speed[i] as number) ** Math.log2(growth)));
  return {
    pulses: rises.length,
    hz,
    missing: Math.round(lost / Math.max(1, Math.floor(turns))),
    runOutPct: onceATurn(flat, teeth - Math.round(lost / Math.max(1, turns))),
    growth,
    swingV: [Math.min(...own.slice(1)), Math.max(...own.slice(1))],
  };
}

/** A hundredth from either end, so that a spike isn’t taken for a swing. */
function extremes(values: readonly number[]): [number, number] {
  const sorted = [...values].sort((a, b) => a - b);
  const k = Math.floor(0.01 * sorted.length);
  return [sorted[k] as number, sorted[sorted.length - 1 - k] as number];
}

/** Factor of the swing as the speed doubles: slope of log against log. */
function slopeOf(speed: readonly number[], swing: readonly number[]): number {
  const x = speed.map((s) => Math.log2(s));
  const y = swing.map((s) => Math.log2(Math.max(1e-9, s)));
  const mx = mean(x);
  const my = mean(y);
  const sxx = x.reduce((s, v) => s + (v - mx) ** 2, 0);
  const sxy = x.reduce((s, v, i) => s + (v - mx) * ((y[i] as number) - my), 0);
  return 2 ** (sxx > 0 ? sxy / sxx : 0);
}

/** First harmonic over one turn, amplitude over mean, %. */
function onceATurn(values: readonly number[], perTurn: number): number {
  const turns = Math.floor(values.length / perTurn);
  if (perTurn < 3 || turns < 1) return 0;
  const used = values.slice(0, turns * perTurn);
  const m = mean(used);
  let re = 0;
  let im = 0;
  used.forEach((v, i) => {
    const w = (2 * Math.PI * i) / perTurn;
    re += (v - m) * Math.cos(w);
    im += (v - m) * Math.sin(w);
  });
  return (100 * 2 * Math.hypot(re, im)) / (used.length * m);
}
