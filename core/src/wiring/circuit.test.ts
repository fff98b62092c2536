// Guards: elimination in the wiring: what works clears its path, what was measured clears or accuses, and the next reading
// says what to touch and what to expect.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import type { Evidence } from "../suspect/index.ts";
import { libraryUnit } from "../testing/units.ts";
import { circuitFacts, type Known, type Measured, readCircuit } from "./index.ts";

const unit = libraryUnit("brae-p6");
const known = (component: string, state: Known["state"]): Known => ({ component, state, because: state, entryId: "e" });
const measured = (subject: string, good: boolean): Measured => ({ subject, good, because: "meter", entryId: "m" });
const states = (k: readonly Known[], m: readonly Measured[] = []) =>
  Object.fromEntries(readCircuit(unit, k, m)?.segments.map((s) => [s.id, s.state]) ?? []);

describe("a dead sensor", () => {
  it("beside a working one on the same supply: the shared trunk is cleared, its branch, its wire and itself are left", () => {
    expect(states([known("sen_output", "dead"), known("sen_turbine", "works")])).toEqual({
      "part:sen_output": "suspect",
      "trunk:net_8v": "cleared",
      "branch:net_8v:sen_output": "suspect",
      "trunk:net_output": "suspect",
    });
  });
  it("and its sibling dead as well: the supply that both need explains both", () => {
    const both = states([known("sen_output", "dead"), known("sen_turbine", "dead")]);
    expect(both["trunk:net_8v"]).toBe("suspect");
    expect(both["part:sen_output"]).toBe("open");
    expect(both["trunk:net_output"]).toBe("open");
  });
  it("good readings clear; a bad one names its net, and not the trunk that works for another", () => {
    const k = [known("sen_output", "dead"), known("sen_turbine", "works")];
    expect(states(k, [measured("net_output", true)])["trunk:net_output"]).toBe("cleared");
    const bad = states(k, [measured("net_8v", false)]);
    expect(bad["branch:net_8v:sen_output"]).toBe("bad");
    expect(bad["trunk:net_8v"]).toBe("cleared");
    expect(readCircuit(unit, k, [measured("net_8v", false)])?.verdict).toMatch(
      /^Found at: Speed sensor supply 8 V, branch/,
    );
  });
  it("when all is cleared, the control unit's own input is left", () => {
    const all = ["net_8v", "net_output", "sen_output"].map((id) => measured(id, true));
    expect(readCircuit(unit, [known("sen_output", "dead")], all)?.verdict).toMatch(/own input is left/);
    expect(readCircuit(unit, [known("sen_output", "dead")], all)?.readings).toEqual([]);
  });
  it("the next reading names pins, value and condition, and never one that was made", () => {
    const picture = readCircuit(unit, [known("sen_output", "dead")], []);
    const wire = picture?.readings.find((r) => r.checkId === "wire-bend:net_output");
    expect(wire?.touch[0]).toMatch(/T1-15 \(violet\/yellow\)/);
    expect(wire?.expect).toMatch(/below 1 Ω/);
    const supply = picture?.readings.find((r) => r.checkId === "supply-voltage:net_8v");
    expect(supply?.expect).toMatch(/^8 V/);
    expect(supply?.condition).toMatch(/key on, engine off/);
    const after = readCircuit(unit, [known("sen_output", "dead")], [measured("net_8v", true)]);
    expect(after?.readings.map((r) => r.checkId)).not.toContain("supply-voltage:net_8v");
  });
});

describe("solenoids", () => {
  it("all dead at once: their supply, not seven coils", () => {
    const picture = readCircuit(
      unit,
      unit.solenoids.map((s) => known(s.id, "dead")),
      [],
    );
    expect(picture?.segments.filter((s) => s.state === "suspect").map((s) => s.id)).toEqual(["trunk:net_solbat"]);
    expect(picture?.readings[0]).toMatchObject({ checkId: "supply-voltage:net_solbat" });
  });
  it("one dead among working ones: its coil is measured against its own window", () => {
    const k = unit.solenoids.map((s) => known(s.id, s.id === "sol_HC" ? "dead" : "works"));
    const picture = readCircuit(unit, k, []);
    expect(picture?.readings.find((r) => r.checkId === "resistance:sol_HC")?.expect).toBe("4.8–5.6 Ω at 20 °C");
  });
});

it("nothing dead, no picture; whatever is known, a cleared piece is never a suspect", () => {
  expect(readCircuit(unit, [known("sen_output", "works")], [])).toBeUndefined();
  const parts = [...unit.sensors, ...unit.solenoids].map((p) => p.id);
  fc.assert(
    fc.property(
      fc.subarray(parts, { minLength: 1 }),
      fc.subarray(parts),
      fc.subarray(unit.nets.map((n) => n.id)),
      (d, w, good) => {
        const works = w.filter((x) => !d.includes(x));
        const picture = readCircuit(
          unit,
          [...d.map((x) => known(x, "dead")), ...works.map((x) => known(x, "works"))],
          good.map((g) => measured(g, true)),
        );
        for (const s of picture?.segments ?? []) {
          if (s.net && good.includes(s.net)) expect(s.state).toBe("cleared");
          if (s.kind === "trunk" && unit.nets.find((n) => n.id === s.net)?.connects.some((c) => works.includes(c)))
            expect(s.state).toBe("cleared");
        }
      },
    ),
    { numRuns: 60 },
  );
});

describe("facts from evidence", () => {
  const item = (
    table: string,
    outcome: string,
    subject: Evidence["subject"],
    checkId?: string,
    abnormal = false,
  ): Evidence => ({
    id: `${table}${outcome}${checkId}`,
    table,
    outcome,
    subject,
    checkId,
    label: table,
    entryId: "e",
    abnormal,
  });
  it.each([
    ["dead", "dead"],
    ["drops-out", "dead"],
    ["steady", "works"],
  ])("a sensor that is %s in the log counts as %s", (outcome, state) => {
    const { known } = circuitFacts(unit, [item("sensor", outcome, { component: "sen_output" })]);
    expect(known.map((k) => k.state)).toEqual([state]);
  });
  it("drop-outs and circuit codes are dead, steady sensors and absent codes of solenoids work, checks are readings", () => {
    const { known: k, measured: m } = circuitFacts(unit, [
      item("sensor", "drops-out", { component: "sen_output" }, undefined, true),
      item("sensor", "steady", { component: "sen_turbine" }),
      item("code", "present", { code: "P0750" }, undefined, true),
      item("code", "absent", { code: "P0755" }),
      item("code", "absent", { code: "P0722" }),
      item("check", "sound", { component: "net_output" }, "wire-bend:net_output"),
      item("check", "isolated", { component: "net_output" }, "wire-insulation:net_output"),
      item("check", "shorts", { component: "net_turbine" }, "wire-insulation:net_turbine", true),
    ]);
    expect(Object.fromEntries(k.map((x) => [x.component, x.state]))).toEqual({
      sen_output: "dead",
      sen_turbine: "works",
      sol_LC: "dead",
      sol_TC: "works",
    });
    // good insulation says nothing of a break
    expect(m.map((x) => [x.subject, x.good])).toEqual([
      ["net_output", true],
      ["net_turbine", false],
    ]);
  });
});
