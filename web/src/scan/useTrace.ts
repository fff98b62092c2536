import type { StoredReadingView } from "@gearsense/contract";
import type { Unit } from "@gearsense/core/unit";
import { startTransition, useEffect, useState } from "react";
import { urlOf } from "../api/client.ts";
import { LogClient } from "./worker/client.ts";
import type { Recorded } from "./worker/messages.ts";

export type Loaded =
  | { readonly state: "loading"; readonly share: number }
  | { readonly state: "ready"; readonly recorded: Recorded; readonly client: LogClient }
  | { readonly state: "failed"; readonly message: string };

/** Fetches a stored log, and those joined to it, and makes the strips in a worker, read as it was analysed. */
export function useTrace(jobId: string, logId: string, reading: StoredReadingView | undefined, unit: Unit): Loaded {
  const [loaded, setLoaded] = useState<Loaded>({ state: "loading", share: 0 });
  useEffect(() => {
    if (!reading) return;
    const abort = new AbortController();
    const client = new LogClient();
    setLoaded({ state: "loading", share: 0 });
    const load = async () => {
      const parts = [{ logId, ...reading }, ...(reading.joined ?? [])].map((p) => ({
        url: new URL(urlOf("rawLog", { jobId, logId: p.logId }), window.location.href).href,
        choice: { dialect: p.dialect, definition: p.definition },
        mapping: p.mapping,
      }));
      const recorded = await client.record(parts, reading.spanS, unit, (share) =>
        setLoaded((l) => (l.state === "loading" ? { state: "loading", share } : l)),
      );
      // in slices: the page stays answerable while the strips are set up
      if (!abort.signal.aborted) startTransition(() => setLoaded({ state: "ready", recorded, client }));
    };
    load().catch((error: unknown) => {
      if (!abort.signal.aborted)
        setLoaded({ state: "failed", message: error instanceof Error ? error.message : String(error) });
    });
    return () => {
      abort.abort();
      client.close();
    };
  }, [jobId, logId, reading, unit]);
  return loaded;
}
