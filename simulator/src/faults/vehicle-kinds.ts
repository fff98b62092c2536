import { between, breakNet, type FaultKind, kind, PLANETARY, WET } from "./kind.ts";

/** A wire as bad as this is broken for good; one that is less bad is chafed and opens now and then. */
const BROKEN = 0.75;

/** Fluid, sensors and wiring, controller, mechanics, and what is not the transmission. */
export const VEHICLE_KINDS: readonly FaultKind[] = [
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
    "Signal wire broken or chafed",
    "one reading gone, its siblings on the supply well; chafed, it comes and goes",
    (h, id, s, c) => {
      if (s >= BROKEN || c.intermittent.tick(c.timeS, c.dtS, between(s, 1, 7), 2, c.vehicleKmh > 8)) breakNet(h, c, id);
    },
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
    "controller-power-loss",
    "unit",
    "Control unit falls out",
    "for a moment all solenoids are without power, no codes of parts",
    (h, _id, s, c) => {
      if (c.intermittent.tick(c.timeS, c.dtS, between(s, 2, 6), 0.7, c.vehicleKmh > 15)) h.powerLossS = 0.05;
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
  kind("mount-torn", "unit", "Mount torn", "clunk and shake when load comes and goes", (h, _id, s) => {
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
    "loses power when the voltage falls; several systems at once",
    (h, _id, s, c) => {
      h.batteryV = 12.2 - 1.4 * s;
      if (c.intermittent.tick(c.timeS, c.dtS, between(s, 2, 6), 0.5, c.vehicleKmh > 5)) {
        h.batteryV = 8.4;
        h.powerLossS = 0.05;
      }
    },
  ),
];
