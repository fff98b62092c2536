import type { ColumnMapping } from "@gearsense/core/log";
import type { Unit } from "@gearsense/core/unit";
import { useEffect, useState } from "react";
import { callBytes } from "../api/client.ts";
import { LogClient } from "./worker/client.ts";
import type { Recorded } from "./worker/messages.ts";

type Loaded =
  | { readonly state: "loading"; readonly share: number }
  | { readonly state: "ready"; readonly recorded: Recorded }
  | { readonly state: "failed"; readonly message: string };

/** Fetches a stored log and makes its strips in a worker, by the mapping it was analysed with. */
export function useTrace(
  jobId: string,
  logId: string,
  mapping: readonly ColumnMapping[] | undefined,
  unit: Unit,
): Loaded {
  const [loaded, setLoaded] = useState<Loaded>({ state: "loading", share: 0 });
  useEffect(() => {
    if (!mapping) return;
    const abort = new AbortController();
    const client = new LogClient();
    setLoaded({ state: "loading", share: 0 });
    const load = async () => {
      const bytes = await callBytes("rawLog", { jobId, logId }, abort.signal);
      await client.open(bytes, (share) => setLoaded((l) => (l.state === "loading" ? { state: "loading", share } : l)));
      const recorded = await client.record(mapping, unit);
      if (!abort.signal.aborted) setLoaded({ state: "ready", recorded });
    };
    load().catch((error: unknown) => {
      if (!abort.signal.aborted)
        setLoaded({ state: "failed", message: error instanceof Error ? error.message : String(error) });
    });
    return () => {
      abort.abort();
      client.close();
    };
  }, [jobId, logId, mapping, unit]);
  return loaded;
}
