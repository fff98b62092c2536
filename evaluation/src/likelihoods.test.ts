// Guards: counted likelihoods come near the share counted, sum to one, keep what was not counted, and tell a solenoid that stays applied from one that stays released.
import { generateFaults } from "@gearsense/core/suspect";
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { countedLikelihoods, type DriveRecord, drawSpecimen, recordOf } from "./index.ts";
import { knowledge, units } from "./testing/library.ts";

const table = (name: string) => knowledge.evidence.find((t) => t.evidence === name);
const rowOf = (
  made: ReturnType<typeof countedLikelihoods>,
  name: string,
  fault: string,
  relation: string,
  stays?: string,
) =>
  made.evidence
    .find((t) => t.evidence === name)
    ?.rows.find((r) => r.faults.includes(fault) && r.relation === relation && r.stays === stays);
const records = (classId: string, outcomes: readonly string[], more: Partial<DriveRecord> = {}): DriveRecord[] =>
  outcomes.map((outcome) => ({
    classId,
    stays: undefined,
    at: undefined,
    silent: false,
    seen: [{ table: "gear", relation: "carries" as const, outcome }],
    ...more,
  }));

describe("counted likelihoods", () => {
  it("come near the share counted with many vehicles, and stay near what stood there with one", () => {
    const many = countedLikelihoods(
      knowledge,
      records("element-worn", [...Array(300).fill("slips"), ...Array(100).fill("holds")]),
    );
    expect(rowOf(many, "gear", "element-worn", "carries")?.p.slips).toBeCloseTo(0.75, 1);
    const before =
      table("gear")?.rows.find((r) => r.faults.includes("element-worn") && r.relation === "carries")?.p.slips ??
      Number.NaN;
    const one = rowOf(
      countedLikelihoods(knowledge, records("element-worn", ["slips"])),
      "gear",
      "element-worn",
      "carries",
    );
    // one vehicle in which it slips: far nearer to what stood there than to always
    const after = one?.p.slips ?? Number.NaN;
    expect(after).toBeGreaterThan(before);
    expect(after - before).toBeLessThan((1 - before) / 4);
  });
  it("what no vehicle showed this time stays as it was: one site counted does not take the others away", () => {
    const t = table("code");
    const general = t?.rows.find((r) => r.faults.includes("sensor-failed") && r.relation === "about" && !r.at);
    expect(general).toBeDefined();
    const seen = [{ table: "code", relation: "about" as const, outcome: "present" }];
    const made = countedLikelihoods(knowledge, records("sensor-failed", ["x"], { at: "dual-clutch", seen }));
    const kept = made.evidence
      .find((x) => x.evidence === "code")
      ?.rows.find((r) => r.faults.includes("sensor-failed") && r.relation === "about" && !r.at);
    expect(kept?.p).toEqual(general?.p);
  });
  it("what was never seen is likelier at the fault's own part than elsewhere", () => {
    // a class of which the library's table has no row yet
    expect(table("delay-warm")?.rows.some((r) => r.faults.includes("stator-slips"))).toBe(false);
    const late = (relation: "feeds" | "any"): DriveRecord[] =>
      records("stator-slips", ["usual", "usual", "late", "usual", "late", "late"]).map((r) => ({
        ...r,
        seen: r.seen.map((s) => ({ table: "delay-warm", relation, outcome: s.outcome })),
      }));
    const p = (relation: "feeds" | "any") =>
      rowOf(countedLikelihoods(knowledge, late(relation)), "delay-warm", "stator-slips", relation)?.p;
    expect(p("feeds")?.["very-late"]).toBeGreaterThan(p("any")?.["very-late"] as number);
  });
  it("a row that says no more than what is so anyway is left out", () => {
    const asSound = [...Array(16).fill("usual"), ...Array(2).fill("later"), "early", "early"];
    const like = records("converter-lining", asSound).map((r) => ({
      ...r,
      seen: r.seen.map((s) => ({ table: "delay-warm", relation: "any" as const, outcome: s.outcome })),
    }));
    const bare = { ...knowledge, evidence: knowledge.evidence.map((t) => ({ ...t, rows: [] })) };
    expect(rowOf(countedLikelihoods(bare, like), "delay-warm", "converter-lining", "any")).toBeUndefined();
  });
  it("sum to one and lie between 0 and 1, whatever was counted", () => {
    const outcome = fc.constantFrom(...(table("gear")?.outcomes ?? []));
    fc.assert(
      fc.property(fc.array(outcome, { minLength: 1, maxLength: 60 }), (outcomes) => {
        for (const t of countedLikelihoods(knowledge, records("pump-worn", outcomes)).evidence)
          for (const r of t.drive ? t.rows : []) {
            const values = Object.values(r.p);
            expect(values.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 2);
            expect(Math.min(...values)).toBeGreaterThan(0);
            expect(Math.max(...values)).toBeLessThan(1);
          }
      }),
      { numRuns: 25 },
    );
  });
  it("leave tables alone that no drive shows, and rows of classes that were not seen", () => {
    const made = countedLikelihoods(knowledge, records("element-worn", ["slips", "slips"]));
    expect(made.evidence.find((t) => t.evidence === "fluid-level")).toBe(table("fluid-level"));
    const own = table("gear")?.rows.find((r) => r.faults.includes("dual-clutch-worn"));
    expect(rowOf(made, "gear", "dual-clutch-worn", own?.relation ?? "")?.p).toEqual(own?.p);
  });
  it("what is so without any fault is counted on sound vehicles, and nothing is beyond belief", () => {
    const sound = records("", [...Array(90).fill("holds"), ...Array(10).fill("slips")]).map((r) => ({
      ...r,
      classId: undefined,
    }));
    const otherwise = countedLikelihoods(knowledge, sound).evidence.find((t) => t.evidence === "gear")?.otherwise ?? {};
    expect(otherwise.slips).toBeGreaterThan(0.07);
    expect(otherwise.slips).toBeLessThan(0.11);
    expect(Math.min(...Object.values(otherwise))).toBeGreaterThan(0);
    expect(Object.values(otherwise).reduce((a, b) => a + b, 0)).toBeCloseTo(1, 9);
    const none = countedLikelihoods(knowledge, records("mount", ["holds"]));
    expect(none.evidence.find((t) => t.evidence === "gear")?.otherwise).toEqual(table("gear")?.otherwise);
  });
  it("silence is how often nothing shows, drawn towards what was said before", () => {
    const silent = (n: number, of: number) =>
      countedLikelihoods(knowledge, [
        ...records("mount", Array(n).fill("holds"), { silent: true }),
        ...records("mount", Array(of - n).fill("holds")),
      ]).faults.find((f) => f.id === "mount")?.silent ?? Number.NaN;
    expect(silent(50, 100)).toBeCloseTo(0.5, 1);
    expect(silent(1, 1)).toBeLessThan(0.5);
  });
  it("keep a solenoid that stays applied apart from one that stays released", () => {
    const made = countedLikelihoods(knowledge, [
      ...records("solenoid-stuck-off", Array(40).fill("gone"), { stays: "released" }),
      ...records("solenoid-stuck-off", Array(40).fill("holds"), { stays: "applied" }),
    ]);
    expect(rowOf(made, "gear", "solenoid-stuck-off", "carries", "released")?.p.gone).toBeGreaterThan(0.8);
    expect(rowOf(made, "gear", "solenoid-stuck-off", "carries", "applied")?.p.gone ?? 0).toBeLessThan(0.1);
  });
});

