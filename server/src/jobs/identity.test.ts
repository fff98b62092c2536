// Guards: vehicle, unit and mileage set right on an open job: what counts changes, what was there stays on the timeline, a
// wrong unit is not judged with, and other jobs of the vehicle keep theirs.
import type { JobView, SuspectsView } from "@gearsense/contract";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import {
  type Agent,
  analysedLog,
  type Harness,
  madeLog,
  openJob,
  startHarness,
  WORN_THIRD_CLUTCH,
} from "../testing/harness.ts";

let h: Harness;
let iona: Agent;
beforeAll(async () => {
  h = await startHarness();
  iona = await h.signIn("iona");
});
afterAll(() => h.close());

const view = async (id: string) => (await iona.get(`/api/jobs/${id}`).expect(200)).body as JobView;
const correct = (id: string, patch: object, baseSeq = 0) =>
  iona.post(`/api/jobs/${id}/entries`).send({
    kind: "identity",
    body: {
      name: "Ferry van",
      plate: "SK 7 007",
      owner: "Skerrow Ferries",
      vin: "",
      unitId: "brae-p6",
      odometerKm: 98_500,
      reason: "typed from the wrong card",
      ...patch,
    },
    baseSeq,
  });

describe("a job set right", () => {
  it("has the new vehicle and mileage, and the old entry stays readable", async () => {
    const job = await openJob(iona);
    const before = await view(job.id);
    await correct(job.id, {}).expect(200);
    const after = await view(job.id);
    expect(after.vehicle).toMatchObject({ name: "Ferry van", plate: "SK 7 007", owner: "Skerrow Ferries" });
    expect(after.odometerKm).toBe(98_500);
    expect(after.entries.find((e) => e.kind === "identity")?.body).toMatchObject({
      reason: "typed from the wrong card",
    });
    // a second correction needs the version that it saw
    await correct(job.id, { odometerKm: 99_000 }).expect(409);
    const seq = after.entries.find((e) => e.kind === "identity")?.seq;
    await correct(job.id, { odometerKm: 99_000 }, seq).expect(200);
    expect((await view(job.id)).odometerKm).toBe(99_000);
    expect(before.odometerKm).not.toBe(99_000);
  });
  it("leaves another job of the same vehicle as it is, and leaves no vehicle without a job", async () => {
    const [a, b] = [await openJob(iona), await openJob(iona)];
    const vehicle = (await view(b.id)).vehicle;
    await correct(a.id, { plate: "SK 8 808" }).expect(200);
    expect((await view(b.id)).vehicle).toEqual(vehicle);
    const known = async () =>
      ((await iona.get("/api/vehicles").expect(200)).body as { plate: string }[]).map((v) => v.plate);
    expect(await known()).toContain("SK 8 808");
    const seq = (await view(a.id)).entries.find((e) => e.kind === "identity")?.seq;
    await correct(a.id, { plate: "SK 9 909" }, seq).expect(200);
    expect(await known()).toContain("SK 9 909");
    expect(await known()).not.toContain("SK 8 808");
  });
  it("has its logs judged anew for the unit that it has now, and again when that is taken back", async () => {
    const job = await openJob(iona);
    const logId = await analysedLog(iona, job.id, madeLog(h.unit, [WORN_THIRD_CLUTCH]));
    const odds = async () =>
      ((await iona.get(`/api/jobs/${job.id}/suspects`).expect(200)).body as SuspectsView).ranking;
    expect((await odds()).suspects[0]?.component).toBe("TC");
    await correct(job.id, { unitId: "holm-c6" }).expect(200);
    expect((await odds()).suspects.map((s) => s.component)).not.toContain("TC");
    const seq = (await view(job.id)).entries.find((e) => e.kind === "identity")?.seq;
    await correct(job.id, { unitId: "brae-p6" }, seq).expect(200);
    expect((await odds()).suspects[0]?.component).toBe("TC");
    expect((await iona.get(`/api/jobs/${job.id}/logs/${logId}/analyses`).expect(200)).body).toHaveLength(3);
  });
  it("is refused with its place: no such unit, no reason, a closed job, a taking back", async () => {
    const job = await openJob(iona);
    const noUnit = await correct(job.id, { unitId: "no-such" }).expect(400);
    expect(Object.keys(noUnit.body.error.fields)).toEqual(["body.unitId"]);
    await correct(job.id, { reason: " " }).expect(400);
    await correct(job.id, {}).expect(200);
    const entry = (await view(job.id)).entries.find((e) => e.kind === "identity");
    const back = await iona
      .post(`/api/jobs/${job.id}/entries`)
      .send({ kind: "retraction", body: { entryId: entry?.id, reason: "" }, baseSeq: 0 })
      .expect(409);
    expect(back.body.error.message).toMatch(/correct it once more/);
    expect((await view(job.id)).vehicle.name).toBe("Ferry van");
  });
});
