import type { EntryBodies, EntryKind } from "@gearsense/core/job";
import type { ShopScope } from "../db/shop-scope.ts";
import { HttpError } from "../http/errors.ts";
import { createLogStore } from "../logs/store.ts";
import { createPhotoStore } from "../photos/store.ts";

const notHere = (what: string) =>
  new HttpError(404, "not-found", `This ${what} isn’t among those of this job. Take or choose it again.`);

/**
 * An entry may only speak of photos and logs of its own job, and of each photo as it is stored.
 * @throws HttpError 404
 */
export async function checkReferences<K extends EntryKind>(
  scope: ShopScope,
  jobId: string,
  kind: K,
  body: EntryBodies[K],
): Promise<void> {
  const { photoId, sha256 } = kind === "photo" ? (body as EntryBodies["photo"]) : photoOfFluid(kind, body);
  if (photoId !== undefined) {
    const known = await createPhotoStore(scope).byId(jobId, photoId);
    if (!known || (sha256 !== undefined && sha256 !== known.sha256)) throw notHere("photo");
  }
  for (const logId of logsOf(kind, body)) if (!(await createLogStore(scope).byId(jobId, logId))) throw notHere("log");
}

function logsOf(kind: EntryKind, body: unknown): string[] {
  if (kind === "note") return [(body as EntryBodies["note"]).span?.logId].filter((id) => id !== undefined);
  const { beforeLogId, afterLogId } = kind === "proof" ? (body as EntryBodies["proof"]) : {};
  return [beforeLogId, afterLogId].filter((id) => id != null);
}

const photoOfFluid = (
  kind: EntryKind,
  body: unknown,
): { photoId?: string | undefined; sha256?: string | undefined } => ({
  photoId: kind === "fluid" ? (body as EntryBodies["fluid"]).photo?.photoId : undefined,
});
