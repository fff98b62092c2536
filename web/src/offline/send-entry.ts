import type { JobView, NewEntryInput } from "@gearsense/contract";
import { type Entry, type EntryKind, slotOf } from "@gearsense/core/job";
import { ApiFailure } from "../api/client.ts";
import { baseOf, type EntryKeep, isStuck, type Sent, type WaitingEntry } from "./entry-queue.ts";

/** Appends an entry to its job and answers with the job as it is then. @throws ApiFailure */
export type Post = (jobId: string, entry: NewEntryInput, writeKey?: string) => Promise<JobView>;

/** One deed after another at one vehicle: what is newer of the same person's counts. */
const SUCCEEDS_ITS_OWN: ReadonlySet<EntryKind> = new Set(["emptied", "filling", "tray"]);

/** Sends one that waited. @param nowMs - by the clock that it was written by */
export async function sendEntry(e: WaitingEntry, baseSeq: number, post: Post, nowMs: number): Promise<Sent> {
  const { id, jobId, kind, body, at, name, sentAs } = e;
  const slot = slotOf(kind, body as never, id);
  const sent = async (base: number): Promise<Sent> => {
    const agoS = Math.max(0, (nowMs - Date.parse(at)) / 1000);
    // stored once, also when the answer to the first never came
    const key = sentAs?.baseSeq === base ? sentAs.key : `${id}-${base}`;
    const job = await post(jobId, { kind, body, baseSeq: base, agoS } as NewEntryInput, key);
    const stored = (job.entries as Entry[]).findLast((x) => x.slot === slot && x.author === name);
    return { seq: stored?.seq ?? 0 };
  };
  try {
    return await sent(baseSeq).catch((error: unknown) => {
      // what stands there is of the same person, sent from here just before: this one is newer
      const stands = error instanceof ApiFailure && error.code === "stale" ? error.current : undefined;
      if (!SUCCEEDS_ITS_OWN.has(kind) || stands?.author !== name) throw error;
      return sent(stands.seq);
    });
  } catch (error) {
    if (!(error instanceof ApiFailure)) throw error;
    // signed out or a server that is ill: the entry is not at fault
    if (error.passes) return "waits";
    if (error.code !== "stale") return { refused: error.message };
    if (kind === "retraction" || (kind === "step" && error.current)) return "done-already";
    return { theirs: error.current ?? "taken back" };
  }
}

/**
 * Stores an entry, or says that it is to be kept: there is no network, or another of this person's waits for one on this job, or what it
 * rests on does.
 * @returns the job as it is then, or the key under which it went out unanswered, if it did
 * @throws ApiFailure when it is refused
 */
export async function storeOrKeep(
  jobId: string,
  entry: NewEntryInput,
  me: string | undefined,
  post: Post,
  keep: EntryKeep,
): Promise<{ readonly job: JobView } | { readonly sentAs: WaitingEntry["sentAs"] }> {
  const list = await keep.list();
  const baseSeq = await baseOf(entry.baseSeq, list, keep);
  const mineWaits = list.some((e) => e.jobId === jobId && e.by === me && !isStuck(e));
  if (baseSeq === undefined || mineWaits) return { sentAs: undefined };
  try {
    return { job: await post(jobId, { ...entry, baseSeq } as NewEntryInput) };
  } catch (error) {
    if (!(error instanceof ApiFailure) || error.code !== "offline") throw error;
    const key = error.writeKey;
    return { sentAs: key === undefined ? undefined : { key, baseSeq } };
  }
}
