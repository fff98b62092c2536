// Guards: a whole job goes out as one archive and comes back into an empty database with nothing lost; damaged archives
// are refused with nothing stored.

import { existsSync } from "node:fs";
import { mkdtemp, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { JobFile, type JobFileData } from "@gearsense/contract";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import { strFromU8, strToU8, unzipSync, zipSync } from "fflate";
import sharp from "sharp";
import {
  type Agent,
  analysedLog,
  getBytes,
  type Harness,
  jobList,
  madeLog,
  openJob,
  startHarness,
  WORN_THIRD_CLUTCH,
} from "../testing/harness.ts";
import unpackJob from "./unpack-thread.ts";

const PHOTO_ID = "5b0f5f0a-6a4e-4c53-9d0e-0a7d7a1f2b3c";

let h: Harness;
let other: Harness;
let archive: Uint8Array;
let jobId: string;
let source: Agent;

const put = (agent: Agent, data: Uint8Array) =>
  agent.post("/api/import").set("content-type", "application/octet-stream").send(Buffer.from(data));

beforeAll(async () => {
  h = await startHarness();
  other = await startHarness();
  source = await h.signIn("marl");
  jobId = (await openJob(source)).id;
  await analysedLog(source, jobId, madeLog(h.unit, [WORN_THIRD_CLUTCH]));
  await source
    .post(`/api/jobs/${jobId}/entries`)
    .send({ kind: "note", body: { text: "Ärger am Getriebe − 5 °C" }, baseSeq: 0 })
    .expect(200);
  const picture = await sharp({ create: { width: 64, height: 48, channels: 3, background: "#7a2a20" } })
    .jpeg()
    .toBuffer();
  await source
    .post(`/api/jobs/${jobId}/photos`)
    .query({ photoId: PHOTO_ID, about: "fluid" })
    .set("content-type", "application/octet-stream")
    .send(picture)
    .expect(200);
  archive = await getBytes(source, `/api/jobs/${jobId}/export`);
});
afterAll(async () => {
  await h.close();
  await other.close();
});

/** What must be the same on both sides: everything but ids. */
const essence = (text: string, ids: readonly string[]) => {
  let out = text;
  ids.forEach((id, i) => {
    out = out.replaceAll(id, `#${i}`);
  });
  return JSON.parse(out);
};

it("comes back whole: entries, unit, analysis, and every byte of logs and photos", async () => {
  const target = await other.signIn("marl");
  const { job: imported, leftOut } = (await put(target, archive).expect(200)).body;
  expect(leftOut).toEqual([]);
  const again = await getBytes(target, `/api/jobs/${imported.id}/export`);
  const [a, b] = [unzipSync(archive), unzipSync(again)].map((files) => {
    const data = JobFile.parse(JSON.parse(strFromU8(files["job.json"] as Uint8Array)));
    const ids = [...data.entries.map((e) => e.id), ...data.logs.map((l) => l.logId), data.vehicle.id];
    ids.push(...data.photos.map((p) => p.photoId));
    const logs = data.logs.map((l) => strFromU8(files[l.path] as Uint8Array));
    const photos = data.photos.map((p) => Buffer.from(files[p.path] as Uint8Array).toString("base64"));
    return { data: essence(JSON.stringify({ ...data, exportedAt: "" }), ids), logs, photos };
  });
  expect(b).toEqual(a);
  expect(a?.logs[0]?.length).toBeGreaterThan(10_000);
  expect(a?.photos).toHaveLength(1);
  const suspects = async (agent: Agent, id: string) =>
    (await agent.get(`/api/jobs/${id}/suspects`).expect(200)).body.ranking.suspects.map(
      (s: { faultId: string; probability: number }) => [s.faultId, s.probability],
    );
  expect(await suspects(target, imported.id)).toEqual(await suspects(source, jobId));
});

it("gets a new number where its own is taken, and stands beside the first", async () => {
  const body = (await put(source, archive).expect(200)).body.job;
  expect(body.id).not.toBe(jobId);
  expect(body.number).not.toBe((await source.get(`/api/jobs/${jobId}`)).body.number);
});

const changed = (change: (files: Record<string, Uint8Array>) => void) => {
  const files = unzipSync(archive);
  change(files);
  return zipSync(files);
};
const edit = (patch: (data: JobFileData) => void) =>
  changed((files) => {
    const data = JSON.parse(strFromU8(files["job.json"] as Uint8Array));
    patch(data);
    files["job.json"] = strToU8(JSON.stringify(data));
  });
/** A zip that says less of itself than it is. */
const bomb = (name: string, bytes: number) => zipSync({ [name]: new Uint8Array(bytes) }, { level: 9 });

describe("hostile archives", () => {
  it.each<[string, () => Uint8Array, RegExp]>([
    ["a job.json of 64 MB in 64 kB", () => bomb("job.json", 64 << 20), /job\.json unpacks to more than 24 MB/],
    [
      "501 files",
      () => zipSync(Object.fromEntries(Array.from({ length: 501 }, (_, i) => [`photos/${i}`, new Uint8Array(1)]))),
      /over 500 files/,
    ],
    ["what was cut in half", () => archive.subarray(0, archive.length >> 1), /not a readable zip|cut short|damaged/],
    ["a number that is none", () => edit((d) => Object.assign(d, { number: "zzz" })), /number: four to nine digits/],
    ["a number of ten digits", () => edit((d) => Object.assign(d, { number: "1234567890" })), /number/],
    ["a mileage of a light-year", () => edit((d) => Object.assign(d, { odometerKm: 1e13 })), /odometerKm/],
    [
      "an owner of a megabyte",
      () => edit((d) => Object.assign(d.vehicle, { owner: "x".repeat(1e6) })),
      /vehicle\.owner/,
    ],
    [
      "an author of a page",
      () => edit((d) => Object.assign(d.entries[0] as object, { author: "x".repeat(200) })),
      /author/,
    ],
    [
      "a day in the year 9000",
      () => edit((d) => Object.assign(d.entries[0] as object, { at: "9000-01-01T00:00:00Z" })),
      /2099/,
    ],
    ["opened in the year 1", () => edit((d) => Object.assign(d, { openedAt: "0001-01-01T00:00:00Z" })), /openedAt/],
    ["entries out of order", () => edit((d) => d.entries.reverse()), /entries\.1: seq \d+ does not come after/],
    [
      "two entries of one id",
      () => edit((d) => Object.assign(d.entries[1] as object, { id: d.entries[0]?.id })),
      /the id .* is there twice/,
    ],
    ["a log that is not there", () => edit((d) => Object.assign(d, { logs: [] })), /its log is not in the archive/],
    [
      "a photo that is not there",
      () => edit((d) => Object.assign(d, { photos: [] })),
      /its photo is not in the archive/,
    ],
    ["a null character", () => edit((d) => Object.assign(d.vehicle, { name: "a\u0000" })), /null character/],
    [
      "a unit of 3,000 nets",
      () => edit((d) => Object.assign(d.unit, { nets: Array(3000).fill(d.unit.nets[0]) })),
      /unit\.nets/,
    ],
  ])("%s: refused within limits, nothing stored", async (_name, make, words) => {
    const before = (await jobList(source)).length;
    const { body } = await put(source, make()).expect(422);
    expect(body.error.message).toMatch(words);
    expect((await jobList(source)).length).toBe(before);
  });
  it("each limit holds for what comes out, just under and just over", async () => {
    const folder = await mkdtemp(join(tmpdir(), "gearsense-test-"));
    const most = { entries: 3, jobBytes: 1 << 20, fileBytes: 2 << 20, totalBytes: 4 << 20 };
    const tried = async (sizes: Record<string, number>) => {
      const path = join(folder, "a.zip");
      await writeFile(
        path,
        zipSync(Object.fromEntries(Object.entries(sizes).map(([name, bytes]) => [name, new Uint8Array(bytes)]))),
      );
      const result = unpackJob({ archive: path, folder, most });
      return "refused" in result ? result.refused : "";
    };
    const mega = 1 << 20;
    // within the limits it is refused for what job.json says, not for its size
    expect(await tried({ "job.json": mega })).toMatch(/not valid JSON/);
    expect(await tried({ "job.json": mega + 1 })).toMatch(/job\.json unpacks to more than 1 MB/);
    expect(await tried({ "logs/a": 2 * mega })).toMatch(/no job\.json/);
    expect(await tried({ "logs/a": 2 * mega + 1 })).toMatch(/logs\/a unpacks to more than 2 MB/);
    expect(await tried({ "logs/a": 2 * mega, "logs/b": 2 * mega })).toMatch(/no job\.json/);
    expect(await tried({ "logs/a": 2 * mega, "logs/b": 2 * mega, other: 1 })).toMatch(/more than 4 MB/);
    expect(await tried({ a: 1, b: 1, c: 1 })).toMatch(/no job\.json/);
    expect(await tried({ a: 1, b: 1, c: 1, d: 1 })).toMatch(/over 3 files/);
    await rm(folder, { recursive: true });
  });
  it("a high number is kept, and the shop's next job goes on where it was", async () => {
    const next = async () => Number((await openJob(source)).number);
    const before = await next();
    const { body } = await put(
      source,
      edit((d) => Object.assign(d, { number: "87654321" })),
    ).expect(200);
    expect(body.job.number).toBe("87654321");
    expect(await next()).toBe(before + 1);
  });
  it("a name in the archive is never a path of this machine", async () => {
    const { body } = await put(
      source,
      changed((files) => {
        const data = JSON.parse(strFromU8(files["job.json"] as Uint8Array)) as JobFileData;
        const [log] = data.logs;
        if (!log) throw new Error("no log");
        const path = "logs/../../../../tmp/gearsense-was-here";
        files[path] = files[log.path] as Uint8Array;
        delete files[log.path];
        log.path = path;
        files["job.json"] = strToU8(JSON.stringify(data));
      }),
    ).expect(200);
    expect(body.leftOut).toEqual([]);
    expect(existsSync("/tmp/gearsense-was-here")).toBe(false);
  });
  it("an analysis that does not fit is left out, and that is said", async () => {
    const { body } = await put(
      source,
      edit((d) => {
        for (const l of d.logs) if (l.analysis) Object.assign(l.analysis.analysis, { version: "old" });
      }),
    ).expect(200);
    expect(body.leftOut).toEqual([expect.stringMatching(/analysis of before\.csv is of another version.*anew/)]);
    const [log] = (await h.db("log").where({ job_id: body.job.id }).select("id")) as { id: string }[];
    await source.get(`/api/jobs/${body.job.id}/logs/${log?.id}/analysis`).expect(404);
  });
});

describe("damaged archives", () => {
  it.each([
    ["no zip", () => strToU8("hello"), /not a readable zip/],
    ["no job.json", () => zipSync({ "logs/a.csv": strToU8("x") }), /no job\.json/],
    ["broken JSON", () => zipSync({ "job.json": strToU8("{") }), /not valid JSON/],
    ["a foreign format", () => edit((d) => Object.assign(d, { format: "other" })), /job\.json: format/],
    [
      "an entry without author",
      () => edit((d) => delete (d.entries as Record<string, unknown>[])[0]?.author),
      /entries\.0/,
    ],
    [
      "a unit that contradicts itself",
      () => edit((d) => Object.assign((d.unit as { limp: object }).limp, { gear: "9" })),
      /unit\.limp\.gear/,
    ],
    [
      "a log that is missing",
      () =>
        changed((f) => {
          for (const k of Object.keys(f)) if (k.startsWith("logs/")) delete f[k];
        }),
      /lacks logs\//,
    ],
    [
      "a photo that is another file",
      () =>
        changed((f) => {
          for (const k of Object.keys(f)) if (k.startsWith("photos/")) f[k] = strToU8("no picture");
        }),
      /does not match its hash/,
    ],
    [
      "a log with a changed byte",
      () =>
        changed((f) => {
          for (const k of Object.keys(f)) if (k.startsWith("logs/")) f[k] = strToU8("changed");
        }),
      /does not match its hash/,
    ],
  ])("%s: refused, nothing stored", async (_name, make, words) => {
    const count = async () => (await jobList(source)).length;
    const before = await count();
    const response = await put(source, make()).expect(422);
    expect(response.body.error.message).toMatch(words);
    expect(response.body.error.message).toMatch(/Nothing was stored/);
    expect(await count()).toBe(before);
  });
});
