// Guards: the bench through the API: what fits no unit is refused, earlier builds stand beside, the record on paper and as a
// file, instruments of a shop, no hand-over without a word on the cause; on a real database.
import { type BenchView, BuildFile, type InstrumentsView, type JobView } from "@gearsense/contract";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import {
  type Agent,
  analysedLog,
  getBytes,
  type Harness,
  madeLog,
  openJob,
  startHarness,
  WORN_THIRD_CLUTCH,
} from "../testing/harness.ts";
import { pdfPages, squeezed } from "../testing/pdf-text.ts";

let h: Harness;
let iona: Agent;
let fenn: Agent;
beforeAll(async () => {
  h = await startHarness();
  iona = await h.signIn("iona");
  fenn = await h.signIn("fenn");
});
afterAll(() => h.close());

const write = (id: string, kind: string, body: object, baseSeq = 0) =>
  iona.post(`/api/jobs/${id}/entries`).send({ kind, body, baseSeq });
const value = (id: string, reading: number, more: object = {}) => ({
  ...{ id, name: id, unit: "mm", readings: [reading], instrument: "Micrometer", percent: 0, fixed: 0.006 },
  ...more,
});
const bench = (place: string, more: object = {}) => ({
  place,
  title: place,
  values: [],
  looks: [],
  chosen: [],
  note: "",
  ...more,
});
const worn = bench("pack:TC", {
  values: [value("plate-1", 1.42, { from: 1.6 })],
  looks: [{ id: "colour", name: "Colour of the linings", outcome: "black", label: "Black", pass: false }],
});
const view = async (id: string): Promise<BenchView> => (await iona.get(`/api/jobs/${id}/bench`).expect(200)).body;
const cause = (outcome: string, label: string) =>
  bench("cause", { looks: [{ id: "cause", name: "What broke it", outcome, label, pass: null }] });

describe("what is written", () => {
  it("is kept by place, with versions", async () => {
    const { id } = await openJob(iona);
    await write(id, "bench", worn).expect(200);
    const job = (await write(id, "bench", bench("cooler"), 0).expect(200)).body as JobView;
    expect(job.entries.filter((e) => e.kind === "bench").map((e) => e.slot)).toEqual(["bench:pack:TC", "bench:cooler"]);
    await write(id, "bench", worn, 0).expect(409);
  });
  it.each([
    [bench("pack:XX"), "body.place", /has no place "pack:XX"/],
    [bench("dual-clutch"), "body.place", /has no place/],
    [
      bench("pack:TC", { values: [value("plate-1", 71)] }),
      "body.values.0.readings",
      /71 mm looks like mil, that would be 1\.8 mm\. Say which it is/,
    ],
    [
      bench("pack:TC", { values: [value("plate-1", 1.8, { unit: "Ω" })] }),
      "body.values.0.unit",
      /measured in mm, not in Ω/,
    ],
    [
      bench("converter-choice", {
        curve: [
          [1000, 200],
          [3000, 300],
          [2000, 310],
        ],
      }),
      "body.curve",
      /Point 3 at 2000 rpm comes after 3000 rpm/,
    ],
  ])("that cannot be is refused by its field: %#", async (body, field, says) => {
    const { id } = await openJob(iona);
    const { error } = (await write(id, "bench", body).expect(422)).body;
    expect(error.fields[field]).toMatch(says);
  });
  it("stands as it was read when somebody says so", async () => {
    const { id } = await openJob(iona);
    await write(id, "bench", bench("pack:TC", { values: [value("plate-1", 71, { asRead: true })] })).expect(200);
  });
  it("is the technician's: a viewer may look", async () => {
    const { id } = await openJob(iona);
    await fenn.post(`/api/jobs/${id}/entries`).send({ kind: "bench", body: worn, baseSeq: 0 }).expect(403);
    await fenn.get(`/api/jobs/${id}/bench`).expect(200);
  });
});

describe("what it comes to", () => {
  it("are causes with their odds, and what drive and bench do not agree in", async () => {
    const { id } = await openJob(iona);
    await analysedLog(iona, id, madeLog(h.unit, [WORN_THIRD_CLUTCH]));
    const sound = bench("pack:TC", { values: [1, 2, 3, 4].map((i) => value(`plate-${i}`, 1.9, { from: 1.6 })) });
    await write(id, "bench", sound).expect(200);
    const found = await view(id);
    expect(found.contradictions.map((c) => c.id)).toEqual(["bench-clears-TC"]);
    expect(found.causes.reduce((s, c) => s + c.probability, 0)).toBeCloseTo(1, 9);
    expect(found.signs.some((s) => s.sign === "slip" && s.outcome === "seen")).toBe(true);
    expect(found.curve?.length).toBeGreaterThan(3);
    expect(found.factor.after).toBeNull();
    const before = (await view(id)).causes;
    await write(
      id,
      "bench",
      bench("teardown", { looks: [{ id: "damage", name: "Case", outcome: "broken", label: "Cracked", pass: false }] }),
    ).expect(200);
    const impact = (list: BenchView["causes"]) => list.find((c) => c.id === "impact")?.probability ?? 0;
    expect(impact((await view(id)).causes)).toBeGreaterThan(3 * impact(before));
  });
  it("shows what was built before of the same unit, not of another and not what was taken back", async () => {
    const first = await openJob(iona, { unitId: "tarn-f4" });
    await write(first.id, "bench", bench("pack:FC", { values: [value("plate-1", 1.83)] })).expect(200);
    const other = await openJob(iona, { unitId: "holm-c6" });
    await write(other.id, "bench", bench("teardown")).expect(200);
    const second = await openJob(iona, { unitId: "tarn-f4" });
    expect((await view(second.id)).earlier).toMatchObject([
      { jobNumber: first.number, places: [{ place: "pack:FC", values: [{ readings: [1.83] }] }] },
    ]);
    const job = (await iona.get(`/api/jobs/${first.id}`)).body as JobView;
    const entryId = job.entries.find((e) => e.kind === "bench")?.id;
    await write(first.id, "retraction", { entryId, reason: "misread" }).expect(200);
    expect((await view(second.id)).earlier).toEqual([]);
  });
});

