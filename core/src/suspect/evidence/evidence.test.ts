// Guards: what a drive says as evidence, absence included, and that two drives count once.
import { describe, expect, it } from "@jest/globals";
import { type Analysis, analyseDrive, driveEvidence } from "../../drive/index.ts";
import { type EntryBodies, type EntryKind, foldJob } from "../../job/index.ts";
import { type Channels, steadyDrive } from "../../testing/drives.ts";
import { madeEntry } from "../../testing/index.ts";
import { libraryKnowledge, libraryUnit } from "../../testing/units.ts";
import {
  type AnalysedLog,
  believe,
  checksDone,
  collectEvidence,
  type Evidence,
  generateFaults,
  rankSuspects,
  relationHolds,
  SuspectModel,
  siftEvidence,
} from "../index.ts";

const unit = libraryUnit("brae-p6");
const { debris } = libraryKnowledge();
const none = foldJob([]);
const rank = (m: SuspectModel, evidence: Evidence[]) => rankSuspects(m, evidence, believe(m, evidence));
const drive = (
  slip: (gear: number, torqueNm: number) => number,
  patch?: (c: Channels, t: Float64Array) => Channels,
  logId = "a",
): AnalysedLog => ({ logId, entryId: `entry-${logId}`, analysis: analyseDrive(steadyDrive(unit, slip, patch), unit) });
const outcomes = (...logs: AnalysedLog[]) =>
  Object.fromEntries(
    collectEvidence(unit, none, logs, debris).map((e) => [
      [e.table, ...Object.values(e.subject)].join(" "),
      `${e.outcome}${e.abnormal ? "" : " (sound)"}`,
    ]),
  );
const worn = (g: number, torque: number) => (g >= 4 ? 2 * Math.max(0, torque - 140) : 0);

describe("evidence of a drive", () => {
  it("accuses gears that slip, clears those that hold at that torque, and says how slip grows", () => {
    expect(outcomes(drive(worn))).toMatchObject({
      "gear 1": "holds (sound)",
      "gear 3": "holds (sound)",
      "gear 4": "slips",
      "gear 6": "slips",
      "slip-pattern": "grows-with-torque",
      "sensor sen_output": "steady (sound)",
      limp: "none (sound)",
    });
  });
  it("does not call a gear good that was never worked as hard as the bad ones", () => {
    const gentle = drive(worn, (c, t) => ({
      ...c,
      engine_torque_nm: (c.engine_torque_nm as Float64Array).map((v, i) => ((t[i] as number) < 20 ? 40 : v)),
    }));
    expect(outcomes(gentle)).not.toHaveProperty("gear 1");
    expect(outcomes(gentle)).toMatchObject({ "gear 2": "holds (sound)" });
  });
  it("says nothing about a sensor whose channel was derived", () => {
    const derived = drive(
      () => 0,
      ({ output_rpm: _, ...rest }) => rest,
    );
    expect(outcomes(derived)).not.toHaveProperty("sensor sen_output");
  });
  it.each([
    [1.5, "drops-out"],
    [0.2, "flickers"],
  ])("tells a sensor that is away for %d s at a time: %s", (awayS, outcome) => {
    const lost = drive(
      () => 0,
      (c, t) => ({
        ...c,
        output_rpm: (c.output_rpm as Float64Array).map((v, i) => (((t[i] as number) + 5) % 10 > 10 - awayS ? 0 : v)),
      }),
    );
    expect(outcomes(lost)).toMatchObject({ "sensor sen_output": outcome, "sensor sen_turbine": "steady (sound)" });
  });
  it("has the converter clutch only once it worked long enough", () => {
    const clutch = (from: number) =>
      outcomes(
        drive(
          () => 0,
          (c, t) => ({
            ...c,
            tcc_command: t.map((s) => (s > from ? 85 : 0)),
            engine_rpm: (c.turbine_rpm as Float64Array).map((v, i) => v + ((t[i] as number) > from ? 20 : 500)),
          }),
        ),
      );
    expect(clutch(60)).toMatchObject({ "converter-clutch": "holds (sound)", shudder: "smooth (sound)" });
    expect(clutch(115)).not.toHaveProperty("converter-clutch");
  });
});