describe("a fault at a site where it shows otherwise", () => {
  const at = (site: DriveRecord["at"], n: number, outcome: string) =>
    records("solenoid-leaks", Array(n).fill(outcome), { at: site });
  const blank = {
    ...knowledge,
    evidence: knowledge.evidence.map((t) => (t.evidence === "gear" ? { ...t, rows: [] } : t)),
  };
  const rowsOf = (seen: readonly DriveRecord[]) =>
    countedLikelihoods(blank, seen)
      .evidence.find((t) => t.evidence === "gear")
      ?.rows.filter((r) => r.faults.includes("solenoid-leaks") && r.relation === "carries") ?? [];
  it("has a row of its own, before the general one that counts the others only", () => {
    const [own, general, ...more] = rowsOf([...at(undefined, 60, "slips"), ...at("dual-clutch", 60, "gone")]);
    expect(more).toEqual([]);
    expect([own?.at, general?.at]).toEqual(["dual-clutch", undefined]);
    expect(own?.p.gone).toBeGreaterThan(0.8);
    expect(general?.p.slips).toBeGreaterThan(0.8);
  });
  it("has none when it shows there what it shows elsewhere", () => {
    const rows = rowsOf([...at(undefined, 300, "slips"), ...at("dual-clutch", 3, "slips")]);
    expect(rows.map((r) => r.at)).toEqual([undefined]);
  });
  it("every row sums to one, whatever is counted where", () => {
    const outcomes = table("gear")?.outcomes ?? [];
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom(undefined, "dual-clutch" as const), fc.constantFrom(...outcomes)), {
          minLength: 1,
          maxLength: 60,
        }),
        (seen) => {
          for (const r of rowsOf(seen.flatMap(([site, outcome]) => at(site, 1, outcome)))) {
            expect(Object.values(r.p).reduce((a, b) => a + b, 0)).toBeCloseTo(1, 6);
            expect(Math.min(...Object.values(r.p))).toBeGreaterThan(0);
          }
        },
      ),
      { numRuns: 40 },
    );
  });
});

