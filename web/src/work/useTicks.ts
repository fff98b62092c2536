import type { EntryBodies } from "@gearsense/core/job";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef } from "react";
import { toast } from "sonner";
import { ApiFailure, call, newKey } from "../api/client.ts";
import { keys, takeJob, useSession } from "../api/queries.ts";
import { useAgain } from "../shared/useAgain.ts";
import {
  dropTick,
  flushTicks,
  keepTick,
  type TickSent,
  type TickWritten,
  type WaitingTick,
  waitingTicks,
} from "./tick-queue.ts";

const AGAIN_MS = 10_000;

/** They are read from this device, whether or not there is a network. */
const useWaiting = () =>
  useQuery({ queryKey: keys.ticks, queryFn: waitingTicks, networkMode: "always", staleTime: Number.POSITIVE_INFINITY });

/** Sends what waits on this device whichever page is open: once for the whole application. */
export function useSendTicks(): void {
  const client = useQueryClient();
  const me = useSession().data?.account.id;
  const { data: waiting } = useWaiting();
  const atIt = useRef(false);

  const send = useCallback(
    async ({ id, jobId, kind, body, baseSeq, name }: WaitingTick): Promise<TickSent> => {
      const sent = async (base: number) => {
        const job = await call("addEntry", {
          params: { jobId },
          body: { kind, body, baseSeq: base } as never,
          // stored once, also when the answer to the first never came
          writeKey: `${id}-${base}`,
        });
        await client.cancelQueries({ queryKey: keys.job(jobId), exact: true });
        // it waits no more and stands on the timeline in the same moment: it is never counted twice
        client.setQueryData<WaitingTick[]>(keys.ticks, (all) => all?.filter((t) => t.id !== id));
        await takeJob(client, job);
      };
      try {
        await sent(baseSeq).catch((error: unknown) => {
          // what stands there is of the same person, sent from here just before: this one is newer
          const stands = error instanceof ApiFailure && error.code === "stale" ? error.current : undefined;
          if (kind === "step" || stands?.author !== name) throw error;
          return sent(stands.seq);
        });
        return "stored";
      } catch (error) {
        if (!(error instanceof ApiFailure)) throw error;
        // signed out or a server that is ill: the tick is not at fault
        if (error.passes) return "waits";
        void client.invalidateQueries({ queryKey: keys.job(jobId), exact: true });
        return error.code === "stale" && error.current ? "done-already" : { refused: error.message };
      }
    },
    [client],
  );
  const flush = useCallback(async () => {
    // one after another: a tick may wait for the one before it
    if (atIt.current || me === undefined) return;
    atIt.current = true;
    try {
      // what is written while others are on their way goes after them
      for (;;) {
        const list = (await waitingTicks()).filter((t) => t.by === me && !t.refused);
        if (list.length === 0) break;
        const { theirs, waits } = await flushTicks(list, me, send);
        for (const t of theirs)
          toast(
            `“${t.title}” was ${t.kind === "step" ? "ticked" : "changed"} by somebody else meanwhile: theirs counts.`,
          );
        if (waits) break;
      }
    } finally {
      atIt.current = false;
      await client.invalidateQueries({ queryKey: keys.ticks });
    }
  }, [client, me, send]);

  useAgain(flush, AGAIN_MS);
  // a list that has changed holds a new tick, or what is left of those that were sent
  useEffect(() => {
    if (waiting && waiting.length > 0) void flush();
  }, [waiting, flush]);
}

/** Ticks of a job on their way to the server: kept on this device first, sent in their order when there is a network. */
export function useTicks(jobId: string) {
  const client = useQueryClient();
  const account = useSession().data?.account;
  const { data } = useWaiting();
  const changed = () => client.invalidateQueries({ queryKey: keys.ticks });
  const keep = async (tick: WaitingTick) => {
    await keepTick(tick);
    await changed();
  };
  const write = async (written: TickWritten, title: string, baseSeq: number) => {
    if (!account) throw new Error("It is written by somebody who is signed in.");
    const { id: by, name } = account;
    await keep({ ...written, title, id: newKey(), jobId, baseSeq, at: new Date().toISOString(), by, name });
  };
  return {
    waiting: (data ?? []).filter((t) => t.jobId === jobId),
    tick: (body: EntryBodies["step"], baseSeq: number) => write({ kind: "step", body }, body.title, baseSeq),
    write,
    again: ({ refused: _r, ...t }: WaitingTick) => keep(t as WaitingTick),
    drop: async (id: string) => {
      await dropTick(id);
      await changed();
    },
  };
}
