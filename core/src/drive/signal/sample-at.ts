import type { Channel } from "../../log/index.ts";

/**
 * A channel at other times: linear between readings, held for discrete channels; NaN across a missing reading or a
 * hole longer than `maxHoleS`.
 */
export function sampleAt(channel: Channel, timeS: Float64Array, discrete: boolean, maxHoleS: number): Float64Array {
  if (channel.timeS === timeS) return channel.values;
  const { timeS: t, values: v } = channel;
  const out = new Float64Array(timeS.length).fill(Number.NaN);
  let k = 0;
  for (let i = 0; i < timeS.length; i++) {
    const at = timeS[i] as number;
    while (k + 1 < t.length && (t[k + 1] as number) <= at) k++;
    const t0 = t[k] as number;
    if (at < t0) continue;
    if (discrete || at === t0) {
      if (at - t0 <= Math.max(maxHoleS, 3)) out[i] = v[k] as number;
      continue;
    }
    const t1 = t[k + 1];
    if (t1 === undefined || t1 - t0 > maxHoleS) continue;
    const share = (at - t0) / (t1 - t0);
    out[i] = (v[k] as number) * (1 - share) + (v[k + 1] as number) * share;
  }
  return out;
}
