// Guards: the judgement follows the timeline: it moves with an entry, goes back when the entry is taken back, and reads
// several logs together.

import type { CatalogueView, JobView, ProofView, SuspectsView } from "@gearsense/contract";
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
import { pdfPages, squeezed } from "../testing/pdf-text.ts";

let h: Harness;
let iona: Agent;
let jobId: string;
beforeAll(async () => {
  h = await startHarness();
  iona = await h.signIn("iona");
  jobId = (await openJob(iona)).id;
});
afterAll(() => h.close());

const suspects = async (id = jobId): Promise<SuspectsView> =>
  (await iona.get(`/api/jobs/${id}/suspects`).expect(200)).body;
const write = async (kind: string, body: object, baseSeq = 0): Promise<JobView> =>
  (await iona.post(`/api/jobs/${jobId}/entries`).send({ kind, body, baseSeq }).expect(200)).body;
const odds = (s: SuspectsView) => Object.fromEntries(s.ranking.suspects.map((x) => [x.faultId, x.probability]));
const near = (a: Record<string, number>, b: Record<string, number>) => {
  for (const [id, p] of Object.entries(a)) expect(b[id] ?? 0).toBeCloseTo(p, 9);
};

describe("the odds", () => {
  it("of a job without evidence but its complaint name nothing for sure, and ask for level and log", async () => {
    const s = await suspects();
    expect(Math.max(...Object.values(odds(s)))).toBeLessThan(0.6);
    expect(s.levelKnown).toBe(false);
    expect(s.chart.outcomes).toEqual({});
    expect(s.movedBy?.label).toMatch(/Complaint/);
  });
  it("move with an entry, say which, and go back when it is taken back", async () => {
    const before = await suspects();
    const job = await write("fluid", { colour: "black", smell: "burnt", note: "" });
    const burnt = await suspects();
    expect(burnt.movedBy?.label).toMatch(/burnt/);
    near(odds(before), burnt.previous);
    const entry = job.entries.find((e) => e.kind === "fluid");
    await write("retraction", { entryId: entry?.id, reason: "another vehicle's pan" });
    near(odds(before), odds(await suspects()));
  });
  it("do not count a code of earlier work, and do once it belongs to the complaint", async () => {
    const before = odds(await suspects());
    const body = { code: "P0722", text: "Output speed", module: "", reason: "unplugged last week" };
    const job = await write("code", { ...body, triage: "earlier-work" });
    near(before, odds(await suspects()));
    const seq = job.entries.find((e) => e.kind === "code")?.seq;
    await write("code", { ...body, triage: "complaint" }, seq);
    expect(odds(await suspects())["sensor-failed:sen_output"]).toBeGreaterThan(before["sensor-failed:sen_output"] ?? 0);
  });
});

