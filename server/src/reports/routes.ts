import { API } from "@gearsense/contract";
import type { AccountStore } from "../accounts/store.ts";
import type { Mount } from "../http/mount.ts";
import type { createJobService } from "../jobs/service.ts";
import { attachment } from "../logs/routes.ts";
import { createPhotoStore } from "../photos/store.ts";
import { renderPdf } from "./pdf.ts";
import type { ReportService } from "./service.ts";

export function mountReports(
  mount: Mount,
  reports: ReportService,
  accounts: AccountStore,
  jobs: ReturnType<typeof createJobService>,
  now: () => Date,
): void {
  mount(API.report, async ({ scope, params, query, who }) =>
    reports(scope).report(params.jobId, await accounts.shop(who.shopId), query.system),
  );
  mount(API.estimatePdf, async ({ scope, params, query, who, res }) => {
    const { number } = await jobs(scope).record(params.jobId);
    const shop = await accounts.shop(who.shopId);
    const pdf = await renderPdf(await reports(scope).estimate(params.jobId, shop, query.system, now()));
    res.setHeader("content-type", "application/pdf");
    res.setHeader("content-disposition", attachment(`estimate-${number}.pdf`));
    res.end(pdf);
  });
  mount(API.reportPdf, async ({ scope, params, query, who, res }) => {
    const { number } = await jobs(scope).record(params.jobId);
    const report = await reports(scope).report(params.jobId, await accounts.shop(who.shopId), query.system);
    const store = createPhotoStore(scope);
    const pictures = new Map<string, Buffer>();
    for (const { photoId } of report.photos ?? []) {
      const content = await store.content(photoId);
      if (content) pictures.set(photoId, content);
    }
    const pdf = await renderPdf(report, pictures);
    res.setHeader("content-type", "application/pdf");
    res.setHeader("content-disposition", attachment(`job-${number}.pdf`));
    res.end(pdf);
  });
}
