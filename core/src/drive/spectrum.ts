import FFT from "fft.js";

export interface Peak {
  readonly frequencyHz: number;
  /** peak to peak of the sinusoid at the peak, in the unit of the signal */
  readonly peakToPeak: number;
  /** amplitude of the peak over the median amplitude of the band */
  readonly prominence: number;
}

const plans = new Map<number, { fft: FFT; input: number[]; output: number[]; window: Float64Array }>();

function planFor(n: number) {
  let plan = plans.get(n);
  if (!plan) {
    if (plans.size > 8) plans.clear();
    const fft = new FFT(n);
    const window = new Float64Array(n);
    for (let i = 0; i < n; i++) window[i] = 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / n);
    plan = { fft, input: new Array<number>(n).fill(0), output: fft.createComplexArray(), window };
    plans.set(n, plan);
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
export function strongestPeak(signal: Float64Array, rateHz: number, lowHz: number, highHz: number, padTo: number): Peak | undefined {
  const n = signal.length;
  const { fft, input, output } = planFor(padTo);
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
  const window = planFor(padTo).window;
  let gain = 0;
  for (let i = 0; i < padTo; i++) {
    if (i < n) {
      const w = n === padTo ? (window[i] as number) : 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / n);
      gain += w;
      input[i] = ((signal[i] as number) - mean - slope * (i - (n - 1) / 2)) * w;
    } else input[i] = 0;
  }
  fft.realTransform(output, input);
  const binHz = rateHz / padTo;
  const first = Math.max(1, Math.ceil(lowHz / binHz));
  const last = Math.min(padTo / 2 - 2, Math.floor(highHz / binHz));
  if (last - first < 2) return undefined;
  const amplitude = new Float64Array(last - first + 3);
  for (let b = first - 1; b <= last + 1; b++) {
    amplitude[b - first + 1] = (2 * Math.hypot(output[2 * b] as number, output[2 * b + 1] as number)) / gain;
  }
  let best = 1;
  for (let k = 1; k < amplitude.length - 1; k++) if ((amplitude[k] as number) > (amplitude[best] as number)) best = k;
  const a = Math.log((amplitude[best - 1] as number) + 1e-12);
  const b = Math.log((amplitude[best] as number) + 1e-12);
  const c = Math.log((amplitude[best + 1] as number) + 1e-12);
  const curve = a - 2 * b + c;
  const shift = curve < 0 ? Math.max(-0.5, Math.min(0.5, (0.5 * (a - c)) / curve)) : 0;
  const height = Math.exp(b - 0.25 * (a - c) * shift);
  const sorted = amplitude.slice(1, -1).sort();
  return {
    frequencyHz: (best - 1 + first + shift) * binHz,
    peakToPeak: 2 * height,
    prominence: height / ((sorted[sorted.length >> 1] as number) + 1e-12),
  };
}
