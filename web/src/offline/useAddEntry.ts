import type { JobView, NewEntryInput } from "@gearsense/contract";
import type { Entry } from "@gearsense/core/job";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import { ApiFailure, call, releaseKey } from "../api/client.ts";
import { keys, takeJob } from "../api/queries.ts";
import { entrySummary } from "../job/entry-text.ts";
import { deviceKeep, type Written } from "./entry-queue.ts";
import { withWaiting } from "./overlay.ts";
import { storeOrKeep } from "./send-entry.ts";
import { useKeepEntry } from "./useWaiting.ts";

/**
 * Appends an entry to a job's timeline. A stale one comes back as ApiFailure "stale" with what stands there now. Without a network, or while
 * another of this person's waits for one, it is kept on this device in their name and goes up by itself.
 */
export function useAddEntry(jobId: string) {
  const client = useQueryClient();
  const { keep, me } = useKeepEntry(jobId);
  return useMutation({
    mutationFn: async (entry: NewEntryInput): Promise<JobView> => {
      const post = (id: string, body: NewEntryInput) => call("addEntry", { params: { jobId: id }, body });
      const stored = await storeOrKeep(jobId, entry, me, post, deviceKeep);
      if ("job" in stored) {
        await takeJob(client, stored.job);
        return stored.job;
      }
      releaseKey(stored.sentAs?.key);
      const written = { kind: entry.kind, body: entry.body } as Written;
      const title = entrySummary({ ...written, author: "" } as unknown as Entry, "metric");
      await keep(written, title, entry.baseSeq, stored.sentAs);
      toast("Kept on this device: it goes up when there is a network.");
      const job = client.getQueryData<JobView>(keys.job(jobId));
      if (!job) throw new Error("An entry is written on a job that is shown.");
      return withWaiting(job, await deviceKeep.list());
    },
    onError: (error) => {
      if (error instanceof ApiFailure && error.code === "stale")
        void client.invalidateQueries({ queryKey: keys.job(jobId), exact: true });
    },
  });
}
