// Guards: what cannot be in a unit is refused by its field, vehicles that come again are found, dates go out as iCalendar.
import type { KnownVehicleView } from "@gearsense/contract";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import ICAL from "ical.js";
import { type Agent, type Harness, newJob, openJob, startHarness } from "../testing/harness.ts";

let h: Harness;
let iona: Agent;
beforeAll(async () => {
  h = await startHarness();
  iona = await h.signIn("iona");
});
afterAll(() => h.close());

describe("what cannot be in this unit", () => {
  it.each<[string, object, string, RegExp]>([
    [
      "level",
      { state: "low", method: "overflow", fluidC: 40, litresFromFull: -14, engineRunning: true, note: "" },
      "body.litresFromFull",
      /Brae P6 holds 9.2 l/,
    ],
    [
      "pan",
      { drainedL: 15, drainedC: 60, kmSinceService: null, filter: "clean", debris: [], sure: "sure", note: "" },
      "body.drainedL",
      /cannot have come out of it/,
    ],
    [
      "intake",
      {
        complaint: "x",
        symptoms: [{ kind: "slip", where: ["8"], load: "any", temperature: "any", since: "" }],
        doneAlready: "",
        recentEvents: "",
      },
      "body.symptoms.0.where",
      /has no gear 8/,
    ],
  ])("%s: refused at its field, and nothing is stored", async (kind, body, field, words) => {
    const job = await openJob(iona);
    const baseSeq = kind === "intake" ? 1 : 0;
    const answer = await iona.post(`/api/jobs/${job.id}/entries`).send({ kind, body, baseSeq }).expect(422);
    expect(answer.body.error.fields[field]).toMatch(words);
    expect((await iona.get(`/api/jobs/${job.id}`)).body.entries).toHaveLength(1);
  });
  it("a job is not opened with a gear that the unit lacks", async () => {
    const { intake } = newJob() as { intake: object };
    const bad = { ...intake, symptoms: [{ kind: "slip", where: ["7-8"], load: "any", temperature: "any", since: "" }] };
    const { body } = await iona
      .post("/api/jobs")
      .send(newJob({ intake: bad }))
      .expect(422);
    expect(body.error.fields["intake.symptoms.0.where"]).toMatch(/no gear 7, 8/);
  });
});

describe("vehicles that come again", () => {
  const vehicles = async (): Promise<KnownVehicleView[]> => (await iona.get("/api/vehicles").expect(200)).body;
  const withVehicle = (vehicle: object, odometerKm = 50_000) => openJob(iona, { vehicle, odometerKm });
  const vin = "1".repeat(17);
  it("by plate, then by the number that was learned; every job is listed, newest first", async () => {
    const first = await withVehicle({ name: "Harbour van", plate: "SK 1 111", owner: "Harbour" });
    const second = await withVehicle(
      { name: "Harbour van", plate: "SK 1 111", owner: "Harbour", vin: ` ${vin.slice(0, 8)}-${vin.slice(8)}` },
      61_000,
    );
    const third = await withVehicle({ name: "Van, repainted", plate: "SK 9 999", owner: "Harbour", vin });
    const known = (await vehicles()).filter((v) => v.owner === "Harbour");
    expect(known).toHaveLength(1);
    expect(known[0]?.vin).toBe(vin);
    expect(known[0]?.jobs.map((j) => j.id)).toEqual([third.id, second.id, first.id]);
  });
  it("another number is another vehicle, though it bears the same plate", async () => {
    const plate = { name: "Bus", plate: "SK 2 222", owner: "Ferry line" };
    await withVehicle({ ...plate, vin });
    await withVehicle({ ...plate, vin: "2".repeat(17) });
    expect((await vehicles()).filter((v) => v.owner === "Ferry line")).toHaveLength(2);
  });
  it("the other shop knows none of them", async () => {
    const odda = await h.signIn("odda");
    expect((await odda.get("/api/vehicles").expect(200)).body).toEqual([]);
  });
});

describe("calendar", () => {
  const post = (events: object[]) => iona.post("/api/calendar").send({ title: "Job 0417, Harbour van", events });
  it("another program reads whole days, texts with commas and lines, and a reminder", async () => {
    const { text, headers } = await post([
      { what: "Level and leaks, cold", dueOn: "2026-11-26", note: "cold; \nlook at the plug, too" },
      { what: "Second fluid change", dueOn: "2027-02-01", note: "" },
    ]).expect(200);
    expect(headers["content-type"]).toMatch(/text\/calendar/);
    const events = new ICAL.Component(ICAL.parse(text)).getAllSubcomponents("vevent").map((c) => new ICAL.Event(c));
    expect(events.map((e) => [e.summary, e.startDate.toString(), e.startDate.isDate])).toEqual([
      ["Level and leaks, cold: Job 0417, Harbour van", "2026-11-26", true],
      ["Second fluid change: Job 0417, Harbour van", "2027-02-01", true],
    ]);
    expect(events[0]?.description).toBe("cold; \nlook at the plug, too");
    expect(events[0]?.endDate.toString()).toBe("2026-11-27");
    expect(text).toMatch(/BEGIN:VALARM/);
  });
  it("nothing with a date is refused", async () => {
    expect((await post([]).expect(400)).body.error.fields.events).toMatch(/nothing with a date/);
    await post([{ what: "x", dueOn: "next week", note: "" }]).expect(400);
  });
});

it("the rungs of the first look and the kinds of debris are served from the library", async () => {
  const { body } = await iona.get("/api/observations").expect(200);
  expect(body.rungs.map((r: { id: string }) => r.id)).toContain("battery");
  expect(body.debris.kinds).toHaveLength(8);
});
