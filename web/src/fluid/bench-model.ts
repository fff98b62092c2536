import {
  followUps,
  type HeatSpell,
  type IntervalInput,
  judgeLevel,
  mixingWarnings,
  nextInterval,
  type RenewalOption,
  renewalOptions,
  shareAbove,
  TYPICAL_MIXING,
} from "@gearsense/core/fluid";
import { formatQuantity, formatRange, type UnitSystem } from "@gearsense/core/quantity";
import type { Unit } from "@gearsense/core/unit";

/** What the bench is asked; kept on this device while it is worked on. */
export interface BenchValue {
  readonly fluidC: number | null;
  readonly litresFromFull: number | null;
  readonly targetPct: number;
  readonly drainL: number | null;
  readonly pricePerLitre: number | null;
  readonly inUnit: string;
  readonly toFill: string;
  readonly hours: Readonly<Record<string, number | null>>;
  readonly kmPerYear: number | null;
  readonly duty: readonly ("towing" | "stopAndGo" | "hills" | "fluidWasBurnt" | "waterWasFound")[];
  readonly way: string;
}

export const emptyBench = (unit: Unit): BenchValue => ({
  fluidC: null,
  litresFromFull: null,
  targetPct: 85,
  drainL: unit.fluid.panDrainL,
  pricePerLitre: 12,
  inUnit: unit.fluid.spec,
  toFill: unit.fluid.spec,
  hours: {},
  kmPerYear: 15_000,
  duty: [],
  way: "",
});

/** Bands of fluid temperature that hours are asked for, °C, with the temperature they are counted at. */
export const BANDS = [
  { id: "cool", fromC: undefined, toC: 90, fluidC: 80 },
  { id: "warm", fromC: 90, toC: 110, fluidC: 100 },
  { id: "hot", fromC: 110, toC: 120, fluidC: 115 },
  { id: "hotter", fromC: 120, toC: 135, fluidC: 127 },
  { id: "burning", fromC: 135, toC: undefined, fluidC: 140 },
] as const;
/** "90 to 110 °C", in the units of measure of the reader. */
export function bandText({ fromC, toC }: (typeof BANDS)[number], system: UnitSystem): string {
  const t = (c: number) => formatQuantity(c, "temperature", system).text;
  if (fromC === undefined) return `below ${t(toC)}`;
  if (toC === undefined) return `above ${t(fromC)}`;
  return formatRange(fromC, toC, "temperature", system).replace(" – ", " to ");
}
export const DUTY = [
  { value: "towing", label: "Tows" },
  { value: "stopAndGo", label: "Taxi, stop-and-go" },
  { value: "hills", label: "Hills" },
  { value: "fluidWasBurnt", label: "Fluid was burnt" },
  { value: "waterWasFound", label: "Water was found" },
] as const;
export const TARGETS = [
  { value: "70", label: "70 %" },
  { value: "85", label: "85 %" },
  { value: "95", label: "95 %" },
] as const;

export const idOf = (o: RenewalOption) => `${o.kind}-${o.times}`;

/** Everything that the bench works out of what it is asked. */
export function workOut(unit: Unit, v: BenchValue, hourlyRate: number, measuredSpells: readonly HeatSpell[]) {
  const { totalL, panDrainL, coolerL } = unit.fluid;
  const drainL = Math.min(totalL, Math.max(0.1, v.drainL ?? panDrainL));
  const options = renewalOptions({
    totalL,
    drainL,
    target: v.targetPct / 100,
    mixing: TYPICAL_MIXING,
    prices: { perLitre: v.pricePerLitre ?? 0, perHour: hourlyRate },
    exchangeable: (coolerL ?? 0) > 0,
  });
  const chosen = options.find((o) => idOf(o) === v.way) ?? (options[0] as RenewalOption);
  const typed = BANDS.flatMap((b) => (v.hours[b.id] ? [{ fluidC: b.fluidC, hours: v.hours[b.id] as number }] : []));
  const history = typed.length > 0 ? typed : measuredSpells;
  const has = (d: BenchValue["duty"][number]) => v.duty.includes(d);
  const mixed = v.inUnit.trim().toLowerCase() !== v.toFill.trim().toLowerCase() && chosen.fresh < 0.95;
  const input: IntervalInput = {
    baseKm: unit.fluid.intervalKm,
    towing: has("towing"),
    stopAndGo: has("stopAndGo"),
    hills: has("hills"),
    shareAbove110C: history.length > 0 ? shareAbove(history, 110) : undefined,
    fluidMixedOrUnknown: mixed,
    fluidWasBurnt: has("fluidWasBurnt"),
    waterWasFound: has("waterWasFound"),
  };
  const interval = nextInterval(input);
  return {
    drainL,
    options,
    chosen,
    history,
    interval,
    due: followUps(interval, v.kmPerYear),
    warnings: mixingWarnings(unit.fluid.spec, v.inUnit, v.toFill, 1 - chosen.fresh),
    level: judgeLevel(unit, {
      fluidC: v.fluidC,
      litresFromFull: v.litresFromFull,
      engineRunning: unit.fluid.level.method !== "sight-hole",
    }),
  };
}
export type Worked = ReturnType<typeof workOut>;
