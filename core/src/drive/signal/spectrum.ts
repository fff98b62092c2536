import FFT from "fft.js";
import { median } from "./stats.ts";

export interface Peak {
  readonly frequencyHz: number;
  /** peak to peak of the sinusoid at the peak, in the unit of the signal */
  readonly peakToPeak: number;
  /** amplitude of the peak over the median amplitude of the band */
  readonly prominence: number;
}

interface Plan {
  readonly fft: FFT;
  readonly input: Float64Array;
  readonly output: number[];
  /** Hann, of the signal's length */
  readonly window: Float64Array;
  readonly gain: number;
}

const plans = new Map<string, Plan>();
const MOST_PLANS = 8;

function planFor(n: number, padTo: number): Plan {
  const key = `${n}/${padTo}`;
  let plan = plans.get(key);
  if (!plan) {
    if (plans.size >= MOST_PLANS) plans.clear();
    const fft = new FFT(padTo);
    const window = Float64Array.from({ length: n }, (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / n));
    plan = {
      fft,
      input: new Float64Array(padTo),
      output: fft.createComplexArray(),
      window,
      gain: window.reduce((a, b) => a + b, 0),
    };
    plans.set(key, plan);
  }
  return plan;
}

/**
 * The strongest sinusoid of a band: linear trend removed, Hann window, FFT zero-padded to `padTo`, amplitude by the
 * coherent gain of the window (1/2), frequency and height by a parabola through the logarithms of the three bins.
 * @param signal - evenly sampled, without NaN; read only
 * @param padTo - power of two, at least the signal's length
 * @param pastFlank - look beyond the flank of something slower, where the band begins on one
 * @returns undefined when the band holds fewer than three bins
 * Source: Harris 1978, on the use of windows for harmonic analysis.
 */
export function strongestPeak(
  signal: Float64Array,
  rateHz: number,
  lowHz: number,
  highHz: number,
  padTo: number,
  pastFlank = false,
): Peak | undefined {
  const n = signal.length;
  const { fft, input, output, window, gain } = planFor(n, padTo);
  let st = 0;
  let sv = 0;
  let stt = 0;
  let stv = 0;
  for (let i = 0; i < n; i++) {
    const t = i - (n - 1) / 2;
    const v = signal[i] as number;
    st += t;
    sv += v;
    stt += t * t;
    stv += t * v;
  }
  const mean = sv / n;
  const slope = stt > 0 ? (stv - st * mean) / stt : 0;
  // beyond n the input stays zero
  for (let i = 0; i < n; i++)
    input[i] = ((signal[i] as number) - mean - slope * (i - (n - 1) / 2)) * (window[i] as number);
  fft.realTransform(output, input);
  const binHz = rateHz / padTo;
  const first = Math.max(1, Math.ceil(lowHz / binHz));
  const last = Math.min(padTo / 2 - 2, Math.floor(highHz / binHz));
  if (last - first < 2) return undefined;
  const amplitude = new Float64Array(last - first + 3);
  for (let b = first - 1; b <= last + 1; b++) {
    amplitude[b - first + 1] =
      (2 * Math.sqrt((output[2 * b] as number) ** 2 + (output[2 * b + 1] as number) ** 2)) / gain;
  }
  let best = 1;
  if (pastFlank)
    while (best < amplitude.length - 2 && (amplitude[best - 1] as number) > (amplitude[best] as number)) best++;
  for (let k = best; k < amplitude.length - 1; k++)
    if ((amplitude[k] as number) > (amplitude[best] as number)) best = k;
  const a = Math.log((amplitude[best - 1] as number) + 1e-12);
  const b = Math.log((amplitude[best] as number) + 1e-12);
  const c = Math.log((amplitude[best + 1] as number) + 1e-12);
  const curve = a - 2 * b + c;
  const shift = curve < 0 ? Math.max(-0.5, Math.min(0.5, (0.5 * (a - c)) / curve)) : 0;
  const height = Math.exp(b - 0.25 * (a - c) * shift);
  return {
    frequencyHz: (best - 1 + first + shift) * binHz,
    peakToPeak: 2 * height,
    // at the lower edge the flank of something slower isn't a peak
    prominence:
      best === 1 && (amplitude[0] as number) > (amplitude[1] as number)
        ? 0
        : height / (median(amplitude.subarray(1, -1)) + 1e-12),
  };
}

/** Amplitudes of a span over frequency or order, peak to peak. */
export interface Spectrum {
  /** Hz, or times a revolution */
  readonly at: Float64Array;
  readonly peakToPeak: Float64Array;
}

