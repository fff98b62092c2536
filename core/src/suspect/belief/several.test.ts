// Guards: sets of faults: the exact posterior against plain enumeration, noisy-or, triples, what the verdict rests on, and
// evidence that cannot be counted.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { faultAt, madeEvidence } from "../../testing/index.ts";
import { libraryKnowledge, libraryUnit } from "../../testing/units.ts";
import { FaultSets } from "../faults/sets.ts";
import {
  believe,
  type CustomFault,
  type Evidence,
  type Fault,
  rankSuspects,
  SuspectModel,
  siftEvidence,
} from "../index.ts";
import { Column } from "./column.ts";

const knowledge = libraryKnowledge();
const unit = libraryUnit("brae-p6");
const model = new SuspectModel(unit, knowledge);
const { item, gear, tried } = madeEvidence();
const at = (id: string) => faultAt(model, id);

describe("sets", () => {
  it("are numbered without a gap: members and numbers are each other's inverse", () => {
    const sets = new FaultSets(model.faults.slice(0, 12), 10);
    const seen = new Set<string>();
    for (let k = 0; k < sets.count; k++) {
      const members = sets.membersOf(k);
      seen.add(members.join());
      if (members.length === 2) expect(sets.pair(members[0] as number, members[1] as number)).toBe(k);
    }
    expect(seen.size).toBe(12 + 45);
    expect(() => sets.membersOf(sets.count)).toThrow(/no set/);
  });
  it("priors sum to one; two faults come as often against one as the catalogue says", () => {
    const singles = model.priors.slice(0, model.faults.length).reduce((a, b) => a + b, 0);
    const all = model.priors.reduce((a, b) => a + b, 0);
    expect(all).toBeCloseTo(1, 9);
    expect((all - singles) / singles).toBeCloseTo(knowledge.several.share, 9);
  });
  it("that exclude each other have no prior; one that brings the other about has more", () => {
    const prior = (a: string, b: string) =>
      model.priors[model.sets.pair(...([at(a), at(b)].sort((x, y) => x - y) as [number, number]))] as number;
    expect(prior("fluid-low", "fluid-overfull")).toBe(0);
    const ratio = (a: string, b: string) =>
      prior(a, b) / ((model.priors[at(a)] as number) * (model.priors[at(b)] as number));
    expect(ratio("fluid-low", "element-worn:TC") / ratio("mount", "element-worn:TC")).toBeCloseTo(5, 6);
  });
});

