// Guards: faults from the unit file, posteriors that do not depend on order, and the patterns of reasoning.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { foldJob } from "../job/index.ts";
import { BODY, madeTimeline } from "../testing/index.ts";
import { libraryKnowledge, libraryUnit } from "../testing/units.ts";
import { Belief } from "./belief/belief.ts";
import {
  believe,
  checkEntry,
  checkKnowledge,
  checksDone,
  collectEvidence,
  type Evidence,
  FRESH,
  generateChecks,
  generateFaults,
  generateRepairs,
  openedBy,
  Planner,
  rankSuspects,
  relationHolds,
  SuspectModel,
} from "./index.ts";

const planetary = libraryUnit("brae-p6");
const dual = libraryUnit("corran-w7");
const knowledge = libraryKnowledge();
const model = new SuspectModel(planetary, knowledge);

const gear = (name: string, outcome: "slips" | "holds"): Evidence => ({
  id: `gear:${name}`,
  table: "gear",
  subject: { gear: name },
  outcome,
  label: `gear ${name} ${outcome}`,
  entryId: "e1",
  abnormal: outcome === "slips",
});
const item = (table: string, outcome: string, subject: Evidence["subject"] = {}, abnormal = true): Evidence => ({
  id: `${table}:${outcome}:${JSON.stringify(subject)}`,
  table,
  subject,
  outcome,
  label: table,
  entryId: "e1",
  abnormal,
});
const thirdClutch = [
  gear("1", "holds"),
  gear("5", "holds"),
  gear("6", "holds"),
  gear("2", "slips"),
  gear("3", "slips"),
  gear("4", "slips"),
];

describe("knowledge", () => {
  it("of the library is sound", () => {
    expect(checkKnowledge(knowledge)).toEqual([]);
  });
  it.each([
    [
      "probabilities that do not sum to one",
      { evidence: [{ ...knowledge.evidence[0], otherwise: { slips: 0.5, holds: 0.6 } }] },
      /do not sum to one/,
    ],
    [
      "an unknown fault",
      { evidence: [{ ...knowledge.evidence[0], rows: [{ ...knowledge.evidence[0]?.rows[0], faults: ["nonsense"] }] }] },
      /no fault "nonsense"/,
    ],
    ["a missing caution", { repairs: [{ ...knowledge.repairs[0], cautions: ["dragons"] }] }, /no caution "dragons"/],
    ["a fault without a cure", { repairs: [knowledge.repairs[0]] }, /no repair cures it/],
    ["a certainty", { evidence: [{ ...knowledge.evidence[0], otherwise: { slips: 0, holds: 1 } }] }, /over zero/],
  ])("with %s is refused", (_name, patch, message) => {
    expect(checkKnowledge({ ...knowledge, ...patch } as typeof knowledge).join("\n")).toMatch(message);
  });
});

describe("faults from the unit file", () => {
  it("are one for each component, and none for what the unit lacks", () => {
    const ids = generateFaults(planetary, knowledge).map((f) => f.id);
    expect(ids.filter((id) => id.startsWith("element-worn:"))).toEqual(
      ["LC", "TC", "HC", "SC", "LB"].map((e) => `element-worn:${e}`),
    );
    expect(ids.some((id) => id.startsWith("dual-clutch"))).toBe(false);
    expect(new Set(ids).size).toBe(ids.length);
    const dualIds = generateFaults(dual, knowledge).map((f) => f.id);
    expect(dualIds).toEqual(
      expect.arrayContaining(["dual-clutch-worn:K1", "dual-clutch-worn:K2", "fork-stuck:F26", "fork-sensor:F26"]),
    );
    expect(dualIds.some((id) => id.startsWith("converter"))).toBe(false);
  });
  it("follow the unit: an element more is a suspect more", () => {
    const more = {
      ...planetary,
      elements: [...planetary.elements, { id: "XB", name: "Extra brake", kind: "brake" as const }],
    };
    expect(generateFaults(more, knowledge).length - generateFaults(planetary, knowledge).length).toBe(
      knowledge.faults.filter((f) => f.per === "friction-element").length,
    );
  });
  it("repairs and checks of other kinds of unit are not offered", () => {
    expect(generateRepairs(planetary, knowledge).some((r) => r.kindId === "dual-clutch-pack")).toBe(false);
    expect(generateRepairs(dual, knowledge).some((r) => r.kindId === "converter" || r.kindId === "pump")).toBe(false);
    expect(generateChecks(dual, knowledge).some((c) => c.kindId === "touch-point" && c.component === "K2")).toBe(true);
  });
});

