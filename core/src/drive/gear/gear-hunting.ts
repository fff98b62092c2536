import { gearName } from "../../unit/index.ts";
import type { Frame } from "../signal/frame.ts";

/** Up and down again between two gears with the foot still. */
export interface GearHunting {
  readonly between: string;
  readonly startS: number;
  readonly endS: number;
}

const BACK_WITHIN_S = 5;
const STILL_PCT = 12;

/**
 * Changes of gear that are taken back within five seconds although the pedal hardly moved: what a schedule with its
 * hysteresis never does.
 * @returns empty when no pedal was recorded
 */
export function findGearHunting(frame: Frame): GearHunting[] {
  const { timeS, gear, pedalPct, brakeOn } = frame;
  if (!pedalPct) return [];
  const changes: { index: number; from: number; to: number }[] = [];
  let last = Number.NaN;
  for (let i = 0; i < gear.length; i++) {
    const g = gear[i] as number;
    if (Number.isNaN(g)) continue;
    if (last > 0 && g > 0 && g !== last) changes.push({ index: i, from: last, to: g });
    last = g;
  }
  return changes.flatMap((back, k): GearHunting[] => {
    const out = changes[k - 1];
    if (!out || back.to !== out.from || back.from !== out.to) return [];
    const [startS, endS] = [timeS[out.index] as number, timeS[back.index] as number];
    if (endS - startS > BACK_WITHIN_S) return [];
    let [least, most] = [Number.POSITIVE_INFINITY, 0];
    for (let i = out.index; i <= back.index; i++) {
      if ((brakeOn?.[i] ?? 0) > 0) return [];
      least = Math.min(least, pedalPct[i] as number);
      most = Math.max(most, pedalPct[i] as number);
    }
    if (most - least > STILL_PCT) return [];
    const gears = [out.from, out.to].sort((a, b) => a - b).map(gearName);
    return [{ between: gears.join("-"), startS, endS }];
  });
}
