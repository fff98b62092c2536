// Guards: when a copy is due and which go, just under and over; copies made by themselves, before an update, and what goes wrong with
// them; who may fetch and restore in the page.
import { existsSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { CopiesView, CopyView } from "@gearsense/contract";
import { afterAll, afterEach, beforeEach, describe, expect, it } from "@jest/globals";
import { pino } from "pino";
import { prepare } from "../prepare.ts";
import { everything, restoreTo, rowsIn } from "../testing/backups.ts";
import { freshDatabase, getBytes, type Harness, openJob, startHarness } from "../testing/harness.ts";
import { copiesIn, isDue, makeCopy, nameOf, surplus, withClient } from "./copies.ts";
import { createBackupService } from "./service.ts";

const HOUR_MS = 3_600_000;
const at = (hour: number) => new Date(Date.UTC(2026, 10, 30) + hour * HOUR_MS);
const copy = (hour: number, why: CopyView["why"] = "kept"): CopyView => ({
  name: nameOf(why, at(hour)),
  why,
  madeAt: at(hour).toISOString(),
  bytes: 1,
});

describe("the rule", () => {
  it("a copy is due once its hours have passed, at once where there is none, and never when none are wanted", () => {
    const daily = { everyHours: 24, keep: 7 } as const;
    expect(isDue([], daily, at(0))).toBe(true);
    expect(isDue([copy(0)], daily, new Date(at(24).getTime() - 1))).toBe(false);
    expect(isDue([copy(0)], daily, at(24))).toBe(true);
    expect(isDue([copy(20, "before-update"), copy(0)], daily, at(24))).toBe(true);
    expect(isDue([], { everyHours: 0, keep: 7 }, at(0))).toBe(false);
  });
  it("the oldest of each kind go", () => {
    const list = [9, 8, 7, 6].flatMap((h) => [copy(h), copy(h, "before-update")]);
    expect(surplus(list, 3)).toEqual([copy(6), copy(6, "before-update")]);
    expect(surplus(list, 4)).toEqual([copy(6, "before-update")]);
  });
});

describe("in a folder", () => {
  let folder: string;
  let h: Harness;
  beforeEach(async () => {
    folder = mkdtempSync(join(tmpdir(), "gearsense-test-"));
    h = await startHarness(50, { backupFolder: folder });
  });
  afterEach(async () => {
    await h.close();
    rmSync(folder, { recursive: true });
  });
  const service = (now: () => Date, where = folder) =>
    createBackupService(h.db, h.url, where, now, pino({ level: "silent" }));

  it("copies are made when they are due, the newest kept, other files left alone", async () => {
    writeFileSync(join(folder, "notes.tar"), "mine");
    let now = at(0);
    const backup = service(() => now);
    await backup.keep({ everyHours: 6, keep: 2 });
    for (const hour of [0, 5.9, 6, 12, 18]) {
      now = at(hour);
      await backup.tick();
    }
    expect((await copiesIn(folder)).map((c) => c.madeAt)).toEqual([at(18), at(12)].map((d) => d.toISOString()));
    expect(readdirSync(folder)).toContain("notes.tar");
    expect(await backup.view()).toMatchObject({ trouble: null, running: null, kept: true, alone: false });
  });
  it("one that cannot be made is told until one can, and leaves no half file", async () => {
    const file = join(folder, "in-the-way");
    writeFileSync(file, "");
    await service(() => at(0), file).tick();
    const backup = service(() => at(1));
    expect((await backup.view()).trouble).toMatchObject({ at: at(0).toISOString(), message: expect.any(String) });
    await backup.tick();
    expect((await backup.view()).trouble).toBeNull();
    const stop = new AbortController();
    const work = { madeAt: at(2), signal: stop.signal, onBytes: () => stop.abort() };
    await expect(makeCopy(h.url, folder, "kept", 7, work)).rejects.toThrow(/abort/i);
    expect(readdirSync(folder).filter((f) => f.includes(".part"))).toEqual([]);
  });
  it("of two who make one at once the second is told", async () => {
    await withClient(h.url, async (other) => {
      await other.query("select pg_advisory_lock($1)", [0x67656370]);
      await expect(makeCopy(h.url, folder, "kept", 7, { madeAt: at(0) })).rejects.toThrow(/being made already/);
    });
  });
  it("an owner makes and keeps copies; where another shop is on the server only whoever runs it has them", async () => {
    const [marl, iona] = [await h.signIn("marl"), await h.signIn("iona")];
    for (const path of ["/api/copies", "/api/backup"]) await iona.get(path).expect(403);
    const { body } = await marl.post("/api/copies").expect(200);
    const [made] = (body as CopiesView).copies;
    expect(made?.bytes).toBeGreaterThan(1000);
    expect((await marl.get(`/api/copies/${made?.name}`).expect(403)).body.error.code).toBe("several-shops");
    await marl.post(`/api/copies/${made?.name}/restore`).send({ confirm: "Here" }).expect(403);
    expect((await marl.post("/api/copies/rule").send({ everyHours: 5, keep: 1 }).expect(400)).body.error.code).toBe(
      "invalid",
    );
    for (const [keep, status] of [
      [0, 400],
      [1, 200],
      [60, 200],
      [61, 400],
    ] as const)
      await marl.post("/api/copies/rule").send({ everyHours: 6, keep }).expect(status);
  });
  it("the owner of the only shop restores what was, typing its name; afterwards everybody signs in anew", async () => {
    // the other shop moves out
    for (const table of ["account", "shop"])
      await h
        .db(table)
        .whereIn(table === "shop" ? "name" : "sign_in", ["There", "odda"])
        .delete();
    const [marl, iona] = [await h.signIn("marl"), await h.signIn("iona")];
    await openJob(iona);
    const whole = await everything(h.url);
    const archive = Buffer.from(await getBytes(marl, "/api/backup"));
    await marl.post("/api/copies").expect(200);
    await openJob(iona);
    const send = (confirm: string, bytes: Buffer) =>
      marl.post("/api/restore").query({ confirm }).set("content-type", "application/octet-stream").send(bytes);
    expect((await send("Hare", archive).expect(422)).body.error.fields.confirm).toBe("type Here");
    expect((await send("Here", archive.subarray(0, 5000)).expect(422)).body.error.code).toBe("bad-backup");
    expect(await rowsIn(h.db, "job")).toBe(2);
    expect((await send(" Here ", archive).expect(200)).body).toMatchObject({ shops: ["Here"] });
    expect(await everything(h.url)).toEqual(whole);
    await marl.get("/api/session").expect(401);
    // and from a copy that lies on the server
    const again = await h.signIn("marl");
    await openJob(await h.signIn("iona"));
    const [kept] = ((await again.get("/api/copies").expect(200)).body as CopiesView).copies;
    const file = Buffer.from(await getBytes(again, `/api/copies/${kept?.name}`));
    expect(file.length).toBe(kept?.bytes);
    await again.get("/api/copies/..%2Fsecret").expect(404);
    await again.post(`/api/copies/${kept?.name}/restore`).send({ confirm: "Here" }).expect(200);
    expect(await everything(h.url)).toEqual(whole);
  });
  it("nothing is restored under a recording that runs", async () => {
    for (const table of ["account", "shop"])
      await h
        .db(table)
        .whereIn(table === "shop" ? "name" : "sign_in", ["There", "odda"])
        .delete();
    const marl = await h.signIn("marl");
    const job = await openJob(marl);
    const { shop_id } = await h.db("job").first();
    const [now, none] = [new Date(), "[]"];
    await h.db("recording").insert({
      id: job.id,
      shop_id,
      job_id: job.id,
      address: "x:1",
      role: "before",
      author: "x",
      channels: none,
      vin: null,
      started_at: now,
      beat_at: now,
      seconds: 0,
      rows: 0,
      live: "{}",
      marks: none,
      to_stop: false,
      stopped: false,
      state: "open",
      log_id: null,
    });
    const answer = await marl
      .post("/api/restore")
      .query({ confirm: "Here" })
      .set("content-type", "application/octet-stream")
      .send(Buffer.from("x"));
    expect(answer.body.error).toMatchObject({ code: "link-open", message: expect.stringMatching(/end the recording/) });
  });
});

describe("before an update", () => {
  const made: { folder: string; drop: () => Promise<void> }[] = [];
  afterAll(async () => {
    for (const { folder, drop } of made) {
      await drop();
      rmSync(folder, { recursive: true, force: true });
    }
  });
  /** A database as the version before this one left it. */
  async function older() {
    const fresh = await freshDatabase();
    const folder = join(mkdtempSync(join(tmpdir(), "gearsense-test-")), "copies");
    made.push({ folder: join(folder, ".."), drop: fresh.drop });
    await fresh.db.migrate.down();
    return { ...fresh, folder };
  }
  const nothing = async () => undefined;
  it("a copy is made of what stands there; another start makes none; this version refuses it by name", async () => {
    const { db, url, folder } = await older();
    await prepare(db, url, nothing, folder);
    const [copy, ...more] = await copiesIn(folder);
    expect([copy?.why, more]).toEqual(["before-update", []]);
    await prepare(db, url, nothing, folder);
    expect(await copiesIn(folder)).toHaveLength(1);
    const { readFileSync } = await import("node:fs");
    await expect(restoreTo(url, readFileSync(join(folder, copy?.name ?? "")))).rejects.toThrow(/another version/);
  });
  it("nothing is changed when it cannot be made", async () => {
    const { db, url, folder } = await older();
    writeFileSync(folder, "in the way");
    const stood = (await db.migrate.list())[0].length;
    await expect(prepare(db, url, nothing, folder)).rejects.toThrow(/a copy is made in .* Nothing was changed/);
    expect((await db.migrate.list())[0]).toHaveLength(stood);
    expect(existsSync(`${folder}.part`)).toBe(false);
  });
  it("a lock of migrations that a crash has left clears itself", async () => {
    const { db, url } = await older();
    await db("knex_migrations_lock").update({ is_locked: 1 });
    await prepare(db, url, nothing);
    expect((await db.migrate.list())[1]).toEqual([]);
  });
});
