// Guards: what the simulator breaks and what the suspects are called is one thing; a place holds what a drive cannot part.
import { generateFaults } from "@gearsense/core/suspect";
import { componentsFor, faultKind, faultKindsFor, type SimulatedFault } from "@gearsense/simulator";
import { describe, expect, it } from "@jest/globals";
import { classOf, faultIdOf } from "./catalogue.ts";
import { placeOf } from "./places.ts";
import { knowledge, units } from "./testing/library.ts";

describe.each(units.map((u) => [u.id, u] as const))("%s", (_, unit) => {
  const faults = generateFaults(unit, knowledge);
  const simulated = faultKindsFor(unit).flatMap(({ id }) => {
    const parts = componentsFor(unit, faultKind(id));
    return (parts.length > 0 ? parts : [undefined]).map(
      (component) => ({ kind: id, severity: 0.7, ...(component ? { component } : {}) }) as SimulatedFault,
    );
  });
  it("every fault that can be simulated is a suspect, by its id", () => {
    expect(simulated.length).toBeGreaterThan(30);
    const known = new Set(faults.map((f) => f.id));
    for (const s of simulated)
      expect([s.kind, s.component, known.has(faultIdOf(unit, s))]).toEqual([s.kind, s.component, true]);
  });
  it("what carries the signal of a sensor is at the sensor's place, and a solenoid at what it feeds", () => {
    const place = (f: (typeof faults)[number]) => placeOf(unit, f);
    for (const f of faults) {
      const solenoid = unit.solenoids.find((s) => s.id === f.component);
      if (solenoid) expect(place(f)).toBe(solenoid.feeds);
      const net = unit.nets.find((n) => n.id === f.component && n.kind === "signal");
      if (net) expect(unit.sensors.some((s) => s.id === place(f))).toBe(true);
      expect(place(f)).not.toBe("");
    }
  });
  it("places are fewer than faults, and more than one for the faults of elements", () => {
    const places = new Set(faults.map((f) => placeOf(unit, f)));
    expect(places.size).toBeLessThan(faults.length / 2);
    expect(unit.elements.filter((e) => places.has(e.id)).length).toBeGreaterThan(1);
  });
});

describe("the three ways a speed sensor fails", () => {
  it.each([
    ["sensor-dead", "sensor-failed"],
    ["sensor-drops-out", "sensor-drops-out"],
    ["sensor-noisy", "sensor-rough"],
  ])("%s is %s", (kind, id) => expect(classOf(kind)).toBe(id));
});
