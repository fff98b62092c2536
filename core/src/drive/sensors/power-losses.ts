import type { Recording } from "../../log/index.ts";
import { gearName } from "../../unit/index.ts";
import { type Frame, sampleAt } from "../signal/frame.ts";
import { runs, where } from "../signal/stats.ts";

/** A moment without any solenoid current. */
export interface PowerLoss {
  readonly startS: number;
  readonly endS: number;
  readonly vehicleKmh: number;
}

const MOVING_KMH = 8;
const LEAST_SOLENOIDS = 3;
const PULLS_NM = 20;
/** While a gear changes the pressures of both sides may pass through nothing. */
const SHIFT_S = 1;
const JOIN_S = 0.3;
/** Longer, and it is limp mode. */
const LONGEST_S = 3;

/**
 * All solenoids are without current for a moment in a gear that needs some: the controller, or what feeds it, fell out.
 * @param limpS - limp mode begins: from then on that is how it drives
 * @returns undefined when fewer than three solenoids were recorded
 */
export function findPowerLosses(
  recording: Recording,
  frame: Frame,
  limpS = Number.POSITIVE_INFINITY,
): PowerLoss[] | undefined {
  const { unit, timeS, vehicleKmh, gear, torqueNm } = frame;
  const channels = unit.solenoids.flatMap((s) => {
    const c = recording.channels.get(s.id);
    return c ? [{ id: s.id, values: sampleAt(c, timeS, false, 1) }] : [];
  });
  if (channels.length < LEAST_SOLENOIDS || !vehicleKmh) return undefined;
  const gearsWith = (state: string) =>
    new Set(
      unit.gears.filter((g) => channels.some((c) => unit.solenoidChart[g.name]?.[c.id] === state)).map((g) => g.name),
    );
  const on = gearsWith("on");
  // a clutch that is regulated may be open on the over-run
  const pulling = gearsWith("modulated");
  let changedS = Number.NEGATIVE_INFINITY;
  const hits = where(timeS.length, (i) => {
    if (i > 0 && gear[i] !== gear[i - 1]) changedS = timeS[i] as number;
    return (
      (timeS[i] as number) < limpS &&
      (timeS[i] as number) - changedS > SHIFT_S &&
      (vehicleKmh[i] as number) > MOVING_KMH &&
      (on.has(gearName(gear[i] as number)) ||
        ((torqueNm?.[i] ?? 0) > PULLS_NM && pulling.has(gearName(gear[i] as number)))) &&
      channels.every((c) => (c.values[i] as number) < 1)
    );
  });
  return runs(timeS, hits, JOIN_S, 0, 1).flatMap((span): PowerLoss[] => {
    const [startS, endS] = [timeS[span.start] as number, timeS[span.end - 1] as number];
    return endS - startS > LONGEST_S ? [] : [{ startS, endS, vehicleKmh: vehicleKmh[span.start] as number }];
  });
}
