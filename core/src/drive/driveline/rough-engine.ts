import { type Peak, strongestPeak } from "../signal/spectrum.ts";
import { median } from "../signal/stats.ts";
import { foldedHz, type OrderMatch } from "./orders.ts";
import { SHORT_PROMINENCE } from "./short-windows.ts";
import { ENGINE_LEADS, EXPLAINS_HZ, VIBRATION_RPM, vibrationOf } from "./vibration.ts";

/** A stretch in which the engine drives nothing, or only an open converter. */
export interface Alone {
  readonly start: number;
  readonly end: number;
  readonly mid: number;
  readonly rests: boolean;
}

/** An engine at rest in neutral or against an open converter vibrates by itself: so much of it isn’t noise, rpm. */
const ROUGH_IDLE_RPM = 12;
/** Of the windows in which the engine is on its own. */
const ROUGH_ALONE_SHARE = 0.25;
const ROUGH_ALONE_WINDOWS = 4;
/** Half an order: one cylinder misses; the first and a half, second: others of its own. */
const ENGINE_ORDERS = [0.5, 1, 1.5, 2] as const;
/** Chance agrees so often; more than this many times as often isn’t chance. */
const OVER_CHANCE = 3;

/**
 * Windows in which an engine on its own vibrates at an order of its own speed. At rest nothing else can make it vibrate.
 * @returns empty unless they are many and far more than chance would give
 */
export function roughWindows(
  engineRpm: Float64Array,
  inputRpm: Float64Array,
  alone: readonly Alone[],
  rateHz: number,
  lowHz: number,
  topHz: number,
  padTo: number,
): (Alone & { readonly peak: Peak; readonly order: OrderMatch })[] {
  const hits: (Alone & { readonly peak: Peak; readonly order: OrderMatch })[] = [];
  let vibrating = 0;
  for (const w of alone) {
    if (!w.rests && vibrationOf(engineRpm, w.start, w.end) < VIBRATION_RPM * 0.7) continue;
    const peak = strongestPeak(engineRpm.subarray(w.start, w.end), rateHz, lowHz, topHz, padTo);
    if (!peak || peak.prominence < SHORT_PROMINENCE || peak.peakToPeak < (w.rests ? ROUGH_IDLE_RPM : VIBRATION_RPM))
      continue;
    vibrating++;
    // against an open converter the driveline may make the engine vibrate along
    if (
      !w.rests &&
      inputRpm !== engineRpm &&
      vibrationOf(engineRpm, w.start, w.end) < ENGINE_LEADS * vibrationOf(inputRpm, w.start, w.end)
    )
      continue;
    const turns = median(engineRpm.subarray(w.start, w.end)) / 60;
    const order = ENGINE_ORDERS.find((o) => Math.abs(foldedHz(o * turns, rateHz) - peak.frequencyHz) < EXPLAINS_HZ);
    if (order !== undefined)
      hits.push({ ...w, peak, order: { part: "engine", order, folded: order * turns > rateHz / 2 } });
  }
  const byChance = (ENGINE_ORDERS.length * 2 * EXPLAINS_HZ) / (topHz - lowHz);
  const enough =
    hits.length >= Math.max(ROUGH_ALONE_WINDOWS, ROUGH_ALONE_SHARE * alone.length) &&
    (hits.some((h) => h.rests) || hits.length > OVER_CHANCE * Math.min(1 / OVER_CHANCE, byChance) * vibrating);
  return enough ? hits : [];
}

const ROUGH_ENGINE_WINDOWS = 4;

/** Does the engine itself run unevenly? Then what vibrates behind it says little of clutches and mounts. */
export const engineRunsRough = ({ windows }: { readonly windows: readonly { readonly cause: string }[] }): boolean =>
  windows.filter((w) => w.cause === "engine").length >= ROUGH_ENGINE_WINDOWS;