describe("relations come from the charts", () => {
  it.each([
    ["carries", "HC", { gear: "5" }, true],
    ["carries", "HC", { gear: "2" }, false],
    ["carries", "sol_HC", { gear: "5" }, true],
    ["on-coming", "LC", { shift: "2-3" }, true],
    ["on-coming", "TC", { shift: "2-3" }, false],
    ["off-going", "LB", { shift: "2-3" }, true],
    ["feeds", "net_8v", { component: "sen_output" }, true],
    ["feeds", "net_turbine", { component: "sen_output" }, false],
    ["feeds", "HC", { component: "sol_HC" }, true],
    ["about", "sen_output", { code: "P0722" }, true],
    ["about", "sen_turbine", { code: "P0722" }, false],
  ] as const)("%s of %s for %j: %s", (relation, component, subject, expected) => {
    expect(relationHolds(planetary, relation, component, subject)).toBe(expected);
  });
});

const largestGap = (a: Float64Array, b: Float64Array) =>
  a.reduce((m, x, i) => Math.max(m, Math.abs(x - (b[i] as number))), 0);

describe("posterior", () => {
  it("sums to one and does not depend on the order of the evidence", () => {
    const pool = [
      ...thirdClutch,
      item("shudder", "shudders"),
      item("limp", "none", {}, false),
      item("fluid-level", "low"),
      item("sensor", "drops-out", { component: "sen_output" }),
      item("code", "present", { code: "P0730" }),
    ];
    fc.assert(
      fc.property(fc.shuffledSubarray(pool), (list) => {
        const { p } = model.posterior(list);
        expect(p.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 9);
        const { p: q } = model.posterior([...list].reverse());
        expect(largestGap(p, q)).toBeLessThan(1e-9);
      }),
      { numRuns: 60 },
    );
  });
  it("is the prior without evidence", () => {
    expect(largestGap(model.posterior([]).p, model.priors)).toBeLessThan(1e-12);
  });
  it("refuses evidence that the knowledge does not have", () => {
    expect(() => model.posterior([item("nonsense", "x")])).toThrow(/no likelihoods/);
    expect(() => model.posterior([item("gear", "dances", { gear: "1" })])).toThrow(/unknown outcome/);
  });
});

const rank = (evidence: Evidence[], m = model) => rankSuspects(m, evidence, believe(m, evidence));
const top = (evidence: Evidence[], m = model) => rank(evidence, m).suspects[0];

