import { API } from "@gearsense/contract";
import type { EntryBodies } from "@gearsense/core/job";
import { bytesOf } from "../http/bytes.ts";
import { notFound } from "../http/errors.ts";
import type { Mount } from "../http/mount.ts";
import type { createJobService } from "../jobs/service.ts";
import { MAX_PHOTO_BYTES, preparePicture } from "./picture.ts";
import { createPhotoStore } from "./store.ts";

/** Photos are kept beside the job's timeline, on which an entry says what each shows. */
export function mountPhotos(mount: Mount, jobs: ReturnType<typeof createJobService>, now: () => Date): void {
  mount(API.uploadPhoto, async ({ scope, params, query, req, who }) => {
    const { jobId } = params;
    const { photoId, about, caption } = query;
    await jobs(scope).record(jobId);
    const bytes = await bytesOf(req, MAX_PHOTO_BYTES, "The picture");
    // a photo that waited for the network may be sent twice
    if (!(await createPhotoStore(scope).byId(jobId, photoId))) {
      const picture = await preparePicture(bytes);
      const { content: _content, ...kept } = picture;
      await scope.transaction(async (trx) => {
        // an id that a photo elsewhere has: neither this nor whose it is is told
        if (!(await createPhotoStore(trx).insertNew(photoId, jobId, picture, now()))) throw notFound("photo");
        const body: EntryBodies["photo"] = { photoId, ...kept, about, caption: caption ?? "", markers: [] };
        await jobs(trx).append(jobId, who, "photo", body, "file", 0);
      });
    }
    return { photoId, job: await jobs(scope).view(jobId) };
  });
  mount(API.photo, async ({ scope, params, res }) => {
    const store = createPhotoStore(scope);
    const known = await store.byId(params.jobId, params.photoId);
    const content = known && (await store.content(known.id));
    if (!content) throw notFound("photo");
    res.setHeader("content-type", "image/jpeg");
    // it never changes under its name
    res.setHeader("cache-control", "private, max-age=31536000, immutable");
    res.end(content);
  });
}
