import { DRAIN_OFF } from "../fluid/index.ts";
import type { Fastener, Unit } from "../unit/index.ts";

/** What a procedure may ask of a unit. */
export const TRAITS = [
  "longitudinal",
  "transverse",
  "planetary",
  "dual-clutch",
  "wet",
  "dry",
  "converter",
  "dipstick",
  "overflow",
  "sight-hole",
  "cooler",
  "filter",
  "drain-plug",
  "accumulator",
  "forks",
  "gasket",
  "moulded",
  "sealant",
  "sealant-and-gasket",
  "seal-unknown",
] as const;
export type Trait = (typeof TRAITS)[number];

const fastener = (unit: Unit, id: string): Fastener | undefined => unit.fasteners?.find((f) => f.id === id);

/** What a unit is, has, and how it is filled; from its file alone. */
export function traitsOf(unit: Unit): ReadonlySet<Trait> {
  const dual = unit.kind !== "planetary";
  const has: Partial<Record<Trait, boolean>> = {
    [unit.layout]: true,
    [dual ? "dual-clutch" : "planetary"]: true,
    wet: unit.kind === "dct-wet",
    dry: unit.kind === "dct-dry",
    converter: unit.converter !== undefined,
    [unit.fluid.level.method]: true,
    cooler: (unit.fluid.coolerL ?? 0) > 0,
    // gear oil of a dry dual clutch passes no filter
    filter: unit.kind !== "dct-dry",
    "drain-plug": fastener(unit, "drain") !== undefined,
    // an electric pump fills it: the dry kind works its clutches and forks with what it stores
    accumulator: unit.kind === "dct-dry",
    forks: unit.elements.some((e) => e.kind === "fork"),
    [unit.fluid.panSeal ?? "seal-unknown"]: true,
  };
  return new Set(TRAITS.filter((t) => has[t]));
}

/** Whether a unit has every trait that is asked for, and none that must not be. */
export const fits = (traits: ReadonlySet<Trait>, when: readonly string[] | undefined): boolean =>
  (when ?? []).every((w) => (w.startsWith("!") ? !traits.has(w.slice(1) as Trait) : traits.has(w as Trait)));

export interface Limits {
  readonly least: number | undefined;
  readonly most: number | undefined;
  /** where they stand */
  readonly source: string;
}

/** What a sound cooler passes in half a minute at idle, l. Source: the check "Flow through the cooler", 2 l a minute. */
export const LEAST_COOLER_HALF_MIN_L = 1;

const window = (span: readonly [number, number] | undefined, source: string): Limits | undefined =>
  span && { least: span[0], most: span[1], source };

const LIMITS: Readonly<Record<string, (unit: Unit) => Limits | undefined>> = {
  "level-window": ({ fluid }) => ({
    least: fluid.level.windowC[0],
    most: fluid.level.windowC[1],
    source: "unit file, level window",
  }),
  "safe-drain": () => ({ least: undefined, most: 60, source: "scald limit of a drain" }),
  "pan-drain": ({ fluid }) => ({
    least: fluid.panDrainL * (1 - DRAIN_OFF),
    most: fluid.panDrainL * (1 + DRAIN_OFF),
    source: "unit file, volume of a drain, a tenth either way",
  }),
  "no-gap": () => ({ least: undefined, most: 0.05, source: "a feeler of 0.05 mm goes in nowhere" }),
  "converter-depth": ({ converter }) => window(converter?.homeDepthMm, "unit file, converter home"),
  "converter-pull-up": ({ converter }) => window(converter?.pullUpMm, "unit file, converter to flexplate"),
  "cooler-flow": ({ fluid }) =>
    fluid.coolerL
      ? {
          least: LEAST_COOLER_HALF_MIN_L,
          most: undefined,
          source: "a litre in half a minute at idle, typical of the trade",
        }
      : undefined,
  "fluid-total": ({ fluid }) => ({ least: undefined, most: fluid.totalL, source: "unit file, whole fill" }),
};

/** Names of limits that a recorded value may point to. */
export const LIMIT_NAMES = Object.keys(LIMITS);

/** @returns undefined where the unit file says nothing: the maker's data decide, and are typed */
export const limitOf = (unit: Unit, name: string): Limits | undefined => LIMITS[name]?.(unit);
