// Guards: what a clumsy or hostile client sends: broken text, other pages, repeated writes, people whose rights were taken,
// slow senders, a database or a disk that is in trouble.
import { createServer, type Server } from "node:http";
import { type AddressInfo, connect as connectTo, type Socket } from "node:net";
import { API } from "@gearsense/contract";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import express from "express";
import { pino } from "pino";
import request from "supertest";
import { type Agent, type Harness, jobList, newJob, openJob, startHarness } from "../testing/harness.ts";
import { errorHandler, troubleOf } from "./errors.ts";

let h: Harness;
let iona: Agent;
let job: { id: string };
beforeAll(async () => {
  h = await startHarness();
  iona = await h.signIn("iona");
  job = await openJob(iona);
});
afterAll(() => h.close());

const entries = () => `/api/jobs/${job.id}/entries`;
const note = (text: string) => ({ kind: "note", body: { text }, baseSeq: 0 });
const raw = (body: string) => iona.post(entries()).set("content-type", "application/json").send(body);
const jobs = async () => (await jobList(iona)).length;
const ID = "00000000-0000-4000-8000-000000000000";

describe("text that cannot be kept", () => {
  it.each([
    ["a null character", JSON.stringify(note("a\u0000b")), /^body\.text: holds a null/],
    ["half a character", '{"kind":"note","baseSeq":0,"body":{"text":"a\\ud800b"}}', /^body\.text: holds half/],
    ["a null character in a key", '{"kind":"note","baseSeq":0,"body":{"a\\u0000":1,"text":"x"}}', /holds a null/],
    ["JSON nested a thousand deep", `${'{"a":'.repeat(1000)}1${"}".repeat(1000)}`, /nested too deeply/],
  ])("%s: refused with its place", async (_name, body, words) => {
    const answer = await raw(body).expect(400);
    expect(answer.body.error.message).toMatch(words);
  });
  it("whole characters beyond the first plane are kept", async () => {
    const { body } = await raw(JSON.stringify(note("𝟓 °C 🛠"))).expect(200);
    expect(body.entries.at(-1).body.text).toBe("𝟓 °C 🛠");
  });
  it("a broken % in the address, an unknown charset or encoding: named, never 500", async () => {
    expect((await iona.get("/api/units/%E0%A4%A/versions").expect(400)).body.error.message).toMatch(/^address: a %/);
    const typed = (type: string) => iona.post(entries()).set("content-type", type).send("{}");
    expect((await typed("application/json; charset=klingon").expect(400)).body.error.message).toMatch(/charset/);
    const packed = await iona
      .post(entries())
      .set("content-type", "application/json")
      .set("content-encoding", "zoo")
      .send("{}");
    expect(packed.status).toBe(400);
    expect(packed.body.error.message).toMatch(/content-encoding/);
    expect((await iona.get(`/api/units/${encodeURIComponent("a\u0000")}/versions`).expect(400)).status).toBe(400);
  });
  it("a body of another type than the route takes is refused", async () => {
    await iona
      .post(entries())
      .set("content-type", "text/plain")
      .send(JSON.stringify(note("x")))
      .expect(415);
    await iona
      .post(`/api/jobs/${job.id}/logs`)
      .query({ fileName: "a.csv", role: "before", bytes: 3 })
      .set("content-type", "text/plain")
      .send("a,b")
      .expect(415);
  });
});

describe("pages of another address", () => {
  const write = (origin: string, host: string) =>
    request(h.app)
      .post("/api/session")
      .set("host", host)
      .set("origin", origin)
      .send({ signIn: "iona", password: "a test password" });
  it("write nothing: neither of another host nor of another port of this one, nor without saying where they are", async () => {
    await write("http://bay.test:4100", "bay.test:4100").expect(200);
    for (const origin of ["http://bay.test:4101", "http://bay.test", "https://evil.test", "null"]) {
      const { body } = await write(origin, "bay.test:4100").expect(403);
      expect(body.error.code).toBe("other-origin");
    }
    await request(h.app).post("/api/session").send({ signIn: "iona", password: "a test password" }).expect(403);
  });
  it("may not have a write by any route", async () => {
    for (const route of Object.values(API).filter((r) => r.method !== "get"))
      expect((await iona[route.method](route.path.replace(/:\w+/g, ID)).set("origin", "http://evil.test")).status).toBe(
        403,
      );
  });
});

