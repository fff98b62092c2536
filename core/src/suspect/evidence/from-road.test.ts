// Guards: a job without a log; gears and shifts by feel, two people's words, ratio and solenoid codes, freeze frames.
import { describe, expect, it } from "@jest/globals";
import { type EntryBodies, foldJob } from "../../job/index.ts";
import { feltObservations } from "../../observe/index.ts";
import { BODY, madeTimeline } from "../../testing/index.ts";
import { libraryKnowledge, libraryUnit, libraryUnits } from "../../testing/units.ts";
import { readObservations, type Unit } from "../../unit/index.ts";
import { believe, collectEvidence, type Evidence, rankSuspects, SuspectModel, siftEvidence } from "../index.ts";

const knowledge = libraryKnowledge();
const corran = libraryUnit("corran-w7");
const brae = libraryUnit("brae-p6");
type Felt = EntryBodies["felt"];
type Mark = Felt["marks"][number];
const mark = (where: string, outcome: Mark["outcome"], more: Partial<Mark> = {}): Mark => ({
  where,
  outcome,
  load: "any",
  temperature: "any",
  ...more,
});
const felt = (marks: Mark[], by = "Driver", sure: Felt["sure"] = "sure"): Felt => ({ by, sure, marks, note: "" });

function job(unit: Unit, tests: Felt[], codes: Partial<EntryBodies["code"]>[] = []) {
  const { entries, write } = madeTimeline();
  for (const t of tests) write("felt", t);
  for (const c of codes) write("code", { ...BODY.code("P0000", "complaint"), ...c });
  const evidence = collectEvidence(unit, foldJob(entries), [], knowledge.debris);
  const model = new SuspectModel(unit, knowledge);
  const { used, problems } = siftEvidence(model, evidence);
  return { evidence, used, problems, ranking: rankSuspects(model, used, believe(model, used)), model };
}
const ids = (list: readonly Evidence[]) => list.map((e) => `${e.id} ${e.outcome}`);

describe("road test by feel", () => {
  it("explains 4 and R gone with all others pulling by the fork they share, not by the clutch", () => {
    const tests = [
      felt([
        ...["1", "2", "3", "5", "6", "7"].map((g) => mark(g, "pulls", { load: "steady" })),
        mark("4", "nothing"),
        mark("R", "nothing"),
      ]),
    ];
    const { ranking } = job(corran, tests);
    const first = ranking.suspects.slice(0, 2).map((s) => s.faultId);
    expect(first.sort()).toEqual(["fork-sensor:F4R", "fork-stuck:F4R"]);
    for (const s of ranking.suspects.filter((x) => x.component === "K2")) expect(s.probability).toBeLessThan(0.1);
    expect(readObservations(corran, feltObservations(corran, tests)).explanations).toEqual([["F4R"]]);
  });

  it("reads the chart of every unit: one element whose gears all fail is among the first", () => {
    for (const unit of libraryUnits()) {
      const carried = (id: string) =>
        unit.gears.map((g) => g.name).filter((g) => (unit.application[g] ?? []).some((a) => a.element === id));
      for (const e of unit.elements) {
        const bad = carried(e.id);
        const tests = [
          felt(
            unit.gears.map((g) =>
              mark(g.name, bad.includes(g.name) ? "slips" : "pulls", { load: "hard", temperature: "hot" }),
            ),
          ),
        ];
        const reading = readObservations(unit, feltObservations(unit, tests));
        for (const set of reading.explanations) for (const id of set) expect(reading.cleared).not.toContain(id);
        // a fork grips by its teeth: it cannot slip
        if (e.kind !== "fork") expect(reading.explanations.flat()).toContain(e.id);
      }
    }
  });

  it("does not take a gentle pull for a cleared gear", () => {
    const chart = (load: Mark["load"]) =>
      readObservations(
        brae,
        feltObservations(brae, [felt([mark("4", "slips", { load: "hard" }), mark("5", "pulls", { load })])]),
      ).cleared;
    expect(chart("light")).not.toContain("HC");
    expect(chart("hard")).toContain("HC");
    const weight = (load: Mark["load"]) => job(brae, [felt([mark("4", "pulls", { load })])]).used[0]?.weight ?? 0;
    expect(weight("light")).toBeLessThan(weight("steady"));
    expect(weight("steady")).toBeLessThan(weight("hard"));
  });

  it("keeps two people's words apart: agreed counts once, a softer drive is no answer, the same drive contradicts", () => {
    const slips = mark("4", "slips", { load: "hard", temperature: "hot" });
    const both = job(brae, [felt([slips], "Owner", "doubtful"), felt([slips], "Marl")]);
    expect(ids(both.evidence)).toEqual(["felt:4 slips"]);
    expect(both.evidence[0]).toMatchObject({ label: "Gear 4: slips (Marl)", weight: 0.97 });
    const softer = job(brae, [felt([slips], "Owner"), felt([mark("4", "pulls", { load: "light" })], "Marl")]);
    expect(ids(softer.used)).toEqual(["felt:4 slips"]);
    const colder = job(brae, [
      felt([slips], "Owner"),
      felt([mark("4", "pulls", { load: "hard", temperature: "cold" })], "Marl"),
    ]);
    expect(ids(colder.used)).toEqual(["felt:4 slips"]);
    const against = job(brae, [felt([slips], "Owner"), felt([{ ...slips, outcome: "pulls" }], "Marl")]);
    expect(against.used).toEqual([]);
    expect(against.problems.map((p) => p.reason).join()).toContain("contradicts");
  });

  it("two who felt a gear fail in different ways agree that it fails: the surer says how", () => {
    const { used, problems } = job(brae, [
      felt([mark("R", "nothing")], "Driver", "doubtful"),
      felt([mark("R", "slips", { load: "light" })], "Marl"),
    ]);
    expect(ids(used)).toEqual(["felt:R slips"]);
    expect(problems).toEqual([]);
  });
  it("one person's later word replaces the earlier, another's stands beside it", () => {
    const { entries, write } = madeTimeline();
    write("felt", felt([mark("4", "slips")], "Marl"));
    write("felt", felt([mark("4", "pulls")], " marl "));
    write("felt", felt([mark("5", "slips")], "Owner"));
    expect(foldJob(entries).felt.map((e) => e.body.marks[0]?.outcome)).toEqual(["pulls", "slips"]);
  });

  it("tells slip that comes only hot from slip that is there cold", () => {
    const heat = (...marks: Mark[]) => job(brae, [felt(marks)]).evidence.find((e) => e.table === "slip-heat")?.outcome;
    const hot = mark("4", "slips", { temperature: "hot" });
    expect(heat(hot, mark("4", "pulls", { temperature: "cold" }))).toBe("only-hot");
    expect(heat(hot, mark("4", "slips", { temperature: "cold" }))).toBe("cold-too");
    expect(heat(hot)).toBeUndefined();
  });

  it("weighs noise and shake by situation, park and neutral", () => {
    const lead = (...marks: Mark[]) => job(brae, [felt(marks)]).ranking.suspects[0]?.faultId;
    expect(lead(mark("cruising", "shake"), mark("coasting", "quiet"), mark("standing", "quiet"))).toBe(
      "converter-lining:converter-clutch",
    );
    expect(lead(mark("cruising", "shake"), mark("coasting", "shake"))).toBe("wheel-vibration");
    expect(ids(job(brae, [felt([mark("N", "creeps"), mark("P", "rolls")])]).used)).toEqual([
      "felt:N creeps",
      "felt:P rolls",
    ]);
  });

  it("gives way to a log of the same gear, and stands above the complaint", () => {
    const e = (table: string): Evidence => ({
      id: table,
      table,
      subject: { gear: "4" },
      outcome: table === "gear" ? "holds" : table === "felt-gear" ? "slips" : "told",
      label: table,
      entryId: "x",
      abnormal: false,
    });
    const model = new SuspectModel(brae, knowledge);
    const used = (...tables: string[]) => siftEvidence(model, tables.map(e)).used.map((x) => x.table);
    expect(used("told-gear", "felt-gear", "gear")).toEqual(["gear"]);
    expect(used("told-gear", "felt-gear")).toEqual(["felt-gear"]);
    expect(used("told-gear")).toEqual(["told-gear"]);
  });
});