describe("a job", () => {
  it("has every check and repair of its unit, with what it takes and what to write down", async () => {
    const { checks, repairs } = (await iona.get(`/api/jobs/${jobId}/catalogue`).expect(200)).body as CatalogueView;
    expect(checks.some((c) => c.id === "air-check:TC" && c.record.length > 0 && c.needs.length > 0)).toBe(true);
    expect(new Set(checks.map((c) => c.kindId)).size).toBeGreaterThan(60);
    expect(repairs.some((r) => r.id === "rebuild:TC")).toBe(true);
    expect(repairs.some((r) => r.kindId === "dual-clutch-pack")).toBe(false);
  });
  it("names an entry that its library does not know, and judges the rest", async () => {
    const job = (await openJob(iona)).id;
    const body = {
      checkId: "dowsing:TC",
      component: "TC",
      title: "Dowsing",
      outcome: "twitch",
      outcomeLabel: "twitches",
      abnormal: true,
      minutes: 1,
      note: "",
    };
    await iona.post(`/api/jobs/${job}/entries`).send({ kind: "check", body, baseSeq: 0 }).expect(200);
    const s = await suspects(job);
    expect(s.problems.map((p) => p.reason)).toEqual([expect.stringMatching(/no check "dowsing:TC"/)]);
    expect(s.ranking.suspects.length).toBeGreaterThan(50);
  });
  it("counts a repair that changed nothing against what it would have cured, and gives no estimate before a decision", async () => {
    const job = (await openJob(iona)).id;
    const odd = async () => odds(await suspects(job))["fluid-degraded"] ?? 0;
    const before = await odd();
    const body = { repairId: "fluid", title: "Renew fluid and filter", outcome: "no-change", note: "" };
    await iona.post(`/api/jobs/${job}/entries`).send({ kind: "tried", body, baseSeq: 0 }).expect(200);
    expect(await odd()).toBeLessThan(before / 2);
    const refused = await iona.get(`/api/jobs/${job}/estimate.pdf?system=metric`).expect(409);
    expect(refused.body.message ?? refused.body.error?.message).toMatch(/choose an option first/);
    const decision = {
      repairId: "fill",
      title: "Find the leak, fill to level",
      reason: "first of all",
      expectedCost: 120,
      cures: 0.6,
      modelVersion: 5,
      odds: [{ title: "Fluid level low", probability: 0.6 }],
      levelKnown: true,
      spread: [80, 110, 700],
    };
    await iona.post(`/api/jobs/${job}/entries`).send({ kind: "decision", body: decision, baseSeq: 0 }).expect(200);
    const pdf = await iona.get(`/api/jobs/${job}/estimate.pdf?system=metric`).responseType("blob").expect(200);
    const text = squeezed((await pdfPages(pdf.body as Buffer)).join(" "));
    for (const words of [
      "Find the leak, fill to level",
      "60 of 100",
      "first of all",
      "under EUR 110",
      "It is an estimate",
    ])
      expect(text).toContain(squeezed(words));
  });
});

describe("several logs", () => {
  let worn: ReturnType<typeof madeLog>;
  beforeAll(() => {
    worn = madeLog(h.unit, [WORN_THIRD_CLUTCH], 9, "mixed", 420);
  });
  it("are read together: what one drive shows the other may have missed", async () => {
    const two = (await openJob(iona)).id;
    await analysedLog(iona, two, madeLog(h.unit, [], 3, "town", 200));
    const gentle = await suspects(two);
    expect(Object.values(gentle.chart.outcomes)).not.toContain("bad");
    await analysedLog(iona, two, worn);
    const both = await suspects(two);
    expect(both.chart.reading.explanations).toEqual([["TC"]]);
    expect(both.ranking.suspects[0]?.component).toBe("TC");
  });
  it("after work that did not cure are evidence of what is left, from when that is told", async () => {
    const job = (await openJob(iona)).id;
    const store = (kind: string, body: object) =>
      iona.post(`/api/jobs/${job}/entries`).send({ kind, body, baseSeq: 0 }).expect(200);
    const low = { kind: "fluid-low", severity: 0.9 } as const;
    await store("level", {
      state: "low",
      method: "dipstick",
      fluidC: 41,
      litresFromFull: null,
      engineRunning: true,
      note: "",
    });
    await analysedLog(iona, job, madeLog(h.unit, [low, WORN_THIRD_CLUTCH], 9, "mixed", 420));
    await store("work", { text: "Filled", minutes: 40, parts: [] });
    const before = await suspects(job);
    await analysedLog(iona, job, worn, "after");
    near(odds(before), odds(await suspects(job)));
    await store("tried", { repairId: "fill", title: "Fill to level", outcome: "better", note: "" });
    const left = await suspects(job);
    const since = left.evidence.filter((e) => e.afterRepairs === 1);
    expect(since.map((e) => e.label)).toContain("Gear 2 slips, since repair 1");
    expect(left.problems).toEqual([]);
    expect(left.ranking.suspects[0]?.component).toBe("TC");
    expect(odds(left)["fluid-low"]).toBeLessThan((odds(before)["fluid-low"] ?? 0) / 2);
  });
  it("of before and after never mix: the proof needs both, the odds only the first", async () => {
    const job = (await openJob(iona)).id;
    await analysedLog(iona, job, worn);
    const first = odds(await suspects(job));
    const proof = async (): Promise<ProofView> => (await iona.get(`/api/jobs/${job}/proof`).expect(200)).body;
    expect(await proof()).toMatchObject({ after: [], comparison: null });
    const sound = madeLog(h.unit, [], 10, "mixed", 900);
    await analysedLog(iona, job, sound, "after");
    near(first, odds(await suspects(job)));
    const slips = async () =>
      (await proof()).comparison?.findings.filter((f) => f.findingId.startsWith("slip:")).map((f) => f.verdict);
    expect(new Set(await slips())).toEqual(new Set(["gone"]));
    // drives after are pooled: one that slips again spoils the proof
    await analysedLog(iona, job, worn, "after");
    expect(await proof()).toMatchObject({ before: [{}], after: [{}, {}] });
    expect(await slips()).not.toContain("gone");
  });
});

