// Guards: what repairs that did not cure have left: the posterior against plain enumeration of what was wrong, what the
// repair cured and what was seen since; where on the timeline a drive belongs.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { type Entry, foldJob } from "../../job/index.ts";
import { BODY, faultAt, madeEvidence, madeTimeline } from "../../testing/index.ts";
import { libraryKnowledge, libraryUnit } from "../../testing/units.ts";
import { drivesByRepairs } from "../evidence/collect.ts";
import {
  type AnalysedLog,
  believe,
  cureOf,
  type Evidence,
  generateRepairs,
  rankSuspects,
  SuspectModel,
  siftEvidence,
  stillHolding,
  unexplainedBy,
} from "../index.ts";

const knowledge = libraryKnowledge();
const unit = libraryUnit("brae-p6");
const model = new SuspectModel(unit, knowledge);
const at = (id: string) => faultAt(model, id);
const { item, gear, tried } = madeEvidence();
const sensor = (outcome: "drops-out" | "steady", after = 0) =>
  item("sensor", outcome, { component: "sen_output" }, outcome !== "steady", after);
const slipping = (after = 0) => [
  ...["1", "5", "6"].map((g) => gear(g, "holds", after)),
  ...["2", "3", "4"].map((g) => gear(g, "slips", after)),
];
const odds = (evidence: readonly Evidence[], id: string) => believe(model, evidence).marginals()[at(id)] as number;

