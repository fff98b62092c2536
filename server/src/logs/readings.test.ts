// Guards: how a log is read is kept with its analysis: packed files, spans, joined logs, earlier results, profiles of the
// shop, captures with their definition; the cold and the hot drive are told apart.
import type { LogAnalysisView, ResponseOf } from "@gearsense/contract";
import { ANALYSIS_VERSION } from "@gearsense/core/drive";
import type { ImportProfile } from "@gearsense/core/log";
import { openLog, proposeMapping } from "@gearsense/core/log";
import { captureDefinition, DIALECTS, exportLog, simulateDrive } from "@gearsense/simulator";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import {
  type Agent,
  analysedLog,
  type Harness,
  madeLog,
  openJob,
  startHarness,
  storeLog,
  WORN_THIRD_CLUTCH,
} from "../testing/harness.ts";

let h: Harness;
let iona: Agent;
let odda: Agent;
let fenn: Agent;
let columns: ReadonlyMap<string, Float64Array>;
let worn: ReturnType<typeof madeLog>;
beforeAll(async () => {
  h = await startHarness();
  [iona, odda, fenn] = await Promise.all([h.signIn("iona"), h.signIn("odda"), h.signIn("fenn")]);
  worn = madeLog(h.unit, [WORN_THIRD_CLUTCH]);
  columns = simulateDrive({ unit: h.unit, seed: 4, rateHz: 10, durationS: 120, profile: "town", faults: [] }).columns;
});
afterAll(() => h.close());

const store = async (jobId: string, bytes: Uint8Array, fileName = "log.csv") =>
  ((await storeLog(iona, jobId, Buffer.from(bytes), "before", fileName)).body as { logId: string }).logId;
const mappingOf = (bytes: Uint8Array, definition?: ReturnType<typeof captureDefinition>) =>
  proposeMapping(openLog(bytes, { definition }).table, h.unit).map(({ column, channel, unit }) => ({
    column,
    channel,
    unit,
  }));
const analyse = (jobId: string, logId: string, body: object) =>
  iona.post(`/api/jobs/${jobId}/logs/${logId}/analysis`).send(body);
type History = ResponseOf<"analyses">;
const history = async (jobId: string, logId: string) =>
  (await iona.get(`/api/jobs/${jobId}/logs/${logId}/analyses`).expect(200)).body as History;

describe("files of any kind", () => {
  it.each(["gzip-epoch", "zip-epoch-ms", "bare-wide-characters", "long"] as const)(
    "%s is stored as it came and analysed",
    async (dialect) => {
      const job = await openJob(iona);
      const bytes = exportLog(columns, DIALECTS[dialect]);
      const logId = await store(job.id, bytes);
      const { body } = await analyse(job.id, logId, { mapping: mappingOf(bytes) }).expect(200);
      const { report, analysis } = (body as { result: LogAnalysisView }).result;
      expect(analysis.findings).toEqual([]);
      expect(analysis.shifts.length).toBeGreaterThan(3);
      const { read, ...parts } = report.lines ?? { read: Number.NaN };
      expect(Object.values(parts).reduce((a, b) => a + b, 0)).toBe(read);
    },
  );
  it("a capture needs its definition, which is kept with the analysis", async () => {
    const job = await openJob(iona);
    const bytes = exportLog(columns, DIALECTS.capture);
    const logId = await store(job.id, bytes, "bus.log");
    const definition = captureDefinition(columns);
    const mapping = mappingOf(bytes, definition);
    const refused = await analyse(job.id, logId, { mapping }).expect(422);
    expect(refused.body.error.message).toMatch(/bus\.log: This is a raw bus capture.*0x1A0/);
    const bad = { ...definition, channels: [{ ...definition.channels[0], id: "1A0" }] };
    expect((await analyse(job.id, logId, { mapping, definition: bad }).expect(400)).body.error.message).toMatch(
      /0x1A0/,
    );
    await analyse(job.id, logId, { mapping, definition }).expect(200);
    const { body } = await iona.get(`/api/jobs/${job.id}/logs/${logId}/analysis`).expect(200);
    expect(body.reading.definition.channels).toHaveLength(definition.channels.length);
  });
  it("what the person knows better of how it is written is kept as well", async () => {
    const job = await openJob(iona);
    const bytes = exportLog(columns, { ...DIALECTS.plain, delimiter: "\t" });
    const logId = await store(job.id, bytes);
    const refused = await analyse(job.id, logId, { mapping: mappingOf(bytes), dialect: { delimiter: ";" } }).expect(
      422,
    );
    expect(refused.body.error.message).toMatch(/No table|one column/);
    await analyse(job.id, logId, { mapping: mappingOf(bytes), dialect: { headerLine: 1, delimiter: "\t" } }).expect(
      200,
    );
  });
  it("says what drive a log is", async () => {
    const job = await openJob(iona);
    const bytes = Buffer.from(exportLog(columns));
    const { body } = await iona
      .post(`/api/jobs/${job.id}/logs`)
      .query({ fileName: "a.csv", role: "before", bytes: bytes.length, label: "cold" })
      .set("content-type", "application/octet-stream")
      .send(bytes)
      .expect(200);
    expect(body.job.entries.at(-1).body).toMatchObject({ label: "cold", role: "before" });
  });
});

