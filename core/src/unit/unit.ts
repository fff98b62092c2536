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
  readonly plates?: number | undefined;
}

export interface Applied {
  readonly element: string;
  /** a one-way clutch holds it under drive only */
  readonly driveOnly?: boolean | undefined;
  /** for a fork: the gear it is moved towards */
  readonly towards?: string | undefined;
}

export interface Solenoid {
  readonly id: string;
  readonly name: string;
  readonly kind: "on-off" | "pressure-control";
  /** the element it feeds, `converter-clutch`, `line-pressure` or `supply` */
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
}

export interface TroubleCode {
  readonly code: string;
  readonly text: string;
  readonly components: readonly string[];
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
  readonly solenoids: readonly Solenoid[];
  readonly solenoidChart: Readonly<Record<string, Readonly<Record<string, "on" | "off" | "modulated">>>>;
  readonly limp: { readonly gear: string; readonly linePressureKpa?: number | undefined };
  readonly converter?:
    | {
        readonly stallTorqueRatio: number;
        readonly stallRpm: number;
        readonly clutchGears: readonly string[];
        readonly strategy: "locked" | "controlled-slip";
        readonly targetSlipRpm: number;
      }
    | undefined;
  readonly sensors: readonly Sensor[];
  readonly nets: readonly Net[];
  readonly codes: readonly TroubleCode[];
  readonly limits: UnitLimits;
  readonly fluid: {
    readonly spec: string;
    readonly totalL: number;
    readonly panDrainL: number;
    readonly level: {
      readonly method: "dipstick" | "overflow" | "sight-hole";
      readonly referenceC: number;
      readonly windowC: readonly [number, number];
      readonly toleranceL: number;
      readonly steps: string;
    };
    readonly intervalKm: number;
  };
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

/** Human name of an element, solenoid, sensor or net; the id itself when unknown. */
export function componentName(unit: Unit, id: string): string {
  for (const list of [unit.elements, unit.solenoids, unit.sensors, unit.nets] as const) {
    const hit = list.find((c) => c.id === id);
    if (hit) return hit.name;
  }
  return id;
}
