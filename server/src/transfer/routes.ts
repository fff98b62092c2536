import { API } from "@gearsense/contract";
import { HttpError } from "../http/errors.ts";
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
    const parts: Buffer[] = [];
    let size = 0;
    for await (const part of req) {
      size += part.length;
      if (size > MAX_ARCHIVE_BYTES)
        throw new HttpError(413, "too-large", "The archive is over 300 MB and was not read.");
      parts.push(part);
    }
    return transfer(scope).importJob(Buffer.concat(parts));
  });
}
