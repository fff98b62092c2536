import type { RelearnProcedure } from "./relearn.ts";
import type { GearTrain } from "./train.ts";

/**
 * What the program knows about one kind of transmission. The file format (`*.unit.json`) is checked by the schema in
 * `contract/`; nothing about a particular unit stands in code.
 * Ratios are input speed over output speed of the gearbox, final drive excluded; reverse is negative.
 */
export type UnitKind = "planetary" | "dct-wet" | "dct-dry";
export type ElementKind = "clutch" | "brake" | "band" | "one-way-clutch" | "dual-clutch" | "fork";

export interface Gear {
  /** as the controller names it: "1", "2", … "R" */
  readonly name: string;
  readonly ratio: number;
}

export interface Element {
  readonly id: string;
  readonly name: string;
  readonly kind: ElementKind;
  /** friction plates */
  readonly plates?: number | undefined;
  /** the two nodes of the gear train that it makes one; a brake names `case` */
  readonly joins?: readonly [string, string] | undefined;
  /** of a fork: by gear, the two nodes it makes one */
  readonly positions?: Readonly<Record<string, readonly [string, string]>> | undefined;
  readonly bench?: BenchLimits | undefined;
  readonly apply?: ApplyPiston | undefined;
}

/** Limits of a pack at the bench, and what it is built of. Least thicknesses are wear limits; the others are of new parts. */
export interface BenchLimits {
  readonly clearanceMm: readonly [number, number];
  readonly frictionPlateMinMm: number;
  readonly steelPlateMinMm: number;
  readonly frictionPlateNewMm?: number | undefined;
  readonly steelPlateNewMm?: number | undefined;
  /** how many steels; absent: as many as friction plates */
  readonly steels?: number | undefined;
  /** inside the drum, from where the plates lie to the far side of the groove of the selective part, mm */
  readonly depthMm?: number | undefined;
  /** plates that are neither: apply plate, backing plate */
  readonly fixedPlates?: readonly { readonly name: string; readonly thicknessMm: number }[] | undefined;
  readonly selective?: SelectivePart | undefined;
  /** what the clearance is set to; absent: the middle of its window */
  readonly targetMm?: number | undefined;
  /** of the friction ring */
  readonly innerRadiusMm?: number | undefined;
  readonly outerRadiusMm?: number | undefined;
  /** friction coefficient it is laid out for */
  readonly friction?: number | undefined;
  /** between the points of one plate */
  readonly taperMostMm?: number | undefined;
  /** free length of the return springs */
  readonly springFreeMm?: readonly [number, number] | undefined;
}

/** A part that comes in steps of thickness, to set a clearance or an end play with. */
export interface SelectivePart {
  readonly kind: "ring" | "plate" | "shim" | "washer";
  readonly sizesMm: readonly number[];
  /** a size is true to ± this much, mm */
  readonly toleranceMm: number;
  readonly costEach: number;
}

/** Windows of the bench that belong to no single pack. */
export interface UnitBench {
  readonly endPlays?:
    | readonly {
        readonly id: string;
        readonly name: string;
        readonly windowMm: readonly [number, number];
        /** which way it is pushed before the dial is set to nought, and pulled after */
        readonly load: string;
        readonly washer: SelectivePart;
      }[]
    | undefined;
  /** line pressure by range: at idle and at stall, warm, kPa */
  readonly linePressure?:
    | readonly {
        readonly range: string;
        readonly idleKpa: readonly [number, number];
        readonly stallKpa?: readonly [number, number] | undefined;
      }[]
    | undefined;
  /** free length of a spring of the valve body may differ from that of its tray by this share, % */
  readonly springTolerancePct?: number | undefined;
  /** how deep a check ball may have worn into the separator plate, mm */
  readonly plateWearMostMm?: number | undefined;
  readonly orifices?:
    | readonly { readonly id: string; readonly name: string; readonly diameterMm: number }[]
    | undefined;
  /** of the dual clutches: height of piston and diaphragm over the hub, and free play at the release bearing, mm */
  readonly dualClutches?:
    | readonly {
        readonly clutch: string;
        readonly diaphragmMm: readonly [number, number];
        readonly packHeightMm: readonly [number, number];
        readonly freePlayMm: readonly [number, number];
        /** touch point moves by so much as the pack wears by one millimetre, kPa/mm */
        readonly touchKpaPerMm: number;
      }[]
    | undefined;
  readonly forkTravelMm?: Readonly<Record<string, readonly [number, number]>> | undefined;
  /** gently driven after linings were renewed, km */
  readonly breakInKm?: number | undefined;
}