describe("spans and joined logs", () => {
  it("a span is judged alone, and the whole again", async () => {
    const job = await openJob(iona);
    const logId = await analysedLog(iona, job.id, worn);
    const cut = await analyse(job.id, logId, { mapping: worn.mapping, spanS: [0, 12] }).expect(200);
    expect(cut.body.result.analysis.durationS).toBeCloseTo(12, 6);
    const kinds = (body: { result: LogAnalysisView }) => body.result.analysis.findings.map((f) => f.kind);
    expect(kinds(cut.body)).not.toContain("slip");
    const short = await analyse(job.id, logId, { mapping: worn.mapping, spanS: [10, 14] }).expect(422);
    expect(short.body.error.message).toMatch(/holds 4\.0 s/);
    const whole = await analyse(job.id, logId, { mapping: worn.mapping }).expect(200);
    expect(kinds(whole.body)).toContain("slip");
    const list = await history(job.id, logId);
    expect(list.map((a) => a.spanS)).toEqual([undefined, [0, 12], undefined]);
  });
  it("logs are judged as one drive: what one lacks the other shows", async () => {
    const job = await openJob(iona);
    const calm = exportLog(columns);
    const first = await store(job.id, calm, "calm.csv");
    await analyse(job.id, first, { mapping: mappingOf(calm) }).expect(200);
    const second = await store(job.id, Buffer.from(worn.text), "worn.csv");
    const early = await analyse(job.id, first, { mapping: mappingOf(calm), joined: [second] }).expect(409);
    expect(early.body.error.message).toMatch(/worn\.csv was not analysed yet/);
    await analyse(job.id, second, { mapping: worn.mapping }).expect(200);
    const { body } = await analyse(job.id, first, { mapping: mappingOf(calm), joined: [second] }).expect(200);
    const { analysis, reading } = (body as { result: LogAnalysisView }).result;
    expect(analysis.durationS).toBeGreaterThan(400);
    expect(analysis.findings.map((f) => f.kind)).toContain("slip");
    expect(reading.joined?.map((j) => j.fileName)).toEqual(["worn.csv"]);
    // the seam between the two isn't a shift
    expect(analysis.shifts.filter((s) => s.commandS > 119.95 && s.commandS < 129.95)).toEqual([]);
  });
});

