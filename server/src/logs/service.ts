import { randomUUID } from "node:crypto";
import { createReadStream } from "node:fs";
import type { Readable } from "node:stream";
import type { LogAnalysisView, ReadingInput, StoredReadingView } from "@gearsense/contract";
import { ANALYSIS_VERSION } from "@gearsense/core/drive";
import { foldJob, type LogRole } from "@gearsense/core/job";
import { binaryKind, InputError, MAX_LOG_BYTES } from "@gearsense/core/log";
import type { ShopScope } from "../db/shop-scope.ts";
import { HttpError, notFound } from "../http/errors.ts";
import { spooled } from "../http/spool.ts";
import type { Author, createJobService } from "../jobs/service.ts";
import { idOf } from "../queue/ids.ts";
import type { Ask, Attempt, Tasks } from "../queue/work.ts";
import type { UnitService } from "../units/service.ts";
import type { Analyser } from "./analyse-bytes.ts";
import { CHUNK_BYTES, createLogStore, type KeptAnalysis, type LogRecord, withoutId } from "./store.ts";

/** What an analysis that has aged is made anew under: the same by whoever finds it first. */
const renewalId = (agedId: string, unitId: string) => idOf("anew", agedId, String(ANALYSIS_VERSION), unitId);

/** Who waits, and the key of the write that asked. */
export interface Asker {
  readonly signal?: AbortSignal | undefined;
  readonly writeKey?: string | undefined;
}

const MEGABYTE = 1 << 20;

