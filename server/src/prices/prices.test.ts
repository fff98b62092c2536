// Guards: own prices and hours stand over the library's in everything that is priced, for the unit or for every unit; two owners do not overwrite
// each other; what cannot be is refused by its field.
import type { JobView, PricesView, SuspectsView } from "@gearsense/contract";
import { BODY } from "@gearsense/core/testing";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import { type Agent, getBytes, type Harness, openJob, startHarness } from "../testing/harness.ts";
import { pdfPages, squeezed } from "../testing/pdf-text.ts";

let h: Harness;
let marl: Agent;
let iona: Agent;
beforeAll(async () => {
  h = await startHarness();
  marl = await h.signIn("marl");
  iona = await h.signIn("iona");
});
afterAll(() => h.close());

const prices = async (agent = marl) => (await agent.get("/api/prices").expect(200)).body as PricesView;
const row = (more: object) => ({ unitId: null, repair: "mount", source: null, hours: null, partsCost: null, ...more });
const save = (rows: readonly object[], baseSeq: number, agent = marl) =>
  agent.post("/api/prices").send({ prices: rows, baseSeq });

describe("own prices", () => {
  it("begin empty, beside the library’s; every title speaks of any component", async () => {
    const { prices: own, seq, library } = await prices(iona);
    expect([own, seq]).toEqual([[], 0]);
    expect(library.repairs.find((r) => r.id === "mount")).toMatchObject({ hours: [0.8, 1.4, 3], partsCost: 110 });
    for (const r of library.repairs) expect(r.title).not.toMatch(/\{/);
    expect(library.repairs.find((r) => r.id === "rebuild")?.title).toMatch(/a clutch or brake/);
  });
  it("count in catalogue, suspects, knowledge and the estimate, of the unit before every unit", async () => {
    const { id } = await openJob(iona);
    const costs = async () => {
      const { advice } = (await iona.get(`/api/jobs/${id}/suspects`).expect(200)).body as SuspectsView;
      return new Map(advice.options.map((o) => [o.repair.id, o.cost]));
    };
    const write = async (kind: string, body: object) =>
      (await iona.post(`/api/jobs/${id}/entries`).send({ kind, body, baseSeq: 0 }).expect(200)).body as JobView;
    await write("level", BODY.level("ok"));
    const before = await costs();
    const fluid = row({ repair: "fluid", partsCost: 30, hours: 2 });
    await save([row({ partsCost: 99 }), row({ unitId: "brae-p6", partsCost: 77, hours: 2 }), fluid], 0).expect(200);
    const after = await costs();
    // two hours for one and a half, and ten more for the parts
    expect((after.get("fluid") ?? 0) - (before.get("fluid") ?? 0)).toBeCloseTo(0.5 * 72 + 10, 6);
    const own = { hours: [(0.8 * 2) / 1.4, 2, (3 * 2) / 1.4], partsCost: 77 };
    const { repairs } = (await iona.get(`/api/jobs/${id}/catalogue`).expect(200)).body;
    expect(repairs.find((r: { id: string }) => r.id === "mount")).toMatchObject(own);
    const known = async (unit: string) =>
      (await iona.get(`/api/knowledge?unitId=${unit}`).expect(200)).body.repairs.find(
        (r: { id: string }) => r.id === "mount",
      );
    expect(await known("brae-p6")).toMatchObject(own);
    expect(await known("tarn-f4")).toMatchObject({ hours: [0.8, 1.4, 3], partsCost: 99 });
    await write("decision", { ...BODY.decision, repairId: "mount", title: "Replace mount" });
    const pages = await pdfPages(Buffer.from(await getBytes(iona, `/api/jobs/${id}/estimate.pdf?system=metric`)));
    // two hours at the shop's rate and the unit's own part
    expect(squeezed(pages.join(" "))).toContain("PriceEUR221.00");
    // another shop has the library's
    expect((await prices(await h.signIn("odda"))).prices).toEqual([]);
  });
  it("two owners who change one price: the second is told by whom, and may store over it", async () => {
    const { seq } = await prices();
    await save([row({ partsCost: 101 })], seq).expect(200);
    const { error } = (await save([row({ partsCost: 102 })], seq).expect(409)).body;
    expect(error).toMatchObject({ code: "stale", message: expect.stringMatching(/^marl has changed the prices/) });
    expect((await prices()).prices).toEqual([row({ partsCost: 101 })]);
    await save([row({ partsCost: 102 })], seq + 1).expect(200);
    expect(await prices()).toMatchObject({ prices: [row({ partsCost: 102 })], seq: seq + 2, author: "marl" });
  });
  it.each([
    [{ repair: "no-such", partsCost: 1 }, "repair"],
    [{ unitId: "no-such", partsCost: 1 }, "unitId"],
    [{ repair: "rebuild", source: "no-such", partsCost: 1 }, "source"],
    [{ repair: "rebuild", source: "kit", hours: 2 }, "hours"],
    [{ repair: "fluid-per-l", hours: 2 }, "repair"],
    [{ partsCost: -0.01 }, "partsCost"],
    [{ partsCost: 100_000.01 }, "partsCost"],
    [{ hours: 0.04 }, "hours"],
    [{ hours: 200.1 }, "hours"],
    [{}, "hours"],
  ])("%j is refused at %s, and nothing is stored", async (more, field) => {
    const before = await prices();
    const { error } = (await save([row(more)], before.seq).expect(400)).body;
    expect(Object.keys(error.fields)).toEqual([`prices.0.${field}`]);
    expect(await prices()).toEqual(before);
  });
  it("just inside the limits, and twice the same line", async () => {
    const { seq } = await prices();
    await save(
      [row({ hours: 0.05, partsCost: 0 }), row({ repair: "linkage", hours: 200, partsCost: 100_000 })],
      seq,
    ).expect(200);
    const { error } = (await save([row({ hours: 1 }), row({ partsCost: 1 })], seq + 1).expect(400)).body;
    expect(error.fields["prices.1.repair"]).toMatch(/twice/);
  });
  it("are set by owners, and shown to those who work here", async () => {
    await save([], 0, iona).expect(403);
    await (await h.signIn("fenn")).get("/api/prices").expect(403);
  });
});