describe("a write that is sent twice", () => {
  it("opens one job and adds one entry, also when both are under way at once", async () => {
    const before = await jobs();
    const open = () => iona.post("/api/jobs").set("idempotency-key", "open-0001").send(newJob());
    const [a, b] = await Promise.all([open(), open()]);
    expect([a.status, b.status]).toEqual([200, 200]);
    expect(a.body.id).toBe(b.body.id);
    expect((await open()).body.id).toBe(a.body.id);
    expect(await jobs()).toBe(before + 1);
    const write = () =>
      iona.post(`/api/jobs/${a.body.id}/entries`).set("idempotency-key", "note-0001").send(note("once"));
    await Promise.all([write(), write(), write()]);
    const { body } = await write().expect(200);
    expect(body.entries.filter((e: { kind: string }) => e.kind === "note")).toHaveLength(1);
  });
  it("is the sender's own: another shop's key is another, a key without sense is refused", async () => {
    const odda = await h.signIn("odda");
    const { body } = await odda.post("/api/jobs").set("idempotency-key", "open-0001").send(newJob()).expect(200);
    expect((await iona.get(`/api/jobs/${body.id}`)).status).toBe(404);
    await iona.post("/api/jobs").set("idempotency-key", "short").send(newJob()).expect(400);
  });
  it("a key of another job is refused: its write would be lost without a word", async () => {
    const other = await openJob(iona);
    const write = (id: string) =>
      iona.post(`/api/jobs/${id}/entries`).set("idempotency-key", "note-0003").send(note("mine"));
    await write(job.id).expect(200);
    expect((await write(other.id).expect(422)).body.error.code).toBe("key-used");
    expect((await iona.get(`/api/jobs/${other.id}`).expect(200)).body.entries).toHaveLength(1);
  });
  it("one that was refused may be sent again with its key", async () => {
    const write = (text: string) => iona.post(entries()).set("idempotency-key", "note-0002").send(note(text));
    await write("").expect(400);
    await write("now filled").expect(200);
  });
});

it("twelve jobs opened at once all get numbers, one after another; ten thousand jobs stop nothing", async () => {
  await h.db("job_number").update({ last: 9994 });
  const answers = await Promise.all(Array.from({ length: 12 }, () => iona.post("/api/jobs").send(newJob())));
  expect(answers.map((a) => a.status)).toEqual(Array(12).fill(200));
  expect(answers.map((a) => a.body.number).sort((a, b) => a - b)).toEqual(
    Array.from({ length: 12 }, (_, i) => String(9995 + i)),
  );
  expect((await jobList(iona))[0]?.number).toBe("10006");
});

describe("people", () => {
  it("who are removed, or may do less, lose it at once", async () => {
    const owner = await h.signIn("marl");
    await owner.post(entries()).send(note("still allowed")).expect(200);
    await h.db("account").where({ sign_in: "marl" }).update({ role: "viewer" });
    await owner.post(entries()).send(note("no more")).expect(403);
    expect((await owner.get("/api/session").expect(200)).body.account.role).toBe("viewer");
    await h.db("account").where({ sign_in: "marl" }).delete();
    await owner.get("/api/jobs").expect(401);
  });
  it("who sign out take their cookie along", async () => {
    const fenn = await h.signIn("fenn");
    const [cookie] = (await fenn.delete("/api/session").expect(204)).get("Set-Cookie") ?? [];
    expect(cookie).toMatch(/^gearsense\.sid=;.*Expires=Thu, 01 Jan 1970/);
  });
  it("are limited by the client's address as a trusted proxy tells it, and by none that nobody asked to trust", async () => {
    const proxied = await startHarness(2, { trustProxy: 1 });
    const wrong = (app: Harness, from: string) =>
      app.anyone().post("/api/session").set("x-forwarded-for", from).send({ signIn: "iona", password: "no" });
    for (const from of ["192.0.2.1", "192.0.2.1"]) await wrong(proxied, from).expect(401);
    await wrong(proxied, "192.0.2.1").expect(429);
    await wrong(proxied, "192.0.2.2").expect(401);
    await proxied.close();
    const direct = await startHarness(2);
    for (const from of ["192.0.2.1", "192.0.2.2"]) await wrong(direct, from).expect(401);
    await wrong(direct, "192.0.2.3").expect(429);
    await direct.close();
  });
});

describe("what an entry speaks of", () => {
  it("is of its own job, or 404", async () => {
    const span = { logId: ID, startS: 0, endS: 1 };
    await iona
      .post(entries())
      .send({ ...note("x"), body: { text: "x", span } })
      .expect(404);
    const proof = { beforeLogId: ID, afterLogId: null, sentence: "", note: "" };
    await iona.post(entries()).send({ kind: "proof", body: proof, baseSeq: 0 }).expect(404);
    const retraction = { entryId: ID, reason: "" };
    await iona.post(entries()).send({ kind: "retraction", body: retraction, baseSeq: 0 }).expect(404);
    await iona.post(`/api/jobs/${job.id}/logs/${ID}/analyses`).expect(404);
  });
});

it("dates out as a calendar: text cannot become a line of its own, days lie in our century", async () => {
  const ask = (what: string, dueOn: string) =>
    iona.post("/api/calendar").send({ title: "Job; 1,\\", events: [{ what, dueOn, note: "a\r\nb" }] });
  const { text } = await ask("Level\r\nATTENDEE:mailto:x@example.org", "2026-12-01").expect(200);
  expect(text).not.toMatch(/^ATTENDEE/m);
  expect(text).toMatch(/SUMMARY:Level\\nATTENDEE/);
  for (const day of ["9999-12-31", "0001-01-01", "2026-02-31"])
    expect((await ask("Level", day).expect(400)).body.error.fields).toHaveProperty(["events.0.dueOn"]);
});

