// Guards: the append-only timeline, versions and conflicts, undo, closing, and migrations on a filled database.

import type { JobView } from "@gearsense/contract";
import { API } from "@gearsense/contract";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import { type Agent, type Harness, jobList, newJob, openJob, startHarness } from "../testing/harness.ts";

let h: Harness;
let iona: Agent;
let marl: Agent;
beforeAll(async () => {
  h = await startHarness();
  iona = await h.signIn("iona");
  marl = await h.signIn("marl");
});
afterAll(() => h.close());

const level = (state: string, baseSeq: number) => ({
  kind: "level",
  body: { state, method: "overflow", fluidC: 40, litresFromFull: null, engineRunning: true, note: "" },
  baseSeq,
});
const write = (agent: Agent, jobId: string, entry: object) => agent.post(`/api/jobs/${jobId}/entries`).send(entry);

describe("opening", () => {
  it("numbers jobs one after another, also when several are opened at once", async () => {
    const made = await Promise.all([1, 2, 3, 4].map(() => openJob(iona)));
    expect(new Set(made.map((j) => j.number)).size).toBe(4);
  });
  it("finds the vehicle that comes again", async () => {
    const [a, b] = [await openJob(iona), await openJob(iona)];
    const ids = await Promise.all([a, b].map(async (j) => (await iona.get(`/api/jobs/${j.id}`)).body.vehicle.id));
    expect(ids[0]).toBe(ids[1]);
  });
  it.each([
    [
      "no complaint",
      newJob({ intake: { complaint: " ", symptoms: [], doneAlready: "", recentEvents: "" } }),
      "intake.complaint",
    ],
    ["a negative mileage", newJob({ odometerKm: -5 }), "odometerKm"],
    ["no mileage", newJob({ odometerKm: null }), "odometerKm"],
    [
      "a gear that doesn't exist",
      newJob({
        intake: {
          complaint: "x",
          symptoms: [{ kind: "slip", where: ["fast"], load: "any", temperature: "any", since: "" }],
          doneAlready: "",
          recentEvents: "",
        },
      }),
      "intake.symptoms.0.where.0",
    ],
  ])("refuses %s with the field, and stores nothing", async (_name, body, field) => {
    const before = (await jobList(iona)).length;
    const response = await iona.post("/api/jobs").send(body).expect(400);
    expect(Object.keys(response.body.error.fields)).toContain(field);
    expect((await jobList(iona)).length).toBe(before);
  });
});

