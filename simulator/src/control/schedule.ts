import { type ControlStyle, usualStyle } from "../build.ts";
import type { GearRow } from "./gear-table.ts";

/** Input speeds at which a controller changes gear, rpm, by pedal 0…1. */
export interface Schedule {
  upRpm(pedal: number): number;
  downRpm(pedal: number, gear: number): number;
}

const HIGHEST_RPM = 5300;
/** after a kick-down the gear is kept a while: no hunting on a hill */
const KEEP_S = 6;
const KICK_PEDAL = 0.55;

/** @param style - speeds over the usual ones */
export const scheduleOf = ({ upShare, downShare }: Pick<ControlStyle, "upShare" | "downShare">): Schedule => ({
  upRpm: (pedal) => Math.min(HIGHEST_RPM - 200, upShare * (1750 + 3300 * pedal ** 1.3)),
  // rolling out, low gears are kept to lower speeds: a change near idle is not felt
  downRpm: (pedal, gear) =>
    downShare * (1000 - 120 * Math.max(0, 4 - gear) + 700 * pedal + 1300 * Math.max(0, pedal - 0.6)),
});
export const USUAL_SCHEDULE = scheduleOf(usualStyle);

/**
 * The next gear up or down, or the same. A change is made only when the new gear is well inside its own window, which
 * gives the hysteresis.
 * @param forward - gears in order, first to top
 */
export class GearChoice {
  private readonly forward: readonly GearRow[];
  private readonly schedule: Schedule;
  private readonly idleRpm: number;
  private keepUntilS = -1;
  /** a schedule that has lost its hysteresis, 0 none … 1 */
  restless = 0;

  constructor(forward: readonly GearRow[], schedule: Schedule, idleRpm: number) {
    this.forward = forward;
    this.schedule = schedule;
    this.idleRpm = idleRpm;
  }

  next(timeS: number, gear: number, outputRpm: number, pedal: number): number {
    const { schedule } = this;
    const row = this.forward[gear - 1];
    if (!row) return 1;
    const sync = outputRpm * row.ratio;
    const higher = this.forward[gear];
    const lower = this.forward[gear - 2];
    const room = 1.08 - 0.5 * this.restless;
    const early = 1 + 0.35 * this.restless;
    if (higher && timeS >= this.keepUntilS) {
      const after = outputRpm * higher.ratio;
      if (
        (sync * early > schedule.upRpm(pedal) && after > schedule.downRpm(pedal, gear + 1) * room) ||
        sync > HIGHEST_RPM
      )
        return gear + 1;
    }
    if (lower) {
      const after = outputRpm * lower.ratio;
      // a gear that coasts free is taken when its line is down at idle: nothing is felt of it
      const down =
        lower.driveOnly && pedal < 0.05 ? this.idleRpm * (row.ratio / lower.ratio) : schedule.downRpm(pedal, gear);
      if (sync < down * early && after < Math.min(HIGHEST_RPM - 300, schedule.upRpm(pedal) / room)) {
        if (pedal > KICK_PEDAL) this.keepUntilS = timeS + KEEP_S;
        return gear - 1;
      }
    }
    return gear;
  }
}
