import type { LinkDefinition } from "./definition.ts";
import { RoadClock } from "./road-clock.ts";
import { type Batch, batchesOf, LinkError, type LinkSession, readBatch } from "./session.ts";

/** One reading of some channels at one time. */
export interface RecordedRow {
  readonly timeS: number;
  readonly values: ReadonlyMap<string, number>;
}

export interface RecorderState {
  readonly rows: number;
  /** readings a second of each channel, over the last seconds */
  readonly rateHz: number;
  /** questions that were refused or not answered */
  readonly missed: number;
  readonly lastMiss: string | undefined;
  /** how often the clock of the link was set meanwhile */
  readonly clockJumps: number;
}

const RATE_OVER_S = 3;
/** A control unit that answers nothing is asked again after so long, ms. */
const REST_MS = 250;
/** Times are told to the millisecond. */
const TIME_DECIMALS = 3;

const pause = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms));

/**
 * Asks for channels as fast as the link answers, each control unit by itself, until it is stopped or the link is gone. What is not
 * answered is a gap, never a guess.
 */
export class Recorder {
  private readonly session: LinkSession;
  private readonly batches: readonly Batch[];
  private readonly take: (row: RecordedRow) => void;
  private readonly beganMs = performance.now();
  private stopped = false;
  private paused = false;
  private rows = 0;
  private missed = 0;
  private lastMiss: string | undefined;
  private readonly recent: number[] = [];
  private readonly clock = new RoadClock(performance.now());
  private readonly loops: Promise<void>[];

  /** @param take - each row as it comes, in the order of time */
  constructor(
    session: LinkSession,
    definition: LinkDefinition,
    channels: readonly string[],
    take: (row: RecordedRow) => void,
  ) {
    this.session = session;
    this.batches = batchesOf(definition, channels);
    this.take = take;
    const units = [...new Set(this.batches.map((b) => b.address))];
    this.loops = units.map((address) => this.loop(this.batches.filter((b) => b.address === address)));
    // told by stop, not by the end of the process
    for (const loop of this.loops) loop.catch(() => undefined);
  }

  get state(): RecorderState {
    const now = performance.now();
    while (this.recent.length > 0 && now - (this.recent[0] as number) > RATE_OVER_S * 1000) this.recent.shift();
    const span = Math.min(RATE_OVER_S, Math.max(0.2, (now - this.beganMs) / 1000));
    return {
      rows: this.rows,
      rateHz: this.batches.length === 0 ? 0 : this.recent.length / span / this.batches.length,
      missed: this.missed,
      lastMiss: this.lastMiss,
      clockJumps: this.clock.jumps,
    };
  }

  pause(on: boolean): void {
    this.paused = on;
  }

  /** Ends it; what is being asked is waited for. */
  async stop(): Promise<void> {
    this.stopped = true;
    await Promise.all(this.loops);
  }

  private async loop(batches: readonly Batch[]): Promise<void> {
    while (!this.stopped && this.session.isOpen) {
      if (this.paused) {
        await pause(REST_MS);
        continue;
      }
      for (const batch of batches) {
        if (this.stopped) return;
        try {
          const { values, timeS } = await readBatch(this.session, batch);
          if (this.paused) continue;
          const now = performance.now();
          this.rows++;
          this.recent.push(now);
          this.take({ timeS: this.clock.at(timeS, now), values });
        } catch (error) {
          if (!(error instanceof LinkError)) throw error;
          if (error.kind === "gone") return;
          this.missed++;
          this.lastMiss = error.message;
          await pause(REST_MS);
        }
      }
    }
  }
}

/** Rows as an open text log: a column a channel, what a row does not hold is empty. */
export class LogText {
  private readonly channels: readonly string[];
  constructor(channels: readonly string[]) {
    this.channels = channels;
  }
  get head(): string {
    return `time_s,${this.channels.join(",")}\n`;
  }
  line({ timeS, values }: RecordedRow): string {
    const cells = this.channels.map((c) => {
      const v = values.get(c);
      return v === undefined || !Number.isFinite(v) ? "" : String(Math.round(v * 1000) / 1000);
    });
    return `${timeS.toFixed(TIME_DECIMALS)},${cells.join(",")}\n`;
  }
}
