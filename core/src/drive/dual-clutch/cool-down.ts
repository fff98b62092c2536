import { type Frame, syncRpm } from "../signal/frame.ts";
import { quantile } from "../signal/stats.ts";

/** How a dual clutch gets rid of what a launch has heated it by. */
export interface CoolDown {
  /** in which its excess over the fluid falls to 1/e: lower quartile of all windows */
  readonly decayS: number;
  readonly windows: number;
}

/** Cooled clutches need less than 50 s. */
export const SLOW_DECAY_S = 90;

const WINDOW_S = 8;
const STEP_S = 1;
const LEAST_EXCESS_K = 12;
const LEAST_WINDOWS = 4;
/** Closed. */
const CLOSED_RPM = 40;

/**
 * Newton's law of cooling, over windows of 8 s in which the clutch falls and stays over the fluid:
 * τ = 8 s / ln((T₀ − T_fluid) / (T₁ − T_fluid)). A clutch that slips meanwhile heats itself: such windows are left out.
 * @param untilS - limp mode begins: the gear that is driven is not the commanded one
 * @returns undefined without both temperatures, or where it was never heated enough
 */
export function analyseCoolDown(frame: Frame, untilS = Number.POSITIVE_INFINITY): CoolDown | undefined {
  const { unit, timeS, rateHz, fluidC, clutchC, inputRpm, gear } = frame;
  if (unit.kind === "planetary" || !clutchC || !fluidC || fluidC === clutchC) return undefined;
  const [reach, step] = [Math.round(WINDOW_S * rateHz), Math.max(1, Math.round(STEP_S * rateHz))];
  const decaysS: number[] = [];
  let slippedAt = -1;
  let seen = 0;
  for (let i = 0; i + reach < timeS.length; i += step) {
    const [from, to] = [clutchC[i] as number, clutchC[i + reach] as number];
    const fluid = fluidC[i] as number;
    const seconds = (timeS[i + reach] as number) - (timeS[i] as number);
    for (; seen <= i + reach; seen++)
      if (!(Math.abs((inputRpm[seen] as number) - syncRpm(frame, gear[seen] as number, seen)) < CLOSED_RPM))
        slippedAt = seen;
    if (slippedAt >= i || (timeS[i + reach] as number) > untilS) continue;
    // readings are whole degrees
    if (from - fluid > LEAST_EXCESS_K && to < from && seconds < 1.5 * WINDOW_S)
      decaysS.push(seconds / Math.log((from - fluid) / Math.max(1, to - fluid)));
  }
  return decaysS.length < LEAST_WINDOWS ? undefined : { decayS: quantile(decaysS, 0.25), windows: decaysS.length };
}
