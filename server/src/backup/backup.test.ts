// Guards: a backup holds everything of one moment and comes back to the last byte and row; what is damaged, cut, of another version or
// made by hand is refused and nothing is changed; one shop's backup holds nothing of another's.
import { execFileSync } from "node:child_process";
import { createHash, randomUUID } from "node:crypto";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { Writable } from "node:stream";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import sharp from "sharp";
import { type ArchivePart, archiveOf, backupOf, everything, partsIn, restoreTo, rowsIn } from "../testing/backups.ts";
import {
  type Agent,
  analysedLog,
  freshDatabase,
  type Harness,
  madeLog,
  openJob,
  startHarness,
  storeLog,
} from "../testing/harness.ts";
import { withClient } from "./copies.ts";
import { CONTENT } from "./tables.ts";
import { writeBackup } from "./write.ts";

let h: Harness;
let iona: Agent;
let target: Awaited<ReturnType<typeof freshDatabase>>;
let archive: Buffer;
let parts: ArchivePart[];
/** over two pieces and a bit */
const LONG_LOG = `time;n\n${"1;2\n".repeat(600_000)}`;

beforeAll(async () => {
  h = await startHarness();
  iona = await h.signIn("iona");
  const job = await openJob(iona, {
    vehicle: { name: 'Ferry "van", \\N\nwith lines', plate: "", owner: "Ä; ö, 漢字" },
  });
  await analysedLog(iona, job.id, madeLog(h.unit, [], 9, "mixed", 60));
  await storeLog(iona, job.id, LONG_LOG, "after", "a/long\\name.csv");
  const photo = await sharp({ create: { width: 60, height: 40, channels: 3, background: "#884422" } })
    .jpeg()
    .toBuffer();
  await iona
    .post(`/api/jobs/${job.id}/photos`)
    .query({ photoId: randomUUID(), about: "magnet", caption: "" })
    .set("content-type", "application/octet-stream")
    .send(photo)
    .expect(200);
  await (await h.signIn("odda")).post("/api/jobs").send({}).expect(400);
  const theirs = await openJob(await h.signIn("odda"), {
    vehicle: { name: "Theirs alone", plate: "SK 9 999", owner: "Others" },
  });
  await storeLog(await h.signIn("odda"), theirs.id, "theirs\n1\n", "before", "their-log.csv");
  target = await freshDatabase();
  archive = await backupOf(h.url);
  parts = await partsIn(archive);
});
afterAll(async () => {
  await target.drop();
  await h.close();
});

const part = (name: string | RegExp) =>
  parts.find((p) => (name instanceof RegExp ? name.test(p.name) : p.name === name));
const sha = (content: Buffer) => createHash("sha256").update(content).digest("hex");
/** The same parts, changed, with hashes that fit. */
const rehashed = (changed: readonly ArchivePart[]) => {
  const body = changed.filter((p) => p.name !== "sha256.txt");
  const list = body.map((p) => `${sha(p.content)}  ${p.name}\n`).join("");
  return archiveOf([...body, { name: "sha256.txt", content: Buffer.from(list) }]);
};
const edited = (name: string | RegExp, edit: (content: Buffer) => Buffer | string) =>
  rehashed(parts.map((p) => (p === part(name) ? { ...p, content: Buffer.from(edit(p.content) as Buffer) } : p)));

describe("a backup", () => {
  it("comes back into an empty database to the last byte and row, in any pieces", async () => {
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 513, max: 200_000 }), async (pieces) => {
        await restoreTo(target.url, archive, pieces);
        expect(await everything(target.url)).toEqual(await everything(h.url));
      }),
      { numRuns: 4 },
    );
    expect(await rowsIn(target.db, "log_chunk")).toBeGreaterThan(3);
  });
  it("made from what was restored is the same file", async () => {
    await restoreTo(target.url, archive);
    expect(sha(await backupOf(target.url))).toBe(sha(archive));
  });
  it("is a plain tar whose hashes sha256sum agrees with; logs and photos lie in it as files", () => {
    const folder = mkdtempSync(join(tmpdir(), "gearsense-test-"));
    try {
      writeFileSync(join(folder, "b.tar"), archive);
      execFileSync("tar", ["-xf", "b.tar"], { cwd: folder });
      execFileSync("sha256sum", ["--check", "--strict", "--quiet", "sha256.txt"], { cwd: folder });
    } finally {
      rmSync(folder, { recursive: true });
    }
    expect(part(/^logs\/.*\/a_long_name\.csv$/)?.content.toString()).toBe(LONG_LOG);
    expect(
      part(/^photos\/.*\.jpg$/)
        ?.content.subarray(0, 3)
        .toString("hex"),
    ).toBe("ffd8ff");
    expect(part("tables/vehicle.csv")?.content.toString()).toMatch(/^id,shop_id,name,plate,owner,vin\n/);
  });
  it("leaves nobody signed in, and holds neither sessions nor the secret of this machine", async () => {
    await target.db("session").insert({ sid: "x", sess: "{}", expire: new Date() });
    await restoreTo(target.url, archive);
    expect(await rowsIn(target.db, "session")).toBe(0);
    expect(parts.map((p) => p.name)).not.toEqual(
      expect.arrayContaining([expect.stringMatching(/session|setting|work_output/)]),
    );
    const secret = await h.db("setting").where({ name: "session-secret" }).first();
    expect(archive.includes(secret.value)).toBe(false);
  });
  it("knows every column that holds bytes: a new one has to be given a place", async () => {
    const { rows } = await h.db.raw(
      "select table_name, column_name from information_schema.columns where table_schema = 'public' and data_type = 'bytea'",
    );
    const known = { ...CONTENT, work_output: "content" };
    expect(Object.fromEntries(rows.map((r: Record<string, string>) => [r.table_name, r.column_name]))).toEqual(known);
  });
  it("of one shop holds what is its own, and nothing of the other", async () => {
    const { shop_id } = await h.db("account").where({ sign_in: "marl" }).first();
    const own = await backupOf(h.url, { shopId: shop_id });
    for (const text of ["Theirs alone", "their-log.csv", "odda"]) {
      expect(archive.includes(text)).toBe(true);
      expect(own.includes(text)).toBe(false);
    }
    await restoreTo(target.url, own);
    const [here, there] = [await everything(h.url), await everything(target.url)];
    for (const [table, rows] of Object.entries(here))
      expect(there[table]).toEqual(rows.filter((r) => String(r).includes(shop_id)));
  });
  it("whose taker goes away ends, and lets go of the database", async () => {
    const gone = new Writable({
      write(_part, _encoding, done) {
        done(new Error("the disk is full"));
      },
    });
    await expect(withClient(h.url, (client) => writeBackup(client, gone, { madeAt: new Date() }))).rejects.toThrow(
      /disk is full/,
    );
    const stop = new AbortController();
    await expect(
      withClient(h.url, (client) =>
        writeBackup(client, new Writable({ write: (_p, _e, done) => done() }), {
          madeAt: new Date(),
          signal: stop.signal,
          onBytes: () => stop.abort(),
        }),
      ),
    ).rejects.toThrow(/abort/i);
  });
});

