// Guards: a relearn at a link: conditions before it, the values before anything is touched, its stages, its ends on the timeline, its
// limits, and that nothing is ever begun on a vehicle that is not simulated.
import { type EcuRoutine, type RoutineStatusRecord, writeRoutineStatus } from "@gearsense/link";
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from "@jest/globals";
import { type Agent, type Harness, newJob, startHarness } from "../testing/harness.ts";
import { startVehicleOnLine, type VehicleOnLine } from "../testing/vehicle.ts";

const READY = { engine_rpm: 700, vehicle_kmh: 0, range: 1, brake_on: 1, fluid_c: 75, supply_v: 14 };
const LEARNED = { adapt_fill_LC: 95, adapt_fill_TC: 150, adapt_fill_HC: 105, adapt_fill_SC: 100, adapt_fill_LB: 110 };
let h: Harness;
let iona: Agent;
let vehicle: VehicleOnLine | undefined;
let job: string;
let values: Record<string, number>;
let status: RoutineStatusRecord | undefined;
let started: number;
let refusal: number | undefined;

const routine: EcuRoutine = {
  id: 0x0301,
  needsSession: true,
  start: () => {
    if (refusal !== undefined) return refusal;
    started++;
    status = { state: "running", code: 0, lever: "D", progressPct: 0, element: 0 };
    return undefined;
  },
  stop: () => {
    if (status?.state === "running") status = { ...status, state: "stopped", code: 0x17, lever: undefined };
  },
  result: () => status && writeRoutineStatus(status),
};

beforeAll(async () => {
  h = await startHarness();
  iona = await h.signIn("iona");
});
afterAll(() => h.close());
beforeEach(async () => {
  values = { ...READY, ...LEARNED };
  status = undefined;
  started = 0;
  refusal = undefined;
  vehicle = await startVehicleOnLine(h.unit, { simulated: { values, routines: [routine] } });
  job = (await iona.post("/api/jobs").send(newJob()).expect(200)).body.id;
});
afterEach(async () => {
  await vehicle?.close();
  vehicle = undefined;
});

const at = () => ({ host: "127.0.0.1", port: vehicle?.port ?? 0 });
const start = (more: object = {}, id = job) =>
  iona.post(`/api/jobs/${id}/relearn`).send({ ...at(), procedureId: "fill-learn", ...more });
