import type { Unit } from "../unit/index.ts";
import type { ConverterAnalysis } from "./converter/converter.ts";
import type { GearSummary, HeldGroup } from "./gear/held.ts";
import type { Shift } from "./shift/shifts.ts";
import type { Engagement } from "./standstill/standstill.ts";

/** What a drive exercised, and what is missing before the unit can be called good. */
export interface Coverage {
  readonly gears: readonly {
    readonly gear: string;
    /** seconds by load: coast, light, medium, hard */
    readonly seconds: readonly [number, number, number, number];
    readonly lockupSeconds?: number | undefined;
  }[];
  readonly shifts: readonly { readonly name: string; readonly count: number }[];
  readonly reverseSeconds: number;
  readonly kickDowns: number;
  readonly coldSeconds: number;
  readonly hotSeconds: number;
  /** share of what is wanted that was driven, 0…1 */
  readonly share: number;
  /** what to drive next, most telling first */
  readonly next: readonly string[];
}

/** What of the measures of a drive tells what was driven. */
export interface Driven {
  readonly held: {
    readonly groups: readonly Pick<HeldGroup, "gear" | "load" | "temperature" | "seconds">[];
    readonly gears: readonly Pick<GearSummary, "gear" | "seconds">[];
  };
  readonly shifts: readonly Pick<Shift, "name" | "from" | "to" | "completed" | "load">[];
  readonly converter?: Pick<ConverterAnalysis, "byGear"> | undefined;
  readonly engagements: readonly Pick<Engagement, "range">[];
}

const LOADS = ["coast", "light", "medium", "hard"] as const;
/** Enough of a gear at a load to judge it, s. */
export const ENOUGH_S = 3;
const ENOUGH_TEMPERATURE_S = 30;
const KICK_DOWN_LOAD = 0.7;

/** Where on the road something is driven, in the order of a drive. */
export const STRETCHES = ["standing", "yard", "cold", "town", "level", "uphill", "downhill", "hot"] as const;
export type Stretch = (typeof STRETCHES)[number];

/** One thing that a whole drive exercises. */
export interface WantedDriving {
  readonly text: string;
  readonly stretch: Stretch;
  /** the same for all gears or shifts of it */
  readonly what: string;
  /** gear, shift or range; undefined: one for the whole drive */
  readonly where?: string | undefined;
  /** the more it tells, the heavier; 0: told only once something lighter was driven */
  readonly weight: number;
  readonly done: boolean;
}

/**
 * Judges a drive for what it exercised: gear by load, each shift up and down, lock-up by gear, both directions out of
 * neutral, reverse, cold and hot.
 */
export function analyseCoverage(unit: Unit, driven: Driven): Coverage {
  const { held, shifts, converter } = driven;
  const forward = unit.gears.filter((g) => g.ratio > 0).map((g) => g.name);
  const secondsOf = (gear: string, load: string) =>
    held.groups.filter((g) => g.gear === gear && g.load === load).reduce((s, g) => s + g.seconds, 0);
  const gears = forward.map((gear) => ({
    gear,
    seconds: LOADS.map((l) => secondsOf(gear, l)) as unknown as [number, number, number, number],
    lockupSeconds: unit.converter?.clutchGears.includes(gear) ? (converter?.byGear[gear] ?? 0) : undefined,
  }));
  const counted = (name: string) => shifts.filter((s) => s.name === name && s.completed).length;
  const steps = stepsOf(forward);
  const wantedShifts = steps.map((name) => ({ name, count: counted(name) }));
  const others = [...new Set(shifts.map((s) => s.name))]
    .filter((name) => !steps.includes(name))
    .map((name) => ({ name, count: counted(name) }));
  const reverse = held.gears.filter((g) => g.gear.startsWith("R")).reduce((s, g) => s + g.seconds, 0);
  const kickDowns = shifts.filter((s) => Number(s.to) < Number(s.from) && (s.load ?? 0) > KICK_DOWN_LOAD).length;
  const judged = { gears, shifts: wantedShifts, reverseSeconds: reverse, kickDowns };
  const wanted = wantedDriving(unit, judged, driven);
  const weigh = (list: readonly WantedDriving[]) => list.reduce((sum, w) => sum + w.weight, 0);
  const missing = wanted.filter((w) => !w.done).sort((a, b) => b.weight - a.weight);
  return {
    gears,
    shifts: [...wantedShifts, ...others],
    reverseSeconds: reverse,
    kickDowns,
    coldSeconds: secondsAt(held, "cold"),
    hotSeconds: secondsAt(held, "hot"),
    share: 1 - weigh(missing) / weigh(wanted),
    next: missing.filter((w) => w.weight > 0).map((w) => w.text),
  };
}

