import { createReadStream } from "node:fs";
import { pipeline } from "node:stream/promises";
import { API } from "@gearsense/contract";
import { HttpError } from "../http/errors.ts";
import type { Mount } from "../http/mount.ts";
import { spooled } from "../http/spool.ts";
import type { BackupService } from "./service.ts";

const MOST_BYTES = 256 * 2 ** 30;
const tooLarge = () => new HttpError(413, "too-large", "The backup is over 256 GB: restore it by ./gearsense restore.");

/** What an owner does with backups. */
export function mountBackup(mount: Mount, backup: BackupService, now: () => Date): void {
  mount(API.copies, () => backup.view());
  mount(API.makeCopy, ({ signal }) => backup.makeNow(signal));
  mount(API.keepCopies, ({ body }) => backup.keep(body));
  mount(API.copy, async ({ params, res }) => {
    const { path, bytes } = await backup.copy(params.name);
    res.attachment(params.name);
    res.setHeader("content-type", "application/x-tar");
    res.setHeader("content-length", bytes);
    await pipeline(createReadStream(path), res);
  });
  mount(API.backup, async ({ who, res, signal }) => {
    res.attachment(`gearsense-${now().toISOString().slice(0, 10)}.tar`);
    res.setHeader("content-type", "application/x-tar");
    await backup.write(who.shopId, res, signal);
  });
  mount(API.restoreCopy, ({ params, body, signal }) => backup.restoreCopy(params.name, body.confirm, signal));
  // on disk first: a sender who is slow holds no lock on the database
  mount(API.restore, ({ query, req, signal }) =>
    spooled(req, { most: MOST_BYTES, tooLarge, name: "the backup" }, ({ path }) =>
      backup.restore(createReadStream(path), query.confirm, signal),
    ),
  );
}
