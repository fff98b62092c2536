import type { LogAnalysisView } from "@gearsense/contract";
import type { LogRole } from "@gearsense/core/job";
import type { ShopScope } from "../db/shop-scope.ts";

export interface LogRecord {
  readonly id: string;
  readonly jobId: string;
  readonly fileName: string;
  readonly bytes: number;
  readonly sha256: string;
  readonly role: LogRole;
}

interface LogRow {
  id: string;
  job_id: string;
  file_name: string;
  bytes: string;
  sha256: string;
  role: LogRole;
}

const toRecord = (r: LogRow): LogRecord => ({
  id: r.id,
  jobId: r.job_id,
  fileName: r.file_name,
  bytes: Number(r.bytes),
  sha256: r.sha256,
  role: r.role,
});

export type StoredAnalysis = Pick<LogAnalysisView, "reading" | "report" | "analysis">;
/** One that lies in the database. */
export type KeptAnalysis = StoredAnalysis & { readonly id: string };

export const withoutId = ({ id: _id, ...made }: KeptAnalysis): StoredAnalysis => made;

/** A log lies in pieces of so many bytes. */
export const CHUNK_BYTES = 1 << 20;

/** Logs as they came, in pieces, and what was made of them. */
export function createLogStore(scope: ShopScope) {
  return {
    async insert(log: LogRecord, storedAt: Date): Promise<void> {
      await scope.insert("log", {
        id: log.id,
        job_id: log.jobId,
        file_name: log.fileName,
        bytes: log.bytes,
        sha256: log.sha256,
        role: log.role,
        stored_at: storedAt,
      });
    },
    /** The content in pieces as they come, each a row. */
    async insertContent(logId: string, pieces: AsyncIterable<Buffer>): Promise<void> {
      let position = 0;
      for await (const content of pieces)
        await scope.insert("log_chunk", { log_id: logId, position: position++, content });
    },
    async byId(jobId: string, logId: string): Promise<LogRecord | undefined> {
      const row = await scope.from("log").where({ id: logId, job_id: jobId }).first<LogRow | undefined>();
      return row && toRecord(row);
    },
    async ofJob(jobId: string): Promise<LogRecord[]> {
      const rows: LogRow[] = await scope.from("log").where({ job_id: jobId }).orderBy("stored_at");
      return rows.map(toRecord);
    },
    /** The pieces in order, one at a time. */
    async *chunks(logId: string): AsyncGenerator<Buffer> {
      for (let position = 0; ; position++) {
        const row = await scope
          .from("log_chunk")
          .where({ log_id: logId, position })
          .first<{ content: Buffer } | undefined>("content");
        if (!row) return;
        yield row.content;
      }
    },
    /** @returns false when there is one of this id already: nothing is changed then */
    async insertAnalysis(id: string, logId: string, made: StoredAnalysis, madeAt: Date): Promise<boolean> {
      return scope.insertNew("analysis", {
        id,
        log_id: logId,
        made_at: madeAt,
        version: made.analysis.version,
        reading: JSON.stringify(made.reading),
        report: JSON.stringify(made.report),
        analysis: JSON.stringify(made.analysis),
      });
    },
    async latestAnalysis(logId: string): Promise<KeptAnalysis | undefined> {
      return scope
        .from("analysis")
        .where({ log_id: logId })
        .orderBy("made_at", "desc")
        .first<KeptAnalysis | undefined>("id", "reading", "report", "analysis");
    },
    async analysisById(id: string): Promise<KeptAnalysis | undefined> {
      return scope
        .from("analysis")
        .where({ id })
        .first<KeptAnalysis | undefined>("id", "reading", "report", "analysis");
    },
    /** Of logs on jobs that are not handed over, the newest analysis each that another version made. */
    async aged(version: number): Promise<{ id: string; logId: string; jobId: string; unitId: string }[]> {
      const newest = scope
        .from("analysis")
        .distinctOn("analysis.log_id")
        .orderBy("analysis.log_id")
        .orderBy("analysis.made_at", "desc")
        .join("log", "log.id", "analysis.log_id")
        .join("job", "job.id", "log.job_id")
        .whereNot("job.stage", "closed")
        .select({ id: "analysis.id", logId: "log.id", jobId: "job.id", version: "analysis.version" })
        .jsonExtract("job.unit", "$.id", "unitId");
      const rows: { id: string; logId: string; jobId: string; unitId: string; version: number }[] = await newest;
      return rows.filter((r) => r.version !== version).map(({ version: _v, ...row }) => row);
    },
    /** Every analysis of a log, newest first. */
    async analyses(logId: string): Promise<(Pick<StoredAnalysis, "reading" | "analysis"> & { made_at: Date })[]> {
      return scope
        .from("analysis")
        .where({ log_id: logId })
        .orderBy("made_at", "desc")
        .select("made_at", "reading", "analysis");
    },
  };
}
