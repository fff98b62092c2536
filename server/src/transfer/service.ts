import { randomUUID } from "node:crypto";
import { createReadStream } from "node:fs";
import { readFile } from "node:fs/promises";
import type { JobFileData, JobView } from "@gearsense/contract";
import type { Entry } from "@gearsense/core/job";
import type { Unit } from "@gearsense/core/unit";
import { strToU8, zip } from "fflate";
import type { ShopScope } from "../db/shop-scope.ts";
import { HttpError } from "../http/errors.ts";
import { type createJobService, headOf } from "../jobs/service.ts";
import { createJobStore } from "../jobs/store.ts";
import { CHUNK_BYTES, createLogStore, withoutId } from "../logs/store.ts";
import { preparePicture } from "../photos/picture.ts";
import { createPhotoStore } from "../photos/store.ts";
import { keepOutput } from "../queue/output.ts";
import type { Ask, Attempt, Tasks } from "../queue/work.ts";
import type { UnpackJob } from "./unpack-thread.ts";

const pack = (files: Record<string, Uint8Array>) =>
  new Promise<Uint8Array>((resolve, reject) => zip(files, { level: 6 }, (e, data) => (e ? reject(e) : resolve(data))));

const refuse = (message: string) => new HttpError(422, "bad-archive", `${message} Nothing was stored.`);

/** A whole job out as one open archive, and in again with nothing lost. Its format: docs/formats.md. */
export function createTransferService(
  jobs: ReturnType<typeof createJobService>,
  unpackJob: UnpackJob,
  ask: Ask,
  now: () => Date,
) {
  return (scope: ShopScope) => ({
    /** Has a job packed. @returns its number, and the id of the work, under which the archive lies */
    async exportJob(jobId: string, signal: AbortSignal): Promise<{ number: string; id: string }> {
      const { number } = await jobs(scope).record(jobId);
      const id = randomUUID();
      await ask(scope, "export", { jobId }, { id, signal });
      return { number, id };
    },

    /** Does the work: packs a job with all that belongs to it and keeps the archive until it is handed out. */
    async make({ jobId }: Tasks["export"], { id, signal, stage }: Attempt): Promise<void> {
      stage("gathering logs and photos");
      const job = await jobs(scope).record(jobId);
      const store = createLogStore(scope);
      const files: Record<string, Uint8Array> = {};
      const logs: JobFileData["logs"] = [];
      for (const log of await store.ofJob(jobId)) {
        const parts: Buffer[] = [];
        for await (const part of store.chunks(log.id)) parts.push(part);
        signal.throwIfAborted();
        const made = await store.latestAnalysis(log.id);
        const path = `logs/${log.id}/${log.fileName.replace(/[/\\]/g, "_")}`;
        files[path] = Buffer.concat(parts);
        logs.push({
          logId: log.id,
          fileName: log.fileName,
          sha256: log.sha256,
          role: log.role,
          path,
          analysis: made ? withoutId(made) : null,
        });
      }
      const photos: JobFileData["photos"] = [];
      const photoStore = createPhotoStore(scope);
      for (const { id, jobId: _job, ...photo } of await photoStore.ofJob(jobId)) {
        const path = `photos/${id}.jpg`;
        files[path] = (await photoStore.content(id)) ?? Buffer.alloc(0);
        photos.push({ photoId: id, ...photo, path });
      }
      const data: JobFileData = {
        format: "gearsense-job",
        formatVersion: 1,
        exportedAt: now().toISOString(),
        number: job.number,
        openedAt: job.openedAt,
        odometerKm: job.odometerKm,
        vehicle: job.vehicle,
        unit: job.unit as JobFileData["unit"],
        entries: (await jobs(scope).entries(jobId)) as JobFileData["entries"],
        photos,
        logs,
      };
      files["job.json"] = strToU8(JSON.stringify(data, null, 1));
      stage("packing");
      signal.throwIfAborted();
      await keepOutput(scope, id, await pack(files), now());
    },

    /**
     * Imports an exported job. Ids of entries and logs are made anew, references follow; its number is kept where it is
     * free, and does not move the shop's own sequence.
     * @returns the job, and what was left out of it, in words
     */
    async importJob(
      archive: string,
      folder: string,
      signal: AbortSignal,
    ): Promise<{ job: JobView; leftOut: string[] }> {
      const unpacked = await unpackJob({ archive, folder }, signal);
      if ("refused" in unpacked) throw refuse(unpacked.refused);
      const { job: data, files, leftOut } = unpacked;
      const pathOf = (path: string) => (files.get(path) as { path: string }).path;
      const bytesOf = (path: string) => (files.get(path) as { bytes: number }).bytes;
      for (const p of data.photos)
        if ((await preparePicture(await readFile(pathOf(p.path)))).widthPx !== p.widthPx)
          throw refuse(`${p.path} is not the picture that job.json describes.`);
      const jobId = randomUUID();
      await scope.transaction(async (trx) => {
        const store = createJobStore(trx);
        const number = (await store.numberTaken(data.number)) ? await store.nextNumber() : data.number;
        const { name, plate, owner, vin } = data.vehicle;
        await store.insertJob({
          id: jobId,
          number,
          vehicleId: await store.vehicleFor({ name, plate, owner, vin }),
          unit: data.unit as Unit,
          odometerKm: data.odometerKm,
          openedAt: data.openedAt,
        });
        await store.insertEntries(jobId, data.entries as Entry[]);
        const head = headOf(data.entries as Entry[], data.openedAt);
        await store.setHead(jobId, head);
        if (head.stage === "closed") await jobs(trx).keepProved(jobId);
        for (const { photoId, path, ...kept } of data.photos)
          await createPhotoStore(trx).insert(photoId, jobId, { ...kept, content: await readFile(pathOf(path)) }, now());
        const logStore = createLogStore(trx);
        for (const { logId: id, fileName, sha256, role, path, analysis } of data.logs) {
          await logStore.insert({ id, jobId, fileName, bytes: bytesOf(path), sha256, role }, now());
          await logStore.insertContent(id, createReadStream(pathOf(path), { highWaterMark: CHUNK_BYTES }));
          if (analysis) await logStore.insertAnalysis(randomUUID(), id, analysis, now());
        }
      });
      return { job: await jobs(scope).view(jobId), leftOut: [...leftOut] };
    },
  });
}

export type TransferService = ReturnType<typeof createTransferService>;
