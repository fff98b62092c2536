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

/**
 * Judges a drive for what it exercised: gear by load, each shift up and down, lock-up by gear, both directions out of
 * neutral, reverse, cold and hot.
 */
export function analyseCoverage(unit: Unit, { held, shifts, converter, engagements }: Driven): Coverage {
  const forward = unit.gears.filter((g) => g.ratio > 0).map((g) => g.name);
  const secondsOf = (gear: string, load: string) =>
    held.groups.filter((g) => g.gear === gear && g.load === load).reduce((s, g) => s + g.seconds, 0);
  const gears = forward.map((gear) => ({
    gear,
    seconds: LOADS.map((l) => secondsOf(gear, l)) as unknown as [number, number, number, number],
    lockupSeconds: unit.converter?.clutchGears.includes(gear) ? (converter?.byGear[gear] ?? 0) : undefined,
  }));
  const counted = (name: string) => shifts.filter((s) => s.name === name && s.completed).length;
  const steps = forward.slice(1).flatMap((to, i) => {
    const from = forward[i] as string;
    return [`${from}-${to}`, `${to}-${from}`];
  });
  const wantedShifts = steps.map((name) => ({ name, count: counted(name) }));
  const others = [...new Set(shifts.map((s) => s.name))]
    .filter((name) => !steps.includes(name))
    .map((name) => ({ name, count: counted(name) }));
  const reverse = held.gears.filter((g) => g.gear.startsWith("R")).reduce((s, g) => s + g.seconds, 0);
  const kickDowns = shifts.filter((s) => Number(s.to) < Number(s.from) && (s.load ?? 0) > KICK_DOWN_LOAD).length;
  const temperature = (t: string) => held.groups.filter((g) => g.temperature === t).reduce((s, g) => s + g.seconds, 0);
  const known = held.groups.some((g) => g.temperature !== "unknown");
  const next: { text: string; weight: number }[] = [];
  let wanted = 0;
  let met = 0;
  const want = (done: boolean, text: string, weight: number) => {
    wanted += weight;
    if (done) met += weight;
    else next.push({ text, weight });
  };
  for (const g of gears) {
    const total = g.seconds.reduce((a, b) => a + b, 0);
    if (total < ENOUGH_S) want(false, `gear ${g.gear}: hold it for ${ENOUGH_S} s or more`, 3);
    else {
      want(true, "", 1);
      want(g.seconds[3] + g.seconds[2] >= ENOUGH_S, `gear ${g.gear} under load: medium to hard pedal, uphill`, 2);
      want(g.seconds[0] >= 1, `gear ${g.gear} on the over-run: foot off for a few seconds`, 0.5);
    }
    if (g.lockupSeconds !== undefined)
      want(g.lockupSeconds >= ENOUGH_S, `converter clutch in gear ${g.gear}: steady speed, light pedal`, 1);
  }
  for (const s of wantedShifts) {
    const up = Number(s.name.split("-")[1]) > Number(s.name.split("-")[0]);
    want(s.count > 0, `shift ${s.name}${up ? "" : ", rolling out or by pedal"}`, up ? 2 : 1);
  }
  // elements of the first gear and of reverse have no shift to be timed by; a dual clutch pulls nothing down at rest
  for (const range of unit.kind === "planetary" ? (["D", "R"] as const) : [])
    want(
      engagements.some((e) => e.range === range),
      `foot on the brake, out of neutral into ${range}, and wait until it takes hold`,
      1,
    );
  want(reverse > 1, "reverse, a few metres, on free ground", 1);
  want(kickDowns > 0, "a kick-down where the road allows it", 1);
  if (known) {
    want(temperature("cold") >= ENOUGH_TEMPERATURE_S, "the first kilometres from cold", 1);
    want(temperature("hot") >= ENOUGH_TEMPERATURE_S, "hot: fluid over 90 °C", 1.5);
  }
  next.sort((a, b) => b.weight - a.weight);
  return {
    gears,
    shifts: [...wantedShifts, ...others],
    reverseSeconds: reverse,
    kickDowns,
    coldSeconds: temperature("cold"),
    hotSeconds: temperature("hot"),
    share: wanted > 0 ? met / wanted : 0,
    next: next.map((n) => n.text),
  };
}
