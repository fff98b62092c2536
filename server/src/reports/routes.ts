import { API } from "@gearsense/contract";
import type { AccountStore } from "../accounts/store.ts";
import type { Mount } from "../http/mount.ts";
import type { createJobService } from "../jobs/service.ts";
import { handOut } from "../queue/output.ts";
import type { ReportService } from "./service.ts";

export function mountReports(
  mount: Mount,
  reports: ReportService,
  accounts: AccountStore,
  jobs: ReturnType<typeof createJobService>,
): void {
  mount(API.report, async ({ scope, params, query, who, signal }) =>
    reports(scope).report(params.jobId, await accounts.shop(who.shopId), query.system, signal),
  );
  for (const [route, paper, name] of [
    [API.estimatePdf, "estimate", "estimate"],
    [API.reportPdf, "report", "job"],
  ] as const)
    mount(route, async ({ scope, params: { jobId }, query: { system }, who, signal, res }) => {
      const { number } = await jobs(scope).record(jobId);
      const shop = await accounts.shop(who.shopId);
      const id = await reports(scope).ask({ jobId, paper, shop, system }, signal);
      res.attachment(`${name}-${number}.pdf`);
      res.setHeader("content-type", "application/pdf");
      await handOut(scope, id, res);
    });
}
