import { API } from "@gearsense/contract";
import type { AccountStore } from "../accounts/store.ts";
import type { Mount } from "../http/mount.ts";
import type { createJobService } from "../jobs/service.ts";
import type { Library } from "../library/load.ts";
import { pricedFor } from "../prices/priced.ts";
import type { DrawPdf } from "../reports/pdf-thread.ts";
import type { BenchService } from "./service.ts";

/** The bench of a job, its record on paper and as a file, and the shop's instruments. */
export function mountBench(
  mount: Mount,
  bench: BenchService,
  jobs: ReturnType<typeof createJobService>,
  accounts: AccountStore,
  drawPdf: DrawPdf,
  library: Library,
): void {
  const shopName = async (shopId: string) => (await accounts.shop(shopId)).name;
  mount(API.bench, ({ scope, params, signal }) => bench(scope).view(params.jobId, signal));
  mount(API.buildPdf, async ({ scope, params: { jobId }, query: { system }, who, res, signal }) => {
    const report = await bench(scope).record(jobId, await shopName(who.shopId), system, signal);
    const { number } = await jobs(scope).record(jobId);
    const pdf = await drawPdf({ report, pictures: new Map() }, signal);
    res.attachment(`build-${number}.pdf`);
    res.setHeader("content-type", "application/pdf");
    res.end(pdf);
  });
  mount(API.buildFile, async ({ scope, params: { jobId }, who, res, signal }) => {
    const file = await bench(scope).file(jobId, await shopName(who.shopId), signal);
    res.attachment(`build-${file.job}.build.json`);
    return file as never;
  });
  mount(API.instruments, ({ scope }) => bench(scope).instruments());
  mount(API.saveInstruments, ({ scope, body, who }) =>
    bench(scope).saveInstruments(body.instruments, body.baseSeq, who.name),
  );
  // what a shop has said of its instruments counts wherever something is read
  mount(API.knowledge, async ({ scope, query }) => ({
    ...(await pricedFor(scope, library.knowledge, query.unitId)),
    instruments: (await bench(scope).instruments()).instruments,
  }));
}
