// Guards: a routine measures the clutches that are there, stops at a broken condition, and names the part that it cannot learn.
import type { RelearnProcedure, Unit } from "@gearsense/core/unit";
import { describe, expect, it } from "@jest/globals";
import type { SimulatedFault } from "../faults/fault.ts";
import { componentsFor, faultKind } from "../faults/kinds.ts";
import type { Feet } from "../road/driver.ts";
import { type RunningRoutine, startRoutine, writeLearned } from "../scan/routines.ts";
import { load } from "../testing/units.ts";
import { SimulatedVehicle, TICK_S } from "../vehicle.ts";
import { ROUTINE_CODE, ROUTINE_REFUSAL } from "./routine.ts";

const PLANETARY = ["brae-p6", "crag-t10", "fell-e8", "holm-c6", "ness-x6", "tarn-f4"];
const DUAL = ["corran-w7", "machair-d6"];
const STANDING: Feet = { pedal: 0, brakeN: 6000, brake: true, range: "P", grade: 0 };
const procedure = (unit: Unit, kind: string) => unit.relearn?.find((r) => r.machine?.kind === kind) as RelearnProcedure;

function standing(id: string, faults: readonly SimulatedFault[] = [], seed = 3, fluidC = 75) {
  const vehicle = new SimulatedVehicle({ unit: load(id), seed, faults, startFluidC: fluidC });
  const feet = { ...STANDING };
  const wait = (s: number) => {
    for (let t = 0; t < s; t += TICK_S) vehicle.tick(feet);
  };
  wait(3);
  return { vehicle, feet, wait };
}

/** Goes through a routine with the lever where it is asked for. */
function through({ vehicle, feet, wait }: ReturnType<typeof standing>, kind: string): RunningRoutine {
  const routine = startRoutine(vehicle, procedure(vehicle.unit, kind));
  if (typeof routine === "number") throw new Error(`refused with 0x${routine.toString(16)}`);
  for (let s = 0; s < 240 && routine.state === "running"; s += 0.2) {
    feet.range = routine.lever ?? feet.range;
    wait(0.2);
  }
  return routine;
}
const elementOf = (unit: Unit, r: RunningRoutine) => unit.elements[r.element - 1]?.id;

describe.each(PLANETARY)("fill times of %s, learned standing", (id) => {
  it("are those that its clutches take, within a hundredth of a second", () => {
    const at = standing(id);
    const { controller, hydraulics, build } = at.vehicle;
    const wrong = hydraulics.packs.map((_, i) => 0.4 * (controller.adaptation.fillS[i] as number));
    controller.adaptation.fillS.set(wrong);
    expect(through(at, "stationary")).toMatchObject({ state: "done", code: ROUTINE_CODE.done, progress: 1 });
    hydraulics.packs.forEach((p, i) => {
      const real = p.fillS * (build.packFill[i] as number);
      expect(Math.abs((controller.adaptation.fillS[i] as number) - real)).toBeLessThan(0.015);
    });
  });
});

describe.each(DUAL)("basic setting of %s", (id) => {
  it("finds forks and touch points", () => {
    const at = standing(id);
    const { controller, hydraulics } = at.vehicle;
    controller.adaptation.touchKpa.fill(151);
    expect(through(at, "basic-setting")).toMatchObject({ state: "done", code: ROUTINE_CODE.done });
    hydraulics.packs.forEach((p, i) => {
      expect(Math.abs((controller.adaptation.touchKpa[i] as number) - p.kissKpa)).toBeLessThan(6);
    });
  });
  it("names a fork that does not reach its end, and learns nothing", () => {
    const unit = load(id);
    const end = componentsFor(unit, faultKind("fork-stuck"))[0] as string;
    const fork = end.split(":")[0];
    const at = standing(id, [{ kind: "fork-stuck", component: end, severity: 1 }]);
    const before = [...at.vehicle.controller.adaptation.touchKpa];
    const routine = through(at, "basic-setting");
    expect(routine.state).not.toBe("done");
    if (routine.state === "failed") {
      expect(routine.code).toBe(ROUTINE_CODE.forkShort);
      expect(elementOf(unit, routine)).toBe(fork);
    } else expect(routine.code).toBe(ROUTINE_CODE.troubleCode);
    expect([...at.vehicle.controller.adaptation.touchKpa]).toEqual(before);
  });
});

