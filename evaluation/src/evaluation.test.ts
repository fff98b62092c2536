// Guards: the examiner: cases are drawn the same again, sets do not overlap, a right answer counts and a wrong one is named.
import { type Evidence, generateFaults, Planner, SuspectModel } from "@gearsense/core/suspect";
import { PROFILES, type SimulatedFault } from "@gearsense/simulator";
import { describe, expect, it } from "@jest/globals";
import { driveVehicle } from "./drive-vehicle.ts";
import { follow } from "./follow.ts";
import { drawCase, drawJob, evaluationPage, jobsPage, judgeCase, judgeJob, summarise } from "./index.ts";
import { knowledge, unitOf, units } from "./testing/library.ts";

const draw = (set: "tuning" | "held-out", seed: number, n: number) => drawCase(set, seed, n, units);

describe("cases", () => {
  it("the same numbers give the same case", () => {
    for (let n = 0; n < 40; n++) expect(draw("held-out", 3, n)).toEqual(draw("held-out", 3, n));
  });
  it("tuning and held-out cases share no seed, over several thousand", () => {
    const seeds = (set: "tuning" | "held-out") =>
      new Set([1, 2, 3].flatMap((seed) => Array.from({ length: 1000 }, (_, n) => draw(set, seed, n).seed)));
    const [a, b] = [seeds("tuning"), seeds("held-out")];
    expect(a.size).toBeGreaterThan(2990);
    expect([...a].filter((s) => b.has(s)).length).toBeLessThan(3);
  });
  it("meets every unit, group, rate and many dialects and faults", () => {
    const all = Array.from({ length: 400 }, (_, n) => draw("tuning", 1, n));
    const kinds = <T>(of: (c: (typeof all)[number]) => T) => new Set(all.map(of)).size;
    expect(kinds((c) => c.unitId)).toBe(8);
    expect(kinds((c) => c.group)).toBe(7);
    expect(kinds((c) => c.rateHz)).toBe(4);
    expect(kinds((c) => c.dialect)).toBeGreaterThan(14);
    expect(kinds((c) => c.fault?.kind)).toBeGreaterThan(45);
    expect(all.filter((c) => c.group === "healthy").every((c) => c.fault === undefined)).toBe(true);
  });
});

describe("judging", () => {
  const base = { number: 0, seed: 11, profile: "mixed", rateHz: 20, dialect: "plain", durationS: 240 } as const;
  const worn = judgeCase(
    { ...base, group: "element", unitId: "brae-p6", fault: { kind: "element-worn", component: "TC", severity: 0.6 } },
    unitOf("brae-p6"),
    units,
  );
  const healthy = judgeCase(
    { ...base, group: "healthy", unitId: "brae-p6", fault: undefined },
    unitOf("brae-p6"),
    units,
  );
  it("a worn clutch is attributed, its shifts are found, its columns mapped", () => {
    expect(worn.slip).toMatchObject({ right: true });
    expect(worn.shifts.hit).toBeGreaterThan(5);
    expect(worn.shifts.missed + worn.shifts.wrong).toBe(0);
    expect(worn.mapping.right).toBe(worn.mapping.all);
  });
  it("a healthy drive has nothing false", () => {
    expect(healthy.falseFindings).toEqual([]);
    expect(healthy.slip).toBeUndefined();
    expect(healthy.misses).toEqual([]);
  });
  it("the table counts each case once, by the readings of its channels", () => {
    const inTurn = { ...healthy, spec: { ...healthy.spec, dialect: "in-turn" as const } };
    const rates = summarise([worn, healthy, inTurn]);
    expect(rates.map((r) => r.cases)).toEqual([2, 1, 0]);
    const shifts = rates[0]?.figures[0];
    expect(shifts?.value).toBe(1);
    expect(rates[2]?.figures[0]?.value).toBeUndefined();
  });
  it("a miss lowers the figure, is marked, and is named on the page", () => {
    const missed = { ...worn, slip: { right: false, alone: false }, misses: ["slip of TC in 4 explained by nothing"] };
    const page = evaluationPage([worn, missed], "held-out", 1);
    expect(page).toMatch(/Slip attributed to the right element \| ≥ 0\.950 \| 0\.500 ✗ \(2\)/);
    expect(page).toMatch(/slip of TC in 4 explained by nothing/);
    expect(page).toMatch(/--cases 2 --seed 1/);
  });
});

