import type { EntryBodies } from "@gearsense/core/job";
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef, useState } from "react";
import { toast } from "sonner";
import { ApiFailure, call, newKey } from "../api/client.ts";
import { keys, takeJob } from "../api/queries.ts";
import { useAgain } from "../shared/useAgain.ts";
import { dropTick, flushTicks, keepTick, type TickSent, type WaitingTick, waitingTicks } from "./tick-queue.ts";

const AGAIN_MS = 10_000;

/** Ticks of a job on their way to the server: kept on this device first, sent in their order when there is a network. */
export function useTicks(jobId: string) {
  const client = useQueryClient();
  const [waiting, setWaiting] = useState<readonly WaitingTick[]>([]);
  const atIt = useRef(false);

  const send = useCallback(
    async ({ body, baseSeq }: WaitingTick): Promise<TickSent> => {
      try {
        await takeJob(
          client,
          await call("addEntry", { params: { jobId }, body: { kind: "step", body, baseSeq } as never }),
        );
        return "stored";
      } catch (error) {
        if (!(error instanceof ApiFailure)) throw error;
        // signed out or a server that is ill: the tick is not at fault
        if (error.passes) return "waits";
        void client.invalidateQueries({ queryKey: keys.job(jobId), exact: true });
        return error.code === "stale" && error.current ? "done-already" : { refused: error.message };
      }
    },
    [client, jobId],
  );
  const flush = useCallback(async () => {
    // one after another: a tick may wait for the one before it
    if (atIt.current) return;
    atIt.current = true;
    try {
      const theirs = await flushTicks(await waitingTicks(jobId), send);
      for (const t of theirs) toast(`“${t.body.title}” was ticked by somebody else meanwhile: theirs counts.`);
    } finally {
      atIt.current = false;
      setWaiting(await waitingTicks(jobId));
    }
  }, [jobId, send]);

  useAgain(flush, AGAIN_MS);

  return {
    waiting,
    tick: async (body: EntryBodies["step"], baseSeq: number) => {
      await keepTick({ id: newKey(), jobId, body, baseSeq, at: new Date().toISOString() });
      setWaiting(await waitingTicks(jobId));
      void flush();
    },
    again: async ({ refused: _r, ...t }: WaitingTick) => {
      await keepTick(t);
      await flush();
    },
    drop: async (id: string) => {
      await dropTick(id);
      setWaiting(await waitingTicks(jobId));
    },
  };
}
