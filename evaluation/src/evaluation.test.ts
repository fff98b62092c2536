// Guards: the examiner: cases are drawn the same again, sets do not overlap, a right answer counts and a wrong one is named.
import { readdirSync, readFileSync } from "node:fs";
import type { Unit } from "@gearsense/core/unit";
import { describe, expect, it } from "@jest/globals";
import { drawCase, evaluationPage, judgeCase, summarise } from "./index.ts";

const FOLDER = new URL("../../library/units/", import.meta.url);
const units = readdirSync(FOLDER)
  .filter((f) => f.endsWith(".unit.json"))
  .sort()
  .map((f) => JSON.parse(readFileSync(new URL(f, FOLDER), "utf8")) as Unit);
const unitOf = (id: string) => units.find((u) => u.id === id) as Unit;
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
    { ...base, group: "element", unitId: "brae-p6", fault: { kind: "element-worn", component: "HC", severity: 0.8 } },
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
    const missed = { ...worn, slip: { right: false, alone: false }, misses: ["slip of HC in 4 explained by nothing"] };
    const page = evaluationPage([worn, missed], "held-out", 1);
    expect(page).toMatch(/Slip attributed to the right element \| ≥ 0\.950 \| 0\.500 ✗ \(2\)/);
    expect(page).toMatch(/slip of HC in 4 explained by nothing/);
    expect(page).toMatch(/--cases 2 --seed 1/);
  });
});
