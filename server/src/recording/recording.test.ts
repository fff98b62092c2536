// Guards: a drive from a link becomes a log without a reading lost; marks, names, cut links, killed holders, wrong vehicles, taken links.
import { LinkSession, tcpWire, usualDefinition } from "@gearsense/link";
import { readableChannels } from "@gearsense/simulator";
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it, jest } from "@jest/globals";
import { type Agent, type Harness, newJob, startHarness } from "../testing/harness.ts";
import { startVehicleOnLine, type VehicleOnLine } from "../testing/vehicle.ts";
import { startRunning } from "./running.ts";
import type { RecordingStore } from "./store.ts";

const CHANNELS = ["engine_rpm", "pedal_pct", "turbine_rpm", "output_rpm", "fluid_c"];
let h: Harness;
let iona: Agent;
let vehicle: VehicleOnLine;
let job: string;
beforeAll(async () => {
  h = await startHarness();
  iona = await h.signIn("iona");
});
beforeEach(async () => {
  vehicle = await startVehicleOnLine(h.unit);
  job = (await iona.post("/api/jobs").send(newJob()).expect(200)).body.id;
});
afterEach(() => vehicle.close());
afterAll(() => h.close());

const wait = (ms: number) => new Promise((r) => setTimeout(r, ms));
const MARK = "mark-0001";
const at = () => ({ host: "127.0.0.1", port: vehicle.port });
const begin = (more: object = {}, agent = iona, id = job) =>
  agent.post(`/api/jobs/${id}/recording`).send({ ...at(), channels: CHANNELS, role: "before", ...more });
const end = (wanted: "keep" | "drop") => iona.post(`/api/jobs/${job}/recording/end`).send({ wanted });
const mark = (body: object) => iona.post(`/api/jobs/${job}/recording/marks`).send(body);
const now = async () => (await iona.get(`/api/jobs/${job}/recording`).expect(200)).body.recording;
const until = async <T>(look: () => Promise<T>, is: (t: T) => boolean): Promise<T> => {
  for (let i = 0; i < 200; i++) {
    const t = await look();
    if (is(t)) return t;
    await wait(100);
  }
  throw new Error("it did not come to that");
};
const running = () => until(now, (r) => r.rows > 5);

describe("who is on the line", () => {
  it("is told with number, codes and channels; another vehicle than the job’s is named", async () => {
    const look = await iona.get(`/api/jobs/${job}/link`).query(at()).expect(200);
    expect(look.body).toMatchObject({
      simulated: false,
      vin: "SKRW0000000000042",
      otherVehicle: null,
      codes: [{ code: "P0741", module: "transmission", status: 8 }],
    });
    expect(look.body.channels).toEqual(expect.arrayContaining(CHANNELS));
    const other = await iona
      .post("/api/jobs")
      .send(newJob({ vehicle: { name: "Van", plate: "SK 1", owner: "Somebody", vin: "SKRW0000000000043" } }))
      .expect(200);
    const { id } = other.body;
    const told = await iona.get(`/api/jobs/${id}/link`).query(at()).expect(200);
    expect(told.body.otherVehicle).toBe("SKRW0000000000043");
    const asked = await begin({}, iona, id).expect(409);
    expect(asked.body.error.code).toBe("other-vehicle");
    expect(asked.body.error.message).toMatch(/on the line is SKRW0000000000042, the job’s is SKRW0000000000043/);
    expect((await iona.get(`/api/jobs/${id}/recording`)).body.recording).toBeNull();
    await begin({ otherVehicle: true }, iona, id).expect(200);
    await iona.post(`/api/jobs/${id}/recording/end`).send({ wanted: "drop" }).expect(200);
  });
  it("nobody, a machine that is not allowed, and what isn’t a port, are named", async () => {
    const { port } = vehicle;
    await vehicle.close();
    const none = await iona.get(`/api/jobs/${job}/link`).query({ host: "127.0.0.1", port }).expect(502);
    expect(none.body.error.message).toMatch(/nobody listens there.*Look at address and port/);
    const far = await iona.get(`/api/jobs/${job}/link`).query({ host: "10.0.0.7", port }).expect(403);
    expect(far.body.error.message).toMatch(/10\.0\.0\.7 is not among the machines.*LINK_HOSTS/);
    await iona.get(`/api/jobs/${job}/link`).query({ host: "127.0.0.1", port: 70_000 }).expect(400);
    await (await h.signIn("fenn")).get(`/api/jobs/${job}/link`).query({ host: "127.0.0.1", port }).expect(403);
  });
});