describe("a sender", () => {
  let server: Server;
  beforeAll((done) => {
    server = createServer(h.app).listen(0, "127.0.0.1", () => done());
  });
  afterAll((done) => {
    server.closeAllConnections();
    server.close(() => done());
  });
  const port = () => (server.address() as AddressInfo).port;
  const head = (cookie: string, length: number) =>
    [
      `POST /api/jobs/${job.id}/logs?fileName=a.csv&role=before&bytes=${length} HTTP/1.1`,
      "host: x",
      `cookie: ${cookie}`,
      "x-gearsense-client: test",
      "content-type: application/octet-stream",
      `content-length: ${length}`,
      "",
      "",
    ].join("\r\n");
  const cookieOf = async () => {
    const answer = await h.anyone().post("/api/session").send({ signIn: "iona", password: "a test password" });
    return (answer.get("Set-Cookie")?.[0] ?? "").split(";")[0] as string;
  };
  /** The first line of the next answer on a connection. */
  const answer = (socket: Socket) =>
    new Promise<string>((resolve) => {
      let text = "";
      const take = (part: Buffer) => {
        text += part.toString("latin1");
        const end = text.indexOf("\r\n\r\n");
        if (end < 0) return;
        const length = Number(/content-length: (\d+)/i.exec(text)?.[1] ?? 0);
        if (text.length < end + 4 + length) return;
        socket.off("data", take);
        resolve(text.slice(0, text.indexOf("\r\n")));
      };
      socket.on("data", take);
    });
  it("who is slow holds no connection to the database: twelve of them stop nobody", async () => {
    const cookie = await cookieOf();
    const slow = Array.from({ length: 12 }, () => {
      const socket = connectTo(port(), "127.0.0.1");
      socket.write(`${head(cookie, 1000)}time`);
      return socket;
    });
    await Promise.all(slow.map((s) => new Promise((open) => s.once("connect", open))));
    await iona.get("/api/jobs").expect(200);
    const [{ idle }] = (
      await h.db.raw(
        "select count(*)::int as idle from pg_stat_activity where datname = current_database() and state like 'idle in transaction%'",
      )
    ).rows;
    expect(idle).toBe(0);
    await openJob(iona);
    for (const s of slow) s.destroy();
  });
  it("whose file is too large, or binary, is told so and may go on with the same connection", async () => {
    const cookie = await cookieOf();
    const socket = connectTo(port(), "127.0.0.1");
    const large = 101 * 1024 * 1024;
    socket.write(head(cookie, large).replace(`bytes=${large}`, "bytes=5"));
    const told = answer(socket);
    const part = Buffer.alloc(1 << 20, "a");
    for (let sent = 0; sent < large; sent += part.length)
      if (!socket.write(part)) await new Promise((drained) => socket.once("drain", drained));
    expect(await told).toMatch(/ 413 /);
    const next = answer(socket);
    socket.write(`GET /api/health HTTP/1.1\r\nhost: x\r\n\r\n`);
    expect(await next).toMatch(/ 200 /);
    socket.destroy();
  });
});

describe("trouble of the machine", () => {
  it.each([
    [{ code: "53100" }, 507],
    [{ code: "ENOSPC" }, 507],
    [{ code: "ECONNREFUSED" }, 503],
    [{ code: "57P01" }, 503],
    [{ code: "08006" }, 503],
    [{ name: "KnexTimeoutError" }, 503],
    [new Error("Connection terminated unexpectedly"), 503],
  ])("%j is told as what it is, with what to do", (error, status) => {
    expect(troubleOf(error)?.status).toBe(status);
    expect(troubleOf(error)?.message).toMatch(/Nothing was stored/);
  });
  it("nothing else is taken for it", () => {
    for (const error of [{ code: "23505" }, { code: "42P01" }, new Error("boom"), null, undefined, "text"])
      expect(troubleOf(error)).toBeUndefined();
  });
  it("reaches the client as such, and says when to come again", async () => {
    const app = express();
    app.get("/full", () => {
      throw Object.assign(new Error("could not extend file"), { code: "53100" });
    });
    app.get("/gone", () => {
      throw Object.assign(new Error("connect"), { code: "ECONNREFUSED" });
    });
    app.use(errorHandler(pino({ level: "silent" })));
    expect((await request(app).get("/full").expect(507)).body.error.code).toBe("no-room");
    const gone = await request(app).get("/gone").expect(503);
    expect(gone.headers["retry-after"]).toBe("30");
    expect(gone.body.error.message).toMatch(/Try again in a minute/);
  });
});
