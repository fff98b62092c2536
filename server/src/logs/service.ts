import { randomUUID } from "node:crypto";
import { createReadStream } from "node:fs";
import type { Readable } from "node:stream";
import type { LogAnalysisView, ReadingInput, StoredReadingView } from "@gearsense/contract";
import { ANALYSIS_VERSION } from "@gearsense/core/drive";
import { foldJob } from "@gearsense/core/job";
import { binaryKind, InputError, MAX_LOG_BYTES } from "@gearsense/core/log";
import type { ShopScope } from "../db/shop-scope.ts";
import { HttpError, notFound } from "../http/errors.ts";
import { spooled } from "../http/spool.ts";
import type { Author, createJobService } from "../jobs/service.ts";
import type { UnitService } from "../units/service.ts";
import type { Analyser } from "./analyse-bytes.ts";
import { createLogStore, type LogRecord, type StoredAnalysis } from "./store.ts";

const CHUNK_BYTES = 1 << 20;
const MEGABYTE = 1 << 20;

export function createLogService(
  jobs: ReturnType<typeof createJobService>,
  units: UnitService,
  analyse: Analyser,
  now: () => Date,
) {
  const underWay = new Map<string, Promise<StoredAnalysis>>();
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
    /** Analyses a stored log in a thread, as it was read. */
    const computed = async (
      jobId: string,
      logId: string,
      reading: StoredReadingView,
    ): Promise<Pick<LogAnalysisView, "reading" | "report" | "analysis">> => {
      const log = await find(jobId, logId);
      const job = await jobs(scope).record(jobId);
      const parts = await Promise.all(
        [{ logId, ...reading }, ...(reading.joined ?? [])].map(async (p) => ({
          bytes: await bytesOf(p.logId),
          mapping: p.mapping,
          choice: { dialect: p.dialect, definition: p.definition },
        })),
      );
      const result = await analyse({
        parts,
        spanS: reading.spanS,
        unit: job.unit,
        library: await units(scope).all(),
      });
      if (!result.ok) throw new InputError(result.code, `${log.fileName}: ${result.message}`);
      return { reading, report: result.report as LogAnalysisView["report"], analysis: result.analysis };
    };
    /** The same, kept, and told on the timeline. */
    const judge = async (
      jobId: string,
      logId: string,
      reading: StoredReadingView,
      author: Author,
    ): Promise<LogAnalysisView> => {
      const fresh = await computed(jobId, logId, reading);
      const { findings } = fresh.analysis;
      const headline =
        findings.length === 0
          ? "no finding over a limit"
          : findings
              .slice(0, 3)
              .map((f) => f.title)
              .join("; ");
      await scope.transaction(async (trx) => {
        await createLogStore(trx).insertAnalysis(randomUUID(), logId, fresh, now());
        await jobs(trx).append(
          jobId,
          author,
          "analysis",
          { logId, findings: findings.length, headline },
          "computed",
          undefined,
        );
      });
      return { logId, ...fresh };
    };
    /**
     * An analysis by an earlier version, or for the unit that the job had before it was corrected, made anew without anybody
     * having to ask: nothing is added to the timeline, for nobody did anything; the earlier result is kept. Several who ask
     * at once wait for one.
     */
    const broughtUpToDate = (jobId: string, log: { logId: string; fileName: string }, reading: StoredReadingView) => {
      const under =
        underWay.get(log.logId) ?? computed(jobId, log.logId, reading).then(keep(log.logId), tell(log.fileName));
      underWay.set(log.logId, under);
      return under.finally(() => underWay.delete(log.logId));
    };
    const keep = (logId: string) => async (fresh: StoredAnalysis) => {
      await logs.insertAnalysis(randomUUID(), logId, fresh, now());
      return fresh;
    };
    const tell = (fileName: string) => (error: unknown) => {
      if (!(error instanceof InputError)) throw error;
      throw new HttpError(
        409,
        "outdated-analysis",
        `${fileName} was analysed by an earlier version, or for another unit, and cannot be read as the job is now: ${error.message} Open it and analyse it anew; the earlier result is kept.`,
      );
    };
    return {
      find,
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
        role: "before" | "after",
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
       * Analyses a stored log in a thread, keeps the result, and says so on the timeline. Earlier results stay.
       * @throws HttpError `not-analysed` for a log to be joined that was never read by itself
       */
      async analyse(jobId: string, logId: string, input: ReadingInput, author: Author): Promise<LogAnalysisView> {
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
        return judge(jobId, logId, { ...own, ...(parts.length > 0 ? { joined: parts } : {}) }, author);
      },

      /** The same once more, as the log was read last: by a newer version the result may differ. */
      async analyseAnew(jobId: string, logId: string, author: Author): Promise<LogAnalysisView> {
        await find(jobId, logId);
        const made = await logs.latestAnalysis(logId);
        if (!made)
          throw new HttpError(
            409,
            "not-analysed",
            "This log was never analysed. Check its mapping table and analyse it.",
          );
        return judge(jobId, logId, made.reading, author);
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
        return made && { logId, ...made };
      },

      /** Logs that count on the timeline, with their analyses, newest of each role last. */
      async analysed(jobId: string) {
        const state = foldJob(await jobs(scope).entries(jobId));
        const { unit } = await jobs(scope).record(jobId);
        const found = [];
        for (const entry of state.logs) {
          const { logId, fileName } = entry.body;
          let made = await logs.latestAnalysis(logId);
          const analysisEntry = state.analyses.find((a) => a.body.logId === entry.body.logId);
          if (made && (made.analysis.version !== ANALYSIS_VERSION || made.analysis.unitId !== unit.id))
            made = await broughtUpToDate(jobId, { logId, fileName }, made.reading);
          if (made && analysisEntry)
            found.push({
              entry,
              entryId: analysisEntry.id,
              logId,
              role: entry.body.role,
              fileName,
              analysis: made.analysis,
            });
        }
        return { state, logs: found };
      },
    };
  };
}

export type LogService = ReturnType<typeof createLogService>;
