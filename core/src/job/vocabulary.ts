/** What is said of a vehicle, a drive, a pan, a bench: the parts that entries are made of. */

export interface Symptom {
  readonly kind: "slip" | "harsh" | "shudder" | "limp" | "no-drive" | "late" | "noise" | "leak" | "warning-light";
  /** gears or shifts: "4", "2-3" */
  readonly where: readonly string[];
  readonly speedKmh?: readonly [number, number] | undefined;
  readonly load: "any" | "light" | "steady" | "hard" | "coast";
  readonly temperature: "any" | "cold" | "hot";
  readonly since: string;
  /** how long after the start it shows; absent: any time */
  readonly afterStart?: "first-minutes" | "later" | undefined;
  readonly howOften?: "always" | "often" | "sometimes" | "once" | undefined;
  readonly helps?: string | undefined;
}

export type HistoryKind = "service" | "fluid" | "part" | "codes-cleared" | "battery" | "fuse";
export type EventKind = "tow" | "impact" | "flood" | "engine-work" | "more-power";
export type DutyKind = "tow" | "taxi" | "hills";
export type Wish = "keep-long" | "cheap-and-safe" | "quick" | "sell-soon" | "only-know";

/** Which drive a log is of: with the complaint, of the proof, or of the first kilometres of a fresh build. */
export const LOG_ROLES = ["before", "after", "break-in"] as const;
export type LogRole = (typeof LOG_ROLES)[number];

/** How a thing was looked at and how far it can be believed. */
export type Sureness = "sure" | "fairly" | "doubtful";

/** What lies in the pan, on the magnet, in the filter. */
export type DebrisKind =
  | "grey-paste"
  | "slivers"
  | "brass"
  | "aluminium"
  | "lining"
  | "clip"
  | "sealant"
  | "water-beads";

export interface Debris {
  readonly kind: DebrisKind;
  /** 0 looked for and not there, 1 a trace, 2 some, 3 much */
  readonly amount: 0 | 1 | 2 | 3;
  /** the largest piece */
  readonly sizeMm: number | null;
}

/** A part of a picture, in shares of its width and height. */
export interface PhotoPatch {
  readonly x: number;
  readonly y: number;
  readonly w: number;
  readonly h: number;
}

const FELT_GEAR = ["pulls", "slips", "nothing"] as const;
const FELT_SHIFT = ["clean", "flares", "harsh", "late", "missing"] as const;
const FELT_PARK = ["holds", "rolls"] as const;
const FELT_NEUTRAL = ["free", "creeps"] as const;
const FELT_SITUATION = ["quiet", "noise", "shake"] as const;
/** Where noise and shake tell different parts apart. */
export const SITUATIONS = [
  "standing",
  "in-gear",
  "pulling-away",
  "pulling-hard",
  "cruising",
  "coasting",
  "load-change",
] as const;
export type Situation = (typeof SITUATIONS)[number];
export const FELT_OUTCOMES = [...FELT_GEAR, ...FELT_SHIFT, ...FELT_PARK, ...FELT_NEUTRAL, ...FELT_SITUATION] as const;
export type FeltOutcome = (typeof FELT_OUTCOMES)[number];

/** One thing that was tried on the road. */
export interface FeltMark {
  /** gear "4" or "R", shift "2-3", range "P" or "N", or a situation */
  readonly where: string;
  readonly outcome: FeltOutcome;
  readonly load: Symptom["load"];
  readonly temperature: Symptom["temperature"];
}

/** What can be said of a place: which outcomes, the good one first. @returns undefined for a place that is none */
export function outcomesAt(where: string): readonly FeltOutcome[] | undefined {
  if (where === "P") return FELT_PARK;
  if (where === "N") return FELT_NEUTRAL;
  if (/^(R|\d{1,2})$/.test(where)) return FELT_GEAR;
  if (/^(R|\d{1,2})-(R|\d{1,2})$/.test(where)) return FELT_SHIFT;
  return SITUATIONS.includes(where as Situation) ? FELT_SITUATION : undefined;
}

export interface EstimateLine {
  readonly kind: "labour" | "part" | "fluid" | "filter" | "other";
  readonly what: string;
  /** h, l or pieces */
  readonly quantity: number;
  /** money, without tax */
  readonly each: number;
}

/** Readings of one measure of a check, as they were judged. */
export interface MeasuredValue {
  readonly name: string;
  readonly unit: string;
  readonly readings: readonly number[];
  readonly instrument: string;
  readonly temperatureC?: number | undefined;
  readonly torqueNm?: number | undefined;
  /** mean, at 20 °C where it is of copper, with its standard uncertainty */
  readonly value: number;
  readonly uncertainty: number;
  readonly from?: number | undefined;
  readonly to?: number | undefined;
  /** chance to lie within */
  readonly inside: number;
}

/** Repeated readings of one thing, with how sure their instrument was then and what they were held against. */
export interface BenchValue {
  readonly id: string;
  readonly name: string;
  readonly unit: string;
  readonly readings: readonly number[];
  readonly instrument: string;
  /** of the instrument: standard uncertainty as a share of the reading, %, and fixed, in the unit */
  readonly percent: number;
  readonly fixed: number;
  /** of the copper that was measured */
  readonly temperatureC?: number | undefined;
  readonly from?: number | undefined;
  readonly to?: number | undefined;
  /** taken as it stands though it looks like a reading in another unit */
  readonly asRead?: boolean | undefined;
}

/** A part that was chosen on the bench. */
export interface BenchChosen {
  readonly id: string;
  readonly name: string;
  readonly sizeMm: number | null;
  readonly quantity: number;
  readonly costEach: number;
  readonly why: string;
}
