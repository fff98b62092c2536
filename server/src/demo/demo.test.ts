// Guards: the demo is judged as anybody's job is: its stages are those of its timeline, and what was put into its logs is
// what the judgement names.
import { readFileSync } from "node:fs";
import {
  type BenchView,
  BuildFile,
  type JobSummaryView,
  type JobView,
  type ProofView,
  type SuspectsView,
} from "@gearsense/contract";
import { factorSays, fitConverter } from "@gearsense/core/bench";
import { fitMeasured } from "@gearsense/core/report";
import { type Converter, elementsIn, stallFactor, type Unit } from "@gearsense/core/unit";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import type { Knex } from "knex";
import { connect } from "../db/connect.ts";
import { loadLibrary } from "../library/load.ts";
import { prepare } from "../prepare.ts";
import { type Agent, agentOf, applicationOn, freshDatabase, inline, jobList } from "../testing/harness.ts";
import { demoSignIns, loadDemo } from "./load.ts";

const scenario = JSON.parse(readFileSync(new URL("../../../library/demo/scenario.json", import.meta.url), "utf8"));
const library = loadLibrary();
let close: () => Promise<void>;
let url: string;
let db: Knex;
let iona: Agent;
let jobs: Map<string, JobSummaryView>;

beforeAll(async () => {
  const made = await freshDatabase(true);
  ({ url, db } = made);
  await prepare(db, url, async () => undefined);
  await loadDemo(db, library, inline, Date.parse("2026-11-25T08:00:00Z"));
  const running = await applicationOn(db, url, { now: () => new Date("2026-11-25T08:00:00Z") });
  close = async () => {
    await running.close();
    await made.drop();
  };
  iona = agentOf(running.app);
  await iona.post("/api/session").send({ signIn: "iona", password: scenario.password }).expect(200);
  jobs = new Map((await jobList(iona)).map((j) => [j.number, j]));
});
afterAll(() => close());

const get = async <T>(number: string, path: string): Promise<T> =>
  (await iona.get(`/api/jobs/${jobs.get(number)?.id}${path}`).expect(200)).body;

