import type { InstrumentsView } from "@gearsense/contract";
import type { Entry } from "@gearsense/core/job";
import type { Instrument } from "@gearsense/core/knowledge";
import type { ShopScope } from "../db/shop-scope.ts";
import { HttpError } from "../http/errors.ts";

/** Earlier builds that are looked at, and that are shown. */
const LOOKED_AT = 40;

/** Instruments of a shop, and what it built before. */
export function createBenchStore(scope: ShopScope) {
  return {
    /** What the shop has said of its instruments; those it says nothing of are as the library has them. */
    async instruments(): Promise<InstrumentsView> {
      const row: InstrumentsView | undefined = await scope.from("shop_instruments").first("instruments", "seq");
      return row ?? { instruments: [], seq: 0 };
    },
    /** @throws HttpError 409 `stale` when somebody else has changed them meanwhile */
    async save(instruments: readonly Instrument[], baseSeq: number, author: string, at: Date): Promise<void> {
      const row = { instruments: JSON.stringify(instruments), seq: baseSeq + 1, author, at };
      const written =
        baseSeq === 0
          ? Number(await scope.insertNew("shop_instruments", row))
          : await scope.from("shop_instruments").where({ seq: baseSeq }).update(row);
      if (written === 0)
        throw new HttpError(
          409,
          "stale",
          "Somebody else has changed the instruments meanwhile. Load them again and repeat the change; nothing was stored.",
        );
    },
    /** Jobs of other vehicles or times with the same unit that have something on the bench, newest first; their bench entries with what was taken back. */
    async builds(
      unitId: string,
      exceptJob: string,
    ): Promise<{ readonly jobNumber: string; readonly entries: Entry[] }[]> {
      const jobs: { id: string; number: string }[] = await scope
        .from("job")
        .where({ unit_id: unitId })
        .whereNot({ id: exceptJob })
        .orderBy("opened_at", "desc")
        .limit(LOOKED_AT)
        .select("id", "number");
      if (jobs.length === 0) return [];
      const rows: (Omit<Entry, "at"> & { job_id: string; at: Date })[] = await scope
        .from("entry")
        .whereIn(
          "job_id",
          jobs.map((j) => j.id),
        )
        .whereIn("kind", ["bench", "retraction"])
        .select("id", "job_id", "seq", "at", "author", "source", "kind", "slot", "body");
      return jobs.flatMap(({ id, number }) => {
        const entries = rows
          .filter((r) => r.job_id === id)
          .map(({ job_id: _j, at, ...e }) => ({ ...e, at: at.toISOString() }) as Entry);
        return entries.some((e) => e.kind === "bench") ? [{ jobNumber: number, entries }] : [];
      });
    },
  };
}
