import { InputError } from "./input-error.ts";
import { indexAtOrAfter } from "./pyramid.ts";
import { type Channel, type ImportReport, MIN_DURATION_S, type Recording } from "./recording.ts";

/** Time between two logs that are joined, s: longer than any hole that is bridged. */
export const JOIN_GAP_S = 10;

/**
 * The part of a recording within a span; its time begins at 0 again.
 * @param spanS - from and to, s of the recording
 * @throws InputError `too-short`
 */
export function cutRecording(recording: Recording, spanS: readonly [number, number]): Recording {
  const from = Math.max(0, spanS[0]);
  const to = Math.min(recording.durationS, spanS[1]);
  if (!(to - from >= MIN_DURATION_S))
    throw new InputError(
      "too-short",
      `The span from ${spanS[0].toFixed(1)} to ${spanS[1].toFixed(1)} s holds ${Math.max(0, to - from).toFixed(1)} s of the log; at least ${MIN_DURATION_S} s are needed to judge a drive.`,
    );
  // channels that share a time base go on sharing it
  const bases = new Map<Float64Array, Float64Array>();
  const channels = new Map<string, Channel>();
  for (const [id, c] of recording.channels) {
    const a = indexAtOrAfter(c.timeS, from);
    const b = indexAtOrAfter(c.timeS, to + 1e-9);
    if (b <= a) continue;
    let timeS = bases.get(c.timeS);
    if (!timeS) {
      timeS = c.timeS.slice(a, b).map((t) => t - from);
      bases.set(c.timeS, timeS);
    }
    channels.set(id, { ...c, timeS, values: c.values.slice(a, b) });
  }
  return { channels, originS: recording.originS + from, durationS: to - from, report: recording.report };
}

/**
 * Several recordings one after the other, {@link JOIN_GAP_S} apart. A channel that one of them lacks has a hole there.
 * @param recordings - at least one
 */
export function joinRecordings(recordings: readonly Recording[]): Recording {
  const [first, ...rest] = recordings;
  if (!first) throw new RangeError("nothing to join");
  if (rest.length === 0) return first;
  const starts: number[] = [];
  let at = 0;
  for (const r of recordings) {
    starts.push(at);
    at += r.durationS + JOIN_GAP_S;
  }
  const ids = [...new Set(recordings.flatMap((r) => [...r.channels.keys()]))];
  const bases = new Map<string, Float64Array>();
  const baseIds = new Map<Float64Array, number>();
  const baseId = (t: Float64Array) => {
    if (!baseIds.has(t)) baseIds.set(t, baseIds.size);
    return baseIds.get(t);
  };
  const channels = new Map<string, Channel>();
  for (const id of ids) {
    const parts = recordings.flatMap((r, k) => {
      const c = r.channels.get(id);
      return c ? [{ c, startS: starts[k] as number }] : [];
    });
    const length = parts.reduce((sum, p) => sum + p.c.timeS.length, 0);
    const key = parts.map((p) => `${baseId(p.c.timeS)}@${p.startS}`).join("+");
    let timeS = bases.get(key);
    const values = new Float64Array(length);
    const fresh = timeS === undefined;
    timeS ??= new Float64Array(length);
    let k = 0;
    for (const { c, startS } of parts) {
      values.set(c.values, k);
      if (fresh) for (let i = 0; i < c.timeS.length; i++) timeS[k + i] = (c.timeS[i] as number) + startS;
      k += c.timeS.length;
    }
    bases.set(key, timeS);
    const head = (parts[0] as (typeof parts)[number]).c;
    channels.set(id, {
      ...head,
      timeS,
      values,
      // the slowest says what can be told of the whole
      rateHz: Math.min(...parts.map((p) => p.c.rateHz)),
      invalidCount: parts.reduce((sum, p) => sum + p.c.invalidCount, 0),
    });
  }
  return { channels, originS: first.originS, durationS: at - JOIN_GAP_S, report: joinedReport(recordings, starts) };
}

function joinedReport(recordings: readonly Recording[], starts: readonly number[]): ImportReport {
  const reports = recordings.map((r) => r.report);
  const sum = (of: (r: ImportReport) => number) => reports.reduce((s, r) => s + of(r), 0);
  return {
    rows: sum((r) => r.rows),
    rowsUsed: sum((r) => r.rowsUsed),
    columns: Math.max(...reports.map((r) => r.columns)),
    durationS: sum((r) => r.durationS),
    rateHz: Math.min(...reports.map((r) => r.rateHz)),
    gaps: reports.flatMap((r, k) =>
      r.gaps.map((g) => ({ ...g, startS: g.startS + (starts[k] as number), endS: g.endS + (starts[k] as number) })),
    ),
    repairs: reports.flatMap((r) => r.repairs),
    rejects: reports.flatMap((r) => r.rejects),
    rejectCount: sum((r) => r.rejectCount),
    emptyCells: sum((r) => r.emptyCells),
    invalidCells: sum((r) => r.invalidCells),
  };
}
