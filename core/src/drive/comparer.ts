import type { Quantity } from "../quantity/index.ts";
import type { Analysis } from "./analysis.ts";
import type { Finding } from "./finding.ts";

/** One time at which the fault could have shown, with the value that it would have shown in. */
export interface Occasion {
  /** gear, shift or side: only what has the same is compared */
  readonly at: string;
  readonly value: number;
  /** share of the unit's largest torque, or of the pedal */
  readonly load?: number | undefined;
  readonly fluidC?: number | undefined;
  readonly vehicleKmh?: number | undefined;
}

interface Base {
  /** what is compared, when it is not the first figure of the finding */
  readonly measure?: string;
  readonly quantity?: Quantity;
  /** at or under it there is no fault; that of the finding when not given */
  limit?(finding: Finding): number;
  /** readings a second that it needs; slower logs can't show it */
  readonly rateHz: number;
  /** rests on shaft speeds: one that was not recorded, and is reckoned from others, can't show it */
  readonly ofSpeeds?: true;
  /** why this log can't show it. @returns undefined when it can */
  lacks?(analysis: Analysis, finding: Finding): string | undefined;
}

/** Shows each time, or in some of the times, that its conditions are met. */
export interface ByOccasion extends Base {
  readonly by: "occasion";
  /** quantile that stands for a condition: what it reaches, or its middle */
  readonly share: number;
  /** a fault that comes with load shows under more of it as well */
  readonly harder?: true;
  /** occasions that follow each other so closely that this many count as one */
  readonly together?: number;
  occasions(analysis: Analysis, finding: Finding): readonly Occasion[];
}

/** Happens now and then while something is driven. */
export interface ByEvent extends Base {
  readonly by: "event";
  /** what has to be driven, in words */
  readonly driving: string;
  /** seconds of it that tell nothing yet, however often it came: a minute when not given */
  readonly leastS?: number;
  events(analysis: Analysis, finding: Finding): number;
  /** seconds in which it could have happened, as warm as where it did, by kind of driving: any of them may have brought it */
  exposureS(analysis: Analysis, finding: Finding): Readonly<Record<string, number>>;
}

/** One figure of a whole drive. */
export interface ByState extends Base {
  readonly by: "state";
  readonly label: string;
  /** seconds that it takes to tell */
  readonly leastS: number;
  /** share of what it was that it has to fall to before it is gone: it scatters from road to road */
  readonly fallsTo?: number;
  /** undefined where it was not driven */
  state(analysis: Analysis, finding: Finding): { readonly value: number; readonly seconds: number } | undefined;
}

/** How two drives compare in one kind of finding. */
export type Comparer = ByOccasion | ByEvent | ByState;

const TEMPERATURE_C = [50, 90] as const;
const bandOf = (c: number) => (c < TEMPERATURE_C[0] ? "cold" : c < TEMPERATURE_C[1] ? "warm" : "hot");

/**
 * Seconds driven in some gears by load, in fluid as warm as where the finding was seen; where that is not known, in any.
 * @param byGear - tell the gears apart as well
 * @returns by load: "light load", "coast" …; or "gear 3, light load"
 */
export function drivenAsWarm(
  analysis: Analysis,
  finding: Finding,
  { gears, byGear }: { readonly gears?: (gear: string) => boolean; readonly byGear?: true } = {},
): Record<string, number> {
  const { fluidC } = finding.conditions;
  const bands = fluidC && new Set([bandOf(fluidC[0]), bandOf(fluidC[1])]);
  const out: Record<string, number> = {};
  for (const g of analysis.held.groups) {
    if ((gears && !gears(g.gear)) || (bands && !bands.has(g.temperature as "cold"))) continue;
    const load = g.load === "coast" || g.load === "unknown" ? g.load : `${g.load} load`;
    const kind = byGear ? `gear ${g.gear}, ${load}` : load;
    out[kind] = (out[kind] ?? 0) + g.seconds;
  }
  return out;
}

/** Was a channel recorded? */
export const recorded = ({ quality }: Analysis, channel: string): boolean => quality.some((q) => q.channel === channel);

/** Faults of speed sensors: what is reckoned from such speeds can't prove anything. */
export const speedsSpoilt = (analysis: Analysis): string | undefined =>
  analysis.findings.find(
    (f) =>
      f.severity === "fault" &&
      (f.kind === "sensor-ripple" || (f.kind === "drop-out" && /freez|drops out/.test(f.title))),
  )?.title;