/** Where the converter meets engine and unit, in mm; each with the span its maker allows. */
export interface ConverterFit {
  /** engine side: from the face of the bell to the flexplate's pads, towards the unit */
  readonly flexplateMm: readonly [number, number];
  readonly pilotDiameterMm: readonly [number, number];
  readonly pilotBoreMm: readonly [number, number];
  /** how long the pilot is, and how far it may go into the crankshaft before its step lands */
  readonly pilotLengthMm: readonly [number, number];
  readonly pilotRoomMm: readonly [number, number];
  /** how deep the hub or its lugs sit in the pump when it is home, and how much has to be left when it is pulled up */
  readonly pumpEngagedMm: readonly [number, number];
  readonly pumpEngagedLeastMm: number;
  readonly boltCircleMm: number;
  /** how deep the threads of the pads are */
  readonly padThreadMm: number;
}

export interface ApplyPiston {
  readonly areaCm2: number;
  readonly returnSpringN: number;
  readonly meanRadiusMm: number;
}

export interface Applied {
  readonly element: string;
  /** a one-way clutch holds it under drive only */
  readonly driveOnly?: boolean | undefined;
  /** for a fork: the gear it is moved towards */
  readonly towards?: string | undefined;
}

/** What a solenoid feeds that only together with others, through the shift valves, says which gear is made. */
export const SHIFT_VALVES = "shift-valves";

export interface Solenoid {
  readonly id: string;
  readonly name: string;
  readonly kind: "on-off" | "pressure-control";
  /** the element it feeds, `converter-clutch`, `line-pressure`, `supply`, or {@link SHIFT_VALVES} */
  readonly feeds: string;
  readonly resistanceOhmAt20C: readonly [number, number];
  readonly unpoweredState: "applied" | "released";
}

export interface Sensor {
  readonly id: string;
  readonly name: string;
  /** canonical channel that carries its reading */
  readonly channel: string;
  readonly teeth?: number | undefined;
  /** node of the gear train that it counts; input and output of sensors that carry those speeds need none */
  readonly shaft?: string | undefined;
  /** by gear, speed of its shaft over that of the input; with the teeth and `shaft` given it is taken from them */
  readonly perInput?: Readonly<Record<string, number>> | undefined;
  /** gears in which the reading is valid; "all" when always */
  readonly validGears: "all" | readonly string[];
}

export interface Net {
  readonly id: string;
  readonly name: string;
  readonly kind: "supply" | "ground" | "signal";
  /** sensors and solenoids that depend on it */
  readonly connects: readonly string[];
  readonly pins: string;
  /** colours of the wires, as the diagram names them */
  readonly wires?: string | undefined;
  /** of a supply, against ground */
  readonly volts?: number | undefined;
}

export interface TroubleCode {
  readonly code: string;
  readonly text: string;
  readonly components: readonly string[];
  /** speaks of the signal that reports the components, not of what they do */
  readonly ofSignal?: boolean | undefined;
  /** when the controller sets it */
  readonly condition?: string | undefined;
}

export interface ShiftLimit {
  readonly inertiaS: readonly [number, number];
  readonly flareRpm: number;
  readonly delayS: number;
}

export interface UnitLimits {
  readonly slipRpm?: number | undefined;
  readonly ratioTolerancePct?: number | undefined;
  readonly residualSlipRpm?: number | undefined;
  readonly shudderPeakToPeakRpm?: number | undefined;
  readonly shiftDefault?: ShiftLimit | undefined;
  readonly shifts?: Readonly<Record<string, ShiftLimit>> | undefined;
  /** from P or N into D or R until the turbine is pulled down, s */
  readonly engagementDelayS?: number | undefined;
}

/** Fluid from here on is warm: usual times are told for cold and for warm fluid, °C. */
export const WARM_C = 50;

export interface UsualTimes {
  readonly coldS?: number | undefined;
  readonly warmS?: number | undefined;
}

/** What sound units of this kind need: a unit that is well within its limits may still be far from its usual. */
export interface Usual {
  /** power upshifts by name: from the command until the input leaves its line, and until it has reached the new one */
  readonly shifts?: Readonly<Record<string, { readonly delay: UsualTimes; readonly inertia: UsualTimes }>> | undefined;
  /** from P or N until the turbine is pulled down to half its speed */
  readonly engagements?: { readonly D?: UsualTimes | undefined; readonly R?: UsualTimes | undefined } | undefined;
}