describe("moving off, by the clutch that does it", () => {
  const dual = libraryUnit("corran-w7");
  const moved = (ripplesIn: string | undefined) => {
    const peak = (peakToPeak: number) => ({ frequencyHz: 7, peakToPeak, prominence: 3 });
    const launches = ["1", "1", "1", "R", "R"].map((gear) => ({ gear, judder: peak(gear === ripplesIn ? 12 : 1) }));
    const { analysis } = drive(() => 0);
    const findings = ripplesIn ? [{ kind: "judder", subject: { gear: ripplesIn } }] : [];
    return driveEvidence(dual, {
      entryId: "e",
      logId: "l",
      analysis: { ...analysis, launches, findings } as unknown as Analysis,
    })
      .filter((e) => e.table === "judder")
      .map((e) => `${e.subject.component} ${e.outcome}`);
  };
  it("a judder in first is that of its clutch, one backwards that of the other", () => {
    expect(moved("1")).toEqual(["K1 judders", "K2 smooth"]);
    expect(moved("R")).toEqual(["K1 smooth", "K2 judders"]);
    expect(moved(undefined)).toEqual(["K1 smooth", "K2 smooth"]);
  });
  it("only clutches that launch can judder: in Machair D6 both forward and backward it is K1", () => {
    const { faults } = libraryKnowledge();
    const judder = faults.filter((f) => f.id === "dual-clutch-judder");
    const components = (id: string) =>
      generateFaults(libraryUnit(id), { ...libraryKnowledge(), faults: judder }).map((f) => f.component);
    expect(components("corran-w7")).toEqual(["K1", "K2"]);
    expect(components("machair-d6")).toEqual(["K1"]);
    expect(components("brae-p6")).toEqual([]);
  });
});

describe("two drives of one vehicle", () => {
  it("count once, and the abnormal reading stays whichever comes first", () => {
    const good = drive(() => 0, undefined, "good");
    const bad = drive(worn, undefined, "bad");
    for (const logs of [
      [good, bad],
      [bad, good],
    ]) {
      const evidence = collectEvidence(unit, none, logs, debris);
      const gears = evidence.filter((e) => e.table === "gear");
      expect(gears.map((e) => e.subject.gear).sort()).toEqual(["1", "2", "3", "4", "5", "6"]);
      const four = gears.find((e) => e.subject.gear === "4");
      expect(four).toMatchObject({ outcome: "slips", entryId: "entry-bad" });
    }
  });
  it("the same drive twice says no more than once", () => {
    const once = collectEvidence(unit, none, [drive(worn)], debris);
    const twice = collectEvidence(unit, none, [drive(worn), drive(worn, undefined, "b")], debris);
    expect(twice).toEqual(once);
  });
});

