import { mean } from "simple-statistics";
import { oddsOf, SURE_ENOUGH, type Uncertain } from "../measure/index.ts";
import type { SelectivePart } from "../unit/index.ts";

/**
 * Share of its life that a lining has lost: (new − t)/(new − least).
 * @returns 0 new, 1 at its limit; over 1 beyond it, below 0 thicker than new
 * @throws RangeError when new is not thicker than least
 */
export function wearShare(thicknessMm: number, newMm: number, leastMm: number): number {
  if (!(newMm > leastMm)) throw new RangeError("a new plate is thicker than the least one");
  return (newMm - thicknessMm) / (newMm - leastMm);
}

/** Largest less smallest of the points of one plate. @param pointsMm - at least one */
export const taperMm = (pointsMm: readonly number[]): number => Math.max(...pointsMm) - Math.min(...pointsMm);

/** Thickness of parts that lie on each other; uncertainties as root of the squares. */
export function stackOf(parts: readonly Uncertain[]): Uncertain {
  return {
    value: parts.reduce((sum, p) => sum + p.value, 0),
    uncertainty: Math.hypot(...parts.map((p) => p.uncertainty)),
  };
}

/** What is left of a depth: depth − stack − selective part; negative: it does not go in. */
export function clearanceOf(depth: Uncertain, stack: Uncertain, selective: Uncertain): Uncertain {
  return {
    value: depth.value - stack.value - selective.value,
    uncertainty: Math.hypot(depth.uncertainty, stack.uncertainty, selective.uncertainty),
  };
}

/** A selective part, or two, and what they leave. */
export interface SelectiveChoice {
  /** one size, or two for a pair */
  readonly sizesMm: readonly number[];
  readonly clearanceMm: number;
  readonly uncertaintyMm: number;
  /** chance that the clearance lies in its window */
  readonly inside: number;
  /** of these parts */
  readonly cost: number;
}

export type Selection =
  | { readonly kind: "one" | "pair"; readonly best: SelectiveChoice; readonly near: readonly SelectiveChoice[] }
  /** even the nearest leaves it outside its window by so much: over 0 too much clearance, below 0 too little */
  | { readonly kind: "none"; readonly nearest: SelectiveChoice; readonly outByMm: number };

/** A groove takes one ring; plates, shims and washers may lie on each other. */
export const mayPair = (part: SelectivePart): boolean => part.kind !== "ring";
/** Neighbours of the choice that are shown beside it. */
const SHOWN = 2;

/**
 * The selective part that brings a clearance nearest its target inside its window; a pair when one does not do.
 * @param bare - clearance without any selective part: depth less stack
 * @throws RangeError without a size
 */
export function chooseSelective(
  bare: Uncertain,
  windowMm: readonly [number, number],
  targetMm: number,
  part: SelectivePart,
): Selection {
  if (part.sizesMm.length === 0) throw new RangeError("there is no size to choose from");
  const choice = (sizesMm: readonly number[]): SelectiveChoice => {
    const clearanceMm = bare.value - sizesMm.reduce((a, b) => a + b, 0);
    // a tolerance is the half-width of what passes: about two standard deviations
    const uncertaintyMm = Math.hypot(bare.uncertainty, ...sizesMm.map(() => part.toleranceMm / 2));
    const { inside } = oddsOf(clearanceMm, uncertaintyMm, { from: windowMm[0], to: windowMm[1] });
    return { sizesMm, clearanceMm, uncertaintyMm, inside, cost: part.costEach * sizesMm.length };
  };
  const off = (c: SelectiveChoice) => Math.abs(c.clearanceMm - targetMm);
  const within = (c: SelectiveChoice) => c.clearanceMm >= windowMm[0] && c.clearanceMm <= windowMm[1];
  const sorted = (list: readonly SelectiveChoice[]) => [...list].sort((a, b) => off(a) - off(b));
  const ones = sorted(part.sizesMm.map((s) => choice([s])));
  const one = ones.find(within);
  if (one) return { kind: "one", best: one, near: ones.filter((c) => c !== one).slice(0, SHOWN) };
  const pairs = mayPair(part)
    ? sorted(part.sizesMm.flatMap((a, i) => part.sizesMm.slice(i).map((b) => choice([a, b]))))
    : [];
  const pair = pairs.find(within);
  if (pair) return { kind: "pair", best: pair, near: pairs.filter((c) => c !== pair && within(c)).slice(0, SHOWN) };
  const outBy = (c: SelectiveChoice) =>
    c.clearanceMm > windowMm[1] ? c.clearanceMm - windowMm[1] : c.clearanceMm - windowMm[0];
  const nearest = [...ones, ...pairs].reduce((a, b) => (Math.abs(outBy(b)) < Math.abs(outBy(a)) ? b : a));
  return { kind: "none", nearest, outByMm: outBy(nearest) };
}

export type PlateFault = "thicker-than-new" | "below-least" | "taper";

export interface PlateState extends Uncertain {
  readonly taperMm: number;
  /** undefined: the unit file does not say how thick a new one is */
  readonly wear: number | undefined;
  readonly inside: number;
  readonly faults: readonly PlateFault[];
}

export interface PlateLimits {
  readonly leastMm: number;
  readonly newMm: number | undefined;
  readonly taperMostMm: number | undefined;
}

/** A plate may be so much thicker than a new one by how new ones differ, mm. */
const NEW_SPREAD_MM = 0.05;

/**
 * One plate from its points round the ring. It is judged by its mean with the odds, its taper by itself.
 * @param points - mean and uncertainty of all points together
 */
export function plateState(points: Uncertain, pointsMm: readonly number[], limits: PlateLimits): PlateState {
  const { inside } = oddsOf(points.value, points.uncertainty, { from: limits.leastMm, to: undefined });
  const taper = taperMm(pointsMm);
  const faults: PlateFault[] = [];
  if (limits.newMm !== undefined && points.value > limits.newMm + NEW_SPREAD_MM + 2 * points.uncertainty)
    faults.push("thicker-than-new");
  if (inside < 1 - SURE_ENOUGH) faults.push("below-least");
  if (limits.taperMostMm !== undefined && taper > limits.taperMostMm) faults.push("taper");
  const wear = limits.newMm === undefined ? undefined : wearShare(points.value, limits.newMm, limits.leastMm);
  return { ...points, taperMm: taper, wear, inside, faults };
}

/** Two halves of a pack, or two packs, held against each other. */
export interface Compared {
  readonly firstMm: number;
  readonly secondMm: number;
  readonly differenceMm: number;
  /** how sure it is that they differ at all */
  readonly sure: number;
}

/** Means of two lists of thicknesses, and whether their difference is more than the readings scatter. @returns undefined when either is empty */
export function comparePlates(first: readonly Uncertain[], second: readonly Uncertain[]): Compared | undefined {
  if (first.length === 0 || second.length === 0) return undefined;
  const of = (list: readonly Uncertain[]) => mean(list.map((p) => p.value));
  const uncertainty = (list: readonly Uncertain[]) => Math.hypot(...list.map((p) => p.uncertainty)) / list.length;
  const differenceMm = of(first) - of(second);
  const { below, above } = oddsOf(differenceMm, Math.hypot(uncertainty(first), uncertainty(second)), {
    from: 0,
    to: 0,
  });
  return { firstMm: of(first), secondMm: of(second), differenceMm, sure: Math.abs(above - below) };
}
