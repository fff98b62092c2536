import type { LogAnalysisView } from "@gearsense/contract";
import type { ShopScope } from "../db/shop-scope.ts";

export interface LogRecord {
  readonly id: string;
  readonly jobId: string;
  readonly fileName: string;
  readonly bytes: number;
  readonly sha256: string;
  readonly role: "before" | "after";
}

interface LogRow {
  id: string;
  job_id: string;
  file_name: string;
  bytes: string;
  sha256: string;
  role: "before" | "after";
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
    async insertAnalysis(id: string, logId: string, made: StoredAnalysis, madeAt: Date): Promise<void> {
      await scope.insert("analysis", {
        id,
        log_id: logId,
        made_at: madeAt,
        version: made.analysis.version,
        reading: JSON.stringify(made.reading),
        report: JSON.stringify(made.report),
        analysis: JSON.stringify(made.analysis),
      });
    },
    async latestAnalysis(logId: string): Promise<StoredAnalysis | undefined> {
      return scope
        .from("analysis")
        .where({ log_id: logId })
        .orderBy("made_at", "desc")
        .first<StoredAnalysis | undefined>("reading", "report", "analysis");
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