describe("first look and pan as evidence", () => {
  let seq = 0;
  const entry = <K extends EntryKind>(kind: K, body: EntryBodies[K]) => madeEntry(++seq, kind, body);
  const level = (patch: Partial<EntryBodies["level"]>) =>
    entry("level", {
      state: "ok",
      method: "overflow",
      fluidC: 40,
      litresFromFull: null,
      engineRunning: true,
      note: "",
      ...patch,
    });
  const pan = (patch: Partial<EntryBodies["pan"]>) =>
    entry("pan", {
      drainedL: null,
      drainedC: null,
      kmSinceService: null,
      filter: "not-opened",
      debris: [],
      sure: "sure",
      note: "",
      ...patch,
    });
  const rung = (patch: Partial<EntryBodies["observation"]>) =>
    entry("observation", {
      rung: "mounts",
      title: "Mounts",
      outcome: "torn",
      outcomeLabel: "torn",
      abnormal: true,
      method: "",
      sure: "sure",
      values: {},
      minutes: 3,
      skipped: "",
      note: "",
      ...patch,
    });
  const seen = (of: typeof unit, ...entries: ReturnType<typeof entry>[]) =>
    collectEvidence(of, foldJob(entries as never), [], debris).map((e) => `${e.checkId ?? e.table}: ${e.outcome}`);
  const dry = libraryUnit("machair-d6");

  it.each<[string, Partial<EntryBodies["level"]>, string[]]>([
    ["as it is said", { state: "low" }, ["fluid-level: low"]],
    ["by what was measured, not by what was said", { state: "ok", litresFromFull: -0.9 }, ["fluid-level: low"]],
    ["too near to the limit: as it is said", { state: "ok", litresFromFull: -0.24 }, ["fluid-level: ok"]],
    ["read with the engine off: none", { state: "ok", engineRunning: false }, []],
    ["not readable: none", { state: "not-readable" }, []],
  ])("a level %s", (_, patch, expected) => {
    expect(seen(unit, level(patch))).toEqual(expected);
    expect(checksDone(unit, foldJob([level(patch)] as never)).has("level")).toBe(expected.length > 0);
  });
  it.each<[string, Partial<EntryBodies["pan"]>, string[]]>([
    ["nothing looked for says nothing", {}, []],
    [
      "looked for and not there counts",
      { debris: [{ kind: "lining", amount: 0, sizeMm: null }] },
      ["debris-lining: none"],
    ],
    ["much of it", { debris: [{ kind: "slivers", amount: 3, sizeMm: 4 }] }, ["debris-slivers: much"]],
    ["sealant speaks of no fault", { debris: [{ kind: "sealant", amount: 3, sizeMm: 9 }] }, []],
    ["paste without a distance says nothing", { debris: [{ kind: "grey-paste", amount: 3, sizeMm: null }] }, []],
    [
      "paste over what the distance allows",
      { kmSinceService: 9000, debris: [{ kind: "grey-paste", amount: 3, sizeMm: null }] },
      ["debris-paste: over"],
    ],
    [
      "a short drain and an opened filter",
      { drainedL: 0.9, filter: "blocked" },
      ["drained-volume: short", "filter-opened: blocked"],
    ],
  ])("a pan: %s", (_, patch, expected) => {
    expect(seen(unit, pan(patch))).toEqual(expected);
  });
  it("a lining that does not run in the fluid cannot be missed in it", () => {
    expect(seen(dry, pan({ debris: [{ kind: "lining", amount: 0, sizeMm: null }] }))).toEqual([]);
  });
  it("no drive in some gears is a complaint of those gears, not of a vehicle that does not move", () => {
    const said = (where: string[]) =>
      seen(
        unit,
        entry("intake", {
          complaint: "x",
          symptoms: [{ kind: "no-drive", where, load: "any", temperature: "any", since: "" }],
          doneAlready: "",
          recentEvents: "",
        }),
      );
    expect(said([])).toEqual(["symptom: no-drive"]);
    expect(said(["4", "R"])).toEqual(["symptom: slip", "told-gear: told", "told-gear: told"]);
  });
  it("events, history and duty that were named speak; what was not named does not", () => {
    const intake = entry("intake", {
      complaint: "x",
      symptoms: [],
      doneAlready: "",
      recentEvents: "",
      events: [{ kind: "flood", what: "" }],
      history: [
        { kind: "service", what: "" },
        { kind: "battery", what: "" },
      ],
      duty: ["tow"],
    });
    expect(seen(unit, intake)).toEqual(["event-flood: yes", "history-battery: yes", "duty-tow: yes"]);
    const model = new SuspectModel(unit, libraryKnowledge());
    const odds = (entries: ReturnType<typeof entry>[]) =>
      rank(model, collectEvidence(unit, foldJob(entries as never), [], debris)).suspects.find(
        (s) => s.classId === "fluid-water",
      )?.probability ?? 0;
    expect(odds([intake])).toBeGreaterThan(5 * odds([]));
  });
  it("a rung that was left out doesn't count; one that was made stands for the check of its kind", () => {
    expect(seen(unit, rung({ outcome: "skipped", skipped: "no helper" }))).toEqual([]);
    expect(seen(unit, rung({}))).toEqual(["mounts: torn"]);
    const done = (patch: Parameters<typeof rung>[0]) => [...checksDone(unit, foldJob([rung(patch)] as never))];
    expect(done({ rung: "misfire" })).toEqual(["misfire-count"]);
    expect(done({ rung: "mounts", sure: "fairly" })).toEqual(["mount-pry"]);
    // who was not sure looks again
    expect(done({ rung: "mounts", sure: "doubtful" })).toEqual([]);
    expect(done({ rung: "battery", outcome: "skipped", skipped: "no meter" })).toEqual([]);
    expect(checksDone(unit, foldJob([pan({})] as never)).has("pan")).toBe(true);
  });
  it("the surer it was seen, the more it moves; at no sureness does it move the other way", () => {
    const model = new SuspectModel(unit, libraryKnowledge());
    const odds = (sure: "sure" | "fairly" | "doubtful" | undefined) => {
      const entries = sure ? [rung({ sure })] : [];
      const evidence = collectEvidence(unit, foldJob(entries as never), [], debris);
      return rank(model, evidence).suspects.find((s) => s.classId === "mount")?.probability ?? 0;
    };
    const steps = [odds(undefined), odds("doubtful"), odds("fairly"), odds("sure")];
    expect([...steps].sort((a, b) => a - b)).toEqual(steps);
    expect(odds("sure")).toBeGreaterThan(3 * odds(undefined));
  });
});

