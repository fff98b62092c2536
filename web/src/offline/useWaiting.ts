import type { JobView } from "@gearsense/contract";
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef } from "react";
import { toast } from "sonner";
import { ApiFailure, call, newKey } from "../api/client.ts";
import { keys, takeJob, useSession, useWaiting, useWaitingPhotos } from "../api/queries.ts";
import { flushPhotos, type WaitingPhoto, waitingPhotos } from "../photos/photo-queue.ts";
import { useAgain } from "../shared/useAgain.ts";
import {
  againOf,
  deviceKeep,
  dropEntry,
  flushEntries,
  isStuck,
  nextProvisional,
  type Sent,
  type WaitingEntry,
  type Written,
} from "./entry-queue.ts";
import { type Post, sendEntry } from "./send-entry.ts";

const AGAIN_MS = 10_000;
/** Sends what waits on this device whichever page is open: once for the whole application. */
export function useSendWaiting(): void {
  const client = useQueryClient();
  const me = useSession().data?.account.id;
  const { data: waiting } = useWaiting();
  const { data: photos } = useWaitingPhotos();
  const atIt = useRef(false);

  const sendPhoto = useCallback(
    async (p: WaitingPhoto): Promise<"stored" | "waits" | { refused: string }> => {
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
        return error.passes ? "waits" : { refused: error.message };
      }
    },
    [client],
  );

  const send = useCallback(
    async (e: WaitingEntry, baseSeq: number): Promise<Sent> => {
      const post: Post = async (jobId, body, writeKey) => {
        const job = await call("addEntry", { params: { jobId }, body, ...(writeKey ? { writeKey } : {}) });
        await client.cancelQueries({ queryKey: keys.job(jobId), exact: true });
        // it waits no more and stands on the timeline in the same moment: it is never counted twice
        client.setQueryData<WaitingEntry[]>(keys.waiting, (all) => all?.filter((x) => x.id !== e.id));
        client.setQueryData<JobView>(keys.job(jobId), job);
        await takeJob(client, job);
        return job;
      };
      const sent = await sendEntry(e, baseSeq, post, Date.now());
      // what is here of the job is not what the server has
      if (sent !== "waits" && !(typeof sent === "object" && "seq" in sent))
        void client.invalidateQueries({ queryKey: keys.job(e.jobId), exact: true });
      return sent;
    },
    [client],
  );
  const flush = useCallback(async () => {
    // one after another: an entry may wait for the one before it
    if (atIt.current || me === undefined) return;
    atIt.current = true;
    try {
      // an entry may speak of a photo: those go first, and it waits for its own
      await flushPhotos(await waitingPhotos(), me, sendPhoto);
      const pictures = (await waitingPhotos()).map((p) => p.photoId);
      const notYet = ({ body }: WaitingEntry) => pictures.some((id) => JSON.stringify(body).includes(id));
      // what is written while others are on their way goes after them
      for (let before = Number.POSITIVE_INFINITY; ; ) {
        const left = (await deviceKeep.list()).filter((e) => e.by === me && !isStuck(e)).length;
        if (left === 0 || left >= before) break;
        before = left;
        const { theirs, waits } = await flushEntries(me, send, deviceKeep, notYet);
        for (const e of theirs)
          toast(
            `“${e.title}” was ${e.kind === "step" ? "ticked" : "changed"} by somebody else meanwhile: theirs counts.`,
          );
        if (waits) break;
      }
    } finally {
      atIt.current = false;
      await client.invalidateQueries({ queryKey: keys.waiting });
      await client.invalidateQueries({ queryKey: keys.waitingPhotos });
    }
  }, [client, me, send, sendPhoto]);

  useAgain(flush, AGAIN_MS);
  // a list that has changed holds a new entry, or what is left of those that were sent
  useEffect(() => {
    if ((waiting?.length ?? 0) + (photos?.length ?? 0) > 0) void flush();
  }, [waiting, photos, flush]);
}

/** Keeps an entry of a job on this device, in the name of who is signed in. */
export function useKeepEntry(jobId: string) {
  const client = useQueryClient();
  const account = useSession().data?.account;
  return {
    me: account?.id,
    keep: async (written: Written, title: string, baseSeq: number, sentAs?: WaitingEntry["sentAs"]): Promise<void> => {
      if (!account) throw new Error("It is written by somebody who is signed in.");
      const { id: by, name } = account;
      const nowMs = Date.now();
      const seq = nextProvisional(await deviceKeep.list(), nowMs);
      const at = new Date(nowMs).toISOString();
      await deviceKeep.keep({ ...written, title, id: newKey(), jobId, seq, baseSeq, at, by, name, sentAs });
      await client.invalidateQueries({ queryKey: keys.waiting });
    },
  };
}

/** What its writer may do with an entry that waits: send it once more, over what stands there, or drop it. */
export function useDecideWaiting() {
  const client = useQueryClient();
  const changed = () => client.invalidateQueries({ queryKey: keys.waiting });
  return {
    again: async (e: WaitingEntry) => {
      await deviceKeep.keep(againOf(e));
      await changed();
    },
    drop: async (e: WaitingEntry) => {
      await dropEntry(e);
      await changed();
    },
  };
}
