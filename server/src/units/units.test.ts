// Guards: a shop's own units: versions are added, never changed; what is inconsistent is refused with its places; jobs
// keep the version they were diagnosed with; other shops see nothing.

import { UnitFile } from "@gearsense/contract";
import type { Unit } from "@gearsense/core/unit";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import request from "supertest";
import { type Agent, type Harness, openJob, startHarness } from "../testing/harness.ts";

let h: Harness;
let iona: Agent;
let odda: Agent;
let fenn: Agent;
beforeAll(async () => {
  h = await startHarness();
  [iona, odda, fenn] = await Promise.all([h.signIn("iona"), h.signIn("odda"), h.signIn("fenn")]);
});
afterAll(() => h.close());

const own = (patch: Partial<Unit> = {}): Unit => ({ ...h.unit, id: "quay-p6", name: "Quay P6", ...patch });
const save = (agent: Agent, unit: unknown, baseVersion: number) => agent.post("/api/units").send({ unit, baseVersion });
const ids = async (agent: Agent) => ((await agent.get("/api/units").expect(200)).body as Unit[]).map((u) => u.id);

describe("the library", () => {
  it("holds eight units, each a valid file", async () => {
    const { body } = await iona.get("/api/units").expect(200);
    expect(body).toHaveLength(8);
    for (const unit of body) expect(UnitFile.safeParse(unit).success).toBe(true);
  });
  it("is never overwritten", async () => {
    const { body } = await save(iona, h.unit, 1).expect(409);
    expect(body.error).toMatchObject({ code: "taken", message: expect.stringMatching(/unit of the library/) });
  });
  it("publishes the schema without a sign-in", async () => {
    const { body } = await request(h.app).get("/api/schemas/unit.json").expect(200);
    expect(body.properties.gearTrain.properties.sets.items.properties.sunTeeth).toMatchObject({ type: "integer" });
    expect(body.required).toEqual(expect.arrayContaining(["format", "gears", "application", "solenoidChart"]));
  });
});

describe("a unit of the shop's own", () => {
  it("gets versions one after another, all of them kept", async () => {
    expect((await save(iona, own(), 0).expect(200)).body).toMatchObject({ id: "quay-p6", version: 1 });
    expect((await save(iona, own({ description: "second" }), 1).expect(200)).body.version).toBe(2);
    const { body: versions } = await iona.get("/api/units/quay-p6/versions").expect(200);
    expect(versions).toMatchObject([{ version: 2, author: "iona" }, { version: 1 }]);
    const { body: first } = await iona.get("/api/units/quay-p6/versions/1").expect(200);
    expect(first).toEqual({ ...own(), version: 1 });
    await iona.get("/api/units/quay-p6/versions/3").expect(404);
    await iona.get("/api/units/quay-p6/versions/x").expect(404);
  });
  it("a job keeps the version it was opened with", async () => {
    const job = await openJob(iona, { unitId: "quay-p6" });
    await save(iona, own({ description: "third" }), 2).expect(200);
    const { body } = await iona.get(`/api/jobs/${job.id}`).expect(200);
    expect(body.unit).toMatchObject({ version: 2, description: "second" });
  });
  it("a stale version is refused, and so is a new unit under a taken id", async () => {
    expect((await save(iona, own(), 1).expect(409)).body.error.code).toBe("stale");
    expect((await save(iona, own(), 0).expect(409)).body.error.code).toBe("taken");
  });
  it("only one of many writers of the same version wins", async () => {
    const answers = await Promise.all(
      [1, 2, 3, 4].map((n) => save(iona, own({ id: "race-p6", description: String(n) }), 0)),
    );
    expect(answers.map((a) => a.status).sort()).toEqual([200, 409, 409, 409]);
  });
  it("is seen and changed by nobody else: not by a viewer, not by another shop", async () => {
    await save(fenn, own(), 3).expect(403);
    expect(await ids(odda)).not.toContain("quay-p6");
    await odda.get("/api/units/quay-p6/versions").expect(404);
    expect((await save(odda, own({ description: "theirs" }), 0).expect(200)).body.version).toBe(1);
    expect((await iona.get("/api/units/quay-p6/versions").expect(200)).body[0].version).toBe(3);
  });
  it("cannot be changed in the database either", async () => {
    await expect(h.db("unit_file").update({ author: "x" })).rejects.toThrow(/never changed/);
  });
});

describe("a file that cannot be right is refused whole, by path and reason", () => {
  const sets = (patch: object) => ({
    gearTrain: { ...h.unit.gearTrain, sets: h.unit.gearTrain?.sets.map((s, i) => (i === 0 ? { ...s, ...patch } : s)) },
  });
  it.each([
    ["impossible teeth", () => sets({ ringTeeth: 82 }), /gearTrain\.sets\.0\.ringTeeth: .*no whole planet/],
    [
      "a chart that ties up",
      () => ({
        application: { ...h.unit.application, "2": [{ element: "TC" }, { element: "LB" }, { element: "LC" }] },
      }),
      /tie the train up/,
    ],
    [
      "two gears alike",
      () => ({ application: { ...h.unit.application, "2": h.unit.application["1"] } }),
      /same elements as gear 1/,
    ],
    [
      "a cyclic link",
      () => ({
        gearTrain: { ...h.unit.gearTrain, links: [...(h.unit.gearTrain?.links ?? []), ["P3.carrier", "output"]] },
      }),
      /run in a circle/,
    ],
    ["no sensors", () => ({ sensors: [] }), /sensors/],
    ["an unknown version of the format", () => ({ formatVersion: 7 }), /unit\.formatVersion/],
    ["a foreign format", () => ({ format: "other" }), /unit\.format/],
  ])("%s", async (_name, patch, reason) => {
    const before = await ids(iona);
    const { body, status } = await save(iona, { ...own({ id: "bad-p6" }), ...patch() }, 0);
    expect([400, 422]).toContain(status);
    expect(`${body.error.message} ${JSON.stringify(body.error.fields)}`).toMatch(reason);
    expect(await ids(iona)).toEqual(before);
  });
  it("10 MB of junk", async () => {
    const { body } = await save(iona, { junk: "x".repeat(10_000_000) }, 0).expect(413);
    expect(body.error.code).toBe("too-large");
  });
});
