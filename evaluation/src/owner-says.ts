export type Kind = "slip" | "harsh" | "shudder" | "limp" | "no-drive" | "late";

/**
 * What owners say, by class of fault: the first most often. Written down by what the fault does, not taken from the
 * library's tables: those are what is put to the test.
 */
export const SAYS: readonly (readonly [readonly string[], readonly Kind[]])[] = [
  [
    ["element-worn", "element-leak", "one-way-slips", "dual-clutch-worn", "solenoid-leaks", "valve-bore-worn"],
    ["slip", "slip", "slip", "late"],
  ],
  [
    ["pump-worn", "pressure-low", "filter-blocked", "fluid-low", "fluid-overfull", "fluid-wrong"],
    ["slip", "late"],
  ],
  [
    [
      "dual-clutch-pressure",
      "converter-circuit",
      "converter-stuck-off",
      "stator-slips",
      "stator-seized",
      "engine-weak",
    ],
    ["slip", "late", "slip"],
  ],
  [
    ["element-drags", "one-way-seized", "accumulator-broken", "pressure-high", "output-splines", "adaptation-off"],
    ["harsh", "harsh", "late"],
  ],
  [
    ["mount", "controller-software", "converter-stuck-on", "dual-clutch-drags"],
    ["harsh", "shudder"],
  ],
  [
    [
      "converter-lining",
      "fluid-degraded",
      "fluid-water",
      "misfire",
      "wheel-vibration",
      "shaft-joint",
      "converter-imbalance",
      "gear-damage",
      "dual-clutch-judder",
    ],
    ["shudder", "shudder", "shudder", "harsh"],
  ],
  [
    [
      "sensor-failed",
      "sensor-drops-out",
      "sensor-rough",
      "wire",
      "supply",
      "ground",
      "solenoid-circuit",
      "connector-wet",
      "temperature-sensor",
      "controller-hardware",
    ],
    ["limp", "limp", "harsh"],
  ],
  [
    ["fork-stuck", "fork-sensor", "hydraulic-pump", "battery-low", "clutch-cooling", "cooler-blocked"],
    ["limp", "limp", "slip"],
  ],
  [
    ["solenoid-stuck-off", "solenoid-stuck-on", "valve-sticks", "valve-clip-broken"],
    ["slip", "harsh", "late", "limp"],
  ],
  [
    ["range-switch", "linkage"],
    ["limp", "no-drive", "slip"],
  ],
  [["input-splines"], ["no-drive"]],
];
/** of a vehicle with nothing wrong */
export const NOTHING_SAID: readonly Kind[] = ["harsh", "late", "shudder", "slip"];
