import type { BenchKnowledge, BenchLook, LookPlace } from "../knowledge/index.ts";
import type { Unit } from "../unit/index.ts";

export type PlaceKind =
  | "teardown"
  | "pack"
  | "pack-in"
  | "end-play"
  | "converter-fit"
  | "converter-choice"
  | "converter-open"
  | "pressure"
  | "air"
  | "valve-body"
  | "electrical"
  | "dual-clutch"
  | "cooler"
  | "cause";

/** One thing to measure: what it has to show and what such a part has at all. */
export interface BenchMeasure {
  readonly id: string;
  readonly name: string;
  readonly unit: string;
  /** id of the usual instrument */
  readonly instrument: string;
  readonly from?: number | undefined;
  readonly to?: number | undefined;
  /** from the least to the most that can be meant: beyond it the unit of the reading is asked for */
  readonly expected?: readonly [number, number] | undefined;
  /** how many readings are usual */
  readonly points: number;
  /** brought to 20 °C */
  readonly copper?: boolean | undefined;
  readonly optional?: boolean | undefined;
}

export interface PlaceLook extends Pick<BenchLook, "name" | "options"> {
  readonly id: string;
}

/** A place of the bench, drawn from the unit file. */
export interface BenchPlace {
  readonly id: string;
  readonly kind: PlaceKind;
  readonly title: string;
  /** id of the element or end play that it is about */
  readonly about?: string | undefined;
  readonly how: string;
  readonly measures: readonly BenchMeasure[];
  readonly looks: readonly PlaceLook[];
  /** by their names in `library/knowledge/cautions.json` */
  readonly cautions: readonly string[];
}

/** A reading that is compared with what a unit file says of it may be so far from it, as a factor. */
export const wide = (least: number, most: number): readonly [number, number] => [least / 2, most * 2];

export const lookFor = (k: BenchKnowledge, unit: Unit, of: LookPlace): BenchLook[] =>
  k.looks.filter((l) => l.of === of && (!l.kinds || l.kinds.includes(unit.kind)));

/** A look at each of several things. */
export const copies = (
  look: BenchLook,
  items: readonly { readonly id: string; readonly name: string }[],
): PlaceLook[] =>
  items.map((i) => ({ id: `${look.id}-${i.id}`, name: `${look.name}: ${i.name}`, options: look.options }));

/** @returns undefined for a place that the unit has not */
export const placeOf = (places: readonly BenchPlace[], id: string): BenchPlace | undefined =>
  places.find((p) => p.id === id);
