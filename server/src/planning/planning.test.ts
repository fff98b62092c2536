// Guards: the week of a shop, its promises and what moves them; ways, papers and own minutes through the API; who may write.
import type { PlanOfJob, WaysView, WeekView } from "@gearsense/contract";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import { type Agent, type Harness, openJob, startHarness } from "../testing/harness.ts";
import { FIRST_SETUP } from "./store.ts";

let h: Harness;
let iona: Agent;
let fenn: Agent;
beforeAll(async () => {
  h = await startHarness();
  iona = await h.signIn("iona");
  fenn = await h.signIn("fenn");
});
afterAll(() => h.close());

async function decided(repairId: string, unitId = "brae-p6"): Promise<string> {
  const { id } = await openJob(iona, { unitId, odometerKm: 120_000 });
  await write(id, "decision", {
    repairId,
    title: repairId,
    reason: "test",
    expectedCost: 100,
    cures: 0.8,
    modelVersion: 1,
    odds: [],
    levelKnown: true,
  }).expect(200);
  return id;
}
const write = (id: string, kind: string, body: object, baseSeq = 0) =>
  iona.post(`/api/jobs/${id}/entries`).send({ kind, body, baseSeq });
const week = async (): Promise<WeekView> => (await iona.get("/api/week").expect(200)).body;
const jobIn = (w: WeekView, id: string) => w.jobs.find((j) => j.jobId === id);
const tick = (step: string, minutes: number | null = null) => ({
  step,
  title: step,
  minutes,
  values: [],
  trouble: [],
  note: "",
  overridden: "",
});
const part = (over: object) => ({
  name: "Converter",
  quantity: 1,
  leadDays: 2,
  orderedOn: null,
  dueOn: null,
  cameOn: null,
  ...over,
});

describe("the setup of a shop", () => {
  it("is one lift and one person until somebody says otherwise; a viewer may look and not write", async () => {
    const first = (await fenn.get("/api/week").expect(200)).body as WeekView;
    expect(first).toMatchObject({ seq: 0, setup: FIRST_SETUP });
    await fenn.post("/api/week").send({ setup: FIRST_SETUP, baseSeq: 0 }).expect(403);
  });
  it("is stored once a version: who was slower is told, and nothing is overwritten", async () => {
    const two = { ...FIRST_SETUP, lifts: [...FIRST_SETUP.lifts, { id: "lift-2", name: "Lift 2" }] };
    const { body } = await iona.post("/api/week").send({ setup: two, baseSeq: 0 }).expect(200);
    expect(body).toMatchObject({ seq: 1, setup: { lifts: two.lifts } });
    const late = await iona.post("/api/week").send({ setup: FIRST_SETUP, baseSeq: 0 }).expect(409);
    expect(late.body.error).toMatchObject({ code: "stale" });
    expect((await week()).setup.lifts).toHaveLength(2);
  });
  it.each([
    [{ lifts: [{ id: "a", name: "" }] }, "setup.lifts.0.name"],
    [
      {
        lifts: [
          { id: "a", name: "x" },
          { id: "a", name: "y" },
        ],
      },
      "setup.lifts.1.id",
    ],
    [
      { people: [{ ...FIRST_SETUP.people[0], week: [[600, 500], null, null, null, null, null, null] }] },
      "setup.people.0.week.0",
    ],
    [
      { people: [{ ...FIRST_SETUP.people[0], away: [{ from: "2026-12-05", to: "2026-12-01", why: "" }] }] },
      "setup.people.0.away.0.to",
    ],
    [{ pins: [{ jobId: "11111111-1111-4111-8111-111111111111", fromAt: "soon", lift: null }] }, "setup.pins.0.fromAt"],
  ])("that cannot be is refused by its field: %#", async (patch, field) => {
    const { body } = await iona
      .post("/api/week")
      .send({ setup: { ...FIRST_SETUP, ...patch }, baseSeq: 1 })
      .expect(400);
    expect(Object.keys(body.error.fields)).toContain(field);
  });
});