describe("patterns of reasoning", () => {
  it("three gears gone that share one element, all others good under load: that element or its circuit", () => {
    const { suspects } = rank([...thirdClutch, item("slip-pattern", "grows-with-torque")]);
    expect(suspects[0]?.faultId).toBe("element-worn:TC");
    expect(suspects.slice(0, 2).every((s) => s.component === "TC")).toBe(true);
    expect(suspects[0]?.speaksFor.map((w) => w.label)).toEqual(
      expect.arrayContaining(["gear 4 slips", "gear 2 slips"]),
    );
  });
  it("apply pressure below the command turns lining into circuit", () => {
    const check = { ...item("check", "low", { component: "sol_TC" }), checkId: "element-pressure:sol_TC" };
    const before = rank(thirdClutch).suspects.find((s) => s.faultId === "element-worn:TC")?.probability ?? 0;
    const after = rank([...thirdClutch, check]).suspects.find((s) => s.faultId === "element-worn:TC")?.probability ?? 1;
    expect(after).toBeLessThan(before);
    expect(top([...thirdClutch, check])?.component).toMatch(/TC$/);
  });
  it("one speed signal gone while its sibling on the supply is steady: the sensor or its wire, not the supply", () => {
    const evidence = [
      item("sensor", "drops-out", { component: "sen_output" }),
      item("sensor", "steady", { component: "sen_turbine" }, false),
      item("limp", "limp"),
      item("code", "present", { code: "P0722" }),
    ];
    const { suspects } = rank(evidence);
    expect(
      suspects
        .slice(0, 2)
        .map((s) => s.faultId)
        .sort(),
    ).toEqual(["sensor-drops-out:sen_output", "wire:net_output"]);
    expect(suspects.find((s) => s.faultId === "supply:net_8v")?.probability).toBeLessThan(0.08);
    const both = rank([
      item("sensor", "drops-out", { component: "sen_output" }),
      item("sensor", "drops-out", { component: "sen_turbine" }),
      item("limp", "limp"),
    ]);
    expect(both.suspects[0]?.faultId).toBe("supply:net_8v");
  });
  it("shudder with the clutch working and none with it open: converter or fluid; with it open too: the engine", () => {
    const shudder = [item("shudder", "shudders"), item("open-oscillation", "absent", {}, false)];
    expect(["converter-lining", "fluid-degraded"]).toContain(top(shudder)?.classId);
    expect(
      top([item("shudder", "smooth", {}, false), item("open-oscillation", "present"), item("symptom", "shudder")])
        ?.faultId,
    ).toBe("misfire");
  });
  it("a dual clutch that slips in the gears of one clutch with a wandered touch point: its lining; steady: its pressure", () => {
    const m = new SuspectModel(dual, knowledge);
    const slip = [
      gear("1", "holds"),
      gear("2", "slips"),
      gear("3", "holds"),
      gear("4", "slips"),
      gear("5", "holds"),
      gear("6", "slips"),
    ];
    const touch = (outcome: string) => ({
      ...item("check", outcome, { component: "K2" }, outcome !== "steady"),
      checkId: "touch-point:K2",
    });
    expect(top([...slip, touch("wandered")], m)?.faultId).toBe("dual-clutch-worn:K2");
    const odds = (outcome: string) =>
      rank([...slip, touch(outcome)], m).suspects.find((s) => s.faultId === "dual-clutch-pressure:K2")?.probability ??
      0;
    expect(odds("steady")).toBeGreaterThan(3 * odds("wandered"));
  });
  it("everything slips and the level is low: the level first", () => {
    expect(
      top([
        ...["1", "2", "3", "4"].map((g) => gear(g, "slips")),
        item("slip-scope", "everywhere"),
        item("fluid-level", "low"),
        item("slip-pattern", "sudden"),
      ])?.faultId,
    ).toBe("fluid-low");
  });
  it("says when nothing explains it well", () => {
    const odd = [
      gear("1", "slips"),
      gear("6", "holds"),
      gear("4", "holds"),
      item("sensor", "drops-out", { component: "sen_turbine" }),
      item("shudder", "shudders"),
      item("engine-pull", "low"),
      item("road-oscillation", "wheels"),
      item("debris-clip", "much"),
    ];
    expect(rank(odd).poorlyExplained).toBe(true);
    expect(rank(thirdClutch).poorlyExplained).toBe(false);
  });
});

