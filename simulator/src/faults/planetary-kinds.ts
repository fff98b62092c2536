import { between, type FaultKind, kind, PLANETARY, WET } from "./kind.ts";

/** Elements, solenoids, valves, pressure supply and converter. */
export const PLANETARY_KINDS: readonly FaultKind[] = [
  // friction elements
  kind(
    "element-worn",
    "pack",
    "Lining worn or burnt",
    "slips under torque in the gears that use it, hot or cold",
    (h, id, s) => {
      const i = h.pack(id);
      h.wear[i] = between(s, 0.25, 0.8);
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
];
