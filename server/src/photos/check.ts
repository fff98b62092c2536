import type { EntryBodies } from "@gearsense/core/job";
import { HttpError } from "../http/errors.ts";
import type { createPhotoStore } from "./store.ts";

/**
 * An entry may only speak of photos of its own job, and of each as it is stored.
 * @throws HttpError 422 `no-photo`
 */
export async function checkPhotos(
  store: ReturnType<typeof createPhotoStore>,
  jobId: string,
  kind: string,
  body: unknown,
): Promise<void> {
  const photo = kind === "photo" ? (body as EntryBodies["photo"]) : undefined;
  const photoId = photo?.photoId ?? (kind === "fluid" ? (body as EntryBodies["fluid"]).photo?.photoId : undefined);
  if (photoId === undefined) return;
  const known = await store.byId(jobId, photoId);
  if (!known || (photo && photo.sha256 !== known.sha256))
    throw new HttpError(422, "no-photo", "The photo that is meant is not among those of this job. Take it again.");
}
