// Guards: what a shop's own proved jobs say is counted as jobs close, come back or are reopened; the odds move with it only where the shop wants
// it, and a job is judged by the others.
import type { JobView, OwnJobsView, ShopView, SuspectsView } from "@gearsense/contract";
import { BODY } from "@gearsense/core/testing";
import { afterAll, beforeAll, expect, it } from "@jest/globals";
import { ShopScope } from "../db/shop-scope.ts";
import { fillHeads } from "../jobs/service.ts";
import { loadLibrary } from "../library/load.ts";
import { type Agent, getBytes, type Harness, openJob, startHarness } from "../testing/harness.ts";

let h: Harness;
let marl: Agent;
beforeAll(async () => {
  h = await startHarness();
  marl = await h.signIn("marl");
});
afterAll(() => h.close());

const own = async (agent = marl) => (await agent.get("/api/own-jobs").expect(200)).body as OwnJobsView;
const write = async (id: string, kind: string, body: object) =>
  (await marl.post(`/api/jobs/${id}/entries`).send({ kind, body, baseSeq: 0 }).expect(200)).body as JobView;
/** A job with a worn mount, proved and handed over. */
async function mounted({ proved = true } = {}): Promise<string> {
  const { id } = await openJob(marl);
  await write(id, "decision", { ...BODY.decision, repairId: "mount", title: "Replace mount", odds: [] });
  await write(id, "work", BODY.work(60));
  if (proved) await write(id, "proof", { beforeLogId: null, afterLogId: null, sentence: "Gone.", note: "" });
  await write(id, "handover", BODY.handover);
  return id;
}
const factorOf = (of: OwnJobsView, classId: string) => of.factors.find((f) => f.classId === classId);
const switched = async (ownOdds: boolean) => {
  const { version, ...shop } = (await marl.get("/api/shop").expect(200)).body as ShopView;
  return marl
    .post("/api/shop")
    .send({ ...shop, ownOdds, baseVersion: version })
    .expect(200);
};
const suspects = async (id: string) => (await marl.get(`/api/jobs/${id}/suspects`).expect(200)).body as SuspectsView;
const oddsOf = async (id: string, classId: string) =>
  (await suspects(id)).ranking.suspects.find((s) => s.faultId.startsWith(classId))?.probability ?? 0;

it("count as they are proved and handed over; what was not proved, or came back, says nothing", async () => {
  expect(await own()).toEqual({ jobs: 0, moves: false, factors: [] });
  const first = await mounted();
  await mounted({ proved: false });
  const one = await own();
  expect(one.jobs).toBe(1);
  expect(factorOf(one, "mount")).toMatchObject({ found: 1, title: "Engine or transmission mount torn" });
  expect(factorOf(one, "mount")?.factor).toBeGreaterThan(1);
  // another shop has its own
  expect((await own(await h.signIn("odda"))).jobs).toBe(0);
  const back = { what: "It clunks again.", odometerKm: 1200, repairId: "mount" };
  const { status } = await marl.post(`/api/jobs/${first}/entries`).send({ kind: "comeback", body: back, baseSeq: 0 });
  expect(status).toBe(200);
  expect((await own()).jobs).toBe(0);
});

it("are worked out for jobs that were closed before there was such a thing", async () => {
  await mounted();
  const { jobs } = await own();
  expect(jobs).toBe(1);
  const shopId = (await h.db("job").first("shop_id")).shop_id as string;
  await h.db("job").update({ proved: null });
  expect((await own()).jobs).toBe(0);
  await fillHeads(new ShopScope(h.db, shopId), () => loadLibrary().knowledge);
  expect((await own()).jobs).toBe(jobs);
});

it("move the odds of other jobs when the shop wants it, and say so", async () => {
  for (let i = 0; i < 3; i++) await mounted();
  const { id } = await openJob(marl);
  await write(id, "level", BODY.level("ok"));
  const plain = await oddsOf(id, "mount");
  expect((await suspects(id)).own).toBeNull();
  await switched(true);
  expect((await own()).moves).toBe(true);
  const moved = await suspects(id);
  expect(moved.own).toMatchObject({ jobs: 4 });
  expect(await oddsOf(id, "mount")).toBeGreaterThan(plain * 1.5);
  // one of the counted jobs is judged by the others
  const counted = (await h.db("job").whereRaw("proved <> '[]'").first("id")).id as string;
  expect((await suspects(counted)).own?.jobs).toBe(3);
  await switched(false);
  expect(await oddsOf(id, "mount")).toBeCloseTo(plain, 12);
});

it("are of jobs that came whole from elsewhere too", async () => {
  const id = await mounted();
  const { jobs } = await own();
  const archive = await getBytes(marl, `/api/jobs/${id}/export`);
  const put = marl.post("/api/import").set("content-type", "application/octet-stream").send(Buffer.from(archive));
  await put.expect(200);
  expect((await own()).jobs).toBe(jobs + 1);
});

it("are for those who work here", async () => {
  await (await h.signIn("fenn")).get("/api/own-jobs").expect(403);
  expect((await own(await h.signIn("iona"))).jobs).toBeGreaterThan(0);
});
