import type { EntryBodies } from "@gearsense/core/job";
import { useWaiting } from "../api/queries.ts";
import type { Written } from "../offline/entry-queue.ts";
import { useDecideWaiting, useKeepEntry } from "../offline/useWaiting.ts";

/** Ticks of a job on their way to the server: kept on this device first, sent in their order when there is a network. */
export function useTicks(jobId: string) {
  const { data } = useWaiting();
  const { keep } = useKeepEntry(jobId);
  const { again, drop } = useDecideWaiting();
  return {
    waiting: (data ?? []).filter((t) => t.jobId === jobId),
    tick: (body: EntryBodies["step"], baseSeq: number) => keep({ kind: "step", body }, body.title, baseSeq),
    write: (written: Written, title: string, baseSeq: number) => keep(written, title, baseSeq),
    again,
    drop,
  };
}