describe("demo", () => {
  it("has people of every role, and a second shop that sees nothing of the first", () => {
    expect(new Set(demoSignIns().map((s) => s.role))).toEqual(new Set(["owner", "technician", "viewer"]));
    expect(new Set(demoSignIns().map((s) => s.shop)).size).toBe(2);
  });
  it.each([
    ["0416", "closed"],
    ["0417", "suspects"],
    ["0418", "proof"],
    ["0419", "decide"],
    ["0420", "work"],
    ["0421", "first-look"],
    ["0422", "suspects"],
    ["0423", "suspects"],
    ["0424", "scan"],
    ["0425", "suspects"],
    ["0426", "suspects"],
    ["0427", "work"],
    ["0428", "work"],
    ["0429", "work"],
    ["0430", "work"],
    ["0431", "proof"],
    ["0432", "proof"],
    ["0433", "proof"],
    ["0434", "closed"],
  ])("job %s stands at %s", (number, stage) => {
    expect(jobs.get(number)?.stage).toBe(stage);
  });
  it.each([
    ["0416", "HC"],
    ["0417", "sol_K2"],
    ["0419", "TC"],
    ["0420", "sen_output"],
    ["0423", "K1"],
    ["0426", "C3"],
  ])("job %s: the likeliest suspect is the part that was put wrong, %s", async (number, component) => {
    const { ranking } = await get<SuspectsView>(number, "/suspects");
    expect(ranking.suspects[0]?.component).toBe(component);
    expect(ranking.explanations.reduce((s, x) => s + x.probability, 0)).toBeLessThanOrEqual(1 + 1e-9);
    expect(ranking.poorlyExplained).toBe(false);
  });
  it("a shudder with the converter clutch is laid to the fluid or its lining", async () => {
    const { ranking } = await get<SuspectsView>("0418", "/suspects");
    expect(ranking.suspects.slice(0, 2).map((s) => s.classId)).toEqual(
      expect.arrayContaining(["fluid-degraded", "converter-lining"]),
    );
  });
  it("good gears of the chart were driven by the unit that was meant: no element of one is both cleared and suspect", async () => {
    for (const number of ["0417", "0419"]) {
      const { unit } = await get<JobView>(number, "");
      const { chart } = await get<SuspectsView>(number, "/suspects");
      const good = Object.keys(chart.outcomes).filter((g) => chart.outcomes[g] === "good");
      const cleared = good.flatMap((g) => elementsIn(unit as Parameters<typeof elementsIn>[0], g));
      for (const set of chart.reading.explanations) for (const e of set) expect(cleared).not.toContain(e);
      expect(chart.reading.explanations).toHaveLength(1);
    }
  });
  it("shows at least six units, a job without a log, a leak, two faults, a dry dual clutch and a capture", async () => {
    const units = new Set([...jobs.values()].map((j) => j.unitId));
    expect(units.size).toBeGreaterThanOrEqual(6);
    expect(units).toContain("machair-d6");
    // without a log: reverse is carried by two elements, and nothing else failed
    const noLog = await get<SuspectsView>("0422", "/suspects");
    expect(noLog.chart.reading.explanations).toEqual(expect.arrayContaining([["RC"], ["LB"]]));
    expect(["RC", "LB"]).toContain(noLog.ranking.suspects[0]?.component);
    const leak = await get<SuspectsView>("0424", "/suspects");
    expect(leak.evidence.find((e) => e.id === "leak-place")?.outcome).toBe("front-seal");
    expect(leak.ranking.suspects.slice(0, 2).map((s) => s.faultId)).toContain("leak-front");
    const two = await get<SuspectsView>("0425", "/suspects");
    expect(two.ranking.suspects.slice(0, 3).map((s) => s.faultId)).toEqual(
      expect.arrayContaining(["fluid-low", "element-worn:KC"]),
    );
    const capture = await get<JobView>("0426", "");
    expect(capture.entries.some((e) => e.kind === "log" && e.body.fileName.endsWith(".log"))).toBe(true);
  });
  it("holds builds: a ring chosen, a converter machined until it fits, a higher stall proved by its launches, K2 worn and K1 good", async () => {
    const file = async (n: string) => BuildFile.parse(await get(n, "/build.json"));
    const places = async (n: string) => Object.fromEntries((await file(n)).places.map((p) => [p.place, p]));
    const rebuilt = await places("0431");
    expect([rebuilt["pack:TC"]?.state, rebuilt["pack:HC"]?.state, rebuilt["pack-in:TC"]?.state]).toEqual([
      "fail",
      "pass",
      "pass",
    ]);
    expect(rebuilt["pack-in:TC"]?.chosen).toMatchObject([{ name: "Ring 2.60 mm, Third clutch (2–4)" }]);
    const lorry = await get<JobView>("0432", "");
    const fits = lorry.entries.flatMap((e) =>
      e.kind === "bench" && e.body.place === "converter-fit"
        ? [fitConverter((lorry.unit as Unit).converter as Converter, fitMeasured(e.body.values)).lines[0]?.text]
        : [],
    );
    expect(fits).toEqual([
      expect.stringMatching(/^Bottoms out by 0\.8 mm: shorten the spacer by 3\.8 mm/),
      "Comes forward 3.0 mm, as it should.",
    ]);
    const { factor } = await get<BenchView>("0433", "/bench");
    const rated = stallFactor(((await get<JobView>("0433", "")).unit as Unit).converter as Converter);
    const [before, after] = [factor.before?.factor ?? 0, factor.after?.factor ?? 0];
    // the old converter of this vehicle is not quite as its file rates it; the new one is as much off
    expect(factorSays(after, (before * 2450) / 2100, before)).toBe("as-predicted");
    expect(Math.abs(before / rated - 1)).toBeLessThan(0.12);
    const dual = await places("0434");
    expect([dual["pack:K1"]?.state, dual["pack:K2"]?.state]).toEqual(["pass", "fail"]);
    for (const [n, cause] of [
      ["0431", "low-pressure"],
      ["0434", "slipping-long"],
    ] as const) {
      expect((await file(n)).cause?.id).toBe(cause);
      expect((await get<BenchView>(n, "/bench")).causes.slice(0, 3).map((c) => c.id)).toContain(cause);
    }
  });
  it.each(["0416", "0418"])(
    "job %s: every finding from before is gone in the second log, and none is new",
    async (number) => {
      const { comparison } = await get<ProofView>(number, "/proof");
      expect(comparison?.findings.length).toBeGreaterThan(0);
      for (const f of comparison?.findings ?? []) expect(f.verdict).toBe("gone");
      expect(comparison?.fresh).toEqual([]);
    },
  );
});

it("a filled database is brought up to date again without loss, and the demo is loaded once only", async () => {
  const count = async () =>
    Promise.all(
      ["shop", "account", "vehicle", "job", "entry", "log", "log_chunk", "analysis"].map(async (t) =>
        Number((await db(t).count("* as n").first())?.n),
      ),
    );
  const before = await count();
  expect(before.every((n) => n > 0)).toBe(true);
  const second = connect(url);
  await prepare(second, url, async () => {
    expect(await loadDemo(second, library, inline, Date.now())).toBe(false);
  });
  await second.destroy();
  expect(await count()).toEqual(before);
});