const begin = () => iona.post(`/api/jobs/${job}/relearn/begin`).send({});
const end = () => iona.post(`/api/jobs/${job}/relearn/end`).send({});
const run = async () => (await iona.get(`/api/jobs/${job}/relearn`).expect(200)).body.run;
const until = async (is: (r: Awaited<ReturnType<typeof run>>) => boolean) => {
  for (let i = 0; i < 200; i++) {
    const r = await run();
    if (is(r)) return r;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
  throw new Error(`it did not come to that: ${JSON.stringify(await run())}`);
};
const stage = (id: string) => until((r) => h.unit.relearn?.[0]?.machine?.stages[r.state.stage]?.id === id);
const entriesOf = async (kind: string) =>
  (await iona.get(`/api/jobs/${job}`).expect(200)).body.entries
    .filter((e: { kind: string }) => e.kind === kind)
    .map((e: { body: object }) => e.body);
const ready = () => until((r) => r.values.codes === 0 && r.values.supply_v === 14);

describe("before it is begun", () => {
  it("values are read, conditions watched, and nothing begins while one does not hold", async () => {
    values.fluid_c = 41;
    values.brake_on = 0;
    const first = (await start().expect(200)).body.run;
    expect(first).toMatchObject({ phase: "preparing", procedureId: "fill-learn", author: "iona" });
    const seen = await ready();
    expect(seen.before).toMatchObject({ fill_TC: 150, fill_LC: 95 });
    expect((await begin().expect(409)).body.error.message).toMatch(/Not yet: Brake pressed; Fluid at 60 to 95 °C\./);
    values.fluid_c = 75;
    await until((r) => r.values.fluid_c === 75);
    expect((await begin().expect(409)).body.error.message).toMatch(/Not yet: Brake pressed\./);
    expect(started).toBe(0);
    expect((await end().expect(200)).body.run.phase).toBe("over");
    expect(await entriesOf("learned")).toMatchObject([{ how: "link", values: { fill_TC: 150 } }]);
    expect(await entriesOf("relearn")).toEqual([]);
  });
  it("a vehicle that is not simulated is only read from", async () => {
    await vehicle?.close();
    vehicle = await startVehicleOnLine(h.unit);
    const { error } = (await start().expect(409)).body;
    expect(error.code).toBe("only-reads");
    expect(error.message).toMatch(/go through the steps here without a link/);
    expect(await run()).toBeNull();
  });
  it("another vehicle, a link that is taken, an unknown procedure, and who may not, are refused", async () => {
    const other = (
      await iona
        .post("/api/jobs")
        .send(newJob({ vehicle: { name: "Van", plate: "SK 1", owner: "Somebody", vin: "SKRW0000000000043" } }))
        .expect(200)
    ).body.id;
    expect((await start({}, other).expect(409)).body.error.code).toBe("other-vehicle");
    expect((await start({ procedureId: "nothing" }).expect(422)).body.error.message).toMatch(
      /has no relearn "nothing"/,
    );
    expect((await start({ procedureId: "write-back" }).expect(422)).body.error.code).toBe("no-values");
    expect((await start({ procedureId: "write-back", values: { fill_XX: 3 } }).expect(422)).body.error.code).toBe(
      "no-value",
    );
    await (await h.signIn("fenn"))
      .post(`/api/jobs/${job}/relearn`)
      .send({ ...at(), procedureId: "fill-learn" })
      .expect(403);
    await (await h.signIn("odda")).get(`/api/jobs/${job}/relearn`).expect(404);
    await begin().expect(409);
    await end().expect(409);
    await start().expect(200);
    expect((await start().expect(409)).body.error.code).toBe("relearn-runs");
    expect((await start({ otherVehicle: true }, other).expect(409)).body.error.code).toBe("link-taken");
    const record = { ...at(), channels: ["engine_rpm"], role: "before" };
    expect((await iona.post(`/api/jobs/${job}/recording`).send(record).expect(409)).body.error.code).toBe("link-taken");
    await end().expect(200);
    await iona.post(`/api/jobs/${job}/recording`).send(record).expect(200);
    expect((await start().expect(409)).body.error.code).toBe("link-taken");
    await iona.post(`/api/jobs/${job}/recording/end`).send({ wanted: "drop" }).expect(200);
  });
});

describe("a routine", () => {
  const going = async () => {
    await start().expect(200);
    await ready();
    await begin().expect(200);
    await stage("to-d");
  };
  it("is followed through its stages; values before and after stand on the timeline", async () => {
    await going();
    expect(started).toBe(1);
    values.range = 4;
    await stage("first");
    status = { state: "running", code: 0, lever: "N", progressPct: 60, element: 0 };
    await stage("to-n");
    expect((await run()).routine).toMatchObject({ lever: "N", progressPct: 60 });
    values.range = 3;
    await stage("second");
    status = { state: "running", code: 0, lever: "P", progressPct: 95, element: 0 };
    values.adapt_fill_TC = 107;
    await stage("to-p");
    values.range = 1;
    await stage("result");
    status = { state: "done", code: 1, lever: undefined, progressPct: 100, element: 0 };
    const over = await until((r) => r.phase === "over");
    expect(over.state.end).toMatchObject({ outcome: "done" });
    expect(await entriesOf("relearn")).toMatchObject([
      { procedureId: "fill-learn", how: "link", outcome: "done", before: { fill_TC: 150 }, after: { fill_TC: 107 } },
    ]);
    const learned = (await iona.get(`/api/jobs/${job}/learned`).expect(200)).body;
    // of this visit; those of earlier ones of the same vehicle stand before them
    const { number } = (await iona.get(`/api/jobs/${job}`).expect(200)).body;
    const own = learned.readings.filter((r: { jobNumber: string }) => r.jobNumber === number);
    expect(own.map((r: { values: Record<string, number> }) => r.values.fill_TC)).toEqual([150, 107]);
    expect(learned.readings.length).toBeGreaterThan(own.length);
    expect(learned.readings.slice(-2)).toEqual(own);
  });
  it("is over when the brake is let go, and is not left running", async () => {
    await going();
    values.brake_on = 0;
    await until((r) => r.phase === "over");
    expect(await entriesOf("relearn")).toMatchObject([
      { outcome: "aborted", ends: "again", say: expect.stringMatching(/brake was released/) },
    ]);
    expect(status?.state).toBe("stopped");
  });
  it("that fails names its part and says what to do", async () => {
    await going();
    status = { state: "failed", code: 0x21, lever: undefined, progressPct: 20, element: 2 };
    await until((r) => r.phase === "over");
    expect(await entriesOf("relearn")).toMatchObject([
      { outcome: "failed", ends: "repair", code: 0x21, element: h.unit.elements[1]?.id },
    ]);
  });
  it("that the control unit refuses is told in its words", async () => {
    refusal = 0x86;
    await start().expect(200);
    await ready();
    await begin().expect(200);
    await until((r) => r.phase === "over");
    expect(await entriesOf("relearn")).toMatchObject([
      { outcome: "failed", say: expect.stringMatching(/it is too hot/) },
    ]);
  });
  it("is ended by hand; a link that goes is told", async () => {
    await going();
    await end().expect(200);
    expect(status?.state).toBe("stopped");
    expect(await entriesOf("relearn")).toMatchObject([{ outcome: "aborted", say: "It was ended by hand" }]);
    await going();
    await vehicle?.close();
    await until((r) => r.phase === "over");
    expect((await entriesOf("relearn"))[1]).toMatchObject({
      outcome: "aborted",
      say: expect.stringMatching(/link was lost/),
    });
  });
  it.each([
    ["a code that comes on the way", { codes: 1 }, /code was stored/],
    ["fluid that leaves its window", { fluid_c: 102 }, /temperature window/],
    ["a vehicle that moves", { vehicle_kmh: 3 }, /vehicle moved/],
  ])("is over by %s: by its guard, or as the control unit tells", async (_, more, says) => {
    await going();
    Object.assign(values, more);
    // what is no guard of the procedure the control unit watches itself
    if ("fluid_c" in more) status = { state: "stopped", code: 0x15, lever: undefined, progressPct: 10, element: 0 };
    if ("codes" in more) status = { state: "stopped", code: 0x16, lever: undefined, progressPct: 10, element: 0 };
    await until((r) => r.phase === "over");
    expect(await entriesOf("relearn")).toMatchObject([{ outcome: "aborted", say: expect.stringMatching(says) }]);
  });
  it("does not begin at a low battery, and one just right", async () => {
    values.supply_v = 12.3;
    await start().expect(200);
    await until((r) => r.values.supply_v === 12.3 && r.values.codes === 0);
    expect((await begin().expect(409)).body.error.message).toBe("Not yet: Supply above 12.4 V.");
    values.supply_v = 12.4;
    await until((r) => r.values.supply_v === 12.4);
    await begin().expect(200);
    await end().expect(200);
  });
  it("is begun so often on one day as its file says, and again after work", async () => {
    const { repeats = 0 } = h.unit.relearn?.[0]?.machine ?? {};
    for (let i = 0; i < repeats; i++) {
      await going();
      values.brake_on = 0;
      await until((r) => r.phase === "over");
      values.brake_on = 1;
    }
    expect((await start().expect(409)).body.error).toMatchObject({
      code: "too-often",
      message: expect.stringMatching(/Started 3 times today without success; the unit file allows 3/),
    });
    const work = { text: "Brake lamp switch set", minutes: 5, parts: [] };
    await iona.post(`/api/jobs/${job}/entries`).send({ kind: "work", body: work, baseSeq: 0 }).expect(200);
    await start().expect(200);
    await end().expect(200);
  });
  it("whose follower was killed is settled as it was seen last", async () => {
    await going();
    await end().expect(200);
    const [{ id }] = await h.db("relearn").where({ job_id: job });
    // as a killed process leaves it
    const row = await h.db("relearn").where({ id }).first();
    const { end: _, ...state } = row.live.state;
    await h
      .db("relearn")
      .where({ id })
      .update({
        phase: "running",
        beat_at: new Date(Date.now() - 60_000),
        live: JSON.stringify({ ...row.live, state }),
      });
    expect((await run()).phase).toBe("cut");
    expect((await end().expect(200)).body.run.phase).toBe("over");
    expect(await entriesOf("relearn")).toMatchObject([
      { outcome: "aborted", say: "It was ended by hand" },
      { outcome: "aborted", say: expect.stringMatching(/server that ran it stopped/) },
    ]);
  });
});

it("noted values are written back one by one and read again", async () => {
  await start({ procedureId: "write-back", values: { fill_TC: 120, fill_LC: 99 } }).expect(200);
  await ready();
  await begin().expect(200);
  const over = await until((r) => r.phase === "over");
  expect(over.state.end).toMatchObject({ outcome: "done" });
  expect(values).toMatchObject({ adapt_fill_TC: 120, adapt_fill_LC: 99, adapt_fill_HC: 105 });
  expect(await entriesOf("relearn")).toMatchObject([
    { procedureId: "write-back", before: { fill_TC: 150 }, after: { fill_TC: 120, fill_LC: 99 } },
  ]);
});
