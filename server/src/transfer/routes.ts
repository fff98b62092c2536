import { API } from "@gearsense/contract";
import { bytesOf } from "../http/bytes.ts";
import type { Mount } from "../http/mount.ts";
import { attachment } from "../logs/routes.ts";
import type { TransferService } from "./service.ts";

const MAX_ARCHIVE_BYTES = 300 * 1024 * 1024;

export function mountTransfer(mount: Mount, transfer: TransferService): void {
  mount(API.exportJob, async ({ scope, params, res }) => {
    const { number, archive } = await transfer(scope).exportJob(params.jobId);
    res.setHeader("content-type", "application/zip");
    res.setHeader("content-disposition", attachment(`job-${number}.gearsense.zip`));
    res.end(archive);
  });
  mount(API.importJob, async ({ scope, req }) => {
    return transfer(scope).importJob(await bytesOf(req, MAX_ARCHIVE_BYTES, "The archive"));
  });
}
