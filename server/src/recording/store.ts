import type { RecordingView } from "@gearsense/contract";
import type { LogRole } from "@gearsense/core/job";
import type { ShopScope } from "../db/shop-scope.ts";

export interface RecordingRow {
  readonly id: string;
  readonly job_id: string;
  readonly address: string;
  readonly role: LogRole;
  readonly author: string;
  readonly channels: readonly string[];
  readonly vin: string | null;
  readonly started_at: Date;
  readonly beat_at: Date;
  readonly seconds: number;
  readonly rows: number;
  readonly live: RecordingView["live"];
  readonly marks: RecordingView["marks"];
  /** asked of whoever holds the link */
  readonly to_stop: boolean;
  /** nothing more comes */
  readonly stopped: boolean;
  readonly state: "open" | "kept" | "dropped";
  readonly log_id: string | null;
}

/** Pieces that are read at once: half a second each. */
const PIECES_AT_ONCE = 200;

/** Recordings of one shop and their pieces. */
export function createRecordingStore(scope: ShopScope) {
  const one = (id: string) => scope.from("recording").where({ id });
  const update = async (id: string, patch: Record<string, unknown>): Promise<void> => {
    await one(id).update(patch);
  };
  return {
    update,
    newest: (jobId: string): Promise<RecordingRow | undefined> =>
      scope.from("recording").where({ job_id: jobId }).orderBy("started_at", "desc").first(),
    byId: (id: string): Promise<RecordingRow | undefined> => one(id).first(),
    /** As {@link byId}, and nobody else has it until the transaction ends. */
    hold: (id: string): Promise<RecordingRow | undefined> => one(id).forUpdate().first(),
    /** @returns false when somebody records from this link already */
    insert: (
      row: Omit<RecordingRow, "channels" | "live" | "marks"> & { channels: string; live: string; marks: string },
    ) => scope.insertNew("recording", { ...row }),
    /** Does a relearn hold this link? */
    inRelearn: async (address: string): Promise<boolean> =>
      (await scope.from("relearn").where({ address }).whereNot({ phase: "over" }).first()) !== undefined,
    /** The same piece once more changes nothing. */
    async addPiece(id: string, seq: number, content: string): Promise<void> {
      await scope.insertNew("recording_piece", { recording_id: id, seq, content, bytes: Buffer.byteLength(content) });
    },
    async bytes(id: string): Promise<number> {
      const rows: { bytes: string | null }[] = await scope
        .from("recording_piece")
        .where({ recording_id: id })
        .sum({ bytes: "bytes" });
      return Number(rows[0]?.bytes ?? 0);
    },
    /** What was written down, a bit at a time: a long drive does not have to fit into memory. */
    async *pieces(id: string): AsyncGenerator<Buffer> {
      for (let from = -1; ; ) {
        const rows: { seq: number; content: string }[] = await scope
          .from("recording_piece")
          .where({ recording_id: id })
          .where("seq", ">", from)
          .orderBy("seq")
          .limit(PIECES_AT_ONCE)
          .select("seq", "content");
        const last = rows.at(-1);
        if (!last) return;
        from = last.seq;
        yield Buffer.from(rows.map((r) => r.content).join(""), "utf8");
      }
    },
    async dropPieces(id: string): Promise<void> {
      await scope.from("recording_piece").where({ recording_id: id }).delete();
    },
  };
}

export type RecordingStore = ReturnType<typeof createRecordingStore>;
