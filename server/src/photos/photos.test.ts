// Guards: photos are resized, upright, stripped of place and camera, stored once; whatever isn’t a picture is refused.
import { randomUUID } from "node:crypto";
import { deflateSync } from "node:zlib";
import { deltaE2000, fluidColour, type Lab, patchMean } from "@gearsense/core/fluid";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import sharp from "sharp";
import { type Agent, getBytes, type Harness, openJob, startHarness } from "../testing/harness.ts";
import { preparePicture } from "./picture.ts";

let h: Harness;
let iona: Agent;
let jobId: string;
beforeAll(async () => {
  h = await startHarness();
  iona = await h.signIn("iona");
  jobId = (await openJob(iona)).id;
});
afterAll(() => h.close());

const send = (bytes: Buffer, photoId: string = randomUUID(), agent = iona, job = jobId) =>
  agent
    .post(`/api/jobs/${job}/photos`)
    .query({ photoId, about: "magnet", caption: "pan magnet" })
    .set("content-type", "application/octet-stream")
    .send(bytes);
const made = (width: number, height: number) =>
  sharp({ create: { width, height, channels: 3, background: "#884422" } });
const read = (photoId: string, agent = iona) => getBytes(agent, `/api/jobs/${jobId}/photos/${photoId}`);
const photos = async () => {
  const { body } = await iona.get(`/api/jobs/${jobId}`).expect(200);
  return body.entries.filter((e: { kind: string }) => e.kind === "photo");
};

describe("what is kept", () => {
  it("is upright, at most 1600 px, and tells neither place nor camera", async () => {
    const bytes = await made(2400, 1200)
      .withExif({
        IFD0: { Make: "Camera works", Model: "X" },
        IFD3: { GPSLatitudeRef: "N", GPSLatitude: "60/1 10/1 0/1", GPSLongitudeRef: "W", GPSLongitude: "1/1 20/1 0/1" },
      })
      .withMetadata({ orientation: 6 })
      .jpeg()
      .toBuffer();
    expect((await sharp(bytes).metadata()).exif?.includes("Camera works")).toBe(true);
    const photoId = randomUUID();
    await send(bytes, photoId).expect(200);
    const kept = Buffer.from(await read(photoId));
    const meta = await sharp(kept).metadata();
    // turned by a quarter: what was wide is high
    expect([meta.width, meta.height]).toEqual([800, 1600]);
    expect(meta.exif).toBeUndefined();
    expect(kept.includes("Camera works")).toBe(false);
    const [entry] = await photos();
    expect(entry.body).toMatchObject({ photoId, widthPx: 800, heightPx: 1600, about: "magnet", caption: "pan magnet" });
    expect(entry.source).toBe("file");
  });
  it("keeps its colour: a patch balanced by the paper beside it is recovered within ΔE 3", async () => {
    const lab: Lab = [38, 54, 30];
    // that colour and white paper under a lamp that halves the blue, as two flat halves
    const paint = (c: string) =>
      sharp({ create: { width: 600, height: 800, channels: 3, background: c } })
        .png()
        .toBuffer();
    const [fluid, paper] = await Promise.all([paint("#a31f1d"), paint("#f3e9b4")]);
    const image = await sharp({ create: { width: 1200, height: 800, channels: 3, background: "#000000" } })
      .composite([
        { input: fluid, left: 0, top: 0 },
        { input: paper, left: 600, top: 0 },
      ])
      .png()
      .toBuffer();
    const photoId = randomUUID();
    await send(image, photoId).expect(200);
    const see = async (bytes: Uint8Array) => {
      const { data, info } = await sharp(Buffer.from(bytes)).ensureAlpha().raw().toBuffer({ resolveWithObject: true });
      const picture = { widthPx: info.width, heightPx: info.height, rgba: new Uint8Array(data) };
      return fluidColour(
        patchMean(picture, { x: 0.1, y: 0.2, w: 0.3, h: 0.6 }),
        patchMean(picture, { x: 0.6, y: 0.2, w: 0.3, h: 0.6 }),
      );
    };
    const [before, after] = [await see(image), await see(await read(photoId))];
    expect(deltaE2000(before.lab, after.lab)).toBeLessThan(1);
    expect(deltaE2000(after.lab, lab)).toBeLessThan(3);
  });
  it("one that is saved in passes is taken up to 40 megapixels", async () => {
    const { widthPx } = await preparePicture(await made(8000, 5000).png({ progressive: true }).toBuffer());
    expect(widthPx).toBe(1600);
  });
  it("a picture of 60 megapixels is taken and made smaller", async () => {
    const photoId = randomUUID();
    await send(await made(9000, 6700).jpeg().toBuffer(), photoId).expect(200);
    expect((await sharp(Buffer.from(await read(photoId))).metadata()).width).toBe(1600);
  });
  it("a photo that is sent twice is stored once", async () => {
    const before = (await photos()).length;
    const photoId = randomUUID();
    const bytes = await made(40, 30).webp().toBuffer();
    await send(bytes, photoId).expect(200);
    await send(bytes, photoId).expect(200);
    expect((await photos()).length).toBe(before + 1);
  });
});