describe("codes that many makers share", () => {
  const said = (unit: Unit, code: Partial<EntryBodies["code"]>) =>
    ids(job(unit, [], [code]).evidence.filter((e) => /-code|frame/.test(e.table)));
  it("reads wrong ratios by number, by text and by freeze frame", () => {
    expect(said(brae, { code: "P0734" })).toEqual(["ratio-code:4 stored"]);
    expect(said(brae, { code: "P0736" })).toEqual(["ratio-code:R stored"]);
    expect(said(brae, { code: "P1999", text: "Gear 5 incorrect ratio" })).toEqual(["ratio-code:5 stored"]);
    expect(said(brae, { code: "P1999", text: "Reverse incorrect gear ratio" })).toEqual(["ratio-code:R stored"]);
    expect(said(libraryUnit("tarn-f4"), { code: "P0735" })).toEqual([]);
    const text = brae.codes.find((c) => c.code === "P0730")?.text ?? "";
    expect(said(brae, { code: "P0730", text, freezeFrame: { "Gear commanded": "4" } })).toEqual([
      "ratio-code:4 stored",
    ]);
    expect(said(brae, { code: "P0730", text, freezeFrame: { "Gear oil temperature": "4" } })).toEqual([]);
    expect(said(brae, { code: "P0734", triage: "earlier-work" })).toEqual([]);
  });
  it("reads the family of a shift solenoid, electrical or stuck", () => {
    expect(said(brae, { code: "P0753" })).toEqual(["solenoid-code:sol_LC electrical"]);
    expect(said(brae, { code: "P0757" })).toEqual(["solenoid-code:sol_TC stuck"]);
    expect(said(brae, { code: "P0774" })).toEqual(["solenoid-code:sol_LB electrical"]);
    expect(said(brae, { code: "P0775" })).toEqual([]);
    expect(said(brae, { code: "P1999", text: "Shift solenoid C stuck off" })).toEqual(["solenoid-code:sol_HC stuck"]);
    // the unit file says what this one means
    expect(said(brae, { code: "P0755" })).toEqual([]);
  });
  it("counts a part that a freeze frame names", () => {
    const named = (value: string) => said(corran, { code: "P0914", freezeFrame: { Detail: value } });
    expect(named("Fork 4-R")).toEqual(["frame-part:F4R named"]);
    expect(named("F4R position lost")).toEqual(["frame-part:F4R named"]);
    expect(named("fork")).toEqual([]);
    const odds = (value: string) =>
      job(corran, [], [{ code: "P0914", freezeFrame: { Detail: value } }])
        .ranking.suspects.filter((s) => s.component === "F4R")
        .reduce((p, s) => p + s.probability, 0);
    expect(odds("Fork 4-R")).toBeGreaterThan(3 * odds("not said"));
  });
  it("a ratio code and reverse feed the same odds as a felt gear", () => {
    const { ranking } = job(brae, [felt([mark("R", "slips"), mark("5", "slips")])], [{ code: "P0734" }]);
    expect(ranking.suspects[0]?.component).toBe("HC");
  });
});
