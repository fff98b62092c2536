import type { Unit } from "@gearsense/core/unit";
import type { SimulatedFault } from "@gearsense/simulator";

/**
 * The fault of the catalogue that a simulated one is: class, and the component where there is one. Kinds that stand here
 * under their own name have it in the catalogue as well.
 */
const CLASS_OF: Readonly<Record<string, string>> = {
  "element-releases-late": "element-drags",
  "solenoid-open": "solenoid-circuit",
  "solenoid-short": "solenoid-circuit",
  "converter-solenoid-stuck-on": "converter-stuck-on",
  "converter-solenoid-stuck-off": "converter-stuck-off",
  "line-solenoid-stuck-on": "pressure-low",
  "converter-glazed": "converter-lining",
  "converter-worn": "converter-lining",
  "converter-leak": "converter-circuit",
  "turbine-splines-stripped": "input-splines",
  "output-splines-stripped": "output-splines",
  "fluid-spoiled": "fluid-degraded",
  "sensor-dead": "sensor-failed",
  "sensor-noisy": "sensor-rough",
  "fluid-sensor-wrong": "temperature-sensor",
  "fluid-sensor-open": "temperature-sensor",
  "range-switch-faulty": "range-switch",
  "supply-net-open": "supply",
  "signal-wire-open": "wire",
  "ground-net-open": "ground",
  "controller-power-loss": "controller-hardware",
  "software-level": "controller-software",
  "gear-damaged": "gear-damage",
  "mount-torn": "mount",
  "shaft-joint-worn": "shaft-joint",
  "linkage-misadjusted": "linkage",
  "wheel-imbalance": "wheel-vibration",
  "launch-judder": "dual-clutch-judder",
  "clutch-pressure-low": "dual-clutch-pressure",
  "clutch-drags": "dual-clutch-drags",
  "fork-sensor-lost": "fork-sensor",
  "hydraulic-pump-weak": "hydraulic-pump",
  "clutch-cooling-lost": "clutch-cooling",
};
/** Classes of the whole vehicle although the simulator names a part. */
const WHOLE = new Set([
  "converter-stuck-on",
  "converter-circuit",
  "converter-stuck-off",
  "converter-lining",
  "converter-imbalance",
  "stator-slips",
  "stator-seized",
  "input-splines",
  "pressure-low",
]);
const OF_CONVERTER = /^(converter|stator|input-splines)/;
const OF_SENSOR: Readonly<Record<string, (channel: string) => boolean>> = {
  "temperature-sensor": (c) => c === "fluid_c" || c === "clutch_c",
  "range-switch": (c) => c === "range",
};

export const classOf = (kind: string): string => CLASS_OF[kind] ?? kind;

/** Id of the fault in the suspects' model. */
export function faultIdOf(unit: Unit, { kind, component }: SimulatedFault): string {
  const id = classOf(kind);
  const sensor = OF_SENSOR[id];
  if (sensor) return `${id}:${unit.sensors.find((s) => sensor(s.channel))?.id}`;
  if (OF_CONVERTER.test(id)) return `${id}:converter-clutch`;
  if (WHOLE.has(id) || component === undefined) return id;
  // a fork's gear stands behind its name
  return `${id}:${component.split(":")[0]}`;
}
