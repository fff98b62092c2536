import type { Analysis } from "./analysis.ts";
import { loadBand } from "./signal/conditions.ts";

/** What a customer complains of, as intake has made it precise. */
export interface AskedFor {
  /** gears "4" and shifts "2-3"; empty: anywhere */
  readonly where: readonly string[];
  readonly load: "any" | "light" | "steady" | "hard" | "coast";
  readonly temperature: "any" | "cold" | "hot";
  readonly speedKmh?: readonly [number, number] | undefined;
}

const LOADS: Readonly<Record<AskedFor["load"], readonly string[]>> = {
  any: ["coast", "light", "medium", "hard", "unknown"],
  light: ["light"],
  steady: ["light", "medium"],
  hard: ["hard"],
  coast: ["coast"],
};
const TEMPERATURES: Readonly<Record<AskedFor["temperature"], readonly string[]>> = {
  any: ["cold", "warm", "hot", "unknown"],
  cold: ["cold"],
  hot: ["hot"],
};
const LEAST_S = 3;
const LEAST_SHIFTS = 3;
const HOT_C = 90;
const COLD_C = 50;

/**
 * Conditions of a complaint that some drives did not meet: a fault that was not looked for where it was felt is not proved
 * gone.
 * @returns in words, "gear 4, hard load, hot"; empty when all was driven
 */
export function notDrivenOf(asked: readonly AskedFor[], drives: readonly Analysis[]): string[] {
  const missing = asked.flatMap((a) =>
    (a.where.length > 0 ? a.where : [undefined]).flatMap((where) =>
      driven(where, a, drives) ? [] : [inWords(where, a)],
    ),
  );
  return [...new Set(missing)];
}

/** Seconds of a gear in one condition, and shifts as they were made: what a drive tells of itself while it is driven. */
export interface DrivenSoFar {
  readonly groups: readonly {
    readonly gear: string;
    readonly load: string;
    readonly temperature: string;
    readonly seconds: number;
  }[];
  readonly shifts: readonly {
    readonly name: string;
    readonly load?: number | undefined;
    readonly fluidC?: number | undefined;
  }[];
}

/** As {@link notDrivenOf}, of a drive that is under way; the speed that was asked for is not looked at. */
export function notDrivenYet(asked: readonly AskedFor[], { groups, shifts }: DrivenSoFar): string[] {
  const enough = (where: string | undefined, a: AskedFor): boolean => {
    if (where?.includes("-")) return shifts.filter((s) => s.name === where && meetsShift(a, s)).length >= LEAST_SHIFTS;
    const met = groups.filter(
      (g) =>
        (where === undefined || g.gear === where) &&
        LOADS[a.load].includes(g.load) &&
        TEMPERATURES[a.temperature].includes(g.temperature),
    );
    return met.reduce((s, g) => s + g.seconds, 0) >= LEAST_S;
  };
  const missing = asked.flatMap((a) =>
    (a.where.length > 0 ? a.where : [undefined]).flatMap((where) => (enough(where, a) ? [] : [inWords(where, a)])),
  );
  return [...new Set(missing)];
}

function meetsShift(
  { load, temperature }: AskedFor,
  s: { readonly load?: number | undefined; readonly fluidC?: number | undefined },
): boolean {
  const warm =
    temperature === "any" ||
    (s.fluidC !== undefined && (temperature === "hot" ? s.fluidC >= HOT_C : s.fluidC < COLD_C));
  return warm && LOADS[load].includes(loadBand(s.load));
}

function driven(where: string | undefined, asked: AskedFor, drives: readonly Analysis[]): boolean {
  if (where?.includes("-")) {
    const made = drives.flatMap((d) => d.shifts.filter((s) => s.name === where && meetsShift(asked, s)));
    return made.length >= LEAST_SHIFTS;
  }
  let seconds = 0;
  for (const d of drives)
    for (const g of d.held.groups) {
      if (where !== undefined && g.gear !== where) continue;
      if (!LOADS[asked.load].includes(g.load) || !TEMPERATURES[asked.temperature].includes(g.temperature)) continue;
      const [low, high] = asked.speedKmh ?? [0, Infinity];
      const within = g.eachSecond.filter(
        (s) => s.vehicleKmh === undefined || (s.vehicleKmh >= low && s.vehicleKmh <= high),
      );
      seconds += g.eachSecond.length > 0 ? (g.seconds * within.length) / g.eachSecond.length : 0;
    }
  return seconds >= LEAST_S;
}

function inWords(where: string | undefined, { load, temperature, speedKmh }: AskedFor): string {
  const parts = [
    where === undefined ? [] : [where.includes("-") ? `shift ${where}` : `gear ${where}`],
    load === "any" ? [] : [load === "coast" ? "coasting" : `${load} load`],
    temperature === "any" ? [] : [temperature],
    speedKmh ? [`${speedKmh[0]} to ${speedKmh[1]} km/h`] : [],
  ].flat();
  return parts.join(", ") || "any driving";
}