describe("timeline", () => {
  it("keeps author, time and source, and numbers entries without gaps", async () => {
    const job = await openJob(iona);
    await write(marl, job.id, level("low", 0)).expect(200);
    const { body } = await write(iona, job.id, { kind: "note", body: { text: "leak at the pan" }, baseSeq: 0 }).expect(
      200,
    );
    expect(
      body.entries.map((e: { seq: number; author: string; source: string }) => [e.seq, e.author, e.source]),
    ).toEqual([
      [1, "iona", "typed"],
      [2, "marl", "typed"],
      [3, "iona", "typed"],
    ]);
    for (const e of body.entries) expect(Date.now() - Date.parse(e.at)).toBeLessThan(60_000);
  });
  it("cannot be changed or erased, not even by the database's owner", async () => {
    await openJob(iona);
    await expect(h.db("entry").update({ author: "somebody else" })).rejects.toThrow(/append-only/);
    await expect(h.db("entry").delete()).rejects.toThrow(/append-only/);
  });
  it("refuses a stale edit with what stands there now, and takes it with the new version", async () => {
    const job = await openJob(iona);
    await write(iona, job.id, level("ok", 0)).expect(200);
    const stale = await write(marl, job.id, level("low", 0)).expect(409);
    expect(stale.body.error.code).toBe("stale");
    expect(stale.body.error.current).toMatchObject({ author: "iona", body: { state: "ok" }, seq: 2 });
    const stored = await write(marl, job.id, level("low", 2)).expect(200);
    expect(stored.body.entries).toHaveLength(3);
  });
  it("lets only one of many writers of the same version win", async () => {
    const job = await openJob(iona);
    const answers = await Promise.all(
      Array.from({ length: 6 }, (_, i) => write(i % 2 ? iona : marl, job.id, level("ok", 0))),
    );
    expect(answers.filter((a) => a.status === 200)).toHaveLength(1);
    expect(answers.filter((a) => a.status === 409)).toHaveLength(5);
  });
  it("two people writing different things do not disturb each other", async () => {
    const job = await openJob(iona);
    const [a, b] = await Promise.all([
      write(iona, job.id, level("ok", 0)),
      write(marl, job.id, { kind: "fluid", body: { colour: "brown", smell: "none", note: "" }, baseSeq: 0 }),
    ]);
    expect([a.status, b.status]).toEqual([200, 200]);
  });
  it("takes an entry back by a new one, once", async () => {
    const job = await openJob(iona);
    const { body } = await write(iona, job.id, level("ok", 0)).expect(200);
    expect(body.stage).toBe("scan");
    const entryId = body.entries[1].id;
    const undone = await write(iona, job.id, {
      kind: "retraction",
      body: { entryId, reason: "wrong vehicle" },
      baseSeq: 0,
    }).expect(200);
    expect(undone.body.stage).toBe("first-look");
    expect(undone.body.entries).toHaveLength(3);
    await write(iona, job.id, { kind: "retraction", body: { entryId, reason: "" }, baseSeq: 0 }).expect(409);
    await write(iona, job.id, { kind: "retraction", body: { entryId: job.id, reason: "" }, baseSeq: 0 }).expect(404);
  });
  it("a closed job takes no more than notes until the hand-over is taken back", async () => {
    const job = await openJob(iona);
    const end = { kind: "handover", body: { remarks: "", followUps: [] }, baseSeq: 0 };
    expect((await write(iona, job.id, end).expect(409)).body.error.code).toBe("untouched");
    await write(iona, job.id, {
      kind: "work",
      body: { text: "Linkage set", minutes: 10, parts: [] },
      baseSeq: 0,
    }).expect(200);
    const { body } = await write(iona, job.id, end).expect(200);
    expect(body.stage).toBe("closed");
    expect((await write(iona, job.id, level("ok", 0)).expect(409)).body.error.code).toBe("closed");
    await write(iona, job.id, { kind: "note", body: { text: "owner called" }, baseSeq: 0 }).expect(200);
    await write(iona, job.id, {
      kind: "retraction",
      body: { entryId: body.entries[2].id, reason: "" },
      baseSeq: 0,
    }).expect(200);
    await write(iona, job.id, level("ok", 0)).expect(200);
  });
  it.each([
    ["a fluid at 900 °C", { ...level("ok", 0), body: { ...level("ok", 0).body, fluidC: 900 } }, "body.fluidC"],
    ["a level nobody chose", { ...level("ok", 0), body: { ...level("ok", 0).body, state: undefined } }, "body.state"],
    [
      "a code that doesn't exist",
      { kind: "code", body: { code: "BANANA", text: "", module: "", triage: "unclear", reason: "" }, baseSeq: 0 },
      "body.code",
    ],
    ["a log entry from outside", { kind: "log", body: {}, baseSeq: 0 }, "kind"],
  ])("refuses %s and names the place", async (_name, entry, place) => {
    const job = await openJob(iona);
    const response = await write(iona, job.id, entry).expect(400);
    expect(Object.keys(response.body.error.fields)).toContain(place);
  });
});

it("the description of the API names every route and its errors", async () => {
  const { body } = await iona.get("/api/openapi.json").expect(200);
  for (const [name, route] of Object.entries(API)) {
    const operation = body.paths[route.path.replace(/:(\w+)/g, "{$1}")][route.method];
    expect(operation.operationId).toBe(name);
    expect(operation.responses.default.content["application/json"].schema.$ref).toMatch(/ApiError/);
  }
  expect(body.components.schemas.UnitFile.properties.gears).toBeDefined();
});

describe("an entry that waited where there was no network", () => {
  const DAY_MS = 86_400_000;
  const OPENED = Date.parse("2026-11-02T08:00:00Z");
  let clockMs = OPENED;
  let bay: Harness;
  let at: (agoS?: number) => Promise<{ status: number; at: number }>;
  beforeAll(async () => {
    bay = await startHarness(100, { now: () => new Date(clockMs) });
    const agent = await bay.signIn("iona");
    const job = await openJob(agent);
    at = async (agoS) => {
      const entry = { kind: "note", body: { text: "n" }, baseSeq: 0, ...(agoS === undefined ? {} : { agoS }) };
      const { status, body } = await agent.post(`/api/jobs/${job.id}/entries`).send(entry);
      return { status, at: Date.parse((body as JobView).entries?.at(-1)?.at ?? "") };
    };
  });
  afterAll(() => bay.close());
  it("stands at the time it was made, never before the job", async () => {
    clockMs = OPENED + DAY_MS;
    expect((await at(1800)).at).toBe(clockMs - 1_800_000);
    expect((await at(DAY_MS / 1000)).at).toBe(OPENED);
    expect((await at(DAY_MS / 1000 + 1)).at).toBe(OPENED);
    expect((await at()).at).toBe(clockMs);
  });
  it("is refused when it says it is older than ninety days, or of the future", async () => {
    const most = (90 * DAY_MS) / 1000;
    expect([(await at(most)).status, (await at(most + 1)).status, (await at(-1)).status]).toEqual([200, 400, 400]);
  });
});