describe("a recording", () => {
  it("is kept as a log without a reading lost, its marks as notes on their spans", async () => {
    await begin().expect(200);
    await running();
    await mark({ id: MARK, name: "" }).expect(200);
    await mark({ id: MARK, name: "" }).expect(200);
    await mark({ id: MARK, name: "slip" }).expect(200);
    await mark({ id: "mark-0002", name: "bang", agoS: 3600 }).expect(200);
    expect((await now()).marks).toMatchObject([
      { id: MARK, name: "slip" },
      { id: "mark-0002", timeS: 0, name: "bang" },
    ]);
    const kept = (await end("keep").expect(200)).body.recording;
    expect(kept).toMatchObject({
      state: "kept",
      author: "iona",
      channels: CHANNELS,
      live: { missed: 0, clockJumps: 0, gone: null },
    });
    const file = await iona.get(`/api/jobs/${job}/logs/${kept.logId}/raw`).buffer(true).expect(200);
    const lines = String(file.text ?? file.body)
      .trim()
      .split("\n");
    expect(lines[0]).toBe(`time_s,${CHANNELS.join(",")}`);
    expect(lines.length - 1).toBe(kept.rows);
    const cells = lines.slice(1).map((l) => l.split(","));
    CHANNELS.forEach((c, i) => {
      const got = cells
        .map((row) => row[i + 1])
        .filter((v) => v !== "")
        .map(Number);
      expect(got).toEqual(vehicle.told.get(c));
    });
    const times = cells.map((row) => Number(row[0]));
    for (const [i, t] of times.entries()) expect(t).toBeGreaterThanOrEqual(times[i - 1] ?? 0);
    const { entries } = (await iona.get(`/api/jobs/${job}`)).body;
    const notes = entries.filter((e: { kind: string }) => e.kind === "note").map((e: { body: object }) => e.body);
    expect(notes).toMatchObject([
      { text: "Felt here: bang", span: { logId: kept.logId, startS: 0, endS: 1 } },
      { text: "Felt here: slip", span: { logId: kept.logId } },
    ]);
    await end("keep").expect(409);
    expect((await h.db("recording_piece").where({ recording_id: kept.id })).length).toBe(0);
  });
  it("that is dropped leaves nothing; the next begins anew", async () => {
    await begin().expect(200);
    await running();
    expect((await end("drop").expect(200)).body.recording).toMatchObject({ state: "dropped", logId: null });
    const { entries } = (await iona.get(`/api/jobs/${job}`)).body;
    expect(entries.map((e: { kind: string }) => e.kind)).not.toContain("log");
    await begin().expect(200);
    await end("drop").expect(200);
  });
  it("is one of a job and one of a link", async () => {
    await begin().expect(200);
    expect((await begin().expect(409)).body.error).toMatchObject({
      code: "recording-runs",
      message: expect.stringMatching(/iona is recording this job already/),
    });
    const other = (await iona.post("/api/jobs").send(newJob()).expect(200)).body.id;
    expect((await begin({}, iona, other).expect(409)).body.error.code).toBe("link-taken");
    await end("drop").expect(200);
    await begin({}, iona, other).expect(200);
    await iona.post(`/api/jobs/${other}/recording/end`).send({ wanted: "drop" }).expect(200);
  });
  it("whose link is cut ends with its reason, and is kept with what came", async () => {
    await begin().expect(200);
    await running();
    await vehicle.close();
    const cut = await until(now, (r) => r.state === "cut");
    expect(cut.live.gone).toMatch(/link/);
    expect((await begin().expect(409)).body.error.message).toMatch(/not settled yet: keep it or drop it first/);
    const kept = (await end("keep").expect(200)).body.recording;
    expect(kept.state).toBe("kept");
    expect(kept.rows).toBe(cut.rows);
  });
  it("whose server was killed is cut off, and is kept with what was written", async () => {
    await begin().expect(200);
    const { id } = await running();
    await iona.post(`/api/jobs/${job}/recording/end`).send({ wanted: "drop" }).expect(200);
    // as a killed process leaves it: open, with pieces, and no sign of life
    await h
      .db("recording")
      .where({ id })
      .update({ state: "open", stopped: false, rows: 2, beat_at: new Date(Date.now() - 60_000) });
    const [{ shop_id }] = await h.db("recording").where({ id });
    const pieces = ["time_s,engine_rpm\n0.1,800\n", "0.2,801\n"];
    await h
      .db("recording_piece")
      .insert(pieces.map((content, seq) => ({ shop_id, recording_id: id, seq, content, bytes: content.length })));
    expect((await now()).state).toBe("cut");
    const { logId } = (await end("keep").expect(200)).body.recording;
    const file = await iona.get(`/api/jobs/${job}/logs/${logId}/raw`).buffer(true).expect(200);
    expect(String(file.text ?? file.body)).toBe(pieces.join(""));
  });
  it("in which nothing came cannot be kept", async () => {
    await vehicle.close();
    vehicle = await startVehicleOnLine(h.unit, { faults: { ignitionOff: true } });
    await begin().expect(200);
    await wait(700);
    expect((await end("keep").expect(409)).body.error.message).toMatch(/Nothing was recorded/);
    await end("drop").expect(200);
  });
  it("of a channel that nobody holds, or with a definition that says a thing twice, does not begin", async () => {
    expect((await begin({ channels: ["nowhere_rpm"] }).expect(422)).body.error.message).toMatch(
      /No identifier holds "nowhere_rpm"/,
    );
    const c = { channel: "turbine_rpm", ecu: "transmission", did: "0xA123", bytes: 2, scale: 1, offset: 0 };
    const definition = {
      format: "gearsense-link",
      version: 1,
      name: "ours",
      channels: [c, { ...c, channel: "output_rpm" }],
    };
    expect((await begin({ channels: ["turbine_rpm"], definition }).expect(422)).body.error.message).toMatch(
      /channels\.1\.did: 0xA123 of the transmission is given twice/,
    );
    await (await h.signIn("fenn"))
      .post(`/api/jobs/${job}/recording`)
      .send({ ...at(), channels: CHANNELS, role: "before" })
      .expect(403);
    await (await h.signIn("odda")).get(`/api/jobs/${job}/recording`).expect(404);
  });
});