describe("several faults at once", () => {
  it("share an outcome by the noisy-or: one minus the product of what each lets pass", () => {
    const column = new Column(
      [
        { yes: 0.7, no: 0.3 },
        { yes: 0.4, no: 0.6 },
        { yes: 0.1, no: 0.9 },
      ],
      { yes: 0.1, no: 0.9 },
      "yes",
      1,
      undefined,
    );
    // without a leak: 1 − (0.3/0.9)(0.6/0.9)·0.9
    expect(column.of([0, 1])).toBeCloseTo(1 - (0.3 / 0.9) * (0.6 / 0.9) * 0.9, 12);
    // a fault that says nothing of it changes nothing
    expect(column.of([0, 2])).toBeCloseTo(0.7, 12);
    expect(column.of([])).toBeCloseTo(0.1, 12);
  });
  it("outcomes of a set sum to one, whatever the rows", () => {
    const row = fc.tuple(...[0, 1, 2].map(() => fc.double({ min: 0.02, max: 1, noNaN: true }))).map(([a, b, c]) => {
      const s = (a as number) + (b as number) + (c as number);
      return { x: (a as number) / s, y: (b as number) / s, z: (c as number) / s };
    });
    fc.assert(
      fc.property(row, row, row, fc.double({ min: 0.1, max: 1, noNaN: true }), (a, b, otherwise, weight) => {
        const sum = ["x", "y", "z"].reduce(
          (s, o) => s + new Column([a, b], otherwise, o, weight, undefined).of([0, 1]),
          0,
        );
        expect(sum).toBeCloseTo(1, 9);
      }),
    );
  });
  it("the posterior is the one of plain enumeration over every set", () => {
    const pool = [
      gear("2", "slips"),
      gear("5", "holds"),
      item("fluid-level", "low"),
      item("shudder", "shudders"),
      item("symptom", "slip"),
      item("fluid-colour", "black"),
      { ...item("code", "present", { code: "P0730" }), weight: 0.6 },
    ];
    fc.assert(
      fc.property(fc.subarray(pool), (evidence) => {
        const { p } = model.posterior(evidence);
        const likelihood = (members: readonly number[], isSilent: boolean) =>
          evidence.reduce((w, e) => w * model.column(e).of(isSilent && model.findTable(e)?.drive ? [] : members), 1);
        const plain = Array.from(model.priors, (prior, k) => {
          const members = model.sets.membersOf(k);
          const silent = members.length === 1 ? (model.faults[k]?.silent ?? 0) : 0;
          return prior * ((1 - silent) * likelihood(members, false) + silent * likelihood(members, true));
        });
        const total = plain.reduce((a, b) => a + b, 0);
        for (let k = 0; k < p.length; k += 7) expect(p[k]).toBeCloseTo((plain[k] as number) / total, 9);
      }),
      { numRuns: 12 },
    );
  });
  it("a low level and a worn element, each with its own signs, are found together", () => {
    const evidence = [
      ...["1", "5", "6"].map((g) => gear(g, "holds")),
      ...["2", "3", "4"].map((g) => gear(g, "slips")),
      item("fluid-level", "low"),
      item("slip-pattern", "grows-with-torque"),
      { ...item("check", "lining"), checkId: "pan", subject: { component: "unit" } },
    ];
    const { explanations } = rankSuspects(model, evidence, believe(model, evidence));
    expect(explanations[0]?.faultIds.toSorted()).toEqual(["element-worn:TC", "fluid-low"]);
    expect(explanations[0]?.unexplained).toEqual([]);
  });
  it("three at once are looked at when two explain it badly", () => {
    const evidence = [
      ...["1", "5", "6"].map((g) => gear(g, "holds")),
      ...["2", "3", "4"].map((g) => gear(g, "slips")),
      item("fluid-level", "low"),
      item("sensor", "drops-out", { component: "sen_output" }),
      item("code", "present", { code: "P0722" }),
      { ...item("check", "seal"), checkId: "pack-measure:TC", subject: { component: "TC" } },
      { ...item("check", "low"), checkId: "level", subject: { component: "unit" } },
      { ...item("check", "gone"), checkId: "sensor-swap:sen_output", subject: { component: "sen_output" } },
    ];
    const belief = believe(model, evidence);
    expect(
      belief
        .best()
        .members.map((i) => model.faults[i]?.id)
        .sort(),
    ).toEqual(["element-leak:TC", "fluid-low", "sensor-drops-out:sen_output"]);
    const whole = belief.p.reduce((a, b) => a + b, 0) + belief.triples.reduce((s, t) => s + t.probability, 0);
    expect(whole).toBeCloseTo(1, 9);
  });
});

describe("repairs that were done", () => {
  it("without a change speak against what they would have cured, not against what was left beside it", () => {
    const evidence = [
      ...["2", "3", "4"].map((g) => gear(g, "slips")),
      ...["1", "5", "6"].map((g) => gear(g, "holds")),
      item("fluid-level", "low"),
      { ...item("check", "low", { component: "unit" }), checkId: "level" },
    ];
    const odds = (list: Evidence[], id: string) => believe(model, list).marginals()[at(id)] as number;
    expect(odds(evidence, "fluid-low")).toBeGreaterThan(0.8);
    const after = [...evidence, tried("fill")];
    // the level was set right: what is left is the element
    expect(odds(after, "fluid-low")).toBeLessThan(0.2);
    expect(odds(after, "element-worn:TC") + odds(after, "element-leak:TC")).toBeGreaterThan(0.6);
  });
  it("that cured one of two leave it better or hide it; what they cure alone would be gone", () => {
    const [i, j] = [at("mount"), at("misfire")].sort((a, b) => a - b) as [number, number];
    const of = (outcome: "no-change" | "better" | "gone", members: number[]) =>
      model.column(tried("mount", outcome)).of(members);
    for (const members of [[i], [j], [i, j]])
      expect(of("no-change", members) + of("better", members) + of("gone", members)).toBeCloseTo(1, 9);
    expect(of("no-change", [at("mount")])).toBeLessThan(0.1);
    expect(of("gone", [at("mount")])).toBeGreaterThan(0.8);
    expect(of("better", [i, j])).toBeGreaterThan(4 * of("better", [at("mount")]));
    expect(of("better", [i, j])).toBeGreaterThan(10 * of("better", [at("misfire")]));
    expect(of("no-change", [i, j])).toBeGreaterThan(0.4);
  });
  it("better and not gone: what was repaired was there, and was not all", () => {
    const evidence = [...["2", "3", "4"].map((g) => gear(g, "slips")), gear("1", "holds"), gear("5", "holds")];
    const [low, worn] = [at("fluid-low"), at("element-worn:TC")];
    const both = [low, worn].sort((a, b) => a - b);
    const gain = (members: number[]) =>
      model.posterior([...evidence, tried("fill", "better")]).of(members) / model.posterior(evidence).of(members);
    expect(gain(both)).toBeGreaterThan(3 * gain([low]));
    expect(gain(both)).toBeGreaterThan(3 * gain([worn]));
  });
});