describe("the build record", () => {
  it("is refused while nothing was measured", async () => {
    const { id } = await openJob(iona);
    expect((await iona.get(`/api/jobs/${id}/build.json`).expect(409)).body.error.code).toBe("nothing-built");
  });
  it("holds every value with who read it, the parts, the cause; as a file and on paper", async () => {
    const { id, number } = await openJob(iona);
    await write(id, "bench", worn).expect(200);
    const plates = [1, 2, 3, 4].flatMap((i) => [
      value(`plate-${i}`, 1.95, { from: 1.6 }),
      value(`steel-${i}`, 1.85, { from: 1.7 }),
    ]);
    const ring = {
      id: "selective",
      name: "Ring 2.40 mm",
      sizeMm: 2.4,
      quantity: 1,
      costEach: 9,
      why: "nearest its target",
    };
    await write(id, "bench", bench("pack-in:TC", { values: [...plates, value("fitted", 2.4)], chosen: [ring] })).expect(
      200,
    );
    await write(id, "bench", cause("low-pressure", "Line or apply pressure too low")).expect(200);
    const file = BuildFile.parse((await iona.get(`/api/jobs/${id}/build.json`).expect(200)).body);
    expect(file).toMatchObject({ job: number, unit: { id: "brae-p6" }, cause: { id: "low-pressure" }, breakInKm: 500 });
    expect(file.places.map((p) => [p.place, p.state])).toEqual([
      ["pack:TC", "fail"],
      ["pack-in:TC", "pass"],
    ]);
    expect(file.places[0]?.values[0]).toMatchObject({ mean: 1.42, call: "out", author: "iona" });
    expect(file.places[1]?.chosen).toMatchObject([{ name: "Ring 2.40 mm", author: "iona" }]);
    const pages = await pdfPages(Buffer.from(await getBytes(iona, `/api/jobs/${id}/build.pdf?system=metric`)));
    const text = squeezed(pages.join(" "));
    for (const words of [
      "Build record",
      "1.420 ± 0.012 mm",
      "out, > 99 % sure",
      "Ring 2.40 mm",
      "clearance 1.25 mm",
      "What would break it again",
      "500 km",
    ])
      expect(text).toContain(squeezed(words));
  });
});

describe("a hand-over", () => {
  it("waits for a word on the cause once something failed; unknown is one", async () => {
    const { id } = await openJob(iona);
    const decision = {
      repairId: "rebuild",
      title: "Rebuild",
      reason: "x",
      expectedCost: 1,
      cures: 0.9,
      modelVersion: 1,
      odds: [],
      levelKnown: true,
    };
    await write(id, "decision", decision).expect(200);
    await write(id, "bench", worn).expect(200);
    const handover = { remarks: "", followUps: [] };
    const { error } = (await write(id, "handover", handover).expect(409)).body;
    expect(error).toMatchObject({ code: "cause-missing", message: expect.stringMatching(/name it unknown/) });
    await write(id, "bench", cause("unknown", "Unknown")).expect(200);
    await write(id, "handover", handover).expect(200);
    const report = (await iona.get(`/api/jobs/${id}/report?system=metric`).expect(200)).body;
    expect(report.sections.find((s: { id: string }) => s.id === "bench").paragraphs.join(" ")).toMatch(
      /can’t tell from what was found/,
    );
  });
});

describe("instruments", () => {
  it("are those of the library until the shop says otherwise, everywhere; once a version; with some uncertainty", async () => {
    const first = (await fenn.get("/api/instruments").expect(200)).body as InstrumentsView;
    expect(first.seq).toBe(0);
    const mine = first.instruments.map((i) => (i.id === "micrometer" ? { ...i, fixed: 0.004 } : i));
    const own = { id: "gauge-block", name: "Gauge block", percent: 0, fixed: 0.001, unit: "mm" };
    await fenn.post("/api/instruments").send({ instruments: mine, baseSeq: 0 }).expect(403);
    const saved = (
      await iona
        .post("/api/instruments")
        .send({ instruments: [...mine, own], baseSeq: 0 })
        .expect(200)
    ).body as InstrumentsView;
    expect(saved.seq).toBe(1);
    expect(saved.instruments.at(-1)).toEqual(own);
    const known = (await iona.get("/api/knowledge?unitId=brae-p6").expect(200)).body;
    expect(known.instruments.find((i: { id: string }) => i.id === "micrometer").fixed).toBe(0.004);
    await iona.post("/api/instruments").send({ instruments: mine, baseSeq: 0 }).expect(409);
    const zero = { ...own, fixed: 0 };
    const { error } = (
      await iona
        .post("/api/instruments")
        .send({ instruments: [zero], baseSeq: 1 })
        .expect(400)
    ).body;
    expect(error.fields["instruments.0.fixed"]).toMatch(/no instrument is without uncertainty/);
    await iona
      .post("/api/instruments")
      .send({ instruments: [own, own], baseSeq: 1 })
      .expect(400);
  });
});
