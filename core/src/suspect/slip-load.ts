import { componentName, elementPressuresKpa, elementsIn, type Unit } from "../unit/index.ts";
import type { AnalysedLog, Evidence } from "./evidence.ts";

/** Of a paper lining; it cancels where elements are compared. */
const FRICTION = 0.13;
/** A load at which the share of each element is reckoned, N·m. */
const LOAD_NM = 100;
/** Elements within this of the one that fits best fit as well, or nearly. */
const FITS = 1.05;
const NEARLY = 1.6;

const SAYS = {
  fits: (name: string) => `Slip fits the load on ${name}`,
  nearly: (name: string) => `Slip nearly fits the load on ${name}`,
  misfits: (name: string) => `${name} held more elsewhere than it would slip at`,
} as const;

/**
 * Which of the elements that carry every slipping gear slips? Each needs its own pressure for a torque, by share, area and
 * plates. The one that slips does so at the least of what it was asked for over the line pressure, and holds no more
 * in any gear: (most held) / (least slipped at) is smallest for it.
 * @returns one piece for each such element; empty with fewer than two, without line pressure, or without pistons in the unit file
 * Source: handbook, clutch torque and shares by gear.
 */
export function slipLoads(unit: Unit, logs: readonly AnalysedLog[]): Evidence[] {
  const slipped = new Map<string, number>();
  const held = new Map<string, number>();
  let from: AnalysedLog | undefined;
  for (const log of logs)
    for (const g of log.analysis.held.gears) {
      if (g.lowestSlipNmPerKpa !== undefined && g.slipping.length > 0) {
        slipped.set(g.gear, Math.min(slipped.get(g.gear) ?? Number.POSITIVE_INFINITY, g.lowestSlipNmPerKpa));
        from ??= log;
      }
      if (g.cleanNmPerKpa !== undefined) held.set(g.gear, Math.max(held.get(g.gear) ?? 0, g.cleanNmPerKpa));
    }
  if (!from || unit.kind !== "planetary") return [];
  const { logId, entryId } = from;
  const needs = new Map(
    [...slipped.keys(), ...held.keys()].map((g) => [g, elementPressuresKpa(unit, g, LOAD_NM, FRICTION)]),
  );
  /** Part of the line pressure that an element needs in a gear at a load. */
  const asked = (element: string, gear: string, nmPerKpa: number) =>
    ((needs.get(gear)?.get(element) ?? Number.NaN) * nmPerKpa) / LOAD_NM;
  const candidates = unit.elements.flatMap(({ id }) => {
    if (![...slipped.keys()].every((g) => elementsIn(unit, g).includes(id))) return [];
    const least = Math.min(...[...slipped].map(([g, x]) => asked(id, g, x)));
    const most = Math.max(
      0,
      ...[...held].filter(([g]) => elementsIn(unit, g).includes(id)).map(([g, x]) => asked(id, g, x)),
    );
    return most / least >= 0 ? [{ id, ratio: most / least }] : [];
  });
  if (candidates.length < 2) return [];
  const best = Math.min(...candidates.map((c) => c.ratio));
  return candidates.map(({ id, ratio }): Evidence => {
    const outcome = ratio <= FITS * best ? "fits" : ratio <= NEARLY * best ? "nearly" : "misfits";
    return {
      id: `${logId}:slip-load:${id}`,
      table: "slip-load",
      subject: { component: id },
      outcome,
      label: SAYS[outcome](componentName(unit, id)),
      entryId,
      abnormal: false,
    };
  });
}