const MOST_POINTS = 400;

/** Amplitudes by FFT with a Hann window, trend removed, zero-padded to twice the length. @param top - last frequency kept */
function amplitudes(signal: Float64Array, rate: number, top: number): Spectrum | undefined {
  const n = signal.length;
  if (n < 16) return undefined;
  let padTo = 64;
  while (padTo < n * 2) padTo *= 2;
  const { fft, input, output, window, gain } = planFor(n, padTo);
  let [sv, stv] = [0, 0];
  const stt = (n * (n * n - 1)) / 12;
  for (let i = 0; i < n; i++) {
    sv += signal[i] as number;
    stv += (i - (n - 1) / 2) * (signal[i] as number);
  }
  input.fill(0);
  for (let i = 0; i < n; i++)
    input[i] = ((signal[i] as number) - sv / n - (stv / stt) * (i - (n - 1) / 2)) * (window[i] as number);
  fft.realTransform(output, input);
  const bins = Math.min(padTo / 2, Math.floor((top / rate) * padTo) + 1);
  // a chart shows no more points than this: the highest of each group is kept, so that no line is lost
  const stride = Math.max(1, Math.ceil(bins / MOST_POINTS));
  const count = Math.ceil(bins / stride);
  const at = new Float64Array(count);
  const peakToPeak = new Float64Array(count);
  for (let b = 0; b < bins; b++) {
    const height = (4 * Math.hypot(output[2 * b] as number, output[2 * b + 1] as number)) / gain;
    const k = Math.floor(b / stride);
    if (height >= (peakToPeak[k] as number)) {
      peakToPeak[k] = height;
      at[k] = (b * rate) / padTo;
    }
  }
  return { at, peakToPeak };
}

/** A signal at even steps, linear between readings. @returns undefined when a reading in it is missing */
function evenly(timeS: Float64Array, values: Float64Array, from: number, to: number, count: number) {
  const out = new Float64Array(count);
  let k = from;
  const start = timeS[from] as number;
  const step = ((timeS[to - 1] as number) - start) / (count - 1);
  for (let i = 0; i < count; i++) {
    const t = start + i * step;
    while (k + 2 < to && (timeS[k + 1] as number) <= t) k++;
    const [t0, t1] = [timeS[k] as number, timeS[k + 1] as number];
    const share = t1 > t0 ? Math.min(1, Math.max(0, (t - t0) / (t1 - t0))) : 0;
    out[i] = (values[k] as number) * (1 - share) + (values[k + 1] as number) * share;
    if (Number.isNaN(out[i] as number)) return undefined;
  }
  return out;
}

/**
 * Amplitude spectrum of a span.
 * @param from - first index, `to` - after the last
 * @returns undefined when it is too short or a reading is missing
 */
export function spectrumOf(timeS: Float64Array, values: Float64Array, from: number, to: number): Spectrum | undefined {
  const n = to - from;
  const lasts = (timeS[to - 1] as number) - (timeS[from] as number);
  const even = n >= 16 && lasts > 0 ? evenly(timeS, values, from, to, n) : undefined;
  const rate = (n - 1) / lasts;
  return even && amplitudes(even, rate, rate / 2);
}

/**
 * Order spectrum of a span: the signal is taken at even steps of a shaft's angle in place of time, so that what follows
 * the shaft becomes one line however its speed changed.
 * @param rpm - of the shaft, length of `timeS`
 * @returns undefined when the shaft hardly turned, or a reading is missing
 * Source: Fyfe and Munck 1997, analysis of computed order tracking.
 */
export function orderSpectrum(
  timeS: Float64Array,
  values: Float64Array,
  rpm: Float64Array,
  from: number,
  to: number,
): Spectrum | undefined {
  const n = to - from;
  if (n < 16) return undefined;
  const turns = new Float64Array(n);
  for (let i = 1; i < n; i++) {
    const dt = (timeS[from + i] as number) - (timeS[from + i - 1] as number);
    const mean = ((rpm[from + i] as number) + (rpm[from + i - 1] as number)) / 2;
    if (!(mean > 0)) return undefined;
    turns[i] = (turns[i - 1] as number) + (mean / 60) * dt;
  }
  const all = turns[n - 1] as number;
  if (all < 4) return undefined;
  const even = evenly(turns, values.subarray(from, to), 0, n, n);
  const perTurn = (n - 1) / all;
  return even && amplitudes(even, perTurn, perTurn / 2);
}
