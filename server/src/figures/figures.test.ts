// Guards: figures and money lines are of the shop's own hand-overs in the period, both days within it; a cell is never a formula; only
// owners see them.
import type { FiguresView, JobView } from "@gearsense/contract";
import { BODY } from "@gearsense/core/testing";
import { afterAll, beforeAll, expect, it } from "@jest/globals";
import { type Agent, getBytes, type Harness, openJob, startHarness } from "../testing/harness.ts";

let h: Harness;
let marl: Agent;
let today: string;
const dayOf = (offset: number) => new Date(Date.parse(today) + offset * 86_400_000).toISOString().slice(0, 10);

beforeAll(async () => {
  h = await startHarness();
  marl = await h.signIn("marl");
  const job = await openJob(marl, { vehicle: { name: "-2+3", plate: "SK 1", owner: '=HYPERLINK("x")' } });
  const write = async (kind: string, body: object) =>
    (await marl.post(`/api/jobs/${job.id}/entries`).send({ kind, body, baseSeq: 0 }).expect(200)).body as JobView;
  await write("decision", { ...BODY.decision, repairId: "fluid", title: "Fluid" });
  await write("estimate", {
    optionId: "fluid",
    title: "Fluid",
    lines: [
      { kind: "labour", what: "Labour", quantity: 1.5, each: 60 },
      { kind: "fluid", what: "Fluid, l", quantity: 6, each: 11.25 },
    ],
    taxPercent: 23,
    validDays: 30,
    note: "",
  });
  await write("approval", {
    optionId: "fluid",
    title: "Fluid",
    net: 157.5,
    withTax: 193.73,
    by: "A",
    how: "told",
    signature: [],
    deposit: 50,
    terms: "",
    note: "",
  });
  await write("work", BODY.work(120));
  const closed = await write("handover", BODY.handover);
  today = closed.entries.at(-1)?.at.slice(0, 10) ?? "";
  await openJob(marl);
});
afterAll(() => h.close());

const figures = async (from: string, to: string, agent = marl) =>
  (await agent.get("/api/figures").query({ from, to }).expect(200)).body as FiguresView;
const csv = async (from: string, to: string) =>
  Buffer.from(await getBytes(marl, `/api/money.csv?from=${from}&to=${to}`)).toString();

it("count what was handed over from the first to the last day, and what waits now", async () => {
  const f = await figures(today, today);
  expect(f.figures).toMatchObject({ jobs: 1, timed: 1, estimatedH: 1.5, takenH: 2, cameBack: 0, rightFirst: 0 });
  expect(f.waits).toEqual([{ waitsFor: expect.any(String), jobs: 1, oldestDays: 0 }]);
  for (const [from, to] of [
    [dayOf(-9), dayOf(-1)],
    [dayOf(1), dayOf(9)],
  ] as const)
    expect((await figures(from, to)).figures.jobs).toBe(0);
  expect((await figures(dayOf(-1), dayOf(1))).figures.jobs).toBe(1);
});

it("money lines are the estimate’s, less the deposit, and no cell is a formula", async () => {
  const text = await csv(today, today);
  const lines = text.replace("\ufeff", "").trim().split("\r\n");
  expect(lines).toHaveLength(4);
  expect(lines[1]).toContain(`${today},`);
  expect(lines[1]?.replaceAll('"', "")).toMatch(/,'=HYPERLINK\(x\),'-2\+3,labour,Labour,1\.5,60\.00,90\.00,23,EUR$/);
  expect(lines[3]).toMatch(/,deposit,Paid beforehand,1,-50\.00,-50\.00,0,EUR$/);
  expect((await csv(dayOf(1), dayOf(1))).trim().split("\r\n")).toHaveLength(1);
});

it("are for owners, of their own shop, and a period ends after it begins", async () => {
  const iona = await h.signIn("iona");
  for (const path of ["/api/figures", "/api/money.csv"])
    await iona.get(path).query({ from: today, to: today }).expect(403);
  const theirs = await figures(today, today, await h.signIn("odda"));
  expect(theirs).toMatchObject({ figures: { jobs: 0 }, waits: [] });
  const { error } = (
    await marl
      .get("/api/figures")
      .query({ from: dayOf(1), to: today })
      .expect(400)
  ).body;
  expect(error.fields.to).toMatch(/before the first day/);
});