export interface Converter {
  readonly stallTorqueRatio: number;
  readonly stallRpm: number;
  /** engine torque at which the stall speed was rated */
  readonly stallTorqueNm?: number | undefined;
  /** turbine over engine at which the torque ratio has fallen to 1 */
  readonly couplingSpeedRatio?: number | undefined;
  readonly clutchGears: readonly string[];
  readonly strategy: "locked" | "controlled-slip";
  readonly targetSlipRpm: number;
  readonly clutchLining?: "paper" | "woven-carbon" | "sintered" | undefined;
  readonly pumpDrive?: "hub" | "chain" | undefined;
  readonly capacityL?: number | undefined;
  /** what comes out when it is drained */
  readonly drainedL?: number | undefined;
  /** from the face of the bell to its pads when it is home, mm */
  readonly homeDepthMm?: readonly [number, number] | undefined;
  /** how far it comes forward to the flexplate once the unit is on, mm */
  readonly pullUpMm?: readonly [number, number] | undefined;
  readonly fit?: ConverterFit | undefined;
}

export const PAN_SEALS = ["gasket", "moulded", "sealant", "sealant-and-gasket"] as const;

export interface Fastener {
  readonly id: string;
  readonly name: string;
  readonly thread: string;
  readonly lengthMm: number;
  readonly count: number;
  readonly torqueNm: number;
  readonly angleDeg?: number | undefined;
  /** seen from below or behind, mm */
  readonly positionsMm?: readonly (readonly [number, number])[] | undefined;
  /** indices into `positionsMm`, when the maker prescribes an order */
  readonly order?: readonly number[] | undefined;
  readonly oneTime?: boolean | undefined;
}

export const TRAY_KINDS = ["bolt", "valve", "spring", "ball", "strainer", "pin"] as const;

/** A place in a tray for one small part. */
export interface TrayCell {
  readonly id: string;
  readonly name: string;
  readonly kind: (typeof TRAY_KINDS)[number];
  /** where it sits in the part it came out of, seen as it lies on the bench, mm */
  readonly atMm: readonly [number, number];
  readonly lengthMm?: number | undefined;
  /** which way it goes in, what it is taken for */
  readonly note?: string | undefined;
}

export interface Adaptation {
  readonly id: string;
  readonly name: string;
  readonly component: string;
  readonly unit: string;
  readonly newValue: number;
  readonly limits: readonly [number, number];
}

export interface Unit {
  readonly format: "gearsense-unit";
  readonly formatVersion: 1;
  readonly id: string;
  readonly version: number;
  readonly name: string;
  readonly kind: UnitKind;
  readonly layout: "longitudinal" | "transverse";
  readonly description: string;
  readonly maxInputTorqueNm: number;
  readonly gears: readonly Gear[];
  readonly finalDrive: number;
  readonly tyreRadiusM: number;
  readonly elements: readonly Element[];
  readonly application: Readonly<Record<string, readonly Applied[]>>;
  /** elements that stay applied in P and N */
  readonly neutral?: readonly string[] | undefined;
  readonly solenoids: readonly Solenoid[];
  readonly solenoidChart: Readonly<Record<string, Readonly<Record<string, "on" | "off" | "modulated">>>>;
  readonly limp: { readonly gear: string; readonly linePressureKpa?: number | undefined };
  readonly converter?: Converter | undefined;
  readonly gearTrain?: GearTrain | undefined;
  readonly sensors: readonly Sensor[];
  readonly nets: readonly Net[];
  /** where a gauge can be screwed in: "line", "converter", ids of elements; "none"; absent: not known */
  readonly testPorts?: readonly string[] | undefined;
  readonly codes: readonly TroubleCode[];
  readonly limits: UnitLimits;
  readonly usual?: Usual | undefined;
  readonly fluid: {
    readonly spec: string;
    readonly totalL: number;
    readonly panDrainL: number;
    /** what goes between pan and case; a gasket takes sealant only where it says so */
    readonly panSeal?: (typeof PAN_SEALS)[number] | undefined;
    readonly converterL?: number | undefined;
    readonly coolerL?: number | undefined;
    /** how it is filled after a repair */
    readonly fillSteps?: readonly string[] | undefined;
    readonly level: {
      readonly method: "dipstick" | "overflow" | "sight-hole";
      readonly referenceC: number;
      readonly windowC: readonly [number, number];
      readonly toleranceL: number;
      /** of a stick: litres from its lower to its upper hot mark, and the temperature that its cold mark is for */
      readonly stick?: { readonly addToFullL: number; readonly coldMarkC: number } | undefined;
      readonly steps: string;
    };
    readonly intervalKm: number;
    /** driven hot for so long before a change of fluid, or an additive, is judged, min */
    readonly hotDrivingMin?: number | undefined;
    /** colour of fresh fluid as CIELAB (D65) beside white paper, a finger deep in a clear glass */
    readonly freshLab?: readonly [number, number, number] | undefined;
  };
  readonly fasteners?: readonly Fastener[] | undefined;
  /** small parts of what can be taken apart, by the name of the tray that they are laid in */
  readonly trays?:
    | readonly { readonly id: string; readonly name: string; readonly cells: readonly TrayCell[] }[]
    | undefined;
  readonly bench?: UnitBench | undefined;
  readonly adaptations?: readonly Adaptation[] | undefined;
  readonly relearn?: readonly RelearnProcedure[] | undefined;
}