describe("next check and options", () => {
  const planner = new Planner(model, { hourlyRate: 72 });
  const sure = (id: string) => {
    const p = new Float64Array(model.sets.count);
    p[model.faults.findIndex((f) => f.id === id)] = 1;
    return new Belief(model.sets, p);
  };
  it("where one cause is nearly certain a check has to save a walk, 10 of money", () => {
    const advice = (wire: number) => {
      const p = new Float64Array(model.sets.count);
      const at = (id: string) => model.faults.findIndex((f) => f.id === id);
      p[at("wire:net_output")] = wire;
      p[at("mount")] = 1 - wire;
      return planner.advise(new Belief(model.sets, p));
    };
    const saved = (a: ReturnType<typeof advice>) =>
      (a.options[0]?.expectedCost ?? 0) - (a.checks[0]?.expectedCost ?? Number.NaN);
    for (const wire of [0.95, 0.96]) {
      expect(saved(advice(wire))).toBeGreaterThan(10);
      expect(advice(wire).act).toBe("check");
    }
    for (const wire of [0.97, 0.975]) {
      expect(saved(advice(wire))).toBeGreaterThan(1);
      expect(saved(advice(wire))).toBeLessThan(10);
      expect(advice(wire).act).toBe("repair");
    }
  });
  it("a check is advised only when it lowers the expected cost, and never a made one", () => {
    const belief = believe(model, thirdClutch);
    const advice = planner.advise(belief);
    const now = advice.options[0]?.expectedCost ?? 0;
    expect(advice.act).toBe((advice.checks[0]?.expectedCost ?? Infinity) < now - 1 ? "check" : "repair");
    const done = new Set([advice.checks[0]?.check.id as string]);
    expect(planner.advise(belief, { ...FRESH, done }).checks.some((c) => done.has(c.check.id))).toBe(false);
  });
  it("branches of a check sum to one, and their mean posterior is the prior: nothing is learnt before it is seen", () => {
    const { p } = believe(model, thirdClutch);
    for (const { check } of planner.advise(believe(model, thirdClutch)).checks.slice(0, 8)) {
      const mean = new Float64Array(p.length);
      for (const { id: outcome } of check.outcomes) {
        const w = Float64Array.from(p);
        model
          .column({ table: "check", checkId: check.id, subject: { component: check.component }, outcome })
          .multiply(w, model.sets.real, model.faults.length);
        for (let i = 0; i < p.length; i++) mean[i] = (mean[i] as number) + (w[i] as number);
      }
      expect(largestGap(mean, p)).toBeLessThan(1e-6);
    }
  });
  it("a repair's expected cost is at least its own, and certainty makes the right repair the best", () => {
    const [best] = planner.options(sure("sensor-failed:sen_output"));
    expect(best?.repair.id).toBe("sensor:sen_output");
    for (const o of planner.options(believe(model, thirdClutch)))
      expect(o.expectedCost).toBeGreaterThanOrEqual(o.cost - 1e-9);
  });
  it("sure of a worn element, no check is worth its money, and the reason is said", () => {
    const advice = planner.advise(sure("element-worn:HC"));
    expect(advice.act).toBe("repair");
    expect(advice.stop).toBe("nothing-left");
    expect(advice.options[0]?.repair.id).toBe("rebuild:HC");
  });
  it("sure that nothing is wrong, nothing is repaired", () => {
    expect(planner.advise(sure("nothing")).options[0]?.repair.id).toBe("hand-back");
  });
  it("what is open makes the next step cheaper, never dearer", () => {
    const opened = openedBy(knowledge, ["pan down"]);
    const belief = believe(model, thirdClutch);
    const closed = new Map(planner.options(belief).map((o) => [o.repair.id, o.cost]));
    const open = planner.options(belief, { ...FRESH, opened });
    for (const o of open) expect(o.cost).toBeLessThanOrEqual((closed.get(o.repair.id) ?? Infinity) + 1e-9);
    expect(open.some((o) => o.cost < (closed.get(o.repair.id) as number) - 50)).toBe(true);
  });
});

describe("evidence from the timeline", () => {
  const { write: entry } = madeTimeline();
  const code = (c: string, triage: Parameters<typeof BODY.code>[1]) => entry("code", BODY.code(c, triage));
  it("puts codes of earlier work aside, and counts absent ones once all were read", () => {
    const some = foldJob([code("P0722", "earlier-work"), code("P0730", "complaint")]);
    expect(collectEvidence(planetary, some, [], knowledge.debris).map((e) => e.label)).toEqual(["Code P0730 stored"]);
    const all = foldJob([
      code("P0722", "earlier-work"),
      code("P0730", "complaint"),
      entry("codes-read", { allModules: true, note: "" }),
    ]);
    const labels = collectEvidence(planetary, all, [], knowledge.debris).map((e) => e.label);
    expect(labels).toContain("Code P0741 not stored");
    expect(labels).not.toContain("Code P0722 not stored");
  });
  it("counts the level once: a level check made later replaces the first look", () => {
    const level = entry("level", BODY.level("ok"));
    const check = generateChecks(planetary, knowledge).find((c) => c.id === "level");
    if (!check) throw new Error("no level check");
    expect(checksDone(planetary, foldJob([level])).has("level")).toBe(true);
    const evidence = collectEvidence(
      planetary,
      foldJob([level, entry("check", checkEntry(check, "low", 15, ""))]),
      [],
      knowledge.debris,
    );
    expect(evidence.map((e) => e.table)).toEqual(["check"]);
    expect(evidence[0]?.abnormal).toBe(true);
  });
  it("a check result needs an outcome of the check", () => {
    const [check] = model.checks;
    if (!check) throw new Error("no check");
    expect(() => checkEntry(check, "nonsense", null, "")).toThrow(/no outcome/);
  });
});
