/** Voltages of a 12 V system. Source: typical for the trade, at 20 °C. */
export const BATTERY_V = { rest: 12.3, cranking: 9.6, charging: [13.2, 15.0] } as const;

/** @returns outcome of the battery rung; undefined while nothing was measured */
export function judgeBattery(v: {
  restV: number | null;
  crankingV: number | null;
  chargingV: number | null;
}): "good" | "weak" | "not-charging" | undefined {
  if (v.restV === null && v.crankingV === null && v.chargingV === null) return undefined;
  const [low, high] = BATTERY_V.charging;
  if (v.chargingV !== null && (v.chargingV < low || v.chargingV > high)) return "not-charging";
  if ((v.restV !== null && v.restV < BATTERY_V.rest) || (v.crankingV !== null && v.crankingV < BATTERY_V.cranking))
    return "weak";
  return "good";
}

export const LEVER_POSITIONS = ["P", "R", "N", "D"] as const;
export type LeverPosition = (typeof LEVER_POSITIONS)[number];
export type PositionSeen = "agrees" | "other" | "sticks";

/** Lever against display in every position. @returns undefined until each position was looked at */
export function judgePositions(
  seen: Readonly<Partial<Record<LeverPosition, PositionSeen>>>,
): "agrees" | "one-off" | "sticks" | undefined {
  const values = LEVER_POSITIONS.map((p) => seen[p]);
  // one that is wrong is enough; all right takes all
  if (values.includes("other")) return "one-off";
  if (values.includes("sticks")) return "sticks";
  return values.every((v) => v === "agrees") ? "agrees" : undefined;
}

/** What a counter may show in a sound engine. Source: typical for the trade. */
const STRAY_MISFIRES = 3;

/** Misfires by cylinder, in the order of the cylinders. @returns undefined while nothing was counted */
export function judgeMisfire(counts: readonly (number | null)[]): "none" | "counted" | undefined {
  const known = counts.filter((c): c is number => c !== null);
  if (known.length === 0) return undefined;
  return known.some((c) => c > STRAY_MISFIRES) ? "counted" : "none";
}

export const LEAK_PLACES = [
  { id: "front-seal", label: "Front seal, converter housing" },
  { id: "pan", label: "Pan gasket and plug" },
  { id: "connector", label: "Connector sleeve" },
  { id: "cooler-lines", label: "Cooler lines" },
  { id: "selector", label: "Selector shaft" },
  { id: "output", label: "Output or axle seals" },
  { id: "breather", label: "Breather" },
] as const;
export type LeakPlace = (typeof LEAK_PLACES)[number]["id"];
export type Wetness = "dry" | "seep" | "drip";

/** Places from the top down: fluid runs down, so the highest of the wettest is where it comes from. */
const FROM_THE_TOP: readonly LeakPlace[] = [
  "breather",
  "cooler-lines",
  "connector",
  "selector",
  "front-seal",
  "output",
  "pan",
];

/** Where a leak comes from. @param values - of the quick check, by place @returns undefined when nothing is wet */
export function leakSource(
  values: Readonly<Record<string, number | string>>,
): { readonly id: LeakPlace; readonly label: string } | undefined {
  for (const wetness of ["drip", "seep"] as const) {
    const id = FROM_THE_TOP.find((p) => values[p] === wetness);
    if (id) return LEAK_PLACES.find((p) => p.id === id);
  }
  return undefined;
}

/** The worst of the places that were looked at. @returns undefined while none was */
export function judgeLeaks(places: Readonly<Partial<Record<LeakPlace, Wetness>>>): Wetness | undefined {
  const seen = new Set(Object.values(places));
  return (["drip", "seep", "dry"] as const).find((w) => seen.has(w));
}
