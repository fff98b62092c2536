import type { JobView } from "@gearsense/contract";
import type { LogRole } from "@gearsense/core/job";
import {
  applyProfile,
  type BusDefinition,
  binaryKind,
  type ColumnMapping,
  type DialectChoice,
  type ImportProfile,
  type ImportReport,
  MAX_LOG_BYTES,
  type MappingGuess,
  matchProfile,
  type ReadingChoice,
} from "@gearsense/core/log";
import type { Unit } from "@gearsense/core/unit";
import { useQueryClient } from "@tanstack/react-query";
import { startTransition, useCallback, useEffect, useRef, useState } from "react";
import { ApiFailure, call, callBytes, upload, urlOf } from "../api/client.ts";
import { keys, profilesQuery, takeJob } from "../api/queries.ts";
import { LogClient, LogRefused } from "./worker/client.ts";
import type { Opened } from "./worker/messages.ts";

interface OfLog {
  readonly logId: string;
  readonly fileName: string;
}

export interface MappingPhase extends OfLog {
  readonly at: "mapping";
  readonly opened: Opened;
  readonly mapping: readonly MappingGuess[];
  readonly choice: ReadingChoice;
  /** the profile whose word is taken, by name */
  readonly profile: string | undefined;
}

export type ImportPhase =
  | { readonly at: "idle" }
  | { readonly at: "sending"; readonly share: number }
  | { readonly at: "reading"; readonly share: number }
  /** a bus capture waits for what its frames hold */
  | (OfLog & { readonly at: "definition"; readonly why: string })
  | MappingPhase
  | { readonly at: "analysing"; readonly logId: string };

const MB = 1 << 20;
/** Lets the page answer in between. */
const aMoment = () => new Promise((resolve) => setTimeout(resolve));

/** What can be told of a file before a byte is sent. @returns the refusal, or undefined */
async function refuseAtOnce(file: File): Promise<string | undefined> {
  if (file.size === 0)
    return `${file.name} is empty: 0 bytes. Export the log again and check that the recording was saved.`;
  if (file.size > MAX_LOG_BYTES)
    return `${file.name} has ${Math.ceil(file.size / MB)} MB; up to ${MAX_LOG_BYTES / MB} MB are read. Cut the log or record fewer channels.`;
  const binary = binaryKind(new Uint8Array(await file.slice(0, 4096).arrayBuffer()));
  return binary && `${file.name} is ${binary}, not a text log. Export the recording as CSV from the scan tool.`;
}

/** A profile from its file; what it holds is judged by the server. @throws LogRefused with the sentence to show */
async function readProfile(file: File): Promise<ImportProfile> {
  let json: unknown;
  try {
    json = JSON.parse(await file.text());
  } catch {
    throw new LogRefused(
      "bad-profile",
      `${file.name} is not valid JSON. Choose an import profile, see docs/formats.md.`,
    );
  }
  const profile = json as ImportProfile;
  if (profile?.format !== "gearsense-import-profile")
    throw new LogRefused(
      "bad-profile",
      `${file.name} isn’t an import profile: its format must be "gearsense-import-profile", version 1.`,
    );
  return profile;
}

const plain = (m: ColumnMapping): ColumnMapping => ({ column: m.column, channel: m.channel, unit: m.unit });

/**
 * The way of a log: stored unchanged first, then read in a worker, mapped by the person, analysed by the server.
 * @param profiles - of the shop: one that knows the file's columns is taken at once
 */