describe("the week", () => {
  let first: string;
  let second: string;
  it("holds what is decided and not done, with when it is likely ready and nine in ten sure", async () => {
    first = await decided("converter");
    second = await decided("fluid");
    const w = await week();
    expect(w.jobs.map((j) => j.jobId).sort()).toEqual([first, second].sort());
    const again = jobIn(w, first);
    expect(again).toMatchObject({ problem: null, promisedAt: null, odds: null, stepsDone: 0 });
    expect((again?.sureAt as string) > (again?.readyAt as string)).toBe(true);
    expect(w.blocks.every((b) => b.people.length > 0)).toBe(true);
  });
  it("names a second person who is not there, and plans the way of one instead", async () => {
    await write(first, "plan", { ways: ["unit-out-longitudinal-two"] }).expect(200);
    expect(jobIn(await week(), first)?.problem).toMatch(/needs two people, and one works here/);
    const { entries } = (await iona.get(`/api/jobs/${first}`)).body;
    const { seq } = entries.findLast((e: { kind: string }) => e.kind === "plan");
    await write(first, "plan", { ways: ["unit-out-longitudinal-alone"] }, seq).expect(200);
    expect(jobIn(await week(), first)?.problem).toBeNull();
  });
  it("gives the odds of a promise, and a late part moves them and those of the job behind it", async () => {
    const sure = (await week()).jobs
      .map((j) => j.sureAt as string)
      .sort()
      .at(-1) as string;
    for (const id of [first, second]) await write(id, "promise", { at: sure, odds: null, note: "" }).expect(200);
    const before = await week();
    expect(jobIn(before, first)?.odds).toBeGreaterThan(0.8);
    expect(jobIn(before, second)?.odds).toBeGreaterThan(0.8);
    await write(first, "supply", { parts: [part({ dueOn: "2027-02-01" })] }).expect(200);
    const after = await week();
    expect(jobIn(after, first)).toMatchObject({ odds: 0, partsOn: expect.stringMatching(/^202/), waitsForParts: true });
  });
  it("names a part of no date, and goes on with the rest", async () => {
    const { entries } = (await iona.get(`/api/jobs/${first}`)).body;
    const seq = entries.findLast((e: { kind: string }) => e.kind === "supply").seq;
    await write(first, "supply", { parts: [part({ leadDays: null })] }, seq).expect(200);
    const w = await week();
    expect(jobIn(w, first)).toMatchObject({
      readyAt: null,
      problem: expect.stringMatching(/part with no delivery date/),
    });
    expect(jobIn(w, second)?.readyAt).not.toBeNull();
  });
  it("keeps what is pinned where it is pinned, and knows who is away", async () => {
    const { seq, setup } = await week();
    const { body: pinned } = await iona
      .post("/api/week")
      .send({
        setup: { ...setup, pins: [{ jobId: second, fromAt: "2027-03-01T08:00", lift: "lift-2" }] },
        baseSeq: seq,
      })
      .expect(200);
    expect(jobIn(pinned, second)?.problem).toMatch(/finished within eight weeks/);
    const away = { ...setup.people[0], away: [{ from: "2020-01-01", to: "2030-01-01", why: "leave" }] };
    const { body: nobody } = await iona
      .post("/api/week")
      .send({ setup: { ...setup, people: [away], pins: [] }, baseSeq: pinned.seq })
      .expect(200);
    expect(jobIn(nobody, second)).toMatchObject({ readyAt: null, problem: expect.any(String) });
    await iona
      .post("/api/week")
      .send({ setup: { ...setup, pins: [] }, baseSeq: nobody.seq })
      .expect(200);
  });
  it("goes out as a calendar in the shop's own time", async () => {
    const { text, headers } = await iona.get("/api/week.ics").expect(200);
    expect(headers["content-type"]).toMatch(/text\/calendar/);
    expect(text).toMatch(/BEGIN:VEVENT/);
    expect(text).toMatch(/DTSTART:\d{8}T\d{6}\r/);
  });
});