describe("what a drive tells beside slip", () => {
  const healthy = drive(() => 0);
  const withPatch = (patch: Partial<AnalysedLog["analysis"]>, logId = "a"): AnalysedLog => ({
    logId,
    entryId: `entry-${logId}`,
    analysis: { ...healthy.analysis, ...patch },
  });
  it.each([
    ["held", "blocked"],
    ["free", "gone"],
    [undefined, "gone"],
  ] as const)("a vehicle that stands with the input %s: the gear is %s", (input, outcome) => {
    const stands = { gear: "1", startS: 1, endS: 9, input, torqueNm: 180 };
    expect(outcomes(withPatch({ immobile: [stands] }))).toMatchObject({ "gear 1": outcome });
  });
  const learned = (component: string, beyond: number, used: number) => {
    const spec = unit.adaptations?.find((a) => a.component === component);
    if (!spec) throw new Error(`the unit learns nothing of ${component}`);
    const last = spec.newValue + beyond;
    const limits: [number, number] = [spec.limits[0], spec.limits[1]];
    return outcomes(withPatch({ adaptations: [{ ...spec, first: last, last, used, limits }] }))[
      `adaptation ${component}`
    ];
  };
  it("learned values are usual, high or low by the way to their limit", () => {
    expect(learned("TC", 1, 0.02)).toBe("usual (sound)");
    expect(learned("TC", 40, 0.6)).toBe("high");
    expect(learned("TC", -40, 0.9)).toBe("low");
  });
  it("a value that no upshift teaches says nothing by being usual, and is told when it is not", () => {
    expect(learned("LB", 1, 0.02)).toBeUndefined();
    expect(learned("LB", 40, 0.6)).toBe("high");
  });
  it("the median of load reversals from three on: quiet, vibrates, knocks", () => {
    const at = (reversals: number[]) =>
      outcomes(
        withPatch({
          loadReversals: reversals.map((vibrationRpm, i) => ({ gear: "3", startS: i, vibrationRpm, torqueStepNm: 20 })),
        }),
      )["load-reversal"];
    expect(at([1, 2, 3])).toBe("quiet (sound)");
    expect(at([2, 6, 9])).toBe("vibrates");
    expect(at([2, 30, 40])).toBe("knocks");
    expect(at([30, 40])).toBeUndefined();
  });
  it("slips only hot when the same gear held as much while it was cold", () => {
    const heat = (fromC: number, highestC: number) => ({
      ...(healthy.analysis.heat as NonNullable<AnalysedLog["analysis"]["heat"]>),
      sensor: "fluid" as const,
      fromC,
      highestC,
    });
    const slips = drive(worn, undefined, "hot");
    const hotAt = (c: number): AnalysedLog => ({
      ...slips,
      analysis: {
        ...slips.analysis,
        heat: heat(c - 5, c + 5),
        held: {
          ...slips.analysis.held,
          gears: slips.analysis.held.gears.map((g) => ({
            ...g,
            slipping: g.slipping.map((s) => ({ ...s, fluidC: c })),
          })),
        },
      },
    });
    const cold = withPatch(
      {
        heat: heat(5, 30),
        held: {
          ...healthy.analysis.held,
          gears: healthy.analysis.held.gears.map((g) => ({ ...g, coldestCleanC: 8 })),
        },
      },
      "cold",
    );
    expect(outcomes(cold, hotAt(85))["slip-heat"]).toBe("only-hot");
    expect(outcomes(cold, hotAt(12))["slip-heat"]).toBe("cold-too");
    // never driven cold: that says nothing of cold
    expect(outcomes(hotAt(85))).not.toHaveProperty("slip-heat");
    expect(outcomes(cold)).not.toHaveProperty("slip-heat");
  });
});

