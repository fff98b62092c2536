import {
  type ApplyPiston,
  type Element,
  meanRadiusMm,
  PAPER_FRICTION,
  packCapacityNm,
  sharesByGear,
  type Unit,
} from "../unit/index.ts";

/** A pack as it is built: what {@link packCapacityNm} needs. */
export interface PackBuilt {
  readonly apply: ApplyPiston;
  readonly plates: number;
  readonly friction: number;
}

/** What the unit file says of a pack, with what was measured in its place. @returns undefined where the file has no piston or plates */
export function packBuilt(
  element: Element,
  measured: { readonly innerMm?: number | undefined; readonly outerMm?: number | undefined } = {},
): PackBuilt | undefined {
  const { apply, plates, bench } = element;
  if (!apply || !plates) return undefined;
  const inner = measured.innerMm ?? bench?.innerRadiusMm;
  const outer = measured.outerMm ?? bench?.outerRadiusMm;
  return {
    plates,
    friction: bench?.friction ?? PAPER_FRICTION,
    apply: inner === undefined || outer === undefined ? apply : { ...apply, meanRadiusMm: meanRadiusMm(inner, outer) },
  };
}

export const heldNm = ({ apply, plates, friction }: PackBuilt, pressureKpa: number): number =>
  packCapacityNm(apply, plates, pressureKpa, friction);

/**
 * Time that a piston needs to fill, ms: what has to flow in is its area times the clearance, so the fill time learned new grows with
 * the clearance over the one that the pack is set to. V = A·x.
 * @returns undefined where the unit file has no learned fill time or no target
 */
export function fillTimeMs(unit: Unit, elementId: string, clearanceMm: number): number | undefined {
  const learned = unit.adaptations?.find((a) => a.component === elementId && a.unit === "ms")?.newValue;
  const bench = unit.elements.find((e) => e.id === elementId)?.bench;
  const target = bench && (bench.targetMm ?? (bench.clearanceMm[0] + bench.clearanceMm[1]) / 2);
  return learned === undefined || !target ? undefined : (learned * clearanceMm) / target;
}

export interface GearMargin {
  readonly gear: string;
  /** torque on the element over that of the input */
  readonly share: number;
  readonly needNm: number;
  readonly holdsNm: number;
  /** holds over needs: 1 it just holds */
  readonly margin: number;
}

/** Gears that a vehicle moves off in: there the converter multiplies. */
export const launchGears = (unit: Unit): ReadonlySet<string> => new Set(unit.kind === "planetary" ? ["1", "R"] : []);

/** Torque at the input of the gears for one of the engine: multiplied by the converter where the vehicle moves off. */
export const inputTorqueNm = (unit: Unit, gear: string, engineNm: number): number =>
  engineNm * (launchGears(unit).has(gear) ? (unit.converter?.stallTorqueRatio ?? 1) : 1);

/** Gear by gear, what an element bears and what it can hold, hardest first. T = μ·n·F·R_m against share · input torque. */
export function marginsOf(
  unit: Unit,
  elementId: string,
  pack: PackBuilt,
  pressureKpa: number,
  engineNm: number,
): GearMargin[] {
  const holdsNm = heldNm(pack, pressureKpa);
  return [...sharesByGear(unit)]
    .flatMap(([gear, shares]) => {
      const share = Math.abs(shares.get(elementId) ?? 0);
      if (share < 1e-6) return [];
      const needNm = share * inputTorqueNm(unit, gear, engineNm);
      return [{ gear, share, needNm, holdsNm, margin: needNm > 0 ? holdsNm / needNm : Number.POSITIVE_INFINITY }];
    })
    .sort((a, b) => a.margin - b.margin);
}

/** What a change of a pack would hold more. */
export interface Gain {
  readonly change: "extra-plate" | "larger-piston" | "more-pressure";
  readonly holdsNm: number;
  readonly moreNm: number;
}

/** What one more plate, a tenth more piston and a tenth more pressure each hold. */
export function gainsOf(pack: PackBuilt, pressureKpa: number): Gain[] {
  const now = heldNm(pack, pressureKpa);
  const gain = (change: Gain["change"], holdsNm: number): Gain => ({ change, holdsNm, moreNm: holdsNm - now });
  return [
    gain("extra-plate", heldNm({ ...pack, plates: pack.plates + 1 }, pressureKpa)),
    gain(
      "larger-piston",
      heldNm({ ...pack, apply: { ...pack.apply, areaCm2: 1.1 * pack.apply.areaCm2 } }, pressureKpa),
    ),
    gain("more-pressure", heldNm(pack, 1.1 * pressureKpa)),
  ];
}

/** An element in the gear in which it gives up first as the engine is raised. */
export interface GivesUp {
  readonly element: string;
  readonly gear: string;
  /** engine torque that it holds at most there */
  readonly engineNm: number;
}

/** All packs by the engine torque at which they slip, the first to give up first. @param built - by element, where measured */
export function givesUpFirst(
  unit: Unit,
  pressureKpa: number,
  built: ReadonlyMap<string, PackBuilt> = new Map(),
): GivesUp[] {
  return unit.elements
    .flatMap((e) => {
      const pack = built.get(e.id) ?? packBuilt(e);
      const [worst] = pack ? marginsOf(unit, e.id, pack, pressureKpa, 1) : [];
      return worst ? [{ element: e.id, gear: worst.gear, engineNm: worst.margin }] : [];
    })
    .sort((a, b) => a.engineNm - b.engineNm);
}
