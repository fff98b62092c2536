// Guards: a dual clutch records what it measures beside what it asks for, in columns that are read again as such; a fault
// of its hydraulics shows there, and a planetary unit, which measures nothing, records no such column.
import { analyseDrive } from "@gearsense/core/drive";
import { buildRecording, openLog, proposeMapping } from "@gearsense/core/log";
import { describe, expect, it } from "@jest/globals";
import { exportLog, PLAIN_STYLE, type SimulatedFault, simulateDrive, usualChannels } from "../index.ts";
import { load } from "../testing/units.ts";

const unit = load("corran-w7");
const MEASURED = ["line_pressure_measured_kpa", "k1_kpa", "k2_kpa"];

/** Two minutes of town, read from the file. */
function driven(...faults: SimulatedFault[]) {
  const { columns } = simulateDrive({
    unit,
    seed: 5,
    durationS: 150,
    profile: "mixed",
    rateHz: 20,
    startFluidC: 80,
    faults,
  });
  const { table } = openLog(exportLog(columns, PLAIN_STYLE), {});
  const recording = buildRecording(table, proposeMapping(table, unit));
  const { pressures, findings } = analyseDrive(recording, unit);
  return {
    recording,
    shares: Object.fromEntries(pressures.map((p) => [p.id, p.warmShare ?? Number.NaN])),
    found: findings.filter((f) => f.kind === "pressure").map((f) => f.id),
  };
}

describe("pressures of a dual clutch", () => {
  it("are columns of their own, and are told from their commands when read", () => {
    expect(usualChannels(unit)).toEqual(expect.arrayContaining(["line_pressure_kpa", ...MEASURED]));
    const { recording, shares, found } = driven();
    for (const id of [...MEASURED, "line_pressure_kpa"]) expect(recording.channels.has(id)).toBe(true);
    for (const share of Object.values(shares)) expect(share).toBeCloseTo(1, 1);
    expect(Object.keys(shares).sort()).toEqual(["K1", "K2", "line"]);
    expect(found).toEqual([]);
  });
  it("a regulator that sets too little is short by its own share", () => {
    const { shares, found } = driven({ kind: "pressure-low", severity: 0.2 });
    // 1 − (0.3 + 0.45 · 0.2)
    expect(shares.line).toBeCloseTo(0.61, 1);
    expect(found).toContain("pressure:line");
  });
  it("a solenoid that leaks shows at its own clutch", () => {
    const { shares, found } = driven({ kind: "solenoid-leaks", component: "sol_K2", severity: 0.1 });
    // 1 − (0.3 + 0.5 · 0.1)
    expect(shares.K2).toBeCloseTo(0.65, 1);
    expect(shares.K1).toBeCloseTo(1, 1);
    expect(found).toEqual(["pressure:K2"]);
  });
  it("a planetary unit measures none", () => {
    for (const id of MEASURED) expect(usualChannels(load("brae-p6"))).not.toContain(id);
  });
});
