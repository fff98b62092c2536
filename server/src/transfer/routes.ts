import { API } from "@gearsense/contract";
import { HttpError } from "../http/errors.ts";
import type { Mount } from "../http/mount.ts";
import { spooled } from "../http/spool.ts";
import { handOut } from "../queue/output.ts";
import type { TransferService } from "./service.ts";

const MAX_ARCHIVE_BYTES = 300 * 1024 * 1024;

export function mountTransfer(mount: Mount, transfer: TransferService): void {
  mount(API.exportJob, async ({ scope, params, signal, res }) => {
    const { number, id } = await transfer(scope).exportJob(params.jobId, signal);
    res.attachment(`job-${number}.gearsense.zip`);
    res.setHeader("content-type", "application/zip");
    await handOut(scope, id, res);
  });
  const tooLarge = () =>
    new HttpError(
      413,
      "too-large",
      `The archive is over ${MAX_ARCHIVE_BYTES >> 20} MB and was not read. Nothing was stored.`,
    );
  mount(API.importJob, ({ scope, req, signal }) =>
    spooled(req, { most: MAX_ARCHIVE_BYTES, tooLarge, name: "the archive" }, ({ path, folder }) =>
      transfer(scope).importJob(path, folder, signal),
    ),
  );
}
