import { type AskedFor, LiveDrive, type SameCondition } from "@gearsense/core/drive";
import type { Unit } from "@gearsense/core/unit";
import { type LinkDefinition, type LinkSession, LogText, Recorder } from "@gearsense/link";
import type { RecordingRow, RecordingStore } from "./store.ts";

/** What has come is written down so often; a server that is killed loses no more than that, ms. */
const FLUSH_MS = 500;
/** The longest drive, s. */
const LONGEST_S = 8 * 3600;
/** A database that does not take anything is tried so long with what has come; then the recording ends, characters. */
const MOST_UNWRITTEN = 8 * 1024 * 1024;

export const EMPTY_LIVE: RecordingRow["live"] = {
  timeS: 0,
  rateHz: 0,
  missed: 0,
  lastMiss: null,
  clockJumps: 0,
  values: {},
  gone: null,
  drive: null,
};

export interface Recorded {
  readonly unit: Unit;
  /** what the customer complains of */
  readonly asked: readonly AskedFor[];
  /** conditions that a proof drive has to meet again */
  readonly wanted: readonly SameCondition[];
  readonly definition: LinkDefinition;
  readonly channels: readonly string[];
}

export interface Running {
  /** Ends it, and has all that came written down. */
  readonly stop: () => Promise<void>;
}

/**
 * Writes down what comes from a link twice a second, until it is stopped, here or from another process, or the link is gone.
 * @param ended - told once, when nothing more is written
 */
export function startRunning(
  store: RecordingStore,
  id: string,
  session: LinkSession,
  { unit, asked, wanted, definition, channels }: Recorded,
  now: () => Date,
  ended: () => void,
): Running {
  const text = new LogText(channels);
  const values = new Map<string, number>();
  const drive = new LiveDrive(unit, asked, wanted);
  let unwritten = text.head;
  let sent: string | undefined;
  let seq = 0;
  let timeS = 0;
  let gone: string | null = null;
  const recorder = new Recorder(session, definition, channels, (row) => {
    unwritten += text.line(row);
    timeS = row.timeS;
    drive.take(row.timeS, row.values);
    for (const [c, v] of row.values) values.set(c, v);
  });
  session.onGone((why) => {
    gone = why;
  });
  const write = async (more: Partial<RecordingRow> = {}) => {
    // a piece whose answer was lost is sent again as it was: stored twice it is one
    sent ??= unwritten === "" ? undefined : unwritten;
    if (sent !== undefined) {
      await store.addPiece(id, seq, sent);
      seq++;
      // what came meanwhile stays
      unwritten = unwritten.slice(sent.length);
      sent = undefined;
    }
    const { rows, rateHz, missed, lastMiss, clockJumps } = recorder.state;
    const live: RecordingRow["live"] = {
      timeS,
      rateHz,
      missed,
      lastMiss: lastMiss ?? null,
      clockJumps,
      values: Object.fromEntries([...values].filter(([, v]) => Number.isFinite(v))),
      gone,
      drive: drive.state(),
    };
    await store.update(id, { beat_at: now(), seconds: timeS, rows, live: JSON.stringify(live), ...more });
  };
  let stopping = false;
  let wake: () => void = () => undefined;
  const run = async () => {
    for (let lastError: unknown; ; ) {
      if (!stopping)
        await new Promise<void>((resolve) => {
          const timer = setTimeout(resolve, FLUSH_MS);
          wake = () => {
            clearTimeout(timer);
            resolve();
          };
        });
      if (stopping || gone !== null || timeS > LONGEST_S) break;
      try {
        await write();
        if ((await store.byId(id))?.to_stop) break;
        lastError = undefined;
      } catch (error) {
        // the database is away for a moment: what has come waits
        lastError = error;
      }
      if (lastError !== undefined && unwritten.length > MOST_UNWRITTEN) break;
    }
    const why = gone;
    await recorder.stop();
    session.close();
    gone = why;
    await write({ stopped: true });
  };
  const done = run().finally(ended);
  // without a database nothing can be said there; the recording shows as cut off
  done.catch(() => undefined);
  return {
    stop: () => {
      stopping = true;
      wake();
      return done;
    },
  };
}
