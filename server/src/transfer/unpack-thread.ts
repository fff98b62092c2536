import { createHash, type Hash, randomUUID } from "node:crypto";
import { closeSync, openSync, readFileSync, readSync, writeSync } from "node:fs";
import { join } from "node:path";
import { JobFile, type JobFileData } from "@gearsense/contract";
import { slotOf } from "@gearsense/core/job";
import { MAX_LOG_BYTES } from "@gearsense/core/log";
import { checkUnit, type Unit } from "@gearsense/core/unit";
import { Unzip, type UnzipFile, UnzipInflate } from "fflate";
import { refuseBrokenText } from "../http/text.ts";

export interface UnpackTask {
  readonly archive: string;
  /** where what is in it is put */
  readonly folder: string;
  /** other limits than those of the house */
  readonly most?: Readonly<Record<keyof typeof MOST, number>>;
}

/** An archive that may be taken: its job with ids of its own, and where each of its files lies. */
export interface UnpackedJob {
  readonly job: JobFileData;
  /** path in the archive to path on this machine */
  readonly files: ReadonlyMap<string, { readonly path: string; readonly bytes: number }>;
  /** what was left out, in words */
  readonly leftOut: readonly string[];
}

export type UnpackJob = (task: UnpackTask, signal?: AbortSignal) => Promise<UnpackedJob | { readonly refused: string }>;

/** What an exported job can have. Sizes are those that come out, whatever the archive says of itself. */
export const MOST = {
  entries: 500,
  jobBytes: 24 << 20,
  fileBytes: MAX_LOG_BYTES,
  totalBytes: 600 << 20,
} as const;
const READ_BYTES = 1 << 16;

class Refusal extends Error {}

interface Written {
  readonly path: string;
  readonly sha256: string;
  readonly bytes: number;
}

/** Inflates an archive file by file to disk. @throws Refusal */
function inflate({ archive, folder, most: limits = MOST }: UnpackTask): Map<string, Written> {
  const done = new Map<string, Written>();
  let started = 0;
  let total = 0;
  let trouble: Error | undefined;
  const refuse = (why: string): never => {
    trouble ??= new Refusal(why);
    throw trouble;
  };
  const open = new Set<number>();
  const take = (file: UnzipFile) => {
    started += 1;
    if (started > limits.entries) refuse(`The archive has over ${limits.entries} files.`);
    if (done.has(file.name)) refuse(`The archive holds ${file.name.slice(0, 100)} twice.`);
    const wanted = file.name === "job.json" || /^(?:logs|photos)\//.test(file.name);
    const most = file.name === "job.json" ? limits.jobBytes : limits.fileBytes;
    const path = join(folder, String(started));
    const fd = wanted ? openSync(path, "w") : undefined;
    if (fd !== undefined) open.add(fd);
    const hash: Hash = createHash("sha256");
    let bytes = 0;
    file.ondata = (error, part, final) => {
      if (trouble) throw trouble;
      if (error) refuse(`${file.name.slice(0, 100)} in the archive is damaged.`);
      bytes += part.length;
      total += part.length;
      if (bytes > most) refuse(`${file.name.slice(0, 100)} unpacks to more than ${most >> 20} MB.`);
      if (total > limits.totalBytes) refuse(`The archive unpacks to more than ${limits.totalBytes >> 20} MB.`);
      if (fd === undefined) return;
      hash.update(part);
      writeSync(fd, part);
      if (final) {
        closeSync(fd);
        open.delete(fd);
        done.set(file.name, { path, sha256: hash.digest("hex"), bytes });
      }
    };
    file.start();
  };
  const unzip = new Unzip(take);
  unzip.register(UnzipInflate);
  const source = openSync(archive, "r");
  try {
    const buffer = new Uint8Array(READ_BYTES);
    for (;;) {
      const read = readSync(source, buffer, 0, READ_BYTES, null);
      unzip.push(buffer.slice(0, read), read === 0);
      if (trouble) throw trouble;
      if (read === 0) break;
    }
  } catch (error) {
    if (trouble) throw trouble;
    if ((error as { syscall?: string }).syscall) throw error;
    throw new Refusal("The file is not a readable zip archive. Export the job again.");
  } finally {
    closeSync(source);
    for (const fd of open) closeSync(fd);
  }
  if (started === 0) throw new Refusal("The file is not a readable zip archive. Export the job again.");
  if (open.size > 0) throw new Refusal("The archive is cut short. Export the job again.");
  return done;
}