describe("a routine that wants the vehicle standing", () => {
  const begun = () => {
    const at = standing("brae-p6");
    const routine = startRoutine(at.vehicle, procedure(at.vehicle.unit, "stationary")) as RunningRoutine;
    at.wait(1);
    expect(routine.state).toBe("running");
    return { ...at, routine, before: [...at.vehicle.controller.adaptation.fillS] };
  };
  it("ends when the brake is let go, and has learned nothing", () => {
    const { feet, wait, routine, vehicle, before } = begun();
    feet.brake = false;
    wait(0.1);
    expect(routine).toMatchObject({ state: "stopped", code: ROUTINE_CODE.brakeReleased });
    expect([...vehicle.controller.adaptation.fillS]).toEqual(before);
  });
  it("waits half a minute for the lever, no longer", () => {
    const { wait, routine } = begun();
    wait(28.5);
    expect(routine.state).toBe("running");
    wait(1.5);
    expect(routine).toMatchObject({ state: "stopped", code: ROUTINE_CODE.leverLate });
  });
  it("ends by hand; an engine that is revved ends it too", () => {
    const one = begun();
    one.routine.stop();
    expect(one.routine).toMatchObject({ state: "stopped", code: ROUTINE_CODE.stopped });
    const other = begun();
    other.feet.pedal = 0.5;
    other.wait(3);
    expect(other.routine).toMatchObject({ state: "stopped", code: ROUTINE_CODE.notIdling });
  });
  it.each([
    ["in D", { range: "D" as const }, 75, ROUTINE_REFUSAL.notInPark],
    ["with the brake open", { brake: false, brakeN: 0 }, 75, ROUTINE_REFUSAL.brakeOpen],
    ["a degree too cold", {}, 58.5, ROUTINE_REFUSAL.tooCold],
    ["a degree too hot", {}, 97.5, ROUTINE_REFUSAL.tooHot],
  ])("does not start %s", (_, more, fluidC, refusal) => {
    const at = standing("brae-p6", [], 3, fluidC);
    Object.assign(at.feet, more);
    at.wait(0.5);
    expect(startRoutine(at.vehicle, procedure(at.vehicle.unit, "stationary"))).toBe(refusal);
  });
  it("starts just inside its temperature window, and not twice at once", () => {
    const at = standing("brae-p6", [], 3, 61.5);
    expect(startRoutine(at.vehicle, procedure(at.vehicle.unit, "stationary"))).toMatchObject({ state: "running" });
    expect(startRoutine(at.vehicle, procedure(at.vehicle.unit, "stationary"))).toBe(ROUTINE_REFUSAL.sequence);
  });
});

describe("a part that is broken", () => {
  it("whose clutch leaks everything does not fill: it is named, and nothing is learned", () => {
    const unit = load("brae-p6");
    const at = standing("brae-p6", [{ kind: "element-leak", component: "TC", severity: 1 }]);
    const before = [...at.vehicle.controller.adaptation.fillS];
    const routine = through(at, "stationary");
    expect(routine.state).toBe("failed");
    expect(elementOf(unit, routine)).toBe("TC");
    expect([...at.vehicle.controller.adaptation.fillS]).toEqual(before);
  });
});

it("noted values are written back inside their limits only, all or none", () => {
  const { vehicle } = standing("brae-p6");
  const { unit } = vehicle;
  const read = () => vehicle.controller.adaptation.read(unit, vehicle.hydraulics.packs);
  expect(writeLearned(vehicle, { fill_LC: 120, fill_TC: 130 })).toBe(true);
  expect(read()).toMatchObject({ fill_LC: 120, fill_TC: 130 });
  expect(writeLearned(vehicle, { fill_LC: 100, fill_TC: 181 })).toBe(false);
  expect(read()).toMatchObject({ fill_LC: 120, fill_TC: 130 });
  expect(writeLearned(vehicle, { fill_TC: 180 })).toBe(true);
});