describe("what the verdict rests on", () => {
  it("is what comes out when the evidence is left out", () => {
    const evidence = [
      gear("1", "holds"),
      gear("2", "slips"),
      gear("3", "slips"),
      item("fluid-level", "ok", {}, false),
      item("limp", "none", {}, false),
    ];
    const ranking = rankSuspects(model, evidence, model.posterior(evidence));
    expect(ranking.leverage.length).toBeGreaterThan(0);
    for (const l of ranking.leverage) {
      const rest = evidence.filter((e) => !l.evidenceIds.includes(e.id));
      const lead = rankSuspects(model, rest, model.posterior(rest)).explanations[0];
      expect(l.without.titles).toEqual(lead?.titles);
      // sets of less than one in a million are left out of it
      expect(Math.abs(l.without.probability - (lead?.probability as number))).toBeLessThan(0.005);
      expect(l.flips).toBe(lead?.titles.join() !== ranking.explanations[0]?.titles.join());
    }
  });
});

describe("evidence that cannot be counted", () => {
  const sound = gear("2", "slips");
  it.each([
    ["a check that the library lacks", { ...item("check", "x"), checkId: "horoscope" }, /no check "horoscope"/],
    ["an unknown table", item("aura", "x"), /no evidence "aura"/],
    ["an unknown outcome", item("gear", "dances", { gear: "2" }), /isn’t one of its outcomes/],
    ["an outcome that is a word of the language", item("gear", "toString", { gear: "2" }), /isn’t one of its outcomes/],
    ["an outcome that is another", item("limp", "__proto__"), /isn’t one of its outcomes/],
    ["a gear that the unit lacks", gear("9", "slips"), /no gear "9"/],
    ["a gear that is a word of the language", gear("constructor", "slips"), /no gear "constructor"/],
    ["a table that is a word of the language", item("constructor", "x"), /no evidence "constructor"/],
    ["a part that the unit lacks", item("sensor", "steady", { component: "sen_moon" }), /no part "sen_moon"/],
    ["a code that the unit lacks", item("code", "present", { code: "P0999" }), /no code/],
    ["a weight of zero", { ...gear("3", "slips"), weight: 0 }, /weight is 0/],
    ["a weight over one", { ...gear("3", "slips"), weight: 2 }, /weight is 2/],
    ["a repair that the library lacks", { ...item("tried", "no-change"), checkId: "magic" }, /no repair "magic"/],
  ] as const)("%s is named, and the rest is counted", (_name, odd, reason) => {
    const { used, problems } = siftEvidence(model, [sound, odd as Evidence]);
    expect(used).toEqual([sound]);
    expect(problems.map((p) => p.reason)).toEqual([expect.stringMatching(reason)]);
  });
  it("said twice counts once; said both ways counts neither way, and both are named", () => {
    const twice = siftEvidence(model, [sound, gear("2", "slips")]);
    expect(twice.used).toEqual([sound]);
    expect(twice.problems[0]?.reason).toMatch(/says it already/);
    const both = siftEvidence(model, [sound, gear("2", "holds"), gear("3", "slips")]);
    expect(both.used.map((e) => e.subject.gear)).toEqual(["3"]);
    expect(both.problems).toHaveLength(2);
    for (const p of both.problems) expect(p.reason).toMatch(/contradicts/);
  });
  it.each(["toString", "constructor", "__proto__", "hasOwnProperty"])("the model refuses the outcome %s", (outcome) => {
    const odd = item("limp", outcome);
    expect(() => model.column(odd)).toThrow(`unknown outcome "${outcome}"`);
    expect(() => model.likelihood(odd, model.faults[0] as Fault)).toThrow(`unknown outcome "${outcome}"`);
  });
  it("none at all leaves the prior", () => {
    const ranking = rankSuspects(model, [], believe(model, []));
    expect(ranking.suspects[0]?.probability).toBeLessThan(0.2);
    expect(ranking.leverage).toEqual([]);
  });
  it("of every kind at random: a ranking or a named problem, never a crash", () => {
    const tables = [...knowledge.evidence.map((t) => t.evidence), "check", "observation", "tried", "nonsense"];
    const any = fc.record({
      table: fc.constantFrom(...tables),
      outcome: fc.oneof(fc.constantFrom(...knowledge.evidence.flatMap((t) => t.outcomes)), fc.string()),
      gear: fc.constantFrom("1", "4", "R", "17"),
      weight: fc.option(fc.double({ min: -1, max: 2 }), { nil: undefined }),
    });
    fc.assert(
      fc.property(fc.array(any, { maxLength: 20 }), (list) => {
        const evidence = list.map(
          (x, i): Evidence => ({
            id: `x${i}`,
            table: x.table,
            subject: { gear: x.gear },
            outcome: x.outcome,
            label: x.table,
            entryId: `${i}`,
            abnormal: i % 2 === 0,
            weight: x.weight,
          }),
        );
        const { used, problems } = siftEvidence(model, evidence);
        expect(new Set([...used.map((e) => e.id), ...problems.map((p) => p.evidenceId)]).size).toBe(evidence.length);
        const sum = rankSuspects(model, used, believe(model, used)).suspects.reduce((s, x) => s + x.probability, 0);
        expect(sum).toBeGreaterThan(0.99);
      }),
      { numRuns: 25 },
    );
  });
});