describe("results of an earlier version", () => {
  it("are made anew without being asked, once for all who ask; the earlier one stays, the timeline says nothing", async () => {
    const job = await openJob(iona);
    const logId = await analysedLog(iona, job.id, worn);
    const entriesNow = async () => (await iona.get(`/api/jobs/${job.id}`).expect(200)).body.entries.length;
    const [before, odds] = [
      await entriesNow(),
      (await iona.get(`/api/jobs/${job.id}/suspects`).expect(200)).body.ranking,
    ];
    await h.db.raw("update analysis set analysis = jsonb_set(analysis, '{version}', '1') where log_id = ?", [logId]);
    // whoever may look may have it made: a viewer and a technician at once
    const [a, b] = await Promise.all(
      [fenn, iona].map((agent) => agent.get(`/api/jobs/${job.id}/suspects`).expect(200)),
    );
    expect(a?.body.ranking).toEqual(odds);
    expect(b?.body.ranking).toEqual(odds);
    expect((await history(job.id, logId)).map((x) => x.version)).toEqual([ANALYSIS_VERSION, 1]);
    expect(await entriesNow()).toBe(before);
    await iona.get(`/api/jobs/${job.id}/proof`).expect(200);
  });
  it("that this version cannot read say so, and stay", async () => {
    const job = await openJob(iona);
    const logId = await analysedLog(iona, job.id, worn);
    await h.db.raw(
      "update analysis set analysis = jsonb_set(analysis, '{version}', '1'), reading = jsonb_set(reading, '{mapping}', '[]') where log_id = ?",
      [logId],
    );
    const { body } = await iona.get(`/api/jobs/${job.id}/suspects`).expect(409);
    expect(body.error).toMatchObject({
      code: "outdated-analysis",
      message: expect.stringMatching(/cannot be read as the job is now: /),
    });
    expect(await history(job.id, logId)).toHaveLength(1);
  });
  it("may be made anew by hand as well: then the timeline says so", async () => {
    const job = await openJob(iona);
    const logId = await analysedLog(iona, job.id, worn);
    await h.db.raw("update analysis set analysis = jsonb_set(analysis, '{version}', '1') where log_id = ?", [logId]);
    await fenn.post(`/api/jobs/${job.id}/logs/${logId}/analyses`).expect(403);
    const { body } = await iona.post(`/api/jobs/${job.id}/logs/${logId}/analyses`).expect(200);
    expect(body.result.analysis.version).toBe(ANALYSIS_VERSION);
    const list = await history(job.id, logId);
    expect(list.map((a) => a.version)).toEqual([ANALYSIS_VERSION, 1]);
    expect(list[1]?.findings).toEqual(list[0]?.findings);
    await iona.get(`/api/jobs/${job.id}/suspects`).expect(200);
  });
  it("are made anew when a newer version starts, once, before anybody looks; what is handed over is left alone", async () => {
    const [open, closed] = [await openJob(iona), await openJob(iona)];
    const [of, past] = [await analysedLog(iona, open.id, worn), await analysedLog(iona, closed.id, worn)];
    await h.db.raw(
      "update analysis set version = 1, analysis = jsonb_set(analysis, '{version}', '1') where log_id in (?, ?)",
      [of, past],
    );
    await h.db.raw("update job set stage = 'closed' where id = ?", [closed.id]);
    // two processes that start together
    const left = await Promise.all([h.renew(), h.renew()]);
    expect(left[0] + left[1]).toBe(1);
    while ((await history(open.id, of)).length < 2) await new Promise((r) => setTimeout(r, 50));
    expect((await history(open.id, of)).map((x) => x.version)).toEqual([ANALYSIS_VERSION, 1]);
    expect((await history(closed.id, past)).map((x) => x.version)).toEqual([1]);
    expect(await h.renew()).toBe(0);
    // nobody asked: the timeline says nothing of it
    const { body } = await iona.get(`/api/jobs/${open.id}`).expect(200);
    expect(body.entries.filter((e: { kind: string }) => e.kind === "analysis")).toHaveLength(1);
  });
  it("a log that was never analysed has none to make anew", async () => {
    const job = await openJob(iona);
    const logId = await store(job.id, exportLog(columns));
    expect((await iona.post(`/api/jobs/${job.id}/logs/${logId}/analyses`).expect(409)).body.error.code).toBe(
      "not-analysed",
    );
    expect(await history(job.id, logId)).toEqual([]);
  });
});

describe("profiles", () => {
  const profile = (patch: Partial<ImportProfile> = {}): ImportProfile => ({
    format: "gearsense-import-profile",
    version: 1,
    name: "scan tool, bay 2",
    dialect: { delimiter: ";" },
    columns: [{ header: "ENG SPD", unitText: "rpm", channel: "engine_rpm", unit: "rpm" }],
    ...patch,
  });
  const profiles = async (agent: Agent) =>
    (await agent.get("/api/import-profiles").expect(200)).body as ImportProfile[];

  it("are kept for the shop, replaced by name, seen by no other shop, forgotten", async () => {
    await iona.post("/api/import-profiles").send(profile()).expect(200);
    await iona
      .post("/api/import-profiles")
      .send(profile({ dialect: { delimiter: "," } }))
      .expect(200);
    expect(await profiles(iona)).toEqual([profile({ dialect: { delimiter: "," } })]);
    expect(await profiles(fenn)).toHaveLength(1);
    expect(await profiles(odda)).toEqual([]);
    await odda.delete(`/api/import-profiles/${encodeURIComponent("scan tool, bay 2")}`).expect(404);
    await iona.delete(`/api/import-profiles/${encodeURIComponent("scan tool, bay 2")}`).expect(204);
    expect(await profiles(iona)).toEqual([]);
  });
  it("a viewer keeps none, and a wrong one is refused with its place", async () => {
    await fenn.post("/api/import-profiles").send(profile()).expect(403);
    const nameless = await iona
      .post("/api/import-profiles")
      .send(profile({ name: " " }))
      .expect(400);
    expect(JSON.stringify(nameless.body)).toMatch(/name is needed/);
    const definition = captureDefinition(columns);
    const twice = { ...definition, channels: [definition.channels[0], definition.channels[0]] };
    const bad = await iona
      .post("/api/import-profiles")
      .send(profile({ definition: twice as never }))
      .expect(422);
    expect(bad.body.error.message).toMatch(/definition\.channels\.1\.channel.*given twice/);
  });
});