export function useImport(
  jobId: string,
  unit: Unit,
  role: LogRole,
  profiles: readonly ImportProfile[],
  onDone: (logId: string) => void,
) {
  const client = useQueryClient();
  const [phase, setPhase] = useState<ImportPhase>({ at: "idle" });
  const [problem, setProblem] = useState<string | undefined>();
  const [report, setReport] = useState<ImportReport | undefined>();
  const reader = useRef<LogClient | undefined>(undefined);
  const abort = useRef<AbortController | undefined>(undefined);
  /** of the analysis: it goes on while another stop is looked at */
  const ending = useRef<AbortController | undefined>(undefined);

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

  /** Shows the columns of an opened file, by the word of a profile where one knows them. */
  const present = async (
    { logId, fileName }: OfLog,
    opened: Opened,
    choice: ReadingChoice,
    profile: ImportProfile | undefined,
  ) => {
    const mapping = profile ? applyProfile(opened.guesses, profile) : opened.guesses;
    // a table of hundreds of columns is set up in slices
    startTransition(() =>
      setPhase({ at: "mapping", logId, fileName, opened, mapping, choice, profile: profile?.name }),
    );
    await preview(mapping);
  };

  const read = async (log: OfLog, bytes: Uint8Array) => {
    setPhase({ at: "reading", share: 0 });
    const opening = new LogClient();
    reader.current = opening;
    try {
      const opened = await opening.open(bytes, {}, unit, (share) =>
        setPhase((p) => (p.at === "reading" ? { at: "reading", share } : p)),
      );
      // a quick hand is here before the shop's profiles are
      const known = (await client.ensureQueryData(profilesQuery)) as readonly ImportProfile[];
      const profile = matchProfile(opened.guesses, known);
      const choice = profile?.dialect ? { dialect: profile.dialect } : {};
      await present(log, profile?.dialect ? await opening.reopen(choice, unit) : opened, choice, profile);
    } catch (error) {
      if (!(error instanceof LogRefused && error.code === "no-definition")) throw error;
      setPhase({ at: "definition", ...log, why: error.message });
    }
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

  /** Reads the open file once more; what stood there before stays when it cannot be read like this. */
  const again = async (log: OfLog, choice: ReadingChoice, profile?: ImportProfile) => {
    setProblem(undefined);
    try {
      const opened = await reader.current?.reopen(choice, unit);
      if (opened) await present(log, opened, choice, profile);
    } catch (error) {
      fail(error);
    }
  };

  const readAs = (profile: ImportProfile | undefined) => {
    if (phase.at !== "mapping") return;
    const choice = { dialect: profile?.dialect, definition: profile?.definition ?? phase.choice.definition };
    void again(phase, choice, profile);
  };

  return {
    phase,
    problem,
    report,
    profiles,
    /** a new file */
    take: (file: File, label: string) =>
      run(async () => {
        const refusal = await refuseAtOnce(file);
        if (refusal) {
          setProblem(refusal);
          return;
        }
        abort.current = new AbortController();
        setPhase({ at: "sending", share: 0 });
        const query = { fileName: file.name, role, bytes: file.size, ...(label ? { label } : {}) };
        const stored = (await upload(
          urlOf("uploadLog", { jobId }, query),
          file,
          (share) => setPhase({ at: "sending", share }),
          abort.current.signal,
        )) as { logId: string; job: JobView };
        await takeJob(client, stored.job);
        await read({ logId: stored.logId, fileName: file.name }, new Uint8Array(await file.arrayBuffer()));
      }),
    /** a log that is stored already */
    reopen: (logId: string, fileName: string) =>
      run(async () => {
        abort.current = new AbortController();
        setPhase({ at: "reading", share: 0 });
        await read({ logId, fileName }, await callBytes("rawLog", { jobId, logId }, abort.current.signal));
      }),
    setMapping: (mapping: readonly MappingGuess[]) => {
      setPhase((p) => (p.at === "mapping" ? { ...p, mapping } : p));
      void preview(mapping);
    },
    /** what the person knows better of how the file is written */
    setDialect: (dialect: DialectChoice) => {
      if (phase.at === "mapping")
        void again(phase, { ...phase.choice, dialect: { ...phase.choice.dialect, ...dialect } });
    },
    setDefinition: (definition: BusDefinition, profile?: ImportProfile) => {
      if (phase.at === "definition" || phase.at === "mapping") void again(phase, { definition }, profile);
    },
    /** takes the word of another profile, or the guesses */
    setProfile: (name: string) => readAs(profiles.find((p) => p.name === name)),
    /** keeps a profile from its file and takes its word. @returns its name; undefined when it was refused */
    takeProfile: async (file: File): Promise<string | undefined> => {
      setProblem(undefined);
      try {
        const profile = await readProfile(file);
        client.setQueryData(keys.profiles, await call("saveImportProfile", { body: profile }));
        readAs(profile);
        return profile.name;
      } catch (error) {
        fail(error);
        return undefined;
      }
    },
    /** keeps how this file is read under a name */
    remember: async (name: string): Promise<boolean> => {
      if (phase.at !== "mapping") return false;
      const { opened, mapping, choice } = phase;
      const profile: ImportProfile = {
        format: "gearsense-import-profile",
        version: 1,
        name,
        ...(choice.dialect ? { dialect: choice.dialect } : {}),
        ...(choice.definition ? { definition: choice.definition } : {}),
        columns: mapping.map((m) => ({
          header: m.header,
          ...(opened.guesses[m.column]?.unitText ? { unitText: opened.guesses[m.column]?.unitText } : {}),
          channel: m.channel,
          unit: m.unit,
        })),
      };
      setProblem(undefined);
      try {
        client.setQueryData(keys.profiles, await call("saveImportProfile", { body: profile }));
        setPhase((p) => (p.at === "mapping" ? { ...p, profile: name } : p));
        return true;
      } catch (error) {
        fail(error);
        return false;
      }
    },
    analyse: async () => {
      if (phase.at !== "mapping") return;
      const { logId, mapping, choice } = phase;
      setProblem(undefined);
      setPhase({ at: "analysing", logId });
      ending.current = new AbortController();
      try {
        const { result, job } = await call("analyseLog", {
          params: { jobId, logId },
          signal: ending.current.signal,
          body: {
            mapping: mapping.map(plain),
            ...(choice.dialect ? { dialect: choice.dialect } : {}),
            ...(choice.definition ? { definition: choice.definition } : {}),
          },
        });
        drop();
        client.setQueryData(keys.analysis(jobId, logId), result);
        void client.invalidateQueries({ queryKey: keys.analyses(jobId, logId) });
        await aMoment();
        await takeJob(client, job);
        await aMoment();
        startTransition(() => {
          setPhase({ at: "idle" });
          onDone(logId);
        });
      } catch (error) {
        fail(error);
        setPhase(phase);
      }
    },
    /** back to the columns */
    endAnalysis: () => ending.current?.abort(),
    cancel: () => {
      drop();
      setPhase({ at: "idle" });
      setProblem(undefined);
      setReport(undefined);
    },
    say: setProblem,
  };
}

export type Import = ReturnType<typeof useImport>;