/** A PNG whose header claims more than its few bytes hold. */
function bomb(widthPx: number, heightPx: number): Buffer {
  const table = Array.from({ length: 256 }, (_, n) => {
    let c = n;
    for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
    return c >>> 0;
  });
  const crc = (b: Buffer) => {
    let c = 0xffffffff;
    for (const v of b) c = (table[(c ^ v) & 255] as number) ^ (c >>> 8);
    return (c ^ 0xffffffff) >>> 0;
  };
  const chunk = (type: string, data: Buffer) => {
    const body = Buffer.concat([Buffer.from(type, "ascii"), data]);
    const out = Buffer.alloc(8 + data.length + 4);
    out.writeUInt32BE(data.length, 0);
    body.copy(out, 4);
    out.writeUInt32BE(crc(body), 8 + data.length);
    return out;
  };
  const header = Buffer.alloc(13);
  header.writeUInt32BE(widthPx, 0);
  header.writeUInt32BE(heightPx, 4);
  header.set([8, 0, 0, 0, 0], 8);
  return Buffer.concat([
    Buffer.from([137, 80, 78, 71, 13, 10, 26, 10]),
    chunk("IHDR", header),
    chunk("IDAT", deflateSync(Buffer.alloc(100_000))),
    chunk("IEND", Buffer.alloc(0)),
  ]);
}

describe("what isn’t a picture", () => {
  it.each<[string, () => Buffer | Promise<Buffer>, number, RegExp]>([
    ["a text file named .jpg", () => Buffer.from("time,rpm\n1,2\n"), 422, /isn’t a picture/],
    ["nothing", () => Buffer.alloc(0), 422, /empty/],
    [
      "half a JPEG",
      async () => (await made(900, 700).jpeg().toBuffer()).subarray(0, 900),
      422,
      /damaged|isn’t a picture/,
    ],
    ["a PNG that claims 2.5 gigapixels", () => bomb(50_000, 50_000), 422, /2500 megapixels; up to 80/],
    [
      "a drawing",
      () => Buffer.from('<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>'),
      422,
      /SVG picture is not read/,
    ],
    [
      "a phone's own format",
      () => Buffer.concat([Buffer.from([0, 0, 0, 24]), Buffer.from("ftypheic"), Buffer.alloc(40)]),
      422,
      /HEIF picture is not read here\. Set the camera to JPEG/,
    ],
    [
      "a progressive JPEG of 41 megapixels",
      async () => made(8200, 5000).jpeg({ progressive: true }).toBuffer(),
      422,
      /41 megapixels; up to 40 are read of one that is saved in passes/,
    ],
    ["a few bytes", () => Buffer.from([255, 216, 255]), 422, /isn’t a picture/],
    ["a moving picture", async () => made(20, 20).gif().toBuffer(), 422, /GIF picture is not read/],
  ])("%s is refused, and nothing is stored", async (_, bytes, status, words) => {
    const before = (await photos()).length;
    const { body } = await send(await bytes()).expect(status);
    expect(body.error.message).toMatch(words);
    expect((await photos()).length).toBe(before);
  });
});

describe("whose they are", () => {
  it("a viewer looks and does not store; another shop sees nothing", async () => {
    const photoId = randomUUID();
    await send(await made(30, 30).png().toBuffer(), photoId).expect(200);
    const fenn = await h.signIn("fenn");
    expect((await read(photoId, fenn)).length).toBeGreaterThan(100);
    await send(await made(30, 30).png().toBuffer(), randomUUID(), fenn).expect(403);
    const odda = await h.signIn("odda");
    await odda.get(`/api/jobs/${jobId}/photos/${photoId}`).expect(404);
  });
  it("an id that another job's photo has, of this shop or another, is refused and tells nothing of it", async () => {
    const photoId = randomUUID();
    const picture = await made(20, 20).jpeg().toBuffer();
    const send = (agent: Agent, id: string) =>
      agent
        .post(`/api/jobs/${id}/photos`)
        .query({ photoId, about: "pan" })
        .set("content-type", "application/octet-stream")
        .send(picture);
    await send(iona, jobId).expect(200);
    const elsewhere = await send(iona, (await openJob(iona)).id).expect(404);
    const odda = await h.signIn("odda");
    const foreign = await send(odda, (await openJob(odda)).id).expect(404);
    expect(foreign.body).toEqual(elsewhere.body);
  });
  it("an entry may mark a photo of its own job, and of no other", async () => {
    const photoId = randomUUID();
    await send(await made(30, 30).png().toBuffer(), photoId).expect(200);
    const entry = (await photos()).find((e: { body: { photoId: string } }) => e.body.photoId === photoId);
    const markers = [{ x: 0.5, y: 0.25, text: "flake" }];
    const write = (body: object, job = jobId, baseSeq = entry.seq) =>
      iona.post(`/api/jobs/${job}/entries`).send({ kind: "photo", body: { ...entry.body, ...body }, baseSeq });
    await write({ markers }).expect(200);
    expect((await photos()).find((e: { seq: number }) => e.seq > entry.seq)?.body.markers).toEqual(markers);
    await write({ sha256: "0".repeat(64) }).expect(404);
    const other = await openJob(iona);
    expect((await write({}, other.id, 0).expect(404)).body.error.code).toBe("not-found");
  });
});