describe("what follows from something else", () => {
  const model = new SuspectModel(unit, libraryKnowledge());
  const piece = (table: string, outcome: string, subject: Evidence["subject"], abnormal: boolean): Evidence => ({
    id: `${table}:${JSON.stringify(subject)}`,
    table,
    subject,
    outcome,
    label: `${table} ${outcome}`,
    entryId: "e",
    abnormal,
  });
  const code = (name: string, present: boolean) =>
    piece("code", present ? "present" : "absent", { code: name }, present);
  const limp = piece("limp", "limp", {}, true);
  const tables = (list: readonly Evidence[]) => {
    const { used, problems } = siftEvidence(model, list);
    return { used: used.map((e) => e.id), told: problems.map((p) => p.reason) };
  };
  it("a lost signal explains its code and limp mode, and the reason is told", () => {
    const lost = piece("sensor", "dead", { component: "sen_output" }, true);
    const { used, told } = tables([lost, code("P0722", true), code("P0717", false), limp]);
    expect(used).toEqual([lost.id, code("P0717", false).id]);
    expect(told).toEqual(Array(2).fill('it follows from "sensor dead": counted once'));
  });
  it("a fluid that is really too hot explains the code of its sensor, and no limp mode", () => {
    const hot = piece("heat", "too-hot", {}, true);
    expect(tables([hot, code("P0711", true), limp]).used).toEqual([hot.id, limp.id]);
    expect(tables([hot, code("P0711", false)]).used).toHaveLength(2);
  });
  it("with steady signals code and limp mode stand for themselves", () => {
    const steady = piece("sensor", "steady", { component: "sen_output" }, false);
    expect(tables([steady, code("P0722", true), limp]).used).toHaveLength(3);
  });
});

describe("what hangs together", () => {
  const model = new SuspectModel(unit, libraryKnowledge());
  const odds = (evidence: readonly Evidence[]) => {
    const { used } = siftEvidence(model, evidence);
    return [...believe(model, used).marginals()];
  };
  it("one drive entered twice says no more than once, sound or not", () => {
    for (const slip of [() => 0, worn]) {
      const once = collectEvidence(unit, none, [drive(slip)], debris);
      const twice = collectEvidence(unit, none, [drive(slip), drive(slip, undefined, "b")], debris);
      odds(twice).forEach((p, i) => {
        expect(p).toBeCloseTo(odds(once)[i] as number, 9);
      });
    }
  });
  it("a complaint that names three gears of one clutch counts about once", () => {
    const told = (gears: string[]): Evidence[] =>
      gears.map((gear) => ({
        id: `told-gear:${gear}`,
        table: "told-gear",
        subject: { gear },
        outcome: "told",
        label: `Complaint names gear ${gear}`,
        entryId: "intake",
        abnormal: false,
      }));
    const third = model.faults.findIndex((f) => f.id === "element-worn:TC");
    const launch = model.faults.findIndex((f) => f.id === "element-worn:LC");
    const ratio = (gears: string[]) => {
      const p = odds(told(gears));
      return (p[third] as number) / (p[launch] as number);
    };
    // TC carries 2 to 4, LC not 2 and 4: two such gears weigh as one, save for what else works in each
    expect(ratio(["2", "4"]) / ratio(["2"])).toBeCloseTo(1, 1);
    expect(ratio(["2"])).toBeGreaterThan(1.5 * ratio([]));
  });
});