export function createLogService(
  jobs: ReturnType<typeof createJobService>,
  units: UnitService,
  analyse: Analyser,
  ask: Ask,
  now: () => Date,
) {
  return (scope: ShopScope) => {
    const logs = createLogStore(scope);
    const find = async (jobId: string, logId: string): Promise<LogRecord> => {
      const log = await logs.byId(jobId, logId);
      if (!log) throw notFound("log");
      return log;
    };
    const bytesOf = async (logId: string): Promise<Buffer> => {
      const parts: Buffer[] = [];
      for await (const part of logs.chunks(logId)) parts.push(part);
      return Buffer.concat(parts);
    };
    const kept = async (workId: string): Promise<KeptAnalysis> => {
      const made = await logs.analysisById(workId);
      if (!made) throw new Error(`work ${workId} is done and has left no analysis`);
      return made;
    };
    /** Asks for an analysis that is told on the timeline, and waits for it. */
    const judge = async (
      jobId: string,
      logId: string,
      reading: StoredReadingView,
      author: Author,
      { signal, writeKey }: Asker,
    ): Promise<LogAnalysisView> => {
      await find(jobId, logId);
      const id = writeKey ? idOf("analysis", scope.shopId, writeKey, logId, JSON.stringify(reading)) : randomUUID();
      await ask(scope, "analysis", { jobId, logId, as: { reading }, author: author.name }, { id, signal });
      return { logId, ...withoutId(await kept(id)) };
    };
    /**
     * An analysis by an earlier version, or for the unit that the job had before it was corrected, made anew without anybody
     * having to ask: nothing is added to the timeline, for nobody did anything; the earlier result is kept. Several who ask
     * at once wait for one.
     */
    const broughtUpToDate = async (
      jobId: string,
      log: { logId: string; fileName: string },
      aged: KeptAnalysis,
      unitId: string,
      signal?: AbortSignal,
    ): Promise<KeptAnalysis> => {
      const id = renewalId(aged.id, unitId);
      const task = { jobId, logId: log.logId, as: { replaces: aged.id }, author: null };
      try {
        await ask(scope, "analysis", task, { id, signal });
      } catch (error) {
        if (!(error instanceof InputError || (error instanceof HttpError && error.status === 422))) throw error;
        throw new HttpError(
          409,
          "outdated-analysis",
          `${log.fileName} was analysed by an earlier version, or for another unit, and cannot be read as the job is now: ${error.message} Open it and analyse it anew; the earlier result is kept.`,
        );
      }
      return kept(id);
    };
    return {
      find,

      /** Does the work: reads the log, keeps what is found under the id of the work, and tells of it where somebody asked. */
      async make({ jobId, logId, as, author }: Tasks["analysis"], { id, signal, stage }: Attempt): Promise<void> {
        // an earlier attempt got this far, and was lost before it could say so
        if (await logs.analysisById(id)) return;
        const log = await find(jobId, logId);
        const { unit } = await jobs(scope).record(jobId);
        const reading = "reading" in as ? as.reading : (await kept(as.replaces)).reading;
        const parts = await Promise.all(
          [{ logId, ...reading }, ...(reading.joined ?? [])].map(async (p) => ({
            bytes: await bytesOf(p.logId),
            mapping: p.mapping,
            choice: { dialect: p.dialect, definition: p.definition },
          })),
        );
        const input = { parts, spanS: reading.spanS, unit, library: await units(scope).all() };
        const result = await analyse(input, { signal, stage });
        if (!result.ok) throw new InputError(result.code, `${log.fileName}: ${result.message}`);
        signal.throwIfAborted();
        const { analysis } = result;
        const report = result.report as LogAnalysisView["report"];
        await scope.transaction(async (trx) => {
          const first = await createLogStore(trx).insertAnalysis(id, logId, { reading, report, analysis }, now());
          if (!first || author === null) return;
          const { findings } = analysis;
          const over = findings.slice(0, 3).map((f) => f.title);
          const headline = over.join("; ") || "no finding over a limit";
          const body = { logId, findings: findings.length, headline };
          await jobs(trx).append(jobId, { name: author }, "analysis", body, "computed", undefined);
        });
      },

      /** What has aged on jobs that are open, as work that can be left for when there is time. */
      async aged() {
        const task = (a: { id: string; jobId: string; logId: string }): Tasks["analysis"] => ({
          jobId: a.jobId,
          logId: a.logId,
          as: { replaces: a.id },
          author: null,
        });
        return (await logs.aged(ANALYSIS_VERSION)).map((a) => ({
          id: renewalId(a.id, a.unitId),
          shopId: scope.shopId,
          task: task(a),
        }));
      },

      ofJob: (jobId: string) => logs.ofJob(jobId),
      chunks: (logId: string) => logs.chunks(logId),

      /**
       * Stores a log unchanged before anything is made of it. All of it is kept or nothing: a connection that breaks, or
       * a size that differs from what was announced, leaves no trace.
       * @param announced - bytes the sender means to send
       */
      async upload(
        jobId: string,
        fileName: string,
        role: LogRole,
        label: string | undefined,
        announced: number,
        source: Readable,
        author: Author,
      ): Promise<{ logId: string; sha256: string }> {
        const tooLarge = (bytes: number) =>
          new HttpError(
            413,
            "too-large",
            `${fileName} has ${Math.ceil(bytes / MEGABYTE)} MB; up to ${MAX_LOG_BYTES / MEGABYTE} MB are stored. Cut the log or record fewer channels.`,
          );
        if (announced > MAX_LOG_BYTES) throw tooLarge(announced);
        if (announced === 0)
          throw new InputError(
            "empty-file",
            `${fileName} is empty: 0 bytes. Export the log again and check that the recording was saved.`,
          );
        await jobs(scope).record(jobId);
        const look = (first: Buffer) => {
          const binary = binaryKind(first);
          if (binary)
            throw new HttpError(
              422,
              "binary-file",
              `${fileName} is ${binary}, not a text log. Export the recording as CSV from the scan tool. Nothing was stored.`,
            );
        };
        return spooled(
          source,
          { most: MAX_LOG_BYTES, tooLarge, name: fileName, announced },
          async ({ path, bytes, sha256, head }) => {
            if (bytes !== announced)
              throw new HttpError(
                400,
                "upload-cut",
                `${bytes} of ${announced} bytes of ${fileName} arrived. Nothing was stored; send the file again.`,
              );
            look(head);
            const logId = randomUUID();
            await scope.transaction(async (trx) => {
              const store = createLogStore(trx);
              await store.insert({ id: logId, jobId, fileName, bytes, sha256, role }, now());
              await store.insertContent(logId, createReadStream(path, { highWaterMark: CHUNK_BYTES }));
              const body = { logId, fileName, bytes, sha256, role, ...(label ? { label } : {}) };
              await jobs(trx).append(jobId, author, "log", body, "file", undefined);
            });
            return { logId, sha256 };
          },
        );
      },

      /**
       * Has a stored log analysed, the result kept and told on the timeline. Earlier results stay.
       * @throws HttpError `not-analysed` for a log to be joined that was never read by itself
       */
      async analyse(
        jobId: string,
        logId: string,
        input: ReadingInput,
        author: Author,
        asker: Asker = {},
      ): Promise<LogAnalysisView> {
        const { joined, ...own } = input;
        const parts = await Promise.all(
          (joined ?? []).map(async (id) => {
            const log = await find(jobId, id);
            const made = await logs.latestAnalysis(id);
            if (!made)
              throw new HttpError(
                409,
                "not-analysed",
                `${log.fileName} was not analysed yet: analyse it by itself first, then join it.`,
              );
            const { joined: _j, spanS: _s, ...reading } = made.reading;
            return { logId: id, fileName: log.fileName, ...reading };
          }),
        );
        return judge(jobId, logId, { ...own, ...(parts.length > 0 ? { joined: parts } : {}) }, author, asker);
      },

      /** The same once more, as the log was read last: by a newer version the result may differ. */
      async analyseAnew(jobId: string, logId: string, author: Author, asker: Asker = {}): Promise<LogAnalysisView> {
        await find(jobId, logId);
        const made = await logs.latestAnalysis(logId);
        if (!made)
          throw new HttpError(
            409,
            "not-analysed",
            "This log was never analysed. Check its mapping table and analyse it.",
          );
        return judge(jobId, logId, made.reading, author, asker);
      },

      async history(jobId: string, logId: string) {
        await find(jobId, logId);
        return (await logs.analyses(logId)).map(({ made_at, reading, analysis }) => ({
          madeAt: made_at.toISOString(),
          version: analysis.version,
          ...(reading.spanS ? { spanS: reading.spanS } : {}),
          joined: (reading.joined ?? []).map((j) => j.fileName),
          findings: analysis.findings.map((f) => ({
            id: f.id,
            title: f.title,
            severity: f.severity,
            value: f.measures[0].value,
            quantity: f.measures[0].quantity,
          })),
        }));
      },

      /** @returns undefined when the log was not analysed yet */
      async latest(logId: string): Promise<LogAnalysisView | undefined> {
        const made = await logs.latestAnalysis(logId);
        return made && { logId, ...withoutId(made) };
      },

      /** Logs that count on the timeline, with their analyses, newest of each role last. */
      async analysed(jobId: string, signal?: AbortSignal) {
        const state = foldJob(await jobs(scope).entries(jobId));
        const { unit } = await jobs(scope).record(jobId);
        const found = [];
        for (const entry of state.logs) {
          const made = await logs.latestAnalysis(entry.body.logId);
          const told = state.analyses.find((a) => a.body.logId === entry.body.logId);
          if (made && told) found.push({ entry, made, entryId: told.id });
        }
        const current = await Promise.all(
          found.map(async ({ entry, made, entryId }) => {
            const { logId, fileName, role } = entry.body;
            const aged = made.analysis.version !== ANALYSIS_VERSION || made.analysis.unitId !== unit.id;
            const { analysis } = aged ? await broughtUpToDate(jobId, { logId, fileName }, made, unit.id, signal) : made;
            return { entry, entryId, logId, role, fileName, analysis };
          }),
        );
        return { state, logs: current };
      },
    };
  };
}

export type LogService = ReturnType<typeof createLogService>;
