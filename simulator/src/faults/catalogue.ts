import type { Unit, UnitKind } from "@gearsense/core/unit";
import type { Intermittent } from "./fault.ts";
import type { Health } from "./health.ts";

/** What a fault may look at when it writes the health. */
export interface FaultContext {
  readonly unit: Unit;
  readonly timeS: number;
  readonly dtS: number;
  readonly vehicleKmh: number;
  readonly random: () => number;
  readonly intermittent: Intermittent;
}

type Per =
  | "pack"
  | "dual-clutch"
  | "launching-clutch"
  | "one-way"
  | "element-solenoid"
  | "converter-solenoid"
  | "line-solenoid"
  | "speed-sensor"
  | "supply-net"
  | "signal-net"
  | "ground-net"
  | "fork"
  | "unit";

export interface FaultKind {
  readonly id: string;
  readonly per: Per;
  readonly title: string;
  /** what a technician meets */
  readonly symptom: string;
  /** kinds of units that can have it; all where left out */
  readonly units?: readonly UnitKind[];
  /** writes what it changes; strength 0 … 1 */
  readonly apply: (h: Health, component: string, strength: number, c: FaultContext) => void;
}

const PLANETARY = ["planetary"] as const;
const DUAL = ["dct-wet", "dct-dry"] as const;
/** Whose clutches run in the fluid. */
const WET = ["planetary", "dct-wet"] as const;

export const between = (strength: number, least: number, most: number) => least + (most - least) * strength;

/** A net that is broken takes with it all that hangs on it. */
function breakNet(h: Health, c: FaultContext, net: string): void {
  for (const id of c.unit.nets.find((n) => n.id === net)?.connects ?? []) {
    if (h.sensors.has(id)) h.sensor(id).lost = true;
    else h.solenoids.set(id, "dead");
  }
}

const kind = (
  id: string,
  per: Per,
  title: string,
  symptom: string,
  apply: FaultKind["apply"],
  units?: readonly UnitKind[],
): FaultKind => ({ id, per, title, symptom, apply, ...(units ? { units } : {}) });

