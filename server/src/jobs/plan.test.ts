// Guards: a decision becomes a plan; ticks keep its order on the server, whoever sends them; a hold overridden stands in the report.
import type { PlanOfJob } from "@gearsense/contract";
import { afterAll, beforeAll, beforeEach, describe, expect, it } from "@jest/globals";
import { type Agent, type Harness, openJob, startHarness } from "../testing/harness.ts";

let h: Harness;
let iona: Agent;
let marl: Agent;
let fenn: Agent;
let jobId: string;
beforeAll(async () => {
  h = await startHarness();
  [iona, marl, fenn] = await Promise.all([h.signIn("iona"), h.signIn("marl"), h.signIn("fenn")]);
});
afterAll(() => h.close());

const write = (agent: Agent, kind: string, body: object, baseSeq = 0) =>
  agent.post(`/api/jobs/${jobId}/entries`).send({ kind, body, baseSeq });
const decide = (repairId: string) =>
  write(iona, "decision", {
    repairId,
    title: "Decided",
    reason: "It is so.",
    expectedCost: 400,
    cures: 0.9,
    modelVersion: 1,
    odds: [],
    levelKnown: true,
  });
const step = (key: string, more: object = {}) => ({
  step: key,
  title: key,
  minutes: 4,
  values: [],
  trouble: [],
  note: "",
  overridden: "",
  ...more,
});
const plan = async (): Promise<PlanOfJob> => (await iona.get(`/api/jobs/${jobId}/plan`).expect(200)).body;
const value = (id: string, text: string) => ({ id, name: id, value: text });
const ready = async () => {
  await write(iona, "step", step("before-work/identify")).expect(200);
  await write(iona, "step", step("before-work/codes")).expect(200);
  await write(iona, "step", step("before-work/level-overflow", { values: [value("level", "correct")] })).expect(200);
  await write(iona, "step", step("before-work/parts")).expect(200);
  await write(iona, "step", step("before-work/pictures")).expect(200);
};

beforeEach(async () => {
  jobId = (await openJob(iona)).id;
});

describe("the plan of a job", () => {
  it("is made from its decision, with the unit as the job has it", async () => {
    const none = await iona.get(`/api/jobs/${jobId}/plan`).expect(409);
    expect(none.body.error.code).toBe("nothing-decided");
    await decide("converter+mount").expect(200);
    const made = await plan();
    expect(made.without).toEqual(["mount"]);
    expect(made.order.map((o) => o.key).sort()).toEqual(made.steps.map((s) => s.key).sort());
    expect(made.ways.find((w) => w.end === "unit-out")).toEqual({
      end: "unit-out",
      chosen: "unit-out-longitudinal-alone",
      of: [
        { id: "unit-out-longitudinal-alone", title: expect.any(String) },
        { id: "unit-out-longitudinal-two", title: expect.any(String) },
      ],
    });
    // whoever may look may look at it; another shop may not
    await fenn.get(`/api/jobs/${jobId}/plan`).expect(200);
    await (await h.signIn("odda")).get(`/api/jobs/${jobId}/plan`).expect(404);
  });
  it("is empty where no procedure does the repair, and nothing can be ticked of it", async () => {
    await decide("mount").expect(200);
    expect(await plan()).toMatchObject({ without: ["mount"], steps: [] });
    const { body } = await write(iona, "step", step("before-work/identify")).expect(409);
    expect(body.error.message).toMatch(/No procedure does what was decided/);
  });
  it("takes another way until something is done on the one that was chosen", async () => {
    await decide("converter").expect(200);
    await write(iona, "plan", { ways: ["unit-out-longitudinal-two"] }).expect(200);
    expect((await plan()).steps.some((s) => s.key === "unit-out-longitudinal-two/exhaust-off")).toBe(true);
    await ready();
    await write(iona, "step", step("unit-out-longitudinal-two/exhaust-off")).expect(200);
    const seq = (await iona.get(`/api/jobs/${jobId}`)).body.entries.find(
      (e: { kind: string }) => e.kind === "plan",
    ).seq;
    const { body } = await write(iona, "plan", { ways: [] }, seq).expect(409);
    expect(body.error).toMatchObject({
      code: "not-yet",
      message: expect.stringMatching(/Steps of the chosen way are done already/),
    });
  });
});

describe("ticks", () => {
  beforeEach(async () => {
    await decide("fluid").expect(200);
  });
  it("are refused before what they wait for, by its title", async () => {
    const { body } = await write(iona, "step", step("drain/plug-out")).expect(409);
    expect(body.error.message).toMatch(/“Drain plug out” waits for: .*Read the fluid’s temperature|and \d+ more/);
    expect((await iona.get(`/api/jobs/${jobId}`)).body.entries.some((e: { kind: string }) => e.kind === "step")).toBe(
      false,
    );
  });
  it("of two people at once are one: the slower is told who was faster", async () => {
    const both = await Promise.all([iona, marl].map((agent) => write(agent, "step", step("before-work/identify"))));
    expect(both.map((r) => r.status).sort()).toEqual([200, 409]);
    expect(both.find((r) => r.status === 409)?.body.error.code).toBe("stale");
  });
  it("of two people at different steps both count", async () => {
    await write(iona, "step", step("before-work/identify")).expect(200);
    const both = await Promise.all([
      write(iona, "step", step("before-work/codes")),
      write(marl, "step", step("before-work/parts")),
    ]);
    expect(both.map((r) => r.status)).toEqual([200, 200]);
  });
  it("on hold need the value that opens it, or a reason, which the report names", async () => {
    await ready();
    await write(iona, "step", step("drain/cool")).expect(200);
    const hot = { values: [value("temperature", "75")] };
    const { body } = await write(iona, "step", step("drain/temperature", hot)).expect(409);
    expect(body.error.message).toMatch(/is on hold: .*outside its limits/);
    await write(iona, "step", step("drain/temperature", { ...hot, overridden: "long gloves, face shield" })).expect(
      200,
    );
    const report = await iona.get(`/api/jobs/${jobId}/report`).query({ system: "metric" }).expect(200);
    const section = report.body.sections.find((s: { id: string }) => s.id === "steps");
    expect(JSON.stringify(section)).toMatch(/Hold overridden at .*long gloves, face shield/);
    expect(JSON.stringify(section)).toMatch(/7 steps of the plan, 28 min taken/);
  });
  it("are not taken back under what was done because of them", async () => {
    await write(iona, "step", step("before-work/identify")).expect(200);
    const { body: job } = await write(iona, "step", step("before-work/codes")).expect(200);
    const entry = (key: string) => job.entries.find((e: { body: { step?: string } }) => e.body.step === key).id;
    const take = (key: string) => write(iona, "retraction", { entryId: entry(key), reason: "mistake" });
    const { body } = await take("before-work/identify").expect(409);
    expect(body.error.message).toMatch(/Take back first what was done after it: Read and keep codes/);
    await take("before-work/codes").expect(200);
    await take("before-work/identify").expect(200);
  });
  it("by a viewer are refused", async () => {
    await write(fenn, "step", step("before-work/identify")).expect(403);
  });
});

it("publishes the schema of procedures without a sign-in", async () => {
  const { body } = await h.anyone().get("/api/schemas/procedure.json").expect(200);
  expect(body.title).toBe("Gearsense procedure");
});
