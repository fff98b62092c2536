// Guards: a whole job goes out as one archive and comes back into an empty database with nothing lost; damaged archives
// are refused with nothing stored.

import { JobFile } from "@gearsense/contract";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import { strFromU8, strToU8, unzipSync, zipSync } from "fflate";
import sharp from "sharp";
import {
  type Agent,
  analysedLog,
  getBytes,
  type Harness,
  madeLog,
  openJob,
  startHarness,
  WORN_THIRD_CLUTCH,
} from "../testing/harness.ts";

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
}, 60_000);
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

describe("damaged archives", () => {
  const changed = (change: (files: Record<string, Uint8Array>) => void) => {
    const files = unzipSync(archive);
    change(files);
    return zipSync(files);
  };
  const edit = (patch: (data: Record<string, unknown>) => void) =>
    changed((files) => {
      const data = JSON.parse(strFromU8(files["job.json"] as Uint8Array));
      patch(data);
      files["job.json"] = strToU8(JSON.stringify(data));
    });
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
    const count = async () => (await source.get("/api/jobs")).body.length;
    const before = await count();
    const response = await put(source, make()).expect(422);
    expect(response.body.error.message).toMatch(words);
    expect(response.body.error.message).toMatch(/Nothing was stored/);
    expect(await count()).toBe(before);
  });
});