const secondsAt = ({ groups }: Driven["held"], temperature: string): number =>
  groups.filter((g) => g.temperature === temperature).reduce((s, g) => s + g.seconds, 0);

/** Every shift of one step, up and down. */
const stepsOf = (forward: readonly string[]): string[] =>
  forward.slice(1).flatMap((to, i) => {
    const from = forward[i] as string;
    return [`${from}-${to}`, `${to}-${from}`];
  });

/**
 * All that a whole drive exercises, and whether it was driven.
 * @param fluidTold - whether cold and hot can be told apart
 */
export function wantedDriving(
  unit: Unit,
  { gears, shifts, reverseSeconds, kickDowns }: Pick<Coverage, "gears" | "shifts" | "reverseSeconds" | "kickDowns">,
  { held, engagements }: Driven,
  fluidTold = held.groups.some((g) => g.temperature !== "unknown"),
): WantedDriving[] {
  const list: WantedDriving[] = [];
  const want = (stretch: Stretch, done: boolean, weight: number, what: string, where?: string, text = what) =>
    list.push({ stretch, done, text, weight, what, ...(where === undefined ? {} : { where }) });
  for (const { gear, seconds, lockupSeconds } of gears) {
    const [coast, , medium, hard] = seconds;
    const held = seconds.reduce((a, b) => a + b, 0) >= ENOUGH_S;
    want("level", held, held ? 1 : 3, "hold the gear", gear, `gear ${gear}: hold it for ${ENOUGH_S} s or more`);
    want(
      "uphill",
      medium + hard >= ENOUGH_S,
      held ? 2 : 0,
      "medium to hard pedal",
      gear,
      `gear ${gear} under load: medium to hard pedal, uphill`,
    );
    want(
      "downhill",
      coast >= 1,
      held ? 0.5 : 0,
      "foot off for a few seconds",
      gear,
      `gear ${gear} on the over-run: foot off for a few seconds`,
    );
    if (lockupSeconds !== undefined)
      want(
        "level",
        lockupSeconds >= ENOUGH_S,
        1,
        "converter clutch closed: steady speed, light pedal",
        gear,
        `converter clutch in gear ${gear}: steady speed, light pedal`,
      );
  }
  for (const { name, count } of shifts) {
    const up = Number(name.split("-")[1]) > Number(name.split("-")[0]);
    if (up) want("town", count > 0, 2, "shift up, light pedal", name, `shift ${name}`);
    else want("downhill", count > 0, 1, "shift down", name, `shift ${name}, rolling out or by pedal`);
  }
  // elements of the first gear and of reverse have no shift to be timed by; a dual clutch pulls nothing down at rest
  for (const range of unit.kind === "planetary" ? (["D", "R"] as const) : [])
    want(
      "standing",
      engagements.some((e) => e.range === range),
      1,
      "foot on the brake, out of neutral, wait until it takes hold",
      range,
      `foot on the brake, out of neutral into ${range}, and wait until it takes hold`,
    );
  want("yard", reverseSeconds > 1, 1, "reverse, a few metres, on free ground");
  want("uphill", kickDowns > 0, 1, "a kick-down where the road allows it");
  if (fluidTold) {
    want("cold", secondsAt(held, "cold") >= ENOUGH_TEMPERATURE_S, 1, "the first kilometres from cold");
    want("hot", secondsAt(held, "hot") >= ENOUGH_TEMPERATURE_S, 1.5, "hot: fluid over 90 °C");
  }
  return list;
}
