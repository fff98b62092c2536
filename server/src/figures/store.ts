import type { PartsView } from "@gearsense/contract";
import { type JobOfShop, partsFitted } from "@gearsense/core/figures";
import type { Entry } from "@gearsense/core/job";
import type { ShopScope } from "../db/shop-scope.ts";
import { createJobStore } from "../jobs/store.ts";

export interface Period {
  /** the first and the last day */
  readonly from: string;
  readonly to: string;
}
const DAY_MS = 86_400_000;
const JOBS_A_PAGE = 50;

/** The shop's own jobs, read for its figures. */
export function createFiguresStore(scope: ShopScope) {
  return {
    /** Jobs with a hand-over within a period, with their whole timelines. */
    async handedOver({ from, to }: Period): Promise<JobOfShop[]> {
      const ids: string[] = await scope
        .from("entry")
        .where({ kind: "handover" })
        .where("at", ">=", new Date(`${from}T00:00:00Z`))
        .where("at", "<", new Date(Date.parse(`${to}T00:00:00Z`) + DAY_MS))
        .distinct()
        .pluck("job_id");
      const rows: { id: string; number: string; name: string; owner: string }[] = await scope
        .from("job")
        .join("vehicle", (on) => on.on("vehicle.id", "job.vehicle_id").andOn("vehicle.shop_id", "job.shop_id"))
        .whereIn("job.id", ids)
        .select("job.id", "job.number", "vehicle.name", "vehicle.owner");
      const store = createJobStore(scope);
      const jobs: JobOfShop[] = [];
      for (const r of rows) {
        const entries: readonly Entry[] = await store.entries(r.id);
        jobs.push({ number: r.number, customer: r.owner, vehicle: r.name, entries });
      }
      return jobs;
    },
    /** Parts whose names hold every word, in the newest jobs that have such. @param after - number of the job to go on from */
    async parts(find: string, after?: string): Promise<PartsView> {
      const store = createJobStore(scope);
      const heads = await store.heads({ which: "all", find, limit: JOBS_A_PAGE, after });
      const shown = heads.slice(0, JOBS_A_PAGE);
      const parts: PartsView["parts"] = [];
      for (const { id, number, vehicle, unitName, odometerKm } of shown)
        for (const fitted of partsFitted({ entries: await store.entries(id) }, odometerKm, find))
          parts.push({ jobId: id, number, vehicle: vehicle.name, plate: vehicle.plate, unitName, odometerKm, fitted });
      return { parts, next: heads.length > shown.length ? (shown.at(-1)?.number ?? null) : null };
    },
    /** Open jobs by what they wait for, most first. */
    async waits(now: Date): Promise<{ waitsFor: string; jobs: number; oldestDays: number }[]> {
      const rows: { waits_for: string; jobs: string; oldest: Date }[] = await scope
        .from("job")
        .whereNotNull("stage")
        .whereNot({ stage: "closed" })
        .groupBy("waits_for")
        .select("waits_for")
        .count({ jobs: "*" })
        .min({ oldest: "last_entry_at" })
        .orderBy([{ column: "jobs", order: "desc" }, { column: "waits_for" }]);
      return rows.map((r) => ({
        waitsFor: r.waits_for,
        jobs: Number(r.jobs),
        oldestDays: Math.max(0, Math.floor((now.getTime() - r.oldest.getTime()) / DAY_MS)),
      }));
    },
  };
}
