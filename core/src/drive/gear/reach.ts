import { gearName } from "../../unit/index.ts";
import { type Frame, syncRpm } from "../signal/frame.ts";

/** How long a forward gear was commanded, and how long the drive called for it while a lower one was. */
export interface Reach {
  readonly gear: string;
  readonly seconds: number;
  readonly wantedSeconds: number;
}

/** An engine that pulls gently goes up before it would still turn this fast in the next gear. */
const COMFORTABLE_RPM = 1600;
const GENTLE_PCT = 45;

/**
 * Which forward gears the drive reached. A gear is called for while a lower one is commanded, the foot is light and the
 * engine would turn comfortably in it.
 * @returns empty when no pedal was recorded
 */
export function analyseReach(frame: Frame): Reach[] {
  const { gear, stepS, pedalPct, unit } = frame;
  if (!pedalPct) return [];
  const forward = unit.gears.filter((g) => g.ratio > 0);
  const seconds = new Float64Array(forward.length + 1);
  const wanted = new Float64Array(forward.length + 1);
  for (let i = 0; i < gear.length; i++) {
    const g = gear[i] as number;
    if (!(g > 0)) continue;
    const step = stepS[i] as number;
    seconds[g] = (seconds[g] ?? 0) + step;
    if (!((pedalPct[i] as number) < GENTLE_PCT)) continue;
    for (let next = g + 1; next <= forward.length && syncRpm(frame, next, i) > COMFORTABLE_RPM; next++)
      wanted[next] = (wanted[next] as number) + step;
  }
  return forward.map((_, i) => ({
    gear: gearName(i + 1),
    seconds: seconds[i + 1] as number,
    wantedSeconds: wanted[i + 1] as number,
  }));
}
