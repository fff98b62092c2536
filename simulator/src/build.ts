import { seededRandom } from "@gearsense/core/chance";
import type { Unit } from "@gearsense/core/unit";

/** How one vehicle was built, has worn and is set up, where the drawing leaves room: everything else is in the unit file. */
export interface Build {
  /** of the mass, the air drag and the engine's inertia that go with the unit */
  readonly massShare: number;
  readonly dragShare: number;
  readonly engineInertiaShare: number;
  /** rolling resistance over weight */
  readonly rolling: number;
  /** turn of the half-shafts, tyres and mounts at the wheel, under the engine's largest torque in first gear, degrees */
  readonly windUpDeg: number;
  /** in the shafts, seen at the gearbox output, N·m·s/rad */
  readonly shaftDampingNmsPerRad: number;
  /** stiffness of the rubber in tyres and mounts that yields in time, over that of the shafts */
  readonly rubberShare: number;
  /** force at the tread for a slip of 1, over the weight */
  readonly tyreGripPerWeight: number;
  /** rolling radius over that of the unit file */
  readonly tyreShare: number;
  readonly idleRpm: number;
  /** idle in P and N over that in gear, and how far it wanders, rpm */
  readonly neutralIdleRpm: number;
  readonly idleWanderRpm: number;
  /** largest engine torque over what the unit bears */
  readonly engineShare: number;
  /** capacity factor of the converter over that of the unit file */
  readonly converterShare: number;
  readonly ambientC: number;

  /** grip of all linings, and by pack, over that of the drawing */
  readonly frictionShare: number;
  readonly packFriction: readonly number[];
  /** fill time by pack over that of the drawing */
  readonly packFill: readonly number[];
  /** play of the valve of each pack: its pressure follows only what goes beyond, kPa */
  readonly packPlayKpa: readonly number[];
  /** solenoid with its valve, warm, s */
  readonly valveLagS: number;
  /** how much longer everything takes to flow in the cold, see `flowTimeFactor` */
  readonly coldThickening: number;
  /** of an element that is let go, at 70 °C, N·m */
  readonly releasedDragNm: number;
  /** how far what the controller has learned of each pack is off, share */
  readonly packLearned: readonly number[];

  /** how the controller was set up */
  readonly style: ControlStyle;
  readonly sensors: SensorMakeup;
  /** readings a second that the scan tool gets through */
  readonly readingsPerS: number;
}

export interface ControlStyle {
  /** aim for the change of speed in a shift at four tenths of the load, s, and how far it changes over the whole load, share */
  readonly inertiaS: number;
  readonly inertiaByLoad: number;
  readonly torquePhaseS: number;
  /** of the engine's torque left in a shift under power */
  readonly torqueCut: number;
  /** speeds of changing up and down over the usual ones */
  readonly upShare: number;
  readonly downShare: number;
  readonly lineMargin: number;
  readonly lockupFromKmh: number;
  readonly lockupRampS: number;
}

export interface SensorMakeup {
  /** standard deviation, rpm */
  readonly crankNoiseRpm: number;
  readonly speedNoiseRpm: number;
  /** smoothing of the speeds by the controller, s */
  readonly smoothingS: number;
  /** below it a tooth sensor gives no pulses worth counting, rpm */
  readonly slowestRpm: number;
  readonly fluidLagS: number;
  /** step of the road speed, km/h */
  readonly kmhStep: number;
}

/** Everything in the middle of its range. */
export const usualStyle: ControlStyle = {
  inertiaS: 0.34,
  inertiaByLoad: 0,
  torquePhaseS: 0.09,
  torqueCut: 0.78,
  upShare: 1,
  downShare: 1,
  lineMargin: 1.3,
  lockupFromKmh: 32,
  lockupRampS: 0.7,
};
export const usualSensors: SensorMakeup = {
  crankNoiseRpm: 1.8,
  speedNoiseRpm: 1.4,
  smoothingS: 0,
  slowestRpm: 20,
  fluidLagS: 4,
  kmhStep: 0.1,
};

const KMH_STEPS = [0.1, 0.1, 0.5, 1] as const;

/** Ranges of another world are moved by up to so much of their width, and are so much wider. */
const WORLD_MOVE = 0.5;
const WORLD_WIDTH = 1.3;
/** and never reach below this share of their lower end */
const WORLD_FLOOR = 0.6;

/**
 * Draws a vehicle. Ranges are those of working vehicles: wind-up of half-shafts 9 to 16°, new to worn tyres, engines that
 * use three quarters to nearly all of what the unit bears, valves with play, sensors from good to middling.
 * @param packs - how many elements pressure applies
 * @param world - 0 the family that the knowledge was counted on; any other number another family, with every range moved
 */
