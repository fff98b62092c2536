// Guards: drives of a fresh build are taken after the hand-over too, count as kilometres, and neither prove nor accuse; a link is not
// recorded for a job that is closed otherwise.
import type { JobView } from "@gearsense/contract";
import { BODY } from "@gearsense/core/testing";
import { afterAll, beforeAll, expect, it } from "@jest/globals";
import { type Agent, analysedLog, type Harness, madeLog, openJob, startHarness, storeLog } from "../testing/harness.ts";

let h: Harness;
let iona: Agent;
let job: string;
const log = () => madeLog(h.unit, [], 9, "mixed", 120);
const get = async (what: string) => (await iona.get(`/api/jobs/${job}/${what}`).expect(200)).body;
const drivenKm = async () => (await get("learned")).breakIn;
const write = (kind: string, body: object) =>
  iona.post(`/api/jobs/${job}/entries`).send({ kind, body, baseSeq: 0 }).expect(200);

beforeAll(async () => {
  h = await startHarness();
  iona = await h.signIn("iona");
  job = (await openJob(iona)).id;
  await write("decision", { ...BODY.decision, repairId: "rebuild:TC", title: "Rebuild TC" });
  await write("bench", { place: "pack-in:TC", title: "TC", values: [], looks: [], chosen: [], note: "" });
  await write("work", BODY.work(60));
  await write("handover", BODY.handover);
});
afterAll(() => h.close());

it("a closed job takes the drives of its first kilometres and no others", async () => {
  expect((await drivenKm()).drivenKm).toBe(0);
  const proofBefore = await get("proof");
  for (const role of ["before", "after"] as const) {
    const { body } = await storeLog(iona, job, log().text, role);
    expect(body.error).toMatchObject({ code: "closed", message: expect.stringMatching(/Open it again as a comeback/) });
  }
  await analysedLog(iona, job, log(), "break-in");
  const { drivenKm: km, from, drives } = await drivenKm();
  expect(from).toBe("logs");
  expect(drives).toHaveLength(1);
  expect(km).toBeGreaterThan(0.3);
  const view = (await iona.get(`/api/jobs/${job}`).expect(200)).body as JobView;
  expect(view.stage).toBe("closed");
  expect(view.entries.slice(-2).map((e) => e.kind)).toEqual(["log", "analysis"]);
  expect(await get("proof")).toEqual(proofBefore);
  expect((await get("suspects")).evidence.filter((e: { measured?: boolean }) => e.measured)).toEqual([]);
});

it("a drive is recorded for a closed job only as one of these", async () => {
  const at = { host: "127.0.0.1", port: 9, channels: ["engine_rpm"] };
  const start = (role: string) => iona.post(`/api/jobs/${job}/recording`).send({ ...at, role });
  expect((await start("after").expect(409)).body.error.message).toMatch(/handed over and closed/);
  // this one comes as far as the link, where nobody is
  expect((await start("break-in").expect(502)).body.error.code).toBe("no-link");
});
