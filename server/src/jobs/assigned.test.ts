// Guards: a job is given to somebody and on, the list can be of one person's jobs with their counts, two who give it at once are told apart.
import type { JobPageView, JobView } from "@gearsense/contract";
import { afterAll, beforeAll, expect, it } from "@jest/globals";
import { type Agent, type Harness, openJob, startHarness } from "../testing/harness.ts";

let h: Harness;
let iona: Agent;
beforeAll(async () => {
  h = await startHarness();
  iona = await h.signIn("iona");
});
afterAll(() => h.close());

const give = (id: string, to: string, baseSeq: number) =>
  iona.post(`/api/jobs/${id}/entries`).send({ kind: "assigned", body: { to }, baseSeq });
const mine = async (assignedTo: string) =>
  (await iona.get("/api/jobs").query({ assignedTo }).expect(200)).body as JobPageView;

it("is in somebody’s hands, and on the list of theirs alone", async () => {
  const [one, two] = [await openJob(iona), await openJob(iona)];
  expect((await mine("iona")).jobs).toEqual([]);
  const given = (await give(one.id, "iona", 0).expect(200)).body as JobView;
  const seq = given.entries.at(-1)?.seq ?? 0;
  expect(await mine("iona")).toMatchObject({
    jobs: [{ id: one.id, assignedTo: "iona" }],
    byStage: { "first-look": 1 },
  });
  const all = (await iona.get("/api/jobs").expect(200)).body as JobPageView;
  expect(all.jobs.map((j) => [j.id, j.assignedTo])).toEqual([
    [two.id, ""],
    [one.id, "iona"],
  ]);
  // somebody else was quicker
  await give(one.id, "marl", 0).expect(409);
  await give(one.id, "marl", seq).expect(200);
  expect((await mine("iona")).jobs).toEqual([]);
  const last = (await iona.get(`/api/jobs/${one.id}`).expect(200)).body as JobView;
  await give(one.id, "", last.entries.at(-1)?.seq ?? 0).expect(200);
  expect((await mine("marl")).jobs).toEqual([]);
});

it("may be given to those who work here; whoever only looks, and other shops, are not named", async () => {
  expect((await iona.get("/api/colleagues").expect(200)).body).toEqual({ names: ["iona", "marl"] });
  await (await h.signIn("fenn")).get("/api/colleagues").expect(200);
});