export function drawBuild(packs: number, seed: number, world = 0): Build {
  const random = seededRandom(seed ^ 0x3c6ef372);
  const ofWorld = seededRandom(Math.imul(world, 0x9e3779b1) ^ 0x1f83d9ab);
  for (let i = 0; i < 4; i++) {
    random();
    ofWorld();
  }
  const range = (low: number, high: number): (() => number) => {
    const moved = world === 0 ? 0 : WORLD_MOVE * (2 * ofWorld() - 1);
    const width = world === 0 ? 1 : WORLD_WIDTH;
    const floor = low > 0 ? WORLD_FLOOR * low : Number.NEGATIVE_INFINITY;
    return () => Math.max(floor, low + (high - low) * (0.5 + moved + width * (random() - 0.5)));
  };
  const one = (low: number, high: number) => range(low, high)();
  const each = (low: number, high: number) => {
    const draw = range(low, high);
    return Array.from({ length: packs }, draw);
  };
  return {
    massShare: one(0.85, 1.25),
    dragShare: one(0.85, 1.2),
    engineInertiaShare: one(0.85, 1.2),
    rolling: one(0.009, 0.014),
    windUpDeg: one(9, 16),
    shaftDampingNmsPerRad: one(0.05, 0.35),
    rubberShare: one(0.15, 0.4),
    tyreGripPerWeight: one(9, 15),
    tyreShare: one(0.978, 1.002),
    idleRpm: Math.round(one(700, 810)),
    neutralIdleRpm: one(0, 60),
    idleWanderRpm: one(1, 8),
    engineShare: one(0.78, 0.92),
    converterShare: one(0.92, 1.09),
    ambientC: one(4, 24),
    frictionShare: one(0.95, 1.06),
    packFriction: each(0.97, 1.03),
    packFill: each(0.88, 1.14),
    packPlayKpa: each(1, 8),
    valveLagS: one(0.02, 0.036),
    coldThickening: one(0.09, 0.15),
    releasedDragNm: one(0.7, 1.6),
    packLearned: each(-0.04, 0.04),
    style: {
      inertiaS: one(0.28, 0.42),
      inertiaByLoad: one(-0.3, 0.1),
      torquePhaseS: one(0.08, 0.11),
      torqueCut: one(0.72, 0.86),
      upShare: one(0.93, 1.1),
      downShare: one(0.95, 1.05),
      lineMargin: one(1.25, 1.42),
      lockupFromKmh: one(28, 40),
      lockupRampS: one(0.5, 1),
    },
    sensors: {
      crankNoiseRpm: one(0.8, 3.2),
      speedNoiseRpm: one(0.7, 2.4),
      smoothingS: Math.max(0, one(0, 0.025)),
      slowestRpm: one(14, 32),
      fluidLagS: one(2, 9),
      kmhStep: KMH_STEPS[Math.floor(random() * KMH_STEPS.length)] as number,
    },
    readingsPerS: one(400, 560),
  };
}

/** One vehicle in so many comes with a code of another day: a flat battery, a plug that was pulled, work on something else. */
const STRAY_EVERY = 16;

/** Codes that stand stored in a vehicle and have nothing to do with what is wrong with it. They do not come back when cleared. */
export function strayCodes(unit: Unit, vehicleSeed: number): string[] {
  const random = seededRandom(vehicleSeed ^ 0x5be0cd19);
  for (let i = 0; i < 4; i++) random();
  if (random() >= 1 / STRAY_EVERY || unit.codes.length === 0) return [];
  return [(unit.codes[Math.floor(random() * unit.codes.length)] as Unit["codes"][number]).code];
}

/** The vehicle as drawn: nothing worn, nothing off, for tests against closed forms. */
export const asDrawn = (packs: number): Build => ({
  massShare: 1,
  dragShare: 1,
  engineInertiaShare: 1,
  rolling: 0.011,
  windUpDeg: 12,
  shaftDampingNmsPerRad: 0.5,
  rubberShare: 0.4,
  tyreGripPerWeight: 12,
  tyreShare: 1,
  idleRpm: 760,
  neutralIdleRpm: 0,
  idleWanderRpm: 0,
  engineShare: 0.86,
  converterShare: 1,
  ambientC: 14,
  frictionShare: 1,
  packFriction: Array.from({ length: packs }, () => 1),
  packFill: Array.from({ length: packs }, () => 1),
  packPlayKpa: Array.from({ length: packs }, () => 0),
  valveLagS: 0.028,
  coldThickening: 0.1,
  releasedDragNm: 1,
  packLearned: Array.from({ length: packs }, () => 0),
  style: usualStyle,
  sensors: usualSensors,
  readingsPerS: 420,
});

/** Ratio of the lowest forward gear, where the shafts wind up most. */
export const firstRatio = (unit: Unit): number => Math.max(...unit.gears.map((g) => g.ratio));