describe("vehicles", () => {
  const job = (set: "tuning" | "held-out", seed: number, n: number) => drawJob(set, seed, n, units, knowledge);
  it("the same numbers give the same vehicle; sets and seeds give others", () => {
    for (let n = 0; n < 20; n++) expect(job("held-out", 1, n)).toEqual(job("held-out", 1, n));
    expect(job("held-out", 1, 3).seed).not.toBe(job("tuning", 1, 3).seed);
    expect(job("held-out", 1, 3).seed).not.toBe(job("held-out", 2, 3).seed);
  });
  it("have faults of the catalogue as often as its priors say, some none and some two", () => {
    const all = Array.from({ length: 2000 }, (_, n) => job("tuning", 5, n));
    const count = (k: number) => all.filter((j) => j.faultIds.length === k).length;
    expect(count(0)).toBe(200);
    expect(count(2)).toBe(200);
    for (const j of all) {
      const known = new Set(generateFaults(unitOf(j.unitId), knowledge).map((f) => f.id));
      for (const id of j.faultIds) expect(known.has(id)).toBe(true);
      expect(new Set(j.faultIds).size).toBe(j.faultIds.length);
    }
    const share = (id: string) => all.filter((j) => j.faultIds[0]?.startsWith(id)).length;
    expect(share("element-worn")).toBeGreaterThan(2 * share("element-drags"));
  });
  it("a worn clutch is followed to its cure by every way of working, and counts as right when the first repair cures it", () => {
    const spec = {
      number: 0,
      unitId: "brae-p6",
      seed: 12,
      vehicleSeed: 12,
      world: 0,
      outside: false,
      faults: [{ kind: "element-worn", component: "TC", severity: 0.9 }],
      faultIds: ["element-worn:TC"],
      drives: [{ phases: PROFILES.mixed, startFluidC: 55, durationS: 300 }],
      rateHz: 20,
    } as const;
    const score = judgeJob(spec, unitOf("brae-p6"), units, knowledge);
    expect(score.placeRank).toBe(1);
    const ours = score.followed["expected-cost"];
    expect(ours.cured).toBe(true);
    expect(ours.repairs.at(-1)).toMatch(/rebuild:TC|exchange/);
    expect(ours.cost).toBeGreaterThan(500);
    const page = jobsPage([score], { count: 1, mean: 1.01, worst: 1.01 }, "tuning", 1);
    expect(page).toMatch(/right fault first/);
    expect(page).toMatch(/1\.0 %/);
  });
  it("of two faults the one that the other hid is found on the drive after its repair", () => {
    const spec = job("tuning", 61, 227);
    expect(spec.faultIds).toEqual(["element-leak:RC", "solenoid-circuit:sol_LB"]);
    const score = judgeJob(spec, unitOf(spec.unitId), units, knowledge);
    const [leak, circuit] = score.stated as [number, number];
    expect(circuit).toBeGreaterThan(0.9);
    expect(leak).toBeLessThan(0.02);
    const ours = score.followed["expected-cost"];
    expect(ours).toMatchObject({ cured: true, inVain: 0 });
    expect(ours.repairs).toEqual(["solenoid:sol_LB", "rebuild:RC"]);
    for (const order of ["cheapest-first", "likeliest-first"] as const)
      expect(score.informed[order]).toMatchObject({ cured: true });
    const page = jobsPage([score], { count: 1, mean: 1.01, worst: 1.01 }, "tuning", 1);
    expect(page).toMatch(/with no repair in vain \| ≥ 80 % \| 100\.0 % \(1\)/);
    expect(page).toMatch(/both are found before the first repair \| {2}\| 0\.0 % \(1\)/);
  });
  it("cheap fluid for a lining is a check: the repair that was meant is judged, and what was done at once is said as well", () => {
    const unit = unitOf("brae-p6");
    const planner = new Planner(new SuspectModel(unit, knowledge), { hourlyRate: 72 });
    const one = (table: string, outcome: string, abnormal: boolean): Evidence => ({
      id: table,
      table,
      subject: {},
      outcome,
      label: table,
      entryId: table,
      abnormal,
    });
    const seen = [
      one("shudder", "shudders", true),
      one("symptom", "shudder", true),
      one("fluid-level", "ok", false),
      one("fluid-smell", "none", false),
    ];
    const lining = "converter-lining:converter-clutch";
    const ways = Array.from({ length: 10 }, (_, seed) => follow(planner, seen, [lining], "expected-cost", seed));
    const tried = ways.filter((w) => w.repairs[0] === "fluid" && w.repairs[1]?.startsWith("converter"));
    for (const w of tried) expect(w.atOnce).toBe(false);
    const meant = tried.filter((w) => w.explained.includes(lining));
    expect(meant.length).toBeGreaterThan(0);
    for (const w of meant) expect(w.right).toBe(true);
    // where the checks misled, fresh fluid was meant to cure and did not
    for (const w of tried.filter((x) => !meant.includes(x))) expect(w.right).toBe(false);
    for (const w of ways.filter((x) => x.repairs.length === 1 && x.cured)) expect(w.atOnce).toBe(true);
    for (const w of ways.filter((x) => x.repairs[0] === "hand-back")) expect(w.right).toBe(false);
  });
  it("who knows what is wrong makes no check and repairs just that; who drives again may do again what failed", () => {
    const planner = new Planner(new SuspectModel(unitOf("brae-p6"), knowledge), { hourlyRate: 72 });
    const ways = (again: boolean) =>
      Array.from({ length: 120 }, (_, seed) =>
        follow(
          planner,
          [],
          ["wire:net_output"],
          "told",
          seed,
          again ? () => ({ evidence: [], minutes: 10 }) : undefined,
        ),
      );
    for (const w of [...ways(true), ...ways(false)]) expect(w).toMatchObject({ checks: 0, atOnce: true, right: true });
    const failed = ways(true).filter((w) => w.repairs.length > 1);
    // one in twenty
    expect(failed.length).toBeGreaterThan(1);
    expect(failed.length).toBeLessThan(16);
    for (const w of failed) expect(w.repairs.slice(0, 2)).toEqual(["harness:net_output", "harness-again:net_output"]);
    for (const w of ways(false)) expect(w.repairs.join()).not.toMatch(/again/);
  });
  it("a vehicle of which something shows is not driven on; one that is quiet is, to the last road", () => {
    const drives = [PROFILES.town, PROFILES.town, PROFILES.hill].map((phases) => ({
      phases,
      startFluidC: 55,
      durationS: 60,
    }));
    const driven = (faults: readonly SimulatedFault[]) =>
      driveVehicle(
        {
          number: 0,
          unitId: "brae-p6",
          seed: 5,
          vehicleSeed: 5,
          world: 0,
          outside: false,
          faults,
          faultIds: [],
          drives,
          rateHz: 20,
        },
        unitOf("brae-p6"),
        units,
      ).analyses.length;
    expect(driven([])).toBe(3);
    expect(driven([{ kind: "solenoid-open", component: "sol_TC", severity: 1 }])).toBe(2);
  });
});
