// Guards: lists of jobs: pages of fifty in the order of their numbers, words found wherever they stand, counts by stage, heads
// that agree with their timelines, and vehicles that are offered while one is typed.
import type { JobPageView, JobSummaryView, JobView, KnownVehicleView } from "@gearsense/contract";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import { ShopScope } from "../db/shop-scope.ts";
import { loadLibrary } from "../library/load.ts";
import { type Agent, type Harness, jobList, newJob, openJob, startHarness } from "../testing/harness.ts";
import { fillHeads } from "./service.ts";

let h: Harness;
let iona: Agent;
let shopId: string;
beforeAll(async () => {
  h = await startHarness();
  iona = await h.signIn("iona");
  shopId = (await h.db("shop").where({ name: "Here" }).first<{ id: string }>("id")).id;
  const { id } = await openJob(iona, {
    vehicle: { name: "Peat lorry", plate: "SK 4 040", owner: "Peat 100% Works", vin: "1".repeat(17) },
    intake: { ...newJob().intake, complaint: "Slips from second, worst with a full load." },
  });
  await iona
    .post(`/api/jobs/${id}/entries`)
    .send({ kind: "note", body: { text: "only a note" }, baseSeq: 0 })
    .expect(200);
  // as many as take a third page, by the shortest way
  await h.db.raw(
    `insert into job (id, shop_id, number, vehicle_id, unit_id, unit_name, unit, odometer_km, opened_at, stage, complaint, last_entry_at)
     select gen_random_uuid(), shop_id, (n + 9950)::text, vehicle_id, unit_id, unit_name, '{}', 1, now(),
       case when n % 4 = 0 then 'closed' else 'work' end, 'made-up job ' || n, now()
     from job, generate_series(1, 119) n where job.id = ?`,
    [id],
  );
}, 60_000);
afterAll(() => h.close());

const page = async (query: object): Promise<JobPageView> => (await iona.get("/api/jobs").query(query).expect(200)).body;
const numbers = (list: readonly JobSummaryView[]) => list.map((j) => Number(j.number));

describe("pages", () => {
  it("are of fifty, newest number first, past the ten-thousandth, and end", async () => {
    const first = await page({});
    expect(first.jobs).toHaveLength(50);
    expect(first.jobs[0]?.number).toBe("10069");
    expect(first.next).toBe(first.jobs[49]?.number);
    const all = await jobList(iona);
    expect(all).toHaveLength(120);
    expect(numbers(all)).toEqual([...numbers(all)].sort((a, b) => b - a));
    expect(new Set(all.map((j) => j.id)).size).toBe(120);
    expect((await page({ limit: 50, after: "0402" })).next).toBeNull();
  });
  it("are no larger than that, whatever is asked", async () => {
    await iona.get("/api/jobs").query({ limit: 51 }).expect(400);
    await iona.get("/api/jobs").query({ limit: 0 }).expect(400);
    await iona.get("/api/jobs").query({ after: "zzz" }).expect(400);
    expect((await page({ limit: 1 })).jobs).toHaveLength(1);
  });
  it("of open and of closed jobs hold no other; the counts are of all", async () => {
    const closed = await page({ which: "closed" });
    expect(closed.jobs.map((j) => j.stage)).toEqual(Array(29).fill("closed"));
    const open = await page({ which: "open" });
    expect(open.jobs.every((j) => j.stage !== "closed")).toBe(true);
    expect(open.byStage).toMatchObject({ closed: 29, work: 90 });
    expect(Object.values(open.byStage).reduce((a, b) => a + b, 0)).toBe(120);
  });
});

