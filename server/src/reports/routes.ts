import { API } from "@gearsense/contract";
import type { AccountStore } from "../accounts/store.ts";
import type { Mount } from "../http/mount.ts";
import type { createJobService } from "../jobs/service.ts";
import { createPhotoStore } from "../photos/store.ts";
import type { DrawPdf } from "./pdf-thread.ts";
import type { ReportService } from "./service.ts";

export function mountReports(
  mount: Mount,
  reports: ReportService,
  accounts: AccountStore,
  jobs: ReturnType<typeof createJobService>,
  draw: DrawPdf,
  now: () => Date,
): void {
  mount(API.report, async ({ scope, params, query, who, signal }) =>
    reports(scope).report(params.jobId, await accounts.shop(who.shopId), query.system, signal),
  );
  mount(API.estimatePdf, async ({ scope, params, query, who, signal, res }) => {
    const { number } = await jobs(scope).record(params.jobId);
    const shop = await accounts.shop(who.shopId);
    const report = await reports(scope).estimate(params.jobId, shop, query.system, now(), signal);
    const pdf = await draw({ report, pictures: new Map() }, signal);
    res.attachment(`estimate-${number}.pdf`);
    res.setHeader("content-type", "application/pdf");
    res.end(pdf);
  });
  mount(API.reportPdf, async ({ scope, params, query, who, signal, res }) => {
    const { number } = await jobs(scope).record(params.jobId);
    const report = await reports(scope).report(params.jobId, await accounts.shop(who.shopId), query.system, signal);
    const store = createPhotoStore(scope);
    const pictures = new Map<string, Buffer>();
    for (const { photoId } of report.photos ?? []) {
      const content = await store.content(photoId);
      if (content) pictures.set(photoId, content);
    }
    const pdf = await draw({ report, pictures }, signal);
    res.attachment(`job-${number}.pdf`);
    res.setHeader("content-type", "application/pdf");
    res.end(pdf);
  });
}
