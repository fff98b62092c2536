import type { JobView } from "@gearsense/contract";
import type { EntryBodies } from "@gearsense/core/job";
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { ApiFailure, call } from "../api/client.ts";
import { takeJob } from "../api/queries.ts";
import { useAgain } from "../shared/useAgain.ts";
import { dropPhoto, flushPhotos, keepPhoto, type Sent, type WaitingPhoto, waitingPhotos } from "./photo-queue.ts";

export type PhotoAbout = EntryBodies["photo"]["about"];
const AGAIN_MS = 15_000;

/** Photos of a job on their way to the server: kept on this device first, sent when there is a network. */
export function usePhotos(jobId: string) {
  const client = useQueryClient();
  const [waiting, setWaiting] = useState<readonly WaitingPhoto[]>([]);
  const [sending, setSending] = useState(false);

  const send = useCallback(
    async (p: WaitingPhoto): Promise<Sent> => {
      try {
        const { job } = await call("uploadPhoto", {
          params: { jobId: p.jobId },
          query: { photoId: p.photoId, about: p.about, ...(p.caption ? { caption: p.caption } : {}) },
          body: p.file,
        });
        await takeJob(client, job as JobView);
        return "stored";
      } catch (error) {
        if (!(error instanceof ApiFailure)) throw error;
        // signed out or a server that is ill: the photo is not at fault
        if (error.passes) return "waits";
        return { refused: error.message };
      }
    },
    [client],
  );
  const flush = useCallback(async () => {
    const list = await waitingPhotos(jobId);
    setWaiting(list);
    if (!list.some((p) => !p.refused)) return;
    setSending(true);
    try {
      await flushPhotos(list, send);
    } finally {
      setSending(false);
      setWaiting(await waitingPhotos(jobId));
    }
  }, [jobId, send]);

  useAgain(flush, AGAIN_MS);

  return {
    waiting,
    sending,
    take: async (file: File, about: PhotoAbout, caption = "") => {
      const photoId = crypto.randomUUID();
      await keepPhoto({ photoId, jobId, about, caption, file, takenAt: new Date().toISOString() });
      await flush();
    },
    drop: async (photoId: string) => {
      await dropPhoto(photoId);
      setWaiting(await waitingPhotos(jobId));
    },
  };
}
