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
 * @returns undefined when the band holds fewer than three bins
 * Source: Harris 1978, on the use of windows for harmonic analysis.
 */
export function strongestPeak(
  signal: Float64Array,
  rateHz: number,
  lowHz: number,
  highHz: number,
  padTo: number,
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
  for (let k = 1; k < amplitude.length - 1; k++) if ((amplitude[k] as number) > (amplitude[best] as number)) best = k;
  const a = Math.log((amplitude[best - 1] as number) + 1e-12);
  const b = Math.log((amplitude[best] as number) + 1e-12);
  const c = Math.log((amplitude[best + 1] as number) + 1e-12);
  const curve = a - 2 * b + c;
  const shift = curve < 0 ? Math.max(-0.5, Math.min(0.5, (0.5 * (a - c)) / curve)) : 0;
  const height = Math.exp(b - 0.25 * (a - c) * shift);
  return {
    frequencyHz: (best - 1 + first + shift) * binHz,
    peakToPeak: 2 * height,
    prominence: height / (median(amplitude.subarray(1, -1)) + 1e-12),
  };
}