describe("what is refused, and changes nothing", () => {
  let before: Record<string, unknown[]>;
  beforeAll(async () => {
    await restoreTo(target.url, archive);
    before = await everything(target.url);
  });
  const refused = async (bytes: Buffer, says: RegExp) => {
    await expect(restoreTo(target.url, bytes)).rejects.toThrow(says);
    expect(await everything(target.url)).toEqual(before);
  };
  it("is what isn’t a backup", async () => {
    await refused(Buffer.from("time,n\n1,2\n".repeat(100)), /Nothing was changed/);
    await refused(Buffer.alloc(0), /Nothing was changed/);
    await refused(await archiveOf([{ name: "job.json", content: Buffer.from("{}") }]), /is not a backup of Gearsense/);
    await refused(await edited("gearsense-backup.json", () => "{"), /is not valid JSON/);
    await refused(
      await edited("gearsense-backup.json", (c) => c.toString().replace('"formatVersion": 1', '"formatVersion": 2')),
      /formatVersion/,
    );
  });
  it("is one that is cut short, wherever", async () => {
    const half = parts.slice(0, -1);
    await refused(await archiveOf(half), /cut short: sha256\.txt is missing/);
    for (const share of [0.1, 0.5, 0.95])
      await refused(archive.subarray(0, Math.floor(archive.length * share)), /Nothing was changed/);
  });
  it("is one with a changed byte, a part too many, too few or twice", async () => {
    const log = parts.findIndex((p) => p.name.startsWith("logs/"));
    const changed = parts.map((p, i) => (i === log ? { ...p, content: Buffer.from(p.content) } : p));
    const bytes = changed[log]?.content as Buffer;
    bytes[5] = (bytes[5] as number) ^ 1;
    await refused(await archiveOf(changed), /does not match its hash/);
    await refused(await archiveOf(parts.filter((_, i) => i !== log)), /The backup lacks logs\//);
    await refused(await rehashed(parts.filter((_, i) => i !== log)), /holds not all bytes of the log/);
    const more = { name: "logs/x.csv", content: Buffer.from("x") };
    await refused(await rehashed([...parts.slice(0, -1), more]), /does not belong into one/);
    await refused(await archiveOf([parts[0] as ArchivePart, ...parts]), /twice/);
    await refused(await archiveOf([...parts.slice(0, -1), more, parts.at(-1) as ArchivePart]), /does not belong|list/);
    await refused(await rehashed(parts.filter((p) => !p.name.startsWith("photos/"))), /lacks the picture/);
    const stranger = { name: `logs/${randomUUID()}/a.csv`, content: Buffer.from("x") };
    await refused(await rehashed([...parts.slice(0, -1), stranger]), /nothing of it in its tables/);
  });
  it("is one whose rows do not fit together, or in which nobody is an owner", async () => {
    await refused(
      await edited("tables/job.csv", (c) => c.toString().replace(/(\n[^,]+),[^,]+,/, `$1,${randomUUID()},`)),
      /does not fit together/,
    );
    await refused(
      await edited("tables/account.csv", (c) => c.toString().replaceAll(",owner", ",viewer")),
      /Nobody in the backup is an owner/,
    );
    await refused(
      await edited("tables/vehicle.csv", (c) => c.toString().replace("plate", "colour")),
      /does not fit together|columns/,
    );
  });
  it("is one of another version, with both named", async () => {
    const { migrations } = JSON.parse(part("gearsense-backup.json")?.content.toString() ?? "{}");
    const [before, here] = migrations.slice(-2);
    const older = await edited("gearsense-backup.json", (c) =>
      JSON.stringify({ ...JSON.parse(c.toString()), migrations: migrations.slice(0, -1) }),
    );
    await refused(
      older,
      new RegExp(`stood at ${before}, this one at ${here}\\. Restore it with the version that made it`),
    );
  });
});