describe("a job's plan", () => {
  it("has ways on drawn jobs, with the conditions that were told", async () => {
    const id = await decided("converter", "ness-x6");
    await write(id, "plan", { ways: [], rust: "rotten", ageYears: 20, helper: true }).expect(200);
    const ways = (await iona.get(`/api/jobs/${id}/ways`).expect(200)).body as WaysView;
    expect(ways.conditions).toMatchObject({ rust: "rotten", ageYears: 20, helper: true, odometerKm: 120_000 });
    expect(ways.ways[0]?.ways).toEqual(["unit-out-transverse-frame"]);
    expect(ways.flips.length).toBeGreaterThan(0);
  });
  it("takes extras in, and offers them with their worth", async () => {
    const id = await decided("converter");
    const plan = async () => (await iona.get(`/api/jobs/${id}/plan`).expect(200)).body as PlanOfJob;
    expect((await plan()).extras.find((e) => e.id === "extra-rear-seal")).toMatchObject({ taken: false });
    await write(id, "plan", { ways: [], extras: ["extra-rear-seal"] }).expect(200);
    const taken = await plan();
    expect(taken.extras.find((e) => e.id === "extra-rear-seal")?.taken).toBe(true);
    expect(taken.steps.some((s) => s.procedure === "extra-rear-seal")).toBe(true);
    expect(taken.criticalMin).toBeLessThanOrEqual(taken.totalMin + 1e-6);
  });
  it("moves its minutes by what the shop's own jobs took, and not by what was taken back", async () => {
    const id = await decided("fluid");
    const likely = async () => {
      const { steps } = (await iona.get(`/api/jobs/${id}/plan`).expect(200)).body as PlanOfJob;
      return steps.find((s) => s.key === "before-work/identify");
    };
    const before = await likely();
    expect(before?.own).toBeUndefined();
    const other = await decided("fluid");
    await write(other, "step", tick("before-work/identify", 16)).expect(200);
    const after = await likely();
    expect(after?.own?.jobs).toBe(1);
    expect(after?.minutes[1]).toBeGreaterThan(before?.minutes[1] as number);
    const { entries } = (await iona.get(`/api/jobs/${other}`)).body;
    const entryId = entries.findLast((e: { kind: string }) => e.kind === "step").id;
    await write(other, "retraction", { entryId, reason: "" }).expect(200);
    expect((await likely())?.own).toBeUndefined();
  });
  it("goes out on paper and as a table of parts", async () => {
    const id = await decided("converter");
    const pdf = await iona.get(`/api/jobs/${id}/card.pdf?system=metric`).buffer(true).expect(200);
    expect(pdf.headers["content-type"]).toBe("application/pdf");
    const { text } = await iona.get(`/api/jobs/${id}/parts.csv`).expect(200);
    expect(text).toMatch(/kind,name,quantity,unit,always new,each,needed at/);
    expect(text).toMatch(/bolt,Converter bolt M10 × 1.25 × 16,6,piece,yes/);
    const none = await decided("engine");
    await iona.get(`/api/jobs/${none}/parts.csv`).expect(409);
  });
});

describe("a fill through the API", () => {
  const deed = (over: object) => ({ deed: "poured", litres: 1, fluidC: null, saw: "all-in", note: "", ...over });
  const emptied = {
    drainedL: 4.1,
    drainedC: 40,
    spiltL: 0,
    linesOpened: false,
    converterDrained: false,
    dry: false,
    prefilledL: 0,
  };
  it("is told what left first, never starts in air, and stands in the report", async () => {
    const id = await decided("fluid");
    await write(id, "filling", deed({})).expect(409);
    await write(id, "emptied", emptied).expect(200);
    await write(id, "filling", deed({})).expect(200);
    const dry = await write(id, "filling", deed({ deed: "started", litres: null, saw: "quiet" })).expect(409);
    expect(dry.body.error.message).toMatch(/never started before 2\.3 l/);
    await write(id, "filling", deed({ litres: 3.1, saw: "ran-over" })).expect(200);
    await write(id, "filling", deed({ deed: "started", litres: null, saw: "quiet" })).expect(200);
    const report = (await iona.get(`/api/jobs/${id}/report?system=metric`).expect(200)).body;
    const section = report.sections.find((s: { id: string }) => s.id === "filling");
    expect(section.paragraphs.join(" ")).toMatch(
      /4\.1\sl poured, 4\.1\sl expected.*level was not read.*Left to do: Engine idling/,
    );
  });
  it("refuses a reading without its temperature, and a tray that is not empty at the refit", async () => {
    const id = await decided("valve-body");
    await write(id, "emptied", emptied).expect(200);
    const blind = await write(id, "filling", deed({ deed: "overflow", litres: null, saw: "drops" })).expect(409);
    expect(blind.body.error.message).toMatch(/temperature/);
    await write(id, "tray", { step: "valve-body/strip", full: ["ball-1"] }).expect(200);
    const { body: plan } = await iona.get(`/api/jobs/${id}/plan`).expect(200);
    expect(
      plan.steps.some((s: { key: string; tray?: string }) => s.key === "valve-body/strip" && s.tray === "valve-body"),
    ).toBe(true);
  });
});
