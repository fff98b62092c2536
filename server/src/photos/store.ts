import type { ShopScope } from "../db/shop-scope.ts";
import type { Picture } from "./picture.ts";

export interface PhotoRecord extends Omit<Picture, "content"> {
  readonly id: string;
  readonly jobId: string;
}

interface PhotoRow {
  id: string;
  job_id: string;
  sha256: string;
  width_px: number;
  height_px: number;
}

const COLUMNS = ["id", "job_id", "sha256", "width_px", "height_px"] as const;
const toRecord = (r: PhotoRow): PhotoRecord => ({
  id: r.id,
  jobId: r.job_id,
  sha256: r.sha256,
  widthPx: r.width_px,
  heightPx: r.height_px,
});

const rowOf = (id: string, jobId: string, picture: Picture, storedAt: Date) => ({
  id,
  job_id: jobId,
  sha256: picture.sha256,
  width_px: picture.widthPx,
  height_px: picture.heightPx,
  content: picture.content,
  stored_at: storedAt,
});

/** Photos of one shop. */
export function createPhotoStore(scope: ShopScope) {
  return {
    async insert(id: string, jobId: string, picture: Picture, storedAt: Date): Promise<void> {
      await scope.insert("photo", rowOf(id, jobId, picture, storedAt));
    },
    /** @returns false when some photo has this id already */
    insertNew: (id: string, jobId: string, picture: Picture, storedAt: Date): Promise<boolean> =>
      scope.insertNew("photo", rowOf(id, jobId, picture, storedAt)),
    async byId(jobId: string, id: string): Promise<PhotoRecord | undefined> {
      const row = await scope
        .from("photo")
        .where({ id, job_id: jobId })
        .first<PhotoRow | undefined>(...COLUMNS);
      return row && toRecord(row);
    },
    async content(id: string): Promise<Buffer | undefined> {
      return (await scope.from("photo").where({ id }).first<{ content: Buffer } | undefined>("content"))?.content;
    },
    async ofJob(jobId: string): Promise<PhotoRecord[]> {
      const rows: PhotoRow[] = await scope
        .from("photo")
        .where({ job_id: jobId })
        .orderBy("stored_at")
        .select(...COLUMNS);
      return rows.map(toRecord);
    },
  };
}
