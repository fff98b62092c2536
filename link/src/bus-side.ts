import type { CanFrame } from "./frame.ts";

/**
 * Lets frames through in the order in which they were sent: what comes a second time, or after a later one of its identifier, is
 * dropped, as a frame that is lost. Lines without a time are taken as they come.
 */
export class InOrder {
  private readonly newestS = new Map<number, number>();

  takes({ id }: CanFrame, timeS: number | undefined): boolean {
    if (timeS === undefined) return true;
    const newest = this.newestS.get(id);
    if (newest !== undefined && timeS <= newest) return false;
    this.newestS.set(id, timeS);
    return true;
  }
}

/** Times of lines that go out: each later than the one before it. */
export class LineClock {
  private lastS = 0;
  next(nowMs: number): number {
    this.lastS = Math.max(nowMs / 1000, this.lastS + 1e-6);
    return this.lastS;
  }
}
