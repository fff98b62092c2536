// Guards: a job that was handed over is opened again with its history; the repair that did not last counts against itself; what was
// decided, proved and handed over is done anew.
import type { JobView } from "@gearsense/contract";
import { BODY } from "@gearsense/core/testing";
import { afterAll, beforeAll, expect, it } from "@jest/globals";
import { type Agent, type Harness, openJob, startHarness } from "../testing/harness.ts";

let h: Harness;
let iona: Agent;
beforeAll(async () => {
  h = await startHarness();
  iona = await h.signIn("iona");
});
afterAll(() => h.close());

const write = (id: string, kind: string, body: object, baseSeq = 0) =>
  iona.post(`/api/jobs/${id}/entries`).send({ kind, body, baseSeq });
const back = (repairId: string | null) => ({ what: "Slips in third again", odometerKm: 141_200, repairId });

async function closed(): Promise<JobView> {
  const job = await openJob(iona);
  await write(job.id, "decision", { ...BODY.decision, repairId: "rebuild:TC+fluid", title: "Rebuild TC" }).expect(200);
  await write(job.id, "work", BODY.work(60)).expect(200);
  return (await write(job.id, "handover", BODY.handover).expect(200)).body;
}

it("a job that did not leave did not come back", async () => {
  const job = await openJob(iona);
  expect((await write(job.id, "comeback", back(null)).expect(409)).body.error.code).toBe("not-closed");
});

it("is opened again: each repair that did not last counts as tried, and decision and hand-over are written anew", async () => {
  const job = await closed();
  expect(job.stage).toBe("closed");
  expect((await write(job.id, "work", BODY.work(5)).expect(409)).body.error.message).toMatch(
    /Open it again as a comeback/,
  );
  const open = (await write(job.id, "comeback", back("rebuild:TC+fluid")).expect(200)).body as JobView;
  expect(open.stage).not.toBe("closed");
  const tried = open.entries.filter((e) => e.kind === "tried").map((e) => e.body);
  expect(tried).toMatchObject([
    { repairId: "rebuild:TC", title: "Rebuild TC", outcome: "no-change", note: "Came back at 141200 km" },
    { repairId: "fluid", outcome: "no-change" },
  ]);
  expect(open.entries.filter((e) => e.kind === "decision" || e.kind === "handover")).toHaveLength(2);
  const anew = (await write(job.id, "decision", BODY.decision, 0).expect(200)).body as JobView;
  const seq = anew.entries.findLast((e) => e.kind === "decision")?.seq as number;
  // from here on two who write at once are told apart again
  await write(job.id, "decision", BODY.decision, 0).expect(409);
  await write(job.id, "decision", BODY.decision, seq).expect(200);
  expect(((await write(job.id, "handover", BODY.handover, 0).expect(200)).body as JobView).stage).toBe("closed");
});

it("another trouble counts against no repair", async () => {
  const job = await closed();
  const open = (await write(job.id, "comeback", back(null)).expect(200)).body as JobView;
  expect(open.entries.filter((e) => e.kind === "tried")).toEqual([]);
});
