/** Vibration of engine or output speed that is looked at, peak to peak, rpm. */
export const VIBRATION_RPM = 18;
/** The engine vibrates more than what it drives: it is the source. */
export const ENGINE_LEADS = 1.3;
/** A predicted frequency this near explains a vibration. */
export const EXPLAINS_HZ = 0.45;

/** A single missing reading between two is bridged by their mean: a spectrum needs even samples. */
export function bridged(values: Float64Array): Float64Array {
  let out: Float64Array | undefined;
  for (let i = 1; i + 1 < values.length; i++) {
    if (!Number.isNaN(values[i] as number)) continue;
    const mean = ((values[i - 1] as number) + (values[i + 1] as number)) / 2;
    if (Number.isNaN(mean)) continue;
    out ??= Float64Array.from(values);
    out[i] = mean;
  }
  return out ?? values;
}

/** Peak to peak of a sinusoid with the variance that is left of a signal beside its straight line. */
export function vibrationOf(signal: Float64Array, start: number, end: number): number {
  const n = end - start;
  let [st, sv, svv, stv] = [0, 0, 0, 0];
  const stt = (n * (n * n - 1)) / 12;
  for (let i = 0; i < n; i++) {
    const v = signal[start + i] as number;
    sv += v;
    svv += v * v;
    stv += (i - (n - 1) / 2) * v;
  }
  st = stv / stt;
  const variance = (svv - (sv * sv) / n - st * stv) / n;
  return 2 * Math.SQRT2 * Math.sqrt(Math.max(0, variance));
}