describe("records", () => {
  it("a gear that the element carries is told from one that is made without it", () => {
    const unit = units.find((u) => u.id === "brae-p6");
    const fault = unit && generateFaults(unit, knowledge).find((f) => f.id === "element-worn:TC");
    if (!unit || !fault) throw new Error("the library has changed");
    const gear = (name: string, outcome: string) => ({
      id: name,
      table: "gear",
      subject: { gear: name },
      outcome,
      label: name,
      entryId: "log",
      abnormal: outcome !== "holds",
    });
    const made = recordOf(unit, fault, [gear("3", "slips"), gear("5", "holds")]);
    expect(made.silent).toBe(false);
    expect(made.seen.map((s) => s.relation.replace("-hard", ""))).toEqual(["carries", "spares"]);
    expect(recordOf(unit, fault, [gear("2", "holds")]).silent).toBe(true);
  });
  it("specimens have one fault or none, the same again, and rare classes come nearly as often as common ones", () => {
    const drawn = Array.from({ length: 400 }, (_, n) => drawSpecimen(3, n, units, knowledge));
    expect(drawn.every((s) => s.faultIds.length <= 1)).toBe(true);
    // some of every unit have nothing wrong
    const sound = drawn.filter((s) => s.faultIds.length === 0);
    expect(new Set(sound.map((s) => s.unitId)).size).toBe(units.length);
    expect(sound.length).toBeLessThan(drawn.length / 4);
    expect(drawSpecimen(3, 7, units, knowledge)).toEqual(drawn[7]);
    // each of a world of its own, and none of those that the examiner may ask for
    expect(new Set(drawn.map((d) => d.world)).size).toBe(drawn.length);
    expect(Math.min(...drawn.map((d) => d.world))).toBeGreaterThan(1000);
    const count = (id: string) => drawn.filter((s) => s.faultIds[0]?.split(":")[0] === id).length;
    expect(count("element-worn")).toBeGreaterThan(0);
    expect(count("element-worn")).toBeLessThan(8 * Math.max(1, count("mount")));
  });
});
