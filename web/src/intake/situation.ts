import type { SymptomValue } from "./intake-model.ts";

/** Bands of road speed that are touched, km/h: the edges between them. */
export const SPEED_EDGES_KMH = [0, 20, 40, 60, 80, 100, 120, 140] as const;

/** Which bands a span covers. */
export function bandsOf(span: readonly [number, number] | undefined): boolean[] {
  return SPEED_EDGES_KMH.slice(0, -1).map((low, i) => {
    const high = SPEED_EDGES_KMH[i + 1] as number;
    return span !== undefined && span[0] < high && span[1] > low;
  });
}

/**
 * The span after a band was touched. A band outside stretches it so far; the only band takes it away; an end band
 * shortens it; one in the middle becomes all of it.
 */
export function touchBand(span: readonly [number, number] | undefined, band: number): [number, number] | undefined {
  const low = SPEED_EDGES_KMH[band] as number;
  const high = SPEED_EDGES_KMH[band + 1] as number;
  if (!span) return [low, high];
  const on = bandsOf(span);
  const first = on.indexOf(true);
  const last = on.lastIndexOf(true);
  if (band < first) return [low, SPEED_EDGES_KMH[last + 1] as number];
  if (band > last) return [SPEED_EDGES_KMH[first] as number, high];
  if (first === last) return undefined;
  if (band === first) return [SPEED_EDGES_KMH[first + 1] as number, SPEED_EDGES_KMH[last + 1] as number];
  if (band === last) return [SPEED_EDGES_KMH[first] as number, low];
  return [low, high];
}

/** Gears, and the shifts between neighbours, up and down. @param gears - names, "R" among them */
export function placesOf(gears: readonly string[]): { gears: string[]; up: string[]; down: string[] } {
  const forward = gears.filter((g) => g !== "R").sort((a, b) => Number(a) - Number(b));
  const pairs = forward.slice(1).map((to, i) => [forward[i] as string, to] as const);
  return {
    gears: [...(gears.includes("R") ? ["R"] : []), ...forward],
    up: pairs.map(([a, b]) => `${a}-${b}`),
    down: pairs.map(([a, b]) => `${b}-${a}`),
  };
}

const LOAD_WORDS = {
  any: "",
  light: "light load",
  steady: "steady",
  hard: "hard load",
  coast: "on the over-run",
} as const;
const AFTER_WORDS = { "first-minutes": "in the first minutes", later: "after a while" } as const;

/** A sign in one line: "slips in 4, 3-4, hard load, 60 to 80 km/h, hot". @param speed - shows a speed in the chosen unit */
export function symptomText(s: SymptomValue, kindWord: string, speed: (low: number, high: number) => string): string {
  return [
    `${kindWord}${s.where.length > 0 ? ` in ${s.where.join(", ")}` : ""}`,
    LOAD_WORDS[s.load],
    s.speedKmh ? speed(s.speedKmh[0], s.speedKmh[1]) : "",
    s.temperature === "any" ? "" : s.temperature,
    s.afterStart ? AFTER_WORDS[s.afterStart] : "",
    s.howOften ?? "",
    s.helps ?? "",
  ]
    .filter((x) => x !== "")
    .join(", ");
}
