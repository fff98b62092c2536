// Guards: each sample log is read, and shows what its line says; the list and the files come by the API.
import type { SampleView } from "@gearsense/contract";
import { openLog, proposeMapping } from "@gearsense/core/log";
import type { Unit } from "@gearsense/core/unit";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import { loadLibrary } from "../library/load.ts";
import { type Agent, getBytes, type Harness, openJob, startHarness } from "../testing/harness.ts";
import { analyseBytes } from "./analyse-bytes.ts";
import { makeSample, samplesOf } from "./samples.ts";

const { units } = loadLibrary();
const unit = (id: string): Unit => units.find((u) => u.id === id) as Unit;
const text = (bytes: Uint8Array) => new TextDecoder().decode(bytes);

function findingsOf(of: Unit, id: string) {
  const bytes = makeSample({ unit: of, id });
  const definition =
    id === "capture" ? JSON.parse(text(makeSample({ unit: of, id: "capture-definition" }))) : undefined;
  const { table } = openLog(bytes, definition ? { definition } : {});
  const mapping = proposeMapping(table, of);
  const made = analyseBytes({
    parts: [{ bytes, mapping, choice: definition ? { definition } : {} }],
    spanS: undefined,
    unit: of,
    library: units,
  } as never);
  if (!made.ok) throw new Error(made.message);
  return made.analysis.findings.map((f) => f.title);
}

describe("sample logs", () => {
  const brae = unit("brae-p6");
  const logs = samplesOf(brae).filter((s) => !s.fileName.endsWith(".json"));
  it.each(logs.map((s) => [s.id, s] as const))("%s shows what it says", (id, s) => {
    const titles = findingsOf(brae, id).join("; ");
    if (s.shows.startsWith("Nothing wrong")) expect(titles).toBe("");
    else if (/drops out/.test(s.shows)) expect(titles).toMatch(/Output speed sensor/);
    else if (/is worn/.test(s.shows)) expect(titles).toMatch(/[Ss]lip|[Ff]lare/);
    else expect(titles).not.toBe("");
  });
  it.each(["corran-w7", "machair-d6", "tarn-f4"])("of %s are its own: a worn clutch slips in its gears", (id) => {
    const of = unit(id);
    const [plain] = samplesOf(of);
    const gears = /gears ([\d, ]+) slip/.exec(plain?.shows ?? "")?.[1]?.split(", ") ?? [];
    expect(gears.length).toBeGreaterThan(1);
    const slips = findingsOf(of, "plain").filter((t) => /[Ss]lip|[Ff]lare/.test(t));
    expect(slips.some((t) => gears.some((g) => new RegExp(`\\b${g}\\b`).test(t)))).toBe(true);
  });
  it("every way of writing that the simulator knows is among them once", () => {
    expect(new Set(logs.map((s) => s.id)).size).toBe(logs.length);
    expect(logs.length).toBe(16);
    expect(() => makeSample({ unit: brae, id: "no-such" })).toThrow(/isn’t a sample/);
  });
});

describe("over the API", () => {
  let h: Harness;
  let fenn: Agent;
  let iona: Agent;
  beforeAll(async () => {
    h = await startHarness();
    [iona, fenn] = await Promise.all([h.signIn("iona"), h.signIn("fenn")]);
  });
  afterAll(() => h.close());
  it("are listed and come as files, also to one who may only look; another one is not found", async () => {
    const job = await openJob(iona);
    const list = (await fenn.get(`/api/jobs/${job.id}/samples`).expect(200)).body as SampleView[];
    expect(list).toEqual(samplesOf(h.unit));
    await fenn.get(`/api/jobs/${job.id}/samples/plain`).expect(200);
    const bytes = await getBytes(fenn, `/api/jobs/${job.id}/samples/plain`);
    expect(text(bytes)).toBe(text(makeSample({ unit: h.unit, id: "plain" })));
    await fenn.get(`/api/jobs/${job.id}/samples/no-such`).expect(404);
  });
});