describe("relations to a gear and a code", () => {
  const gears = unit.gears.map((g) => g.name);
  it("an element carries a gear or the gear spares it, never both; what works hard in it carries it", () => {
    for (const { id } of unit.elements)
      for (const gear of gears) {
        const holds = (relation: "carries" | "carries-hard" | "spares") => relationHolds(unit, relation, id, { gear });
        expect(holds("spares")).toBe(!holds("carries"));
        if (holds("carries-hard")) expect(holds("carries")).toBe(true);
      }
  });
  it("first and reverse: an element carries one of them, both, or neither, as the charts say", () => {
    for (const { id } of unit.elements) {
      const holds = (r: "carries-first" | "carries-reverse" | "carries-one" | "carries-both") =>
        relationHolds(unit, r, id, {});
      const [first, reverse] = ["1", "R"].map((gear) => relationHolds(unit, "carries", id, { gear }));
      expect([holds("carries-first"), holds("carries-reverse")]).toEqual([first, reverse]);
      expect([holds("carries-one"), holds("carries-both")]).toEqual([first !== reverse, first && reverse]);
    }
  });
  it("stall, reverse uphill and the time to the nudge speak of the elements of that range only", () => {
    const model = new SuspectModel(unit, libraryKnowledge());
    const of = (id: string, outcome: string, fault: string) => {
      const check = model.checks.find((c) => c.id === id);
      if (!check) throw new Error(`no check ${id}`);
      const at = model.faults.findIndex((f) => f.id === fault);
      return model.likelihoods(check, outcome)[at] as number;
    };
    const carriers = (gear: string) =>
      unit.elements
        .filter((e) => e.kind === "clutch" || e.kind === "brake")
        .map(({ id }) => [id, relationHolds(unit, "carries", id, { gear })] as const);
    for (const [id, reverse] of carriers("R")) {
      const slips = of("reverse-hill", "slips", `element-worn:${id}`);
      expect(slips).toBeCloseTo(reverse ? 0.65 : 0.07, 9);
    }
    for (const [id, first] of carriers("1"))
      expect(of("stall-speed", "high", `element-worn:${id}`)).toBeCloseTo(first ? 0.48 : 0.035, 9);
    for (const { id } of unit.elements) {
      const one = relationHolds(unit, "carries-one", id, {});
      const both = relationHolds(unit, "carries-both", id, {});
      if (!model.faults.some((f) => f.id === `element-leak:${id}`)) continue;
      expect(of("engagement-watch", "late-one", `element-leak:${id}`)).toBeCloseTo(one ? 0.33 : 0.04, 9);
      expect(of("engagement-watch", "late-both", `element-leak:${id}`)).toBeCloseTo(both ? 0.33 : one ? 0.04 : 0.05, 9);
    }
  });
  it("in every gear some element sets the pressure", () => {
    for (const gear of gears)
      expect(unit.elements.some((e) => relationHolds(unit, "carries-hard", e.id, { gear }))).toBe(true);
  });
  it("codes of forks are told apart by what they speak of; that of the clutches speaks of grip", () => {
    const dual = libraryUnit("machair-d6");
    expect(relationHolds(dual, "about-signal", "F13", { code: "P0914" })).toBe(true);
    expect(relationHolds(dual, "about-signal", "F13", { code: "P0919" })).toBe(false);
    expect(relationHolds(dual, "about", "F13", { code: "P0919" })).toBe(true);
    expect(relationHolds(dual, "about-grip", "unit", { code: "P0810" })).toBe(true);
    expect(relationHolds(dual, "about-grip", "unit", { code: "P0919" })).toBe(false);
  });
});
