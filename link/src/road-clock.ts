/** Ahead of this side by more than that at once, or behind at all: a clock that was set, s. */
export const LEAP_S = 30;

/**
 * Time of a drive from the times of its lines. A line without a time, or a clock that was set while it drove, is bridged by the time
 * that passed on this side.
 */
export class RoadClock {
  private timeS = 0;
  private lineS: number | undefined;
  private hereMs: number;
  /** how often the other clock was set */
  jumps = 0;

  constructor(hereMs: number) {
    this.hereMs = hereMs;
  }

  /** @param lineS - time of the line; @param hereMs - time on this side @returns time since the beginning, s; never earlier than the last */
  at(lineS: number | undefined, hereMs: number): number {
    const hereS = Math.max(0, (hereMs - this.hereMs) / 1000);
    const step = lineS !== undefined && this.lineS !== undefined ? lineS - this.lineS : undefined;
    const set = step !== undefined && (step < 0 || step > hereS + LEAP_S);
    if (set) this.jumps++;
    this.timeS += step === undefined || set ? hereS : step;
    this.lineS = lineS;
    this.hereMs = hereMs;
    return this.timeS;
  }
}
