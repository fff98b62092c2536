// Guards: a vehicle that comes again: what was done and fitted then is known, found by a search, and counts in the odds.
import type { JobView, SuspectsView } from "@gearsense/contract";
import { afterAll, beforeAll, expect, it } from "@jest/globals";
import { type Agent, type Harness, jobList, openJob, startHarness } from "../testing/harness.ts";

let h: Harness;
let iona: Agent;
beforeAll(async () => {
  h = await startHarness();
  iona = await h.signIn("iona");
});
afterAll(() => h.close());

const write = (id: string, kind: string, body: object) =>
  iona.post(`/api/jobs/${id}/entries`).send({ kind, body, baseSeq: 0 }).expect(200);
const slips = {
  by: "Iona",
  sure: "sure",
  marks: ["2", "3", "4"].map((where) => ({ where, outcome: "slips", load: "hard", temperature: "hot" })),
  note: "",
};
const vehicle = (plate: string) => ({ vehicle: { name: "Harbour taxi", plate, owner: "Skerrow Taxis" } });

it("what was renewed in an earlier job is told, found by its part, and accused less", async () => {
  const first = await openJob(iona, vehicle("SK 3 333"));
  await write(first.id, "felt", slips);
  await write(first.id, "decision", {
    repairId: "rebuild:TC",
    title: "Rebuild third clutch",
    reason: "2, 3 and 4 slip",
    expectedCost: 1600,
    cures: 0.9,
    modelVersion: 1,
    odds: [],
    levelKnown: false,
    source: "kit",
  });
  await write(first.id, "work", {
    text: "Rebuilt",
    minutes: 700,
    parts: [{ name: "Lining kit 4 plates", quantity: 1, cost: 640 }],
  });
  const [again, stranger] = [await openJob(iona, vehicle("SK 3 333")), await openJob(iona, vehicle("SK 4 444"))];
  const view = async (id: string) => (await iona.get(`/api/jobs/${id}`).expect(200)).body as JobView;
  expect((await view(first.id)).earlier).toEqual([]);
  expect((await view(stranger.id)).earlier).toEqual([]);
  expect((await view(again.id)).earlier).toMatchObject([
    { number: first.number, repairId: "rebuild:TC", parts: ["Lining kit 4 plates"], proof: "" },
  ]);
  const worn = async (id: string) => {
    await write(id, "felt", slips);
    const { ranking, evidence } = (await iona.get(`/api/jobs/${id}/suspects`).expect(200)).body as SuspectsView;
    const odds = ranking.suspects.find((s) => s.faultId === "element-worn:TC")?.probability ?? 0;
    return { odds, labels: evidence.map((e) => e.label) };
  };
  const [known, fresh] = [await worn(again.id), await worn(stranger.id)];
  expect(known.labels).toContain(`Done in job ${first.number}: rebuild third clutch`);
  expect(known.odds).toBeLessThan(fresh.odds / 1.5);
  const list = await jobList(iona);
  expect(list.find((j) => j.id === first.id)?.done).toBe("Rebuild third clutch; Lining kit 4 plates");
});
