// Guards: sign-in, cookies, roles and the wall between shops, on a real database.

import { API } from "@gearsense/contract";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import { type Agent, type Harness, newJob, openJob, startHarness } from "../testing/harness.ts";

let h: Harness;
beforeAll(async () => {
  h = await startHarness(3);
});
afterAll(() => h.close());

describe("sign-in", () => {
  it("sets an http-only, same-site cookie and keeps only a hash of the password", async () => {
    const response = await h
      .anyone()
      .post("/api/session")
      .send({ signIn: "iona", password: "a test password" })
      .expect(200);
    const [cookie] = response.get("Set-Cookie") ?? [];
    expect(cookie).toMatch(/HttpOnly/);
    expect(cookie).toMatch(/SameSite=Strict/);
    expect(response.body.account).toMatchObject({ name: "iona", role: "technician" });
    const rows = await h.db("account").select("password_hash");
    for (const r of rows) expect(r.password_hash).toMatch(/^\$argon2id\$/);
    expect(JSON.stringify(response.body)).not.toContain("argon2");
  });
  it("says neither whether name nor password was wrong, and is limited by name", async () => {
    const wrong = (signIn: string) => h.anyone().post("/api/session").send({ signIn, password: "nope" });
    const [a, b] = [await wrong("iona"), await wrong("nobody")];
    expect(a.status).toBe(401);
    expect(b.body.error.message).toBe(a.body.error.message);
    await wrong("iona");
    await wrong("iona");
    const limited = await wrong("iona");
    expect(limited.status).toBe(429);
    expect(limited.body.error.message).toMatch(/Wait ten minutes/);
    // a space before it, capitals: the same name
    expect((await wrong(" IONA")).status).toBe(429);
    await h.anyone().post("/api/session").send({ signIn: " Marl ", password: "a test password" }).expect(200);
  });
  it("makes a new session at sign-in and ends it at sign-out", async () => {
    const agent = await h.signIn("marl");
    await agent.get("/api/session").expect(200);
    await agent.delete("/api/session").expect(204);
    const after = await agent.get("/api/session").expect(401);
    expect(after.body.error.code).toBe("signed-out");
  });
  it("outlives a restart of the database: lost connections are opened anew, the session is still there", async () => {
    const agent = await h.signIn("fenn");
    const cut = await h.db.raw(
      "select pg_terminate_backend(pid) as done from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()",
    );
    expect(cut.rows.length).toBeGreaterThan(0);
    // the sessions' idle connections hear of it by themselves
    await new Promise((heard) => setTimeout(heard, 200));
    const { body } = await agent.get("/api/session").expect(200);
    expect(body.account).toMatchObject({ name: "fenn" });
  });
  it("refuses a malformed body with the field", async () => {
    const { body } = await h.anyone().post("/api/session").send({ signIn: "" }).expect(400);
    expect(body.error.fields).toHaveProperty("signIn");
    await h.anyone().post("/api/session").set("content-type", "application/json").send("{oops").expect(400);
  });
});

const ID = "00000000-0000-4000-8000-000000000000";
const pathOf = (path: string, id = ID) => path.replace(/:\w+/g, id);

describe("every route of the contract", () => {
  const closed = Object.entries(API).filter(([, r]) => r.role !== undefined);
  it.each(closed)("%s needs a sign-in", async (_name, route) => {
    const response = await h.anyone()[route.method](pathOf(route.path));
    expect(response.status).toBe(401);
  });
  it.each(closed.filter(([, r]) => r.role === "technician" || r.role === "owner"))(
    "%s refuses a viewer",
    async (_name, route) => {
      const viewer = await h.signIn("fenn");
      const response = await viewer[route.method](pathOf(route.path)).send({});
      expect(response.status).toBe(403);
      expect(response.body.error.message).toMatch(/may look but not change/);
    },
  );
  it("importing a job is the owner's", async () => {
    const technician = await h.signIn("odda").then(() => h.signIn("marl"));
    expect(
      (await technician.post("/api/import").set("content-type", "application/octet-stream").send(Buffer.from("x")))
        .status,
    ).toBe(422);
  });
});

describe("another shop", () => {
  let mine: Agent;
  let theirs: Agent;
  let job: { id: string };
  beforeAll(async () => {
    mine = await h.signIn("marl");
    theirs = await h.signIn("odda");
    job = await openJob(mine);
  });
  it("sees no job of ours in its list", async () => {
    const { body } = await theirs.get("/api/jobs").expect(200);
    expect(body).toEqual({ jobs: [], next: null, byStage: {} });
  });
  it.each(Object.entries(API).filter(([, r]) => r.path.includes(":jobId")))(
    "cannot reach our job by %s",
    async (_name, route) => {
      const path = route.path.replace(":jobId", job.id).replace(":logId", ID).replace(":photoId", ID);
      const bodies: Record<string, object> = {
        [API.addEntry.path]: { kind: "note", body: { text: "hello" }, baseSeq: 0 },
        [API.startRecording.path]: { host: "127.0.0.1", port: 1, channels: ["engine_rpm"], role: "before" },
        [API.markRecording.path]: { id: ID, name: "" },
        [API.endRecording.path]: { wanted: "drop" },
        [API.startRelearn.path]: { host: "127.0.0.1", port: 1, procedureId: "fill-learn" },
        [API.beginRelearn.path]: {},
        [API.endRelearn.path]: {},
        [API.analyseLog.path]: {
          mapping: [
            { column: 0, channel: null, unit: null },
            { column: 1, channel: null, unit: null },
          ],
        },
      };
      const queries: Record<string, object> = {
        [API.uploadLog.path]: { fileName: "a.csv", role: "before", bytes: 2 },
        [API.link.path]: { host: "127.0.0.1", port: 1 },
        [API.uploadPhoto.path]: { photoId: ID, about: "pan" },
      };
      const query = queries[route.path] ?? { system: "metric" };
      const asked = theirs[route.method](path).query(query);
      const response = await ("body" in route && route.body === "bytes"
        ? asked.set("content-type", "application/octet-stream").send(Buffer.from("ab"))
        : asked.send(bodies[route.path] ?? undefined));
      expect(response.status).toBe(404);
      expect(response.body.error.code).toBe("not-found");
    },
  );
  it("cannot write a row into ours even past the scope: the database refuses", async () => {
    const [row] = await h.db("job").where({ id: job.id });
    const [other] = await h.db("shop").where({ name: "There" });
    await expect(
      h.db("entry").insert({
        id: ID,
        shop_id: other.id,
        job_id: row.id,
        seq: 99,
        at: new Date(),
        author: "x",
        source: "typed",
        kind: "note",
        slot: "note:x",
        body: "{}",
      }),
    ).rejects.toThrow(/foreign key/);
  });
});

it("unknown addresses, unknown ids and malformed ids are clear answers", async () => {
  const agent = await h.signIn("marl");
  expect((await agent.get("/api/nonsense").expect(404)).body.error.message).toMatch(/openapi/);
  expect((await agent.get(`/api/jobs/${ID}`).expect(404)).body.error.message).toMatch(/doesn’t have this job/);
  expect((await agent.get("/api/jobs/not-an-id").expect(404)).body.error.message).toMatch(/mistyped/);
  const { body } = await agent
    .post("/api/jobs")
    .send(newJob({ unitId: "variator" }))
    .expect(400);
  expect(body.error.message).toMatch(/no unit "variator"/);
});