describe("a database that is away for a moment", () => {
  it("loses nothing and stores nothing twice: a piece whose answer was lost is sent again as it was", async () => {
    const session = await LinkSession.open(await tcpWire("127.0.0.1", vehicle.port));
    const pieces = new Map<number, string>();
    let calls = 0;
    let stopped = false;
    const store = {
      addPiece: async (_: string, seq: number, content: string) => {
        if (pieces.has(seq)) expect(content).toBe(pieces.get(seq));
        pieces.set(seq, content);
        // stored, but nobody hears of it; then twice nothing at all
        if (++calls <= 3) throw new Error("connection lost");
      },
      update: async (_: string, patch: { stopped?: boolean }) => {
        stopped ||= patch.stopped === true;
      },
      byId: async () => undefined,
    } as unknown as RecordingStore;
    const definition = usualDefinition("test", readableChannels(h.unit));
    const ended = jest.fn();
    const running = startRunning(
      store,
      "x",
      session,
      { unit: h.unit, asked: [], wanted: [], definition, channels: CHANNELS },
      () => new Date(),
      ended,
    );
    await until(
      async () => calls,
      (n) => n >= 6,
    );
    await running.stop();
    expect(stopped).toBe(true);
    expect(ended).toHaveBeenCalledTimes(1);
    const lines = [...pieces.entries()].sort(([a], [b]) => a - b).flatMap(([, c]) => c.trimEnd().split("\n"));
    const at = CHANNELS.indexOf("turbine_rpm") + 1;
    const got = lines
      .slice(1)
      .map((l) => l.split(",")[at])
      .filter((v) => v !== "")
      .map(Number);
    expect(got).toEqual(vehicle.told.get("turbine_rpm"));
  });
});
