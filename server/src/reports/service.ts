import { compareDrives } from "@gearsense/core/drive";
import type { UnitSystem } from "@gearsense/core/quantity";
import { buildReport, type Report } from "@gearsense/core/report";
import type { Shop } from "../accounts/store.ts";
import type { ShopScope } from "../db/shop-scope.ts";
import type { createJobService } from "../jobs/service.ts";
import type { JudgementService } from "../judgement/service.ts";
import type { Library } from "../library/load.ts";
import type { LogService } from "../logs/service.ts";

export function createReportService(
  jobs: ReturnType<typeof createJobService>,
  logs: LogService,
  judgement: JudgementService,
  library: Library,
) {
  return (scope: ShopScope) => ({
    async report(jobId: string, shop: Shop, system: UnitSystem): Promise<Report> {
      const job = await jobs(scope).record(jobId);
      const { state, logs: analysed } = await logs(scope).analysed(jobId);
      const first = analysed.findLast((l) => l.role === "before")?.analysis;
      const second = analysed.findLast((l) => l.role === "after")?.analysis;
      const ranking =
        first || state.level ? (await judgement(scope).suspects(jobId, shop.hourlyRate)).ranking : undefined;
      return buildReport({
        shopName: shop.name,
        currency: shop.currency,
        jobNumber: job.number,
        openedOn: job.openedAt.slice(0, 10),
        vehicle: job.vehicle,
        odometerKm: job.odometerKm,
        unit: job.unit,
        state,
        before: first,
        after: second,
        comparison: first && second ? compareDrives(job.unit, first, second) : undefined,
        ranking,
        system,
        standingCaution: library.knowledge.standingCaution,
      });
    },
  });
}

export type ReportService = ReturnType<typeof createReportService>;