describe("a road test without a log", () => {
  it("proves as felt, of the work that was done last, and says so in the report", async () => {
    const job = await openJob(iona);
    const say = async (kind: string, body: object, baseSeq = 0): Promise<JobView> =>
      (await iona.post(`/api/jobs/${job.id}/entries`).send({ kind, body, baseSeq }).expect(200)).body;
    const proof = async (): Promise<ProofView> => (await iona.get(`/api/jobs/${job.id}/proof`).expect(200)).body;
    const asked = (await proof()).felt;
    expect(asked.length).toBeGreaterThan(0);
    for (const f of asked) expect(f.verdict).toBe("not exercised");
    await say("work", { text: "Clutch renewed", minutes: 700, parts: [] });
    const job1: JobView = (await iona.get(`/api/jobs/${job.id}`).expect(200)).body;
    const symptoms = job1.entries.flatMap((e) => (e.kind === "intake" ? e.body.symptoms : []));
    const drives = (times: number, felt: number) =>
      symptoms.flatMap(({ where, load, temperature }) =>
        (where.length > 0 ? where : [""]).map((w) => ({ where: w, load, temperature, times, felt })),
      );
    const view = await say("road-test", { drives: drives(60, 0), note: "Harbour hill twice" });
    const proved = await proof();
    expect(proved.comparison).toBeNull();
    for (const f of proved.felt) expect(f.verdict).toBe("gone");
    expect(proved.feltSentence).toMatch(/^Felt on a road test, not measured: gone/);
    await say("proof", { beforeLogId: null, afterLogId: null, sentence: proved.feltSentence, note: "" });
    const { body } = await iona.get(`/api/jobs/${job.id}/report`).query({ system: "metric" }).expect(200);
    expect(JSON.stringify(body)).toMatch(/felt and not measured.*Harbour hill twice/);
    // felt once: it is still there; and after other work the test says nothing of it any more
    const seq = view.entries.find((e) => e.kind === "road-test")?.seq ?? 0;
    await say("road-test", { drives: drives(60, 1), note: "" }, seq);
    for (const f of (await proof()).felt) expect(f.verdict).toBe("same");
    await say("work", { text: "Pressure set", minutes: 20, parts: [] });
    for (const f of (await proof()).felt) expect(f.verdict).toBe("not exercised");
  });
  it("refuses what cannot be, with the place", async () => {
    const job = await openJob(iona);
    const drive = { where: "4", load: "any", temperature: "any", times: 2, felt: 3 };
    const refused = await iona
      .post(`/api/jobs/${job.id}/entries`)
      .send({ kind: "road-test", body: { drives: [drive], note: "" }, baseSeq: 0 })
      .expect(400);
    expect(JSON.stringify(refused.body)).toMatch(/felt more often than it was driven/);
  });
});