describe("what a repair has left", () => {
  it("is the posterior of plain enumeration: what was wrong, what was cured, what was seen since", () => {
    const first = [gear("2", "slips"), item("fluid-level", "low", {}, true), item("symptom", "slip", {}, true)];
    const since = [gear("2", "slips", 1), gear("5", "holds", 1), item("fluid-level", "ok", {}, false, 1)];
    const fill = generateRepairs(unit, knowledge).find((r) => r.id === "fill");
    const cure = cureOf(model, fill as NonNullable<typeof fill>);
    const again = 0.8;
    fc.assert(
      fc.property(fc.subarray(first), fc.subarray(since), (before, after) => {
        const weights = new Map<string, number>();
        const add = (members: readonly number[], w: number) =>
          weights.set(members.join(), (weights.get(members.join()) ?? 0) + w);
        const seen = (list: readonly Evidence[], members: readonly number[], silent: boolean) =>
          list.reduce((w, e) => w * model.column(e).of(silent && model.findTable(e)?.drive ? [] : members), 1);
        /** each piece repeats itself, or is drawn anew */
        const repeated = (members: readonly number[], silent: boolean) =>
          after.reduce((w, e) => {
            const shown = before.find((b) => b.table === e.table && b.subject.gear === e.subject.gear);
            const p = seen([e], members, silent);
            if (!shown) return w * p;
            return w * ((shown.outcome === e.outcome ? again : 0) + (1 - again) * p);
          }, 1);
        const quietly = (members: readonly number[]) =>
          (members.length === 1 ? model.faults[members[0] as number]?.silent : 0) ?? 0;
        const repair = tried("fill");
        model.priors.forEach((prior, k) => {
          if (prior === 0) return;
          const members = model.sets.membersOf(k);
          const silent = quietly(members);
          for (const [mute, share] of [
            [false, 1 - silent],
            [true, silent],
          ] as const) {
            const w = prior * share * seen([...before, repair], members, mute);
            if (members.length === 1) {
              add(members, w * repeated(members, mute));
              continue;
            }
            const [i, j] = members as [number, number];
            const [a, b] = [cure[i] as number, cure[j] as number];
            const fails = 1 - a * b;
            add(members, ((w * (1 - a) * (1 - b)) / fails) * repeated(members, false));
            for (const [left, p] of [
              [i, (1 - a) * b],
              [j, a * (1 - b)],
            ] as const) {
              const now = quietly([left]);
              add(
                [left],
                ((w * p) / fails) * ((1 - now) * seen(after, [left], false) + now * seen(after, [left], true)),
              );
            }
          }
        });
        const total = [...weights.values()].reduce((a, b) => a + b, 0);
        const belief = believe(model, [...before, repair, ...after]);
        // no triples: every list here is explained by one fault
        expect(belief.triples).toEqual([]);
        for (let k = 0; k < belief.p.length; k += 5)
          expect(belief.p[k]).toBeCloseTo((weights.get(model.sets.membersOf(k).join()) ?? 0) / total, 9);
      }),
      { numRuns: 10 },
    );
  });
  it("sums to one, whatever the order of the evidence, with triples as well", () => {
    const all = [
      ...slipping(),
      item("fluid-level", "low", {}, true),
      sensor("drops-out"),
      item("code", "present", { code: "P0722" }, true),
      { ...item("check", "seal", { component: "TC" }, true), checkId: "pack-measure:TC" },
      { ...item("check", "low", { component: "unit" }, true), checkId: "level" },
      { ...item("check", "gone", { component: "sen_output" }, true), checkId: "sensor-swap:sen_output" },
      tried("mount"),
      ...slipping(1),
      sensor("drops-out", 1),
      tried("sensor:sen_output", "no-change", 1),
      ...slipping(2),
      sensor("steady", 2),
    ];
    const one = believe(model, all);
    const sum = one.p.reduce((a, b) => a + b, 0) + one.triples.reduce((s, t) => s + t.probability, 0);
    expect(sum).toBeCloseTo(1, 9);
    expect(one.triples.length).toBeGreaterThan(0);
    const other = believe(model, all.toReversed());
    one.marginals().forEach((p, i) => {
      expect(other.marginals()[i]).toBeCloseTo(p, 9);
    });
  });
  it("shows by itself: what the first fault hid is found when that is cured", () => {
    const before = [
      sensor("drops-out"),
      item("code", "present", { code: "P0722" }, true),
      item("limp", "limp", {}, true),
      tried("sensor:sen_output"),
    ];
    const since = [...slipping(1), sensor("steady", 1), item("limp", "none", {}, false, 1)];
    const worn = (list: Evidence[]) => odds(list, "element-worn:TC") + odds(list, "element-leak:TC");
    expect(worn(before)).toBeLessThan(0.05);
    expect(worn([...before, ...since])).toBeGreaterThan(0.5);
    expect(odds([...before, ...since], "sensor-drops-out:sen_output")).toBeLessThan(0.05);
  });
  it("a vehicle that repeats itself tells its faults apart no further", () => {
    const before = [...slipping(), tried("fluid")];
    const ratio = (list: Evidence[]) => odds(list, "element-worn:TC") / odds(list, "pump-worn");
    const once = ratio(before);
    const repeats = ratio([...before, ...slipping(1)]);
    // as independent witnesses they would square what the drive says
    const drive = ratio(slipping()) / ratio([]);
    expect(repeats / once).toBeLessThan(Math.sqrt(drive));
    expect(repeats / once).toBeGreaterThan(1);
  });
});

describe("what is left unexplained", () => {
  const evidence = [...slipping(), sensor("drops-out"), tried("sensor:sen_output"), ...slipping(1)];
  const worn = at("element-worn:TC");
  it("after a repair is not what that repair has cured", () => {
    expect(unexplainedBy(model, evidence.slice(0, -7), [worn]).map((e) => e.table)).toEqual(["sensor"]);
    expect(unexplainedBy(model, evidence, [worn])).toEqual([]);
  });
  it("is what is seen since, whatever was repaired", () => {
    const since = sensor("drops-out", 1);
    expect(unexplainedBy(model, [...evidence, since], [worn])).toEqual([since]);
  });
});