/** Everything that can be broken on purpose, by part of the unit. */
export const FAULT_KINDS: readonly FaultKind[] = [
  // friction elements
  kind(
    "element-worn",
    "pack",
    "Lining worn or burnt",
    "slips under torque in the gears that use it, hot or cold",
    (h, id, s) => {
      const i = h.pack(id);
      h.wear[i] = between(s, 0.35, 0.95);
      h.hydraulics.fillExtra[i] = 0.5 * s;
    },
    PLANETARY,
  ),
  kind(
    "element-leak",
    "pack",
    "Apply circuit leaks: seal, piston, drum",
    "slips hot in the gears that use it, holds cold",
    (h, id, s) => {
      h.hydraulics.leak[h.pack(id)] = between(s, 0.25, 0.9);
    },
    PLANETARY,
  ),
  kind(
    "element-drags",
    "pack",
    "Element drags when released",
    "heat, sluggish, fights the gears that do not use it",
    (h, id, s) => {
      h.dragNm[h.pack(id)] = between(s, 10, 60);
    },
    PLANETARY,
  ),
  kind(
    "element-releases-late",
    "pack",
    "Return spring broken",
    "fights the next gear: tie-up in shifts out of it",
    (h, id, s) => {
      h.hydraulics.slowRelease[h.pack(id)] = between(s, 0.18, 0.6);
    },
    PLANETARY,
  ),
  kind(
    "one-way-slips",
    "one-way",
    "One-way clutch slips",
    "no drive in the gear that it holds",
    (h) => {
      h.oneWay = "slips";
    },
    PLANETARY,
  ),
  kind(
    "one-way-seized",
    "one-way",
    "One-way clutch seized",
    "engine brakes where it should roll free; ties up in the gears that overrun it",
    (h) => {
      h.oneWay = "seized";
    },
    PLANETARY,
  ),
  // solenoids
  kind("solenoid-open", "element-solenoid", "Solenoid winding open", "a circuit code; limp mode", (h, id) => {
    h.solenoids.set(id, "dead");
  }),
  kind(
    "solenoid-short",
    "element-solenoid",
    "Solenoid winding shorted",
    "a circuit code when it is switched on; limp mode",
    (h, id, s, c) => {
      if (c.intermittent.tick(c.timeS, c.dtS, between(s, 3, 20), 40, true)) h.solenoids.set(id, "dead");
    },
  ),
  kind(
    "solenoid-stuck-off",
    "element-solenoid",
    "Solenoid stays in its unpowered state",
    "another gear than commanded, by the solenoid chart",
    (h, id) => {
      h.solenoids.set(id, "off");
    },
  ),
  kind(
    "solenoid-stuck-on",
    "element-solenoid",
    "Solenoid stays in its powered state",
    "another gear than commanded, by the solenoid chart",
    (h, id) => {
      h.solenoids.set(id, "on");
    },
  ),
  kind(
    "solenoid-leaks",
    "element-solenoid",
    "Solenoid leaks",
    "low pressure at its element: slips at high torque",
    (h, id, s) => {
      h.solenoidLeak.set(id, between(s, 0.3, 0.8));
    },
  ),
  kind(
    "converter-solenoid-stuck-on",
    "converter-solenoid",
    "Converter clutch solenoid stays on",
    "engine dragged down at stops, clutch never opens",
    (h, id) => {
      h.solenoids.set(id, "on");
    },
    PLANETARY,
  ),
  kind(
    "converter-solenoid-stuck-off",
    "converter-solenoid",
    "Converter clutch solenoid stays off",
    "converter clutch never holds, its code is set",
    (h, id) => {
      h.solenoids.set(id, "off");
    },
    PLANETARY,
  ),
  // valves
  kind(
    "valve-sticks",
    "pack",
    "Shift valve of an element sticks",
    "shifts into its gears come late",
    (h, id, s) => {
      h.hydraulics.slow[h.pack(id)] = between(s, 1.5, 6);
    },
    PLANETARY,
  ),
  kind(
    "valve-bore-worn",
    "pack",
    "Bore of an element's valve worn",
    "low pressure at its element, worse hot",
    (h, id, s) => {
      const i = h.pack(id);
      h.hydraulics.leak[i] = between(s, 0.3, 0.85);
      h.hydraulics.slow[i] = 0.6 * s;
    },
    PLANETARY,
  ),
  kind(
    "valve-clip-broken",
    "pack",
    "Clip or spring of an element's valve broken",
    "its gears are gone from one moment to the next",
    (h, id) => {
      h.hydraulics.leak[h.pack(id)] = 8;
    },
    PLANETARY,
  ),
  kind(
    "accumulator-broken",
    "unit",
    "Accumulator broken",
    "every shift harsh",
    (h, _id, s) => {
      h.hydraulics.hard = between(s, 0.5, 1);
      h.hydraulics.fillExtra.fill(-0.55 * s - 0.1);
    },
    PLANETARY,
  ),
  // pressure supply
  kind(
    "pump-worn",
    "unit",
    "Pump worn",
    "late engagement and slip at low speed, worse hot",
    (h, _id, s) => {
      h.hydraulics.pumpScale = 1 - between(s, 0.9, 0.98);
    },
    PLANETARY,
  ),
  kind(
    "pressure-low",
    "unit",
    "Pressure regulator too low",
    "slip under load in every gear; pressure adaptation at its limit",
    (h, _id, s) => {
      h.hydraulics.regulatorScale = 1 - between(s, 0.3, 0.75);
    },
  ),
  kind(
    "pressure-high",
    "unit",
    "Pressure regulator too high",
    "harsh engagement and shifts, no slip",
    (h, _id, s) => {
      h.hydraulics.regulatorFloorKpa = between(s, 1200, 2400);
      h.hydraulics.hard = 0.8 * s;
    },
    PLANETARY,
  ),
  kind(
    "line-solenoid-stuck-on",
    "line-solenoid",
    "Line pressure solenoid stays powered",
    "low pressure: slip in every gear",
    (h) => {
      h.hydraulics.regulatorScale = 0.4;
    },
    PLANETARY,
  ),
  kind(
    "filter-blocked",
    "unit",
    "Filter blocked",
    "late and soft, worst cold and at high engine speed",
    (h, _id, s) => {
      h.hydraulics.suction = 1 - between(s, 0.82, 0.96);
    },
    WET,
  ),
  kind(
    "cooler-blocked",
    "unit",
    "Cooler blocked",
    "fluid gets far too hot",
    (h, _id, s) => {
      h.fluid.coolerShare = 1 - between(s, 0.7, 1);
    },
    PLANETARY,
  ),
  // converter
  kind(
    "converter-glazed",
    "unit",
    "Converter clutch lining glazed",
    "shudder while the clutch regulates or applies",
    (h, _id, s) => {
      h.converterGlaze = between(s, 0.7, 1);
    },
    PLANETARY,
  ),
  kind(
    "converter-worn",
    "unit",
    "Converter clutch lining worn",
    "converter clutch slips while commanded to hold",
    (h, _id, s) => {
      h.converterWear = between(s, 0.8, 1);
    },
    PLANETARY,
  ),
  kind(
    "converter-leak",
    "unit",
    "Converter clutch circuit leaks",
    "converter clutch slips, more when hot",
    (h, _id, s) => {
      h.hydraulics.converterLeak = between(s, 0.7, 0.97);
    },
    PLANETARY,
  ),
  kind(
    "stator-slips",
    "unit",
    "Stator clutch slips both ways",
    "weak from rest, low stall speed, normal cruise",
    (h) => {
      h.driveline.stator = "slips";
    },
    PLANETARY,
  ),
  kind(
    "stator-seized",
    "unit",
    "Stator clutch seized",
    "normal from rest, poor at speed, heat",
    (h) => {
      h.driveline.stator = "seized";
    },
    PLANETARY,
  ),
  kind(
    "turbine-splines-stripped",
    "unit",
    "Turbine or input splines stripped",
    "no drive in any range, not even the nudge on engagement",
    (h) => {
      h.driveline.inputCut = true;
    },
    PLANETARY,
  ),
  kind(
    "converter-imbalance",
    "unit",
    "Converter out of balance",
    "vibration that follows engine speed, clutch open or not",
    (h, _id, s) => {
      h.engine.imbalanceNm = between(s, 60, 180);
    },
    PLANETARY,
  ),
  // fluid
  kind(
    "fluid-low",
    "unit",
    "Fluid low",
    "late engagement, slip on hills and when cold",
    (h, _id, s, c) => {
      h.fluid.levelL = -c.unit.fluid.totalL * between(s, 0.14, 0.32);
    },
    WET,
  ),
  kind(
    "fluid-overfull",
    "unit",
    "Overfull, foaming",
    "soft, slipping shifts and rising temperature at speed",
    (h, _id, s, c) => {
      h.fluid.levelL = c.unit.fluid.totalL * between(s, 0.12, 0.3);
    },
    WET,
  ),
  kind(
    "fluid-spoiled",
    "unit",
    "Fluid degraded",
    "shudder of the converter clutch",
    (h, _id, s) => {
      h.fluid.spoiled = between(s, 0.75, 1);
    },
    PLANETARY,
  ),
  kind(
    "fluid-wrong",
    "unit",
    "Wrong fluid",
    "every shift longer and softer; slip under load",
    (h, _id, s) => {
      h.fluid.frictionScale = 1 - between(s, 0.2, 0.5);
    },
    WET,
  ),
  kind(
    "fluid-water",
    "unit",
    "Water in the fluid",
    "shudder and slip together",
    (h, _id, s) => {
      h.fluid.spoiled = between(s, 0.8, 1);
      h.fluid.frictionScale = 1 - between(s, 0.1, 0.35);
    },
    WET,
  ),
  // sensors and wiring
  kind(
    "sensor-drops-out",
    "speed-sensor",
    "Speed sensor drops out",
    "speed reads zero while moving, now and then; code and limp mode in the end",
    (h, id, s, c) => {
      if (c.intermittent.tick(c.timeS, c.dtS, between(s, 1, 8), 0.6, c.vehicleKmh > 18)) h.sensor(id).lost = true;
    },
  ),
  kind("sensor-dead", "speed-sensor", "Speed sensor dead", "no reading at all, its code, limp mode", (h, id) => {
    h.sensor(id).lost = true;
  }),
  kind(
    "sensor-noisy",
    "speed-sensor",
    "Speed sensor loose: gap or target",
    "ripple on one reading, others steady",
    (h, id, s) => {
      h.sensor(id).noise = between(s, 25, 120);
    },
  ),
  kind(
    "fluid-sensor-wrong",
    "unit",
    "Fluid temperature sensor reads off",
    "temperature that does not fit; shifts wrong for it",
    (h, _id, s, c) => {
      const id = c.unit.sensors.find((x) => x.channel === "fluid_c")?.id;
      if (id) h.sensor(id).offset = -between(s, 25, 60);
    },
    PLANETARY,
  ),
  kind(
    "fluid-sensor-open",
    "unit",
    "Fluid temperature sensor open",
    "reads below anything possible, its code",
    (h, _id, _s, c) => {
      const id = c.unit.sensors.find((x) => x.channel === "fluid_c")?.id;
      if (id) h.sensor(id).lost = true;
    },
    PLANETARY,
  ),
  kind(
    "range-switch-faulty",
    "unit",
    "Range switch out of adjustment",
    "falls into neutral now and then while the lever stands in D",
    (h, _id, s, c) => {
      if (c.intermittent.tick(c.timeS, c.dtS, between(s, 2, 8), 1.6, c.vehicleKmh > 8)) h.rangeRead = "N";
    },
  ),
  kind(
    "supply-net-open",
    "supply-net",
    "Shared supply breaks",
    "all that hangs on it fails in the same second",
    (h, id, s, c) => {
      if (c.intermittent.tick(c.timeS, c.dtS, between(s, 1, 6), 3, c.vehicleKmh > 15)) breakNet(h, c, id);
    },
  ),
  kind(
    "signal-wire-open",
    "signal-net",
    "Signal wire broken",
    "one reading gone, its siblings on the supply well",
    (h, id, _s, c) => breakNet(h, c, id),
  ),
  kind(
    "ground-net-open",
    "ground-net",
    "Shared ground breaks",
    "all readings that return through it fail together",
    (h, id, s, c) => {
      if (c.intermittent.tick(c.timeS, c.dtS, between(s, 2, 8), 6, c.vehicleKmh > 8)) {
        breakNet(h, c, id);
        if (
          c.unit.nets
            .find((n) => n.id === id)
            ?.connects.some((x) => c.unit.sensors.find((y) => y.id === x)?.channel === "range")
        )
          h.rangeRead = "";
      }
    },
  ),
  kind(
    "connector-wet",
    "supply-net",
    "Connector wet",
    "readings on one connector ripple and drop out, solenoids on it lose their current now and then",
    (h, id, s, c) => {
      const bad = c.intermittent.tick(c.timeS, c.dtS, between(s, 4, 14), 0.25, c.vehicleKmh > 12);
      for (const x of c.unit.nets.find((n) => n.id === id)?.connects ?? [])
        if (h.sensors.has(x)) {
          h.sensor(x).noise = between(s, 10, 60);
          if (bad && c.random() < 0.7) h.sensor(x).lost = true;
        } else if (bad) h.solenoids.set(x, "dead");
    },
  ),
  // controller
  kind(
    "controller-lapses",
    "unit",
    "Control unit falls out",
    "for a moment all solenoids are without power, no codes of parts",
    (h, _id, s, c) => {
      if (c.intermittent.tick(c.timeS, c.dtS, between(s, 2, 6), 0.7, c.vehicleKmh > 15)) h.lapseS = 0.05;
    },
  ),
  kind(
    "adaptation-off",
    "unit",
    "Adaptation out of place",
    "flares or late shifts that get better as it is driven",
    (h, _id, s) => {
      h.fillOff = -between(s, 0.35, 0.7);
    },
    PLANETARY,
  ),
  kind("software-level", "unit", "Software level", "hunts between two gears on a steady road", (h, _id, s) => {
    h.restless = between(s, 0.6, 1);
  }),
  // mechanics
  kind(
    "gear-damaged",
    "unit",
    "Gear tooth damaged",
    "knock once a turn of the output shaft, in every gear",
    (h, _id, s) => {
      h.gearKnockNm = between(s, 25, 90);
    },
  ),
  kind(
    "output-splines-stripped",
    "unit",
    "Output splines or half-shaft gone",
    "engine turns the gearbox, the vehicle does not move",
    (h) => {
      h.driveline.outputCut = true;
    },
  ),
  kind("mount-torn", "unit", "Mount torn", "clunk and swing when load comes and goes", (h, _id, s) => {
    h.driveline.stiffnessScale = 1 - between(s, 0.4, 0.75);
    h.driveline.dampingScale = 1 - between(s, 0.5, 0.85);
    h.driveline.slackRad = between(s, 0.05, 0.2);
  }),
  kind("shaft-joint-worn", "unit", "Shaft joint worn", "clunk when drive turns to coast and back", (h, _id, s) => {
    h.driveline.slackRad = between(s, 0.15, 0.5);
  }),
  kind(
    "linkage-misadjusted",
    "unit",
    "Selector linkage out of adjustment",
    "late engagement and slip in the forward range",
    (h, _id, s) => {
      h.hydraulics.supply = 1 - between(s, 0.35, 0.65);
    },
    PLANETARY,
  ),
  // not the transmission
  kind(
    "misfire",
    "unit",
    "Cylinder misfires",
    "vibration at half engine order, with the converter clutch open too",
    (h, _id, s) => {
      h.engine.misfire = between(s, 0.5, 1);
    },
  ),
  kind("engine-weak", "unit", "Engine lacks torque", "slow from rest and everywhere; no slip", (h, _id, s) => {
    h.engine.torqueScale = 1 - between(s, 0.25, 0.6);
  }),
  kind(
    "wheel-imbalance",
    "unit",
    "Wheel out of balance",
    "vibration that follows road speed in every gear, clutch open or not",
    (h, _id, s) => {
      h.wheelImbalanceNm = between(s, 8, 30);
    },
  ),
  kind(
    "battery-low",
    "unit",
    "Low battery or charging",
    "lapses when the voltage falls; several systems at once",
    (h, _id, s, c) => {
      h.batteryV = 12.2 - 1.4 * s;
      if (c.intermittent.tick(c.timeS, c.dtS, between(s, 2, 6), 0.5, c.vehicleKmh > 5)) {
        h.batteryV = 8.4;
        h.lapseS = 0.05;
      }
    },
  ),
  // dual clutch
  kind(
    "dual-clutch-worn",
    "dual-clutch",
    "Clutch lining worn",
    "slips above a torque in the gears of one clutch; its touch point has wandered",
    (h, id, s) => {
      const i = h.pack(id);
      h.wear[i] = between(s, 0.3, 0.8);
      h.hydraulics.touchShiftKpa[i] = between(s, 30, 75);
    },
    DUAL,
  ),
  kind(
    "launch-judder",
    "launching-clutch",
    "Clutch judders",
    "4–14 Hz ripple while it launches",
    (h, id, s) => {
      h.judder[h.pack(id)] = between(s, 0.6, 1);
    },
    DUAL,
  ),
  kind(
    "clutch-pressure-low",
    "dual-clutch",
    "Clutch valve leaks",
    "slips above a torque in the gears of one clutch; touch point steady",
    (h, id, s) => {
      h.hydraulics.leak[h.pack(id)] = between(s, 0.4, 0.8);
    },
    DUAL,
  ),
  kind(
    "clutch-drags",
    "dual-clutch",
    "Clutch does not open",
    "creeps against the brake, idle drawn down at rest",
    (h, id, s) => {
      h.dragNm[h.pack(id)] = between(s, 4, 11);
    },
    DUAL,
  ),
  kind(
    "fork-stuck",
    "fork",
    "Fork stuck",
    "one gear is never engaged",
    (h, id) => {
      h.forksStuck.add(id);
    },
    DUAL,
  ),
  kind(
    "fork-sensor-lost",
    "fork",
    "Fork position not read",
    "the gear is barred although the fork moves",
    (h, id) => {
      h.forksUnseen.add(id);
    },
    DUAL,
  ),
  kind(
    "hydraulic-pump-weak",
    "unit",
    "Hydraulic pump or accumulator weak",
    "pressure behind its command, its code, slip at high torque",
    (h, _id, s) => {
      h.hydraulics.pumpScale = 1 - between(s, 0.75, 0.94);
    },
    DUAL,
  ),
  kind(
    "clutch-cooling-lost",
    "unit",
    "Clutch cooling gone",
    "clutch gets far too hot on hills and in traffic",
    (h, _id, s) => {
      h.clutchCooling = 1 - between(s, 0.8, 1);
    },
    DUAL,
  ),
];