describe("what is looked for", () => {
  it.each<[string, number]>([
    ["0401", 1],
    ["peat FULL load", 1],
    ["SK4040", 120],
    ["sk 4", 120],
    ["made-up", 119],
    // a 7 in what it says or in its number
    [
      "made-up peat 7",
      Array.from({ length: 119 }, (_, i) => `${i + 1} ${i + 9951}`).filter((t) => t.includes("7")).length,
    ],
    ["100%", 120],
    ["100_", 0],
    ["1".repeat(17), 120],
    ["brae", 120],
    ["nothing like it", 0],
    ["'; drop table job; --", 0],
  ])("%s: %d", async (find, found) => {
    const { jobs, next } = await page({ find });
    expect(jobs.length + (next ? (await page({ find, after: next })).jobs.length : 0)).toBe(Math.min(found, 100));
  });
  it("is found in what was written on a timeline, until that is taken back; choices and ids are not words", async () => {
    const { id, number } = await openJob(iona);
    const write = async (kind: string, body: object) =>
      (await iona.post(`/api/jobs/${id}/entries`).send({ kind, body, baseSeq: 0 }).expect(200)).body as JobView;
    const found = async (find: string) => (await page({ find })).jobs.map((j) => j.number);
    await write("code", { code: "P0746", text: "Pressure", module: "", triage: "earlier-work", reason: "" });
    const noted = await write("note", { text: "Ferry at half past six" });
    expect(await found("p0746 half")).toEqual([number]);
    expect(await found("earlier-work")).toEqual([]);
    // two letters would be found everywhere: they are looked for in the head alone
    expect(await found("p0746 xf")).toEqual([]);
    expect(await found("p0746 fo")).toEqual([number]);
    const entryId = noted.entries.at(-1)?.id;
    await write("retraction", { entryId, reason: "another ferry altogether" });
    expect(await found("half past")).toEqual([]);
    expect(await found("altogether")).toEqual([]);
    const odda = await h.signIn("odda");
    expect((await odda.get("/api/jobs").query({ find: "P0746" }).expect(200)).body.jobs).toEqual([]);
  });
  it("is never another shop's", async () => {
    const odda = await h.signIn("odda");
    expect((await odda.get("/api/jobs").query({ find: "peat" }).expect(200)).body.jobs).toEqual([]);
    expect((await odda.get("/api/vehicles").query({ owner: "Peat" }).expect(200)).body).toEqual([]);
  });
});

describe("heads", () => {
  it("agree with the timeline after every entry, and after it is taken back", async () => {
    let job: JobView = (await iona.post("/api/jobs").send(newJob()).expect(200)).body;
    const write = async (kind: string, body: object, baseSeq = 0) => {
      job = (await iona.post(`/api/jobs/${job.id}/entries`).send({ kind, body, baseSeq }).expect(200)).body;
      const head = (await page({ find: job.number })).jobs[0];
      expect(head).toEqual(Object.fromEntries(Object.keys(head ?? {}).map((k) => [k, job[k as keyof JobView]])));
    };
    await write("level", {
      state: "ok",
      method: "overflow",
      fluidC: 41,
      litresFromFull: 0,
      engineRunning: true,
      note: "",
    });
    await write("codes-read", { allModules: true, note: "" });
    expect(job.stage).not.toBe("intake");
    const level = job.entries.find((e) => e.kind === "level");
    await write("retraction", { entryId: level?.id, reason: "wrong stick" });
    await write("identity", {
      ...{ name: "Tender", plate: "SK 8 800", owner: "Harbour", vin: "", unitId: "tarn-f4", odometerKm: 5 },
      reason: "mixed up",
    });
    expect(job.unitName).toBe("Tarn F4");
  });
  it("of jobs from before there were heads are made of their timelines", async () => {
    const { id, number } = await openJob(iona);
    const [before] = (await page({ find: number })).jobs;
    await h.db("job").where({ id }).update({ stage: null, complaint: "", waits_for: "" });
    await fillHeads(new ShopScope(h.db, shopId), () => loadLibrary().knowledge);
    expect((await page({ find: number })).jobs).toEqual([before]);
    expect(await h.db("job").whereNull("stage").count({ n: "*" })).toEqual([{ n: "0" }]);
  });
});

describe("vehicles while one is typed", () => {
  const like = async (typed: object): Promise<KnownVehicleView[]> =>
    (await iona.get("/api/vehicles").query(typed).expect(200)).body;
  it("are those that begin so, from three letters on, however they are spaced", async () => {
    expect((await like({ plate: "sk-40" })).map((v) => v.name)).toEqual(["Peat lorry"]);
    expect((await like({ vin: "111" })).map((v) => v.name)).toEqual(["Peat lorry"]);
    expect(await like({ owner: "Works" })).toEqual([]);
    expect(await like({ owner: "Peat%" })).toEqual([]);
    expect((await like({ plate: "zzz", owner: "peat" })).map((v) => v.name)).toEqual(["Peat lorry"]);
    // two letters say nothing: the newest are offered
    expect((await like({ owner: "Pe" })).length).toBeGreaterThan(1);
  });
  it("bring their jobs, newest first", async () => {
    const [lorry] = await like({ owner: "Peat" });
    expect(lorry?.jobs).toHaveLength(120);
    expect(lorry?.jobs.every((j, i, all) => i === 0 || (all[i - 1]?.openedAt ?? "") >= j.openedAt)).toBe(true);
  });
});
