import type { JobView } from "@gearsense/contract";
import { type Entry, type EntryKind, foldJob, slotOf } from "@gearsense/core/job";
import { isStuck, type WaitingEntry } from "./entry-queue.ts";

/** What is done at the vehicle: the work stop counts these itself, with those that wait. */
const AT_THE_VEHICLE: ReadonlySet<EntryKind> = new Set(["step", "emptied", "filling", "tray"]);

const MARK = "waiting-";
/** Whether an entry of a shown timeline waits on this device. */
export const isWaiting = ({ id }: Pick<Entry, "id">): boolean => id.startsWith(MARK);
export const waitingIdOf = ({ id }: Pick<Entry, "id">): string => id.slice(MARK.length);

export const asEntry = (e: WaitingEntry): Entry =>
  ({
    id: MARK + e.id,
    seq: e.seq,
    at: e.at,
    author: e.name,
    source: "typed",
    kind: e.kind,
    slot: slotOf(e.kind, e.body as never, e.id),
    body: e.body,
  }) as Entry;

/** A job as it will be once what waits on this device has gone up; what met another entry is left out until its writer decides. */
export function withWaiting(job: JobView, waiting: readonly WaitingEntry[]): JobView {
  const here = waiting.filter((e) => e.jobId === job.id && !AT_THE_VEHICLE.has(e.kind));
  // nor what was written on top of one that is stuck
  const held = new Set(here.filter(isStuck).map((e) => asEntry(e).slot));
  const own = here.filter((e) => !held.has(asEntry(e).slot));
  if (own.length === 0) return job;
  const entries = [...(job.entries as Entry[]), ...own.map(asEntry)];
  const { stage, waitsFor } = foldJob(entries);
  return { ...job, stage, waitsFor, entries: entries as JobView["entries"] };
}