describe("before and after a repair", () => {
  it("two drives do not contradict each other, nor do they share what comes together", () => {
    const list = [gear("2", "slips"), tried("fluid"), gear("2", "holds", 1)];
    expect(siftEvidence(model, list)).toEqual({ used: list, problems: [] });
    const together = siftEvidence(model, [
      gear("2", "slips"),
      gear("3", "slips"),
      tried("fluid"),
      gear("2", "slips", 1),
    ]);
    expect(together.used.map((e) => e.power)).toEqual([expect.any(Number), expect.any(Number), undefined, undefined]);
  });
  it("every entry is left out in turn to say what the verdict rests on", () => {
    const evidence = [sensor("drops-out"), tried("sensor:sen_output"), ...slipping(1)];
    const ranking = rankSuspects(model, evidence, believe(model, evidence));
    expect(ranking.leverage.length).toBeGreaterThan(0);
    for (const l of ranking.leverage) {
      const rest = evidence.filter((e) => e.entryId !== l.entryId);
      const lead = rankSuspects(model, rest, believe(model, rest)).explanations[0];
      expect(l.without.titles).toEqual(lead?.titles);
      expect(l.without.probability).toBeCloseTo(lead?.probability as number, 9);
    }
  });
});

describe("what still holds", () => {
  const reading = (outcome: string, component: string, after = 0): Evidence => ({
    ...item("check", outcome, { component }, true, after),
    checkId: `continuity:${component}`,
  });
  it("is the newest of one thing, and nothing of a part that was repaired since", () => {
    const [dead, works] = [sensor("drops-out"), sensor("steady", 1)];
    const [opened, other] = [reading("opens", "net_output"), reading("holds", "net_turbine")];
    const repair = tried("harness:net_output");
    expect(stillHolding([dead, opened, other, repair])).toEqual([dead, other, repair]);
    expect(stillHolding([works, dead, opened, other, repair])).toEqual([works, other, repair]);
    const again = reading("opens", "net_output", 1);
    expect(stillHolding([opened, repair, again])).toEqual([again, repair]);
  });
});

describe("a drive on the timeline", () => {
  type Made = (write: ReturnType<typeof madeTimeline>["write"]) => unknown;
  const log =
    (logId: string, role: "before" | "after"): Made =>
    (write) =>
      write("log", { logId, fileName: `${logId}.csv`, bytes: 1, sha256: "0".repeat(64), role });
  const repair =
    (repairId: string): Made =>
    (write) =>
      write("tried", { repairId, title: repairId, outcome: "no-change", note: "" });
  const work: Made = (write) => write("work", BODY.work(30));
  const stages = (...made: Made[]) => {
    const { write } = madeTimeline();
    const state = foldJob(made.map((m) => m(write) as Entry));
    const logs = state.logs.map((l) => ({ logId: l.body.logId }) as AnalysedLog);
    return drivesByRepairs(state, logs).map((of) => of.map((l) => l.logId));
  };
  it.each<[string, Made[], string[][]]>([
    ["without a repair", [log("a", "before")], [["a"]]],
    ["after work proves and isn't evidence", [log("a", "before"), work, log("b", "after")], [["a"]]],
    [
      "after work that did not cure is evidence of what is left",
      [log("a", "before"), work, log("b", "after"), repair("fill")],
      [["a"], ["b"]],
    ],
    ["after a repair, for the next one", [log("a", "before"), repair("fill"), log("b", "before")], [["a"], ["b"]]],
    [
      "called after, when the repair was told of first",
      [log("a", "before"), work, repair("fill"), log("b", "after")],
      [["a"], ["b"]],
    ],
    [
      "after each of two",
      [log("a", "before"), work, log("b", "after"), repair("fill"), work, log("c", "after"), repair("mount")],
      [["a"], ["b"], ["c"]],
    ],
    [
      "after a second one of which nobody knows yet what came",
      [log("a", "before"), work, repair("fill"), work, log("b", "after")],
      [["a"], []],
    ],
    [
      "a word on the repair later on moves nothing",
      [log("a", "before"), repair("fill"), log("b", "before"), repair("fill")],
      [["a"], ["b"]],
    ],
  ])("%s", (_, made, expected) => {
    expect(stages(...made)).toEqual(expected);
  });
});
