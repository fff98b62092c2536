import { createHash, randomUUID } from "node:crypto";
import { JobFile, type JobFileData, type JobView } from "@gearsense/contract";
import type { Entry } from "@gearsense/core/job";
import { checkUnit, type Unit } from "@gearsense/core/unit";
import { strToU8, type Unzipped, unzip, zip } from "fflate";
import type { ShopScope } from "../db/shop-scope.ts";
import { HttpError } from "../http/errors.ts";
import type { createJobService } from "../jobs/service.ts";
import { createJobStore } from "../jobs/store.ts";
import { createLogStore } from "../logs/store.ts";
import { preparePicture } from "../photos/picture.ts";
import { createPhotoStore } from "../photos/store.ts";

const CHUNK_BYTES = 1 << 20;
/** An archive that unpacks to more is refused before it is unpacked. */
const MAX_UNPACKED_BYTES = 600 * 1024 * 1024;

const pack = (files: Record<string, Uint8Array>) =>
  new Promise<Uint8Array>((resolve, reject) => zip(files, { level: 6 }, (e, data) => (e ? reject(e) : resolve(data))));

const refuse = (message: string) => new HttpError(422, "bad-archive", `${message} Nothing was stored.`);

async function unpack(bytes: Uint8Array): Promise<Unzipped> {
  let total = 0;
  try {
    return await new Promise<Unzipped>((resolve, reject) =>
      unzip(
        bytes,
        {
          filter: (f) => {
            total += f.originalSize;
            if (total > MAX_UNPACKED_BYTES) throw refuse("The archive unpacks to more than 600 MB.");
            return f.name === "job.json" || /^(?:logs|photos)\//.test(f.name);
          },
        },
        (e, data) => (e ? reject(e) : resolve(data)),
      ),
    );
  } catch (error) {
    if (error instanceof HttpError) throw error;
    throw refuse("The file is not a readable zip archive. Export the job again.");
  }
}

/** A whole job out as one open archive, and in again with nothing lost. Its format: docs/formats.md. */
export function createTransferService(jobs: ReturnType<typeof createJobService>, now: () => Date) {
  return (scope: ShopScope) => ({
    async exportJob(jobId: string): Promise<{ number: string; archive: Uint8Array }> {
      const job = await jobs(scope).record(jobId);
      const store = createLogStore(scope);
      const files: Record<string, Uint8Array> = {};
      const logs: JobFileData["logs"] = [];
      for (const log of await store.ofJob(jobId)) {
        const parts: Buffer[] = [];
        for await (const part of store.chunks(log.id)) parts.push(part);
        const path = `logs/${log.id}/${log.fileName.replace(/[/\\]/g, "_")}`;
        files[path] = Buffer.concat(parts);
        logs.push({
          logId: log.id,
          fileName: log.fileName,
          sha256: log.sha256,
          role: log.role,
          path,
          analysis: (await store.latestAnalysis(log.id)) ?? null,
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
      return { number: job.number, archive: await pack(files) };
    },

    /** Imports an exported job. Ids of entries and logs are made anew when they are taken, references follow. */
    async importJob(bytes: Uint8Array): Promise<JobView> {
      const files = await unpack(bytes);
      const text = files["job.json"];
      if (!text) throw refuse("The archive holds no job.json: it is not an exported job.");
      let parsed: unknown;
      try {
        parsed = JSON.parse(Buffer.from(text).toString("utf8"));
      } catch {
        throw refuse("job.json in the archive is not valid JSON.");
      }
      const checked = JobFile.safeParse(parsed);
      if (!checked.success) {
        const issue = checked.error.issues[0];
        throw refuse(`job.json: ${issue?.path.join(".")}: ${issue?.message}.`);
      }
      const data = checked.data;
      const problem = checkUnit(data.unit as Unit)[0];
      if (problem) throw refuse(`job.json: unit.${problem.path}: ${problem.reason}.`);
      for (const { path, sha256 } of [...data.logs, ...data.photos]) {
        const content = files[path];
        if (!content) throw refuse(`The archive lacks ${path}.`);
        if (createHash("sha256").update(content).digest("hex") !== sha256)
          throw refuse(`${path} does not match its hash: the archive is damaged.`);
      }
      for (const p of data.photos)
        if ((await preparePicture(Buffer.from(files[p.path] as Uint8Array))).widthPx !== p.widthPx)
          throw refuse(`${p.path} is not the picture that job.json describes.`);
      const jobId = randomUUID();
      const fresh = new Map<string, string>();
      const renew = (id: string) => {
        const known = fresh.get(id) ?? randomUUID();
        fresh.set(id, known);
        return known;
      };
      for (const e of data.entries) renew(e.id);
      for (const l of data.logs) renew(l.logId);
      for (const p of data.photos) renew(p.photoId);
      const follow = <T>(value: T): T =>
        JSON.parse(JSON.stringify(value), (_key, v) => (typeof v === "string" ? renamed(v) : v));
      const renamed = (v: string) =>
        fresh.get(v) ??
        v.replace(/^(\w+:)([0-9a-f-]{36})$/, (whole, prefix: string, id: string) =>
          fresh.has(id) ? prefix + fresh.get(id) : whole,
        );
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
        await store.insertEntries(jobId, follow(data.entries) as Entry[]);
        for (const p of data.photos) {
          const { photoId, path, ...kept } = p;
          await createPhotoStore(trx).insert(
            renew(photoId),
            jobId,
            { ...kept, content: Buffer.from(files[path] as Uint8Array) },
            now(),
          );
        }
        const logStore = createLogStore(trx);
        for (const log of data.logs) {
          const content = Buffer.from(files[log.path] as Uint8Array);
          const id = renew(log.logId);
          await logStore.insert(
            { id, jobId, fileName: log.fileName, bytes: content.length, sha256: log.sha256, role: log.role },
            now(),
          );
          for (let at = 0, position = 0; at < content.length; at += CHUNK_BYTES, position++)
            await logStore.insertChunk(id, position, content.subarray(at, at + CHUNK_BYTES));
          if (log.analysis) await logStore.insertAnalysis(randomUUID(), id, log.analysis, now());
        }
      });
      return jobs(scope).view(jobId);
    },
  });
}

export type TransferService = ReturnType<typeof createTransferService>;
