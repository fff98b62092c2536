// Guards: seldom faults: they show themselves like the one they name, stand alone, have a check that tells them and a repair
// that cures them; leaks by place.
import { describe, expect, it } from "@jest/globals";
import { type EntryBodies, foldJob } from "../../job/index.ts";
import { leakSource } from "../../observe/index.ts";
import { madeTimeline } from "../../testing/index.ts";
import { libraryKnowledge, libraryUnits } from "../../testing/units.ts";
import { believe, collectEvidence, type Evidence, SuspectModel, siftEvidence } from "../index.ts";

const knowledge = libraryKnowledge();
const units = libraryUnits();
const models = units.map((u) => new SuspectModel(u, knowledge));
const alone = knowledge.faults.filter((f) => f.like !== undefined);
const brae = models.find((m) => m.unit.id === "brae-p6") as SuspectModel;

describe("faults that are like another", () => {
  it("predict of every drive what that one predicts, at the same component", () => {
    const drives = knowledge.evidence.filter((t) => t.drive);
    for (const f of brae.faults.filter((x) => x.like !== undefined)) {
      const same = brae.faults.find((o) => o.classId === f.like && o.component === f.component);
      if (!same) continue;
      for (const t of drives) {
        const subjects = t.evidence === "gear" ? ["1", "4", "R"].map((gear) => ({ gear })) : [{}];
        for (const subject of subjects)
          for (const outcome of t.outcomes) {
            const e = { table: t.evidence, subject, outcome };
            expect(brae.likelihood(e, f).p).toBe(brae.likelihood(e, same).p);
          }
      }
    }
  });
  it("form no pairs, and do not take from those that do", () => {
    for (const m of models) {
      const inPairs = new Set<string>();
      for (let k = m.faults.length; k < m.sets.count; k++)
        for (const i of m.sets.membersOf(k)) inPairs.add(m.faults[i]?.classId ?? "");
      for (const f of alone) expect(inPairs).not.toContain(f.id);
      expect(inPairs.size).toBeGreaterThan(20);
      const sum = m.priors.reduce((a, b) => a + b, 0);
      expect(sum).toBeCloseTo(1, 9);
    }
  });
  it("each can be told by a check and cured by a repair in every unit that can have it", () => {
    for (const m of models)
      for (const f of m.faults.filter((x) => x.like !== undefined)) {
        const best = Math.max(
          ...m.checks.flatMap((c) => {
            const silent = m.faults.find((x) => x.id === "nothing");
            return c.outcomes.map((o) => {
              const e = { table: "check", checkId: c.id, subject: { component: c.component }, outcome: o.id };
              return m.likelihood(e, f).p / m.likelihood(e, silent ?? f).p;
            });
          }),
        );
        expect([m.unit.id, f.id, best > 4]).toEqual([m.unit.id, f.id, true]);
        expect([
          m.unit.id,
          f.id,
          m.repairs.some((r) => r.cures.some((c) => c.faults.includes(f.classId) && c.p > 0.6)),
        ]).toEqual([m.unit.id, f.id, true]);
      }
  });
  it.each([
    ["glycol", "glycol", "coolant"],
    ["bus-measure", "bad", "bus"],
    ["overnight", "late-first", "drain-back:converter-clutch"],
    ["cooler-drop", "none", "cooler-thermostat"],
    ["plate-air:HC", "neighbour", "separator-leak:HC"],
    ["stethoscope", "final", "final-drive"],
    ["park-hold", "slips", "park-lock"],
    ["brake-switch-read", "wrong", "brake-switch"],
    ["coding-read", "differs", "coding"],
    ["torque-compare", "off", "torque-model"],
    ["filter-seat", "bad", "filter-neck"],
  ])("the check %s with %s speaks most for %s", (checkId, outcome, faultId) => {
    const check = brae.checks.find((c) => c.id === checkId);
    const p = brae.likelihoods(check ?? (undefined as never), outcome);
    const prior = brae.priors.slice(0, p.length);
    const most = brae.faults.reduce((a, _, i) => ((p[i] as number) > (p[a] as number) ? i : a), 0);
    expect(p[brae.faults.findIndex((f) => f.id === faultId)]).toBe(p[most]);
    expect(prior[brae.faults.findIndex((f) => f.id === faultId)]).toBeGreaterThan(0);
  });
});

describe("a leak by place", () => {
  const look = (values: EntryBodies["observation"]["values"]): Evidence[] => {
    const { entries, write } = madeTimeline();
    write("observation", {
      rung: "leaks",
      title: "Leaks",
      outcome: Object.values(values).includes("drip") ? "drip" : "seep",
      outcomeLabel: "",
      abnormal: true,
      method: "lamp",
      sure: "sure",
      values,
      minutes: 5,
      skipped: "",
      note: "",
    });
    return collectEvidence(brae.unit, foldJob(entries), [], knowledge.debris);
  };
  it("comes from the highest of the wettest places: fluid runs down", () => {
    expect(leakSource({ pan: "drip", connector: "drip", breather: "seep" })?.id).toBe("connector");
    expect(leakSource({ pan: "seep", output: "seep" })?.id).toBe("output");
    expect(leakSource({ pan: "dry" })).toBeUndefined();
  });
  it.each([
    ["front-seal", "leak-front"],
    ["pan", "leak-pan"],
    ["output", "leak-output"],
    ["cooler-lines", "leak-lines"],
    ["connector", "leak-connector"],
  ])("at the %s makes %s the likeliest leak", (place, faultId) => {
    const evidence = siftEvidence(brae, look({ [place]: "drip" })).used;
    const odds = believe(brae, evidence).marginals();
    const p = (id: string) => odds[brae.faults.findIndex((f) => f.id === id)] as number;
    for (const other of ["leak-front", "leak-pan", "leak-output", "leak-lines", "leak-connector"])
      if (other !== faultId) expect(p(faultId)).toBeGreaterThan(3 * p(other));
  });
});
