import type { EntryBodies } from "@gearsense/core/job";
import { useQueryClient } from "@tanstack/react-query";
import { newId } from "../api/client.ts";
import { keys, useSession, useWaitingPhotos } from "../api/queries.ts";
import { dropPhoto, keepPhoto } from "./photo-queue.ts";

export type PhotoAbout = EntryBodies["photo"]["about"];

/** Photos of a job on their way to the server: kept on this device first, sent when there is a network. */
export function usePhotos(jobId: string) {
  const client = useQueryClient();
  const account = useSession().data?.account;
  const { data } = useWaitingPhotos();
  const changed = () => client.invalidateQueries({ queryKey: keys.waitingPhotos });
  return {
    waiting: (data ?? []).filter((p) => p.jobId === jobId),
    take: async (file: File, about: PhotoAbout, caption = "") => {
      if (!account) throw new Error("It is taken by somebody who is signed in.");
      const { id: by, name } = account;
      await keepPhoto({ photoId: newId(), jobId, about, caption, file, takenAt: new Date().toISOString(), by, name });
      await changed();
    },
    drop: async (photoId: string) => {
      await dropPhoto(photoId);
      await changed();
    },
  };
}
