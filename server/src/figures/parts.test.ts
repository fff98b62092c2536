// Guards: parts are found by words of their names in the shop's own jobs, with what became of them, page by page.
import type { JobView, PartsView } from "@gearsense/contract";
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

const parts = async (find: string, after?: string, agent = iona) =>
  (
    await agent
      .get("/api/parts")
      .query({ find, ...(after ? { after } : {}) })
      .expect(200)
  ).body as PartsView;
async function fitted(name: string): Promise<string> {
  const { id, number } = await openJob(iona);
  const work = { ...BODY.work(60), parts: [{ name, quantity: 1, cost: 4 }] };
  const sent = iona.post(`/api/jobs/${id}/entries`).send({ kind: "work", body: work, baseSeq: 0 });
  expect(((await sent.expect(200)).body as JobView).stage).toBe("proof");
  return number;
}

it("are those whose names hold every word, newest job first; a job that has the words elsewhere has none", async () => {
  const first = await fitted("Solenoid blue, batch 7");
  const second = await fitted("Blue solenoid, batch 8");
  const { id } = await openJob(iona);
  const note = { kind: "note", body: { text: "blue solenoid ordered" }, baseSeq: 0 };
  await iona.post(`/api/jobs/${id}/entries`).send(note).expect(200);
  const found = await parts("blue solenoid");
  expect(found.parts.map((p) => [p.number, p.fitted.since])).toEqual([
    [second, "open"],
    [first, "open"],
  ]);
  expect(found.next).toBeNull();
  expect((await parts("batch 7")).parts.map((p) => p.number)).toEqual([first]);
  expect((await parts("blue", undefined, await h.signIn("odda"))).parts).toEqual([]);
});

it("go on where a page ended, and none is left out", async () => {
  const numbers: string[] = [];
  for (let i = 0; i < 52; i++) numbers.unshift(await fitted("Paper gasket"));
  const first = await parts("paper gasket");
  expect(first.parts).toHaveLength(50);
  const second = await parts("paper gasket", first.next ?? undefined);
  expect(second.next).toBeNull();
  expect([...first.parts, ...second.parts].map((p) => p.number)).toEqual(numbers);
});

it("want three letters", async () => {
  await iona.get("/api/parts").query({ find: "pa" }).expect(400);
  await iona.get("/api/parts").query({ find: "pap" }).expect(200);
});