/** Ids of entries, logs and photos are made anew, and what refers to them follows. */
function withOwnIds(data: JobFileData): JobFileData {
  const fresh = new Map<string, string>();
  for (const id of [
    ...data.entries.map((e) => e.id),
    ...data.logs.map((l) => l.logId),
    ...data.photos.map((p) => p.photoId),
  ]) {
    if (fresh.has(id)) throw new Refusal(`job.json: the id ${id} is there twice.`);
    fresh.set(id, randomUUID());
  }
  const follow = <T>(value: T): T =>
    JSON.parse(JSON.stringify(value), (_key, v) => (typeof v === "string" ? (fresh.get(v) ?? v) : v));
  const entries = follow(data.entries).map((e) => ({ ...e, slot: slotOf(e.kind, e.body as never, e.id) }));
  return { ...data, entries, logs: follow(data.logs), photos: follow(data.photos) };
}

/** What an entry refers to has to be in the archive, and entries stand in order. */
function checkTimeline(data: JobFileData): void {
  const logs = new Set(data.logs.map((l) => l.logId));
  const photos = new Set(data.photos.map((p) => p.photoId));
  const before = new Set<string>();
  let last = 0;
  data.entries.forEach((e, i) => {
    const refuse = (why: string) => {
      throw new Refusal(`job.json: entries.${i}: ${why}.`);
    };
    if (e.seq <= last) refuse(`seq ${e.seq} does not come after ${last}`);
    last = e.seq;
    if ((e.kind === "log" || e.kind === "analysis") && !logs.has(e.body.logId)) refuse("its log is not in the archive");
    if (e.kind === "photo" && !photos.has(e.body.photoId)) refuse("its photo is not in the archive");
    if (e.kind === "retraction" && !before.has(e.body.entryId)) refuse("what it takes back is not before it");
    before.add(e.id);
  });
}

function read(task: UnpackTask): UnpackedJob {
  const files = inflate(task);
  const text = files.get("job.json");
  if (!text) throw new Refusal("The archive holds no job.json: it is not an exported job.");
  let raw: unknown;
  try {
    raw = JSON.parse(readFileSync(text.path, "utf8"));
  } catch {
    throw new Refusal("job.json in the archive is not valid JSON.");
  }
  try {
    refuseBrokenText("job.json", raw);
  } catch (error) {
    throw new Refusal(`job.json: ${(error as Error).message}`);
  }
  const checked = JobFile.safeParse(raw);
  if (!checked.success) {
    const issue = checked.error.issues[0];
    throw new Refusal(`job.json: ${issue?.path.join(".")}: ${issue?.message}.`);
  }
  const { data } = checked;
  const problem = checkUnit(data.unit as Unit)[0];
  if (problem) throw new Refusal(`job.json: unit.${problem.path}: ${problem.reason}.`);
  checkTimeline(data);
  for (const { path, sha256 } of [...data.logs, ...data.photos]) {
    const content = files.get(path);
    if (!content) throw new Refusal(`The archive lacks ${path}.`);
    if (content.sha256 !== sha256) throw new Refusal(`${path} does not match its hash: the archive is damaged.`);
  }
  const given = (raw as { logs: readonly { analysis?: unknown }[] }).logs;
  const leftOut = data.logs.flatMap((l, i) =>
    l.analysis === null && given[i]?.analysis != null
      ? [`The analysis of ${l.fileName} is of another version of Gearsense and was left out: analyse the log anew.`]
      : [],
  );
  return { job: withOwnIds(data), files, leftOut };
}

/** Entry of the worker threads; piscina calls the default export. */
export default function run(task: UnpackTask): UnpackedJob | { readonly refused: string } {
  try {
    return read(task);
  } catch (error) {
    if (error instanceof Refusal) return { refused: error.message };
    throw error;
  }
}