describe("places", () => {
  const evidence = [gear("2", "slips"), gear("3", "slips"), gear("4", "slips"), gear("1", "holds")];
  const belief = believe(model, evidence);
  it("of one fault each are as likely as the fault; one place for everything is certain", () => {
    const each = belief.byGroup(String);
    belief.marginals().forEach((p, i) => {
      expect(each.get(String(i))).toBeCloseTo(p, 9);
    });
    expect(belief.byGroup(() => "here").get("here")).toBeCloseTo(1, 9);
  });
  it("of two faults in one place it counts once: never more than the sum, never more than certain", () => {
    const part = (i: number) => model.faults[i]?.component ?? "";
    const sums = new Map<string, number>();
    belief.marginals().forEach((p, i) => {
      sums.set(part(i), (sums.get(part(i)) ?? 0) + p);
    });
    const places = belief.byGroup(part);
    for (const [place, p] of places) {
      expect(p).toBeLessThanOrEqual((sums.get(place) as number) + 1e-12);
      expect(p).toBeLessThanOrEqual(1 + 1e-9);
    }
    // both a worn pack and its leaking piston, say
    expect((sums.get("TC") as number) - (places.get("TC") as number)).toBeGreaterThan(1e-4);
  });
});

describe("a fault of somebody's own", () => {
  const own: CustomFault = {
    id: "mouse",
    title: "A mouse in the valve body",
    group: "elsewhere",
    prior: 0.02,
    predicts: { "fluid-level": { low: 0.05, ok: 0.05, high: 0.9 } },
  };
  it("competes with the library's by its prior and what it predicts", () => {
    const m = new SuspectModel(unit, knowledge, [own]);
    const singles = m.priors.slice(0, m.faults.length).reduce((a, b) => a + b, 0);
    const i = m.faults.findIndex((f) => f.id === "mouse");
    expect((m.priors[i] as number) / singles).toBeCloseTo(0.02, 9);
    const high = item("fluid-level", "high");
    expect(m.posterior([high]).marginals()[i]).toBeGreaterThan(5 * 0.02);
  });
  it.each([
    ["certain", { prior: 1 }, /between 0 and 1/],
    ["impossible", { prior: 0 }, /between 0 and 1/],
    ["of the name of another", { id: "mount" }, /there already/],
    ["that predicts with certainty", { predicts: { "fluid-level": { low: 0, ok: 0, high: 1 } } }, /between 0 and 1/],
    ["that predicts half an outcome", { predicts: { "fluid-level": { low: 0.5 } } }, /needs a probability/],
    ["that predicts what there is not", { predicts: { weather: { fair: 0.5 } } }, /no evidence "weather"/],
    [
      "whose probabilities sum to two",
      { predicts: { "fluid-level": { low: 0.6, ok: 0.7, high: 0.7 } } },
      /do not sum to one/,
    ],
  ])("%s is refused", (_name, patch, message) => {
    expect(() => new SuspectModel(unit, knowledge, [{ ...own, ...patch } as CustomFault])).toThrow(message);
  });
});

describe("odd units", () => {
  it("without a solenoid chart and without nets: elements, fluid and engine are still judged", () => {
    const bare = new SuspectModel({ ...unit, solenoids: [], solenoidChart: undefined, nets: [] } as never, knowledge);
    expect(bare.faults.some((f) => f.classId === "valve-sticks")).toBe(true);
    expect(bare.faults.some((f) => f.classId.startsWith("solenoid"))).toBe(false);
    const evidence = [
      gear("2", "slips"),
      gear("3", "slips"),
      gear("4", "slips"),
      gear("1", "holds"),
      gear("5", "holds"),
    ];
    const [top] = rankSuspects(bare, evidence, believe(bare, evidence)).suspects;
    expect(top?.component).toBe("TC");
  });
});
