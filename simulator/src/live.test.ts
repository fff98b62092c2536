// Guards: what is told while a vehicle is driven agrees with what the analysis of the whole log says was driven; a sound vehicle is
// warned of nothing, one that slips is.
import { analyseDrive, LiveDrive } from "@gearsense/core/drive";
import { buildRecording, openLog, proposeMapping } from "@gearsense/core/log";
import { describe, expect, it } from "@jest/globals";
import { DIALECTS, exportLog, LiveVehicle, type SimulatedFault, simulateDrive } from "./index.ts";
import { load } from "./testing/units.ts";

const CHANNELS = [
  "engine_rpm",
  "engine_torque_nm",
  "pedal_pct",
  "turbine_rpm",
  "output_rpm",
  "gear_commanded",
  "fluid_c",
];
const STEP_S = 0.1;

function driven(id: string, seed: number, faults: SimulatedFault[], durationS = 400) {
  const unit = load(id);
  const vehicle = new LiveVehicle({ unit, seed, faults, driver: "mixed" });
  const live = new LiveDrive(unit);
  for (let t = 0; t < durationS; t += STEP_S) {
    vehicle.advance(STEP_S);
    live.take(
      vehicle.timeS,
      new Map(CHANNELS.flatMap((c) => (vehicle.value(c) === undefined ? [] : [[c, vehicle.value(c) as number]]))),
    );
  }
  return live.state();
}

describe.each(["brae-p6", "fell-e8", "machair-d6"])("a sound %s", (id) => {
  it.each([1, 2, 3])("seed %i: coverage within a tenth of that of the analysis, no warning", (seed) => {
    const unit = load(id);
    const { columns } = simulateDrive({ unit, seed, rateHz: 20, durationS: 400, profile: "mixed", faults: [] });
    const { table } = openLog(exportLog(columns, DIALECTS.plain));
    const { coverage } = analyseDrive(buildRecording(table, proposeMapping(table, unit)), unit);
    const told = driven(id, seed, []);
    expect(told.warnings).toEqual([]);
    expect(Math.abs(told.coverage.share - coverage.share)).toBeLessThan(0.1);
    const seconds = (c: typeof coverage) => c.gears.map((g) => g.seconds.reduce((a, b) => a + b, 0));
    const all = seconds(coverage).reduce((a, b) => a + b, 0);
    seconds(told.coverage).forEach((s, i) => {
      expect(Math.abs(s - (seconds(coverage)[i] as number)) / all).toBeLessThan(0.05);
    });
  });
});

it("a clutch that slips is told in the gears that it carries", () => {
  const unit = load("brae-p6");
  const id = "TC";
  const told = driven("brae-p6", 2, [{ kind: "element-worn", component: id, severity: 0.7 }]);
  const gears = told.warnings.filter((w) => w.kind === "slip").map((w) => w.gear as string);
  expect(gears.length).toBeGreaterThan(0);
  for (const g of gears) expect(unit.application[g]?.map((a) => a.element)).toContain(id);
});
