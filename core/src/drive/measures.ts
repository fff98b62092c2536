import type { Measured } from "./analysis.ts";
import { converter } from "./converter/converter.measure.ts";
import { pull } from "./converter/pull.measure.ts";
import { heat } from "./driveline/heat.measure.ts";
import { loadReversals } from "./driveline/load-reversal.measure.ts";
import { oscillation } from "./driveline/oscillation.measure.ts";
import { road } from "./driveline/road.measure.ts";
import { torqueCurve } from "./driveline/torque-curve.measure.ts";
import { coolDown } from "./dual-clutch/cool-down.measure.ts";
import { launches } from "./dual-clutch/launches.measure.ts";
import { pressures } from "./dual-clutch/pressures.measure.ts";
import { gearHunting } from "./gear/gear-hunting.measure.ts";
import { held } from "./gear/held.measure.ts";
import { immobile } from "./gear/immobile.measure.ts";
import { limp } from "./gear/limp.measure.ts";
import { reach } from "./gear/reach.measure.ts";
import type { Measure } from "./measure.ts";
import { adaptations } from "./sensors/adaptations.measure.ts";
import { dropouts } from "./sensors/dropouts.measure.ts";
import { powerLosses } from "./sensors/power-losses.measure.ts";
import { ripples } from "./sensors/ripples.measure.ts";
import { shifts } from "./shift/shifts.measure.ts";
import { coastStops } from "./standstill/coast-stops.measure.ts";
import { engagements } from "./standstill/engagements.measure.ts";
import { idle } from "./standstill/idle.measure.ts";
import { neutral } from "./standstill/neutral.measure.ts";
import { stallTests } from "./standstill/stall.measure.ts";

/** One of each; their findings stand in this order, worst first. */
const LIST: { readonly [K in keyof Measured]: Measure<K> } = {
  limp,
  dropouts,
  held,
  shifts,
  oscillation,
  converter,
  ripples,
  engagements,
  immobile,
  pull,
  idle,
  neutral,
  pressures,
  coolDown,
  powerLosses,
  gearHunting,
  loadReversals,
  launches,
  stallTests,
  heat,
  adaptations,
  coastStops,
  reach,
  torqueCurve,
  road,
};

export const MEASURES = Object.values(LIST) as readonly Measure[];