/** A gear by its name. @returns undefined when the unit has no such gear */
export function gearByName(unit: Unit, name: string): Gear | undefined {
  return unit.gears.find((g) => g.name === name);
}

/** Gear as a number for signals: forward gears 1…n, reverse −1, neutral and park 0. */
export function gearCode(name: string): number {
  if (name === "R") return -1;
  const n = Number(name);
  return Number.isInteger(n) && n > 0 ? n : 0;
}

/** Inverse of {@link gearCode} for gears that exist; "N" for 0. */
export function gearName(code: number): string {
  return code === 0 ? "N" : code === -1 ? "R" : String(code);
}

/** Ratio by gear code, NaN where the unit has no such gear. Index with `code + 1`. */
export function ratioTable(unit: Unit): Float64Array {
  const top = Math.max(...unit.gears.map((g) => gearCode(g.name)));
  const table = new Float64Array(top + 2).fill(Number.NaN);
  for (const g of unit.gears) table[gearCode(g.name) + 1] = g.ratio;
  return table;
}

/** Elements applied in a gear; empty when the chart has no such gear. */
export function elementsIn(unit: Unit, gear: string): readonly string[] {
  return (unit.application[gear] ?? []).map((a) => a.element);
}

/** Dual clutches that move the vehicle off, in first or backwards; empty for other units. */
export function launchingClutches(unit: Unit): string[] {
  const launch = unit.gears.filter((g) => g.name === "1" || g.ratio < 0).flatMap((g) => elementsIn(unit, g.name));
  return unit.elements.filter((e) => e.kind === "dual-clutch" && launch.includes(e.id)).map((e) => e.id);
}

/** Gears of the chart in which an element is applied. */
export function gearsUsing(unit: Unit, element: string): string[] {
  return unit.gears.map((g) => g.name).filter((g) => elementsIn(unit, g).includes(element));
}

/** True when the sensor's reading means something in this gear. */
export function sensorValidIn(sensor: Sensor, gear: string): boolean {
  return sensor.validGears === "all" || sensor.validGears.includes(gear);
}

/** Sensors and solenoids that share a net with a component, itself excluded, with the nets they share. */
export function siblingsOnNets(unit: Unit, component: string): { id: string; nets: string[] }[] {
  const found = new Map<string, string[]>();
  for (const net of unit.nets) {
    if (!net.connects.includes(component)) continue;
    for (const other of net.connects) {
      if (other !== component) found.set(other, [...(found.get(other) ?? []), net.id]);
    }
  }
  return [...found].map(([id, nets]) => ({ id, nets }));
}

/** As it reads within a sentence: "output speed sensor"; what begins with a sign, such as K1, keeps it. */
export const inSentence = (text: string): string =>
  /^[A-Z][a-z]/.test(text) ? text.charAt(0).toLowerCase() + text.slice(1) : text;

/** Human name of an element, solenoid, sensor or net; the id itself when unknown. */
export function componentName(unit: Unit, id: string): string {
  for (const list of [unit.elements, unit.solenoids, unit.sensors, unit.nets] as const) {
    const hit = list.find((c) => c.id === id);
    if (hit) return hit.name;
  }
  return id;
}
