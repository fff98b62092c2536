import type { JobView } from "@gearsense/contract";
import {
  binaryKind,
  type ColumnMapping,
  type ImportReport,
  MAX_LOG_BYTES,
  type MappingGuess,
} from "@gearsense/core/log";
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { ApiFailure, call, callBytes, upload, urlOf } from "../api/client.ts";
import { keys, takeJob } from "../api/queries.ts";
import { LogClient, LogRefused } from "./worker/client.ts";
import type { Opened } from "./worker/messages.ts";

export type ImportPhase =
  | { readonly at: "idle" }
  | { readonly at: "sending"; readonly share: number }
  | { readonly at: "reading"; readonly share: number }
  | {
      readonly at: "mapping";
      readonly logId: string;
      readonly fileName: string;
      readonly opened: Opened;
      readonly mapping: readonly MappingGuess[];
    }
  | { readonly at: "analysing"; readonly logId: string };

const MB = 1 << 20;

/** What can be told of a file before a byte is sent. @returns the refusal, or undefined */
async function refuseAtOnce(file: File): Promise<string | undefined> {
  if (file.size === 0)
    return `${file.name} is empty: 0 bytes. Export the log again and check that the recording was saved.`;
  if (file.size > MAX_LOG_BYTES)
    return `${file.name} has ${Math.ceil(file.size / MB)} MB; up to ${MAX_LOG_BYTES / MB} MB are read. Cut the log or record fewer channels.`;
  const binary = binaryKind(new Uint8Array(await file.slice(0, 4096).arrayBuffer()));
  return binary && `${file.name} is ${binary}, not a text log. Export the recording as CSV from the scan tool.`;
}

const plain = (m: ColumnMapping): ColumnMapping => ({ column: m.column, channel: m.channel, unit: m.unit });

/** The way of a log: stored unchanged first, then read in a worker, mapped by the person, analysed by the server. */
export function useImport(jobId: string, role: "before" | "after", onDone: (logId: string) => void) {
  const client = useQueryClient();
  const [phase, setPhase] = useState<ImportPhase>({ at: "idle" });
  const [problem, setProblem] = useState<string | undefined>();
  const [report, setReport] = useState<ImportReport | undefined>();
  const reader = useRef<LogClient | undefined>(undefined);
  const abort = useRef<AbortController | undefined>(undefined);

  const drop = useCallback(() => {
    reader.current?.close();
    reader.current = undefined;
    abort.current?.abort();
    abort.current = undefined;
  }, []);
  useEffect(() => drop, [drop]);

  const fail = (error: unknown) => {
    const cancelled = error instanceof DOMException && error.name === "AbortError";
    if (!cancelled) setProblem(error instanceof Error ? error.message : String(error));
    if (!cancelled && !(error instanceof ApiFailure || error instanceof LogRefused)) console.error(error);
  };

  const preview = async (mapping: readonly ColumnMapping[]) => {
    setReport(undefined);
    setProblem(undefined);
    try {
      setReport(await reader.current?.report(mapping.map(plain)));
    } catch (error) {
      fail(error);
    }
  };

  const read = async (logId: string, fileName: string, bytes: Uint8Array) => {
    setPhase({ at: "reading", share: 0 });
    const log = new LogClient();
    reader.current = log;
    const opened = await log.open(bytes, (share) =>
      setPhase((p) => (p.at === "reading" ? { at: "reading", share } : p)),
    );
    setPhase({ at: "mapping", logId, fileName, opened, mapping: opened.guesses });
    await preview(opened.guesses);
  };

  const run = async (work: () => Promise<void>) => {
    drop();
    setProblem(undefined);
    setReport(undefined);
    try {
      await work();
    } catch (error) {
      fail(error);
      setPhase({ at: "idle" });
    }
  };

  return {
    phase,
    problem,
    report,
    /** a new file */
    take: (file: File) =>
      run(async () => {
        const refusal = await refuseAtOnce(file);
        if (refusal) {
          setProblem(refusal);
          return;
        }
        abort.current = new AbortController();
        setPhase({ at: "sending", share: 0 });
        const url = urlOf("uploadLog", { jobId }, { fileName: file.name, role, bytes: file.size });
        const stored = (await upload(
          url,
          file,
          (share) => setPhase({ at: "sending", share }),
          abort.current.signal,
        )) as { logId: string; job: JobView };
        takeJob(client, stored.job);
        await read(stored.logId, file.name, new Uint8Array(await file.arrayBuffer()));
      }),
    /** a log that is stored already */
    reopen: (logId: string, fileName: string) =>
      run(async () => {
        abort.current = new AbortController();
        setPhase({ at: "reading", share: 0 });
        await read(logId, fileName, await callBytes("rawLog", { jobId, logId }, abort.current.signal));
      }),
    setMapping: (mapping: readonly MappingGuess[]) => {
      setPhase((p) => (p.at === "mapping" ? { ...p, mapping } : p));
      void preview(mapping);
    },
    analyse: async () => {
      if (phase.at !== "mapping") return;
      const { logId, mapping } = phase;
      setProblem(undefined);
      setPhase({ at: "analysing", logId });
      try {
        const { result, job } = await call("analyseLog", {
          params: { jobId, logId },
          body: { mapping: mapping.map(plain) },
        });
        client.setQueryData(keys.analysis(jobId, logId), result);
        takeJob(client, job);
        drop();
        setPhase({ at: "idle" });
        onDone(logId);
      } catch (error) {
        fail(error);
        setPhase(phase);
      }
    },
    cancel: () => {
      drop();
      setPhase({ at: "idle" });
      setProblem(undefined);
      setReport(undefined);
    },
  };
}

export type Import = ReturnType<typeof useImport>;
