import { sharesByGear } from "./gears.ts";
import type { Unit } from "./unit.ts";

export type GearOutcome = "good" | "bad" | "not-exercised";

/** One gear as it was driven. */
export interface GearObservation {
  readonly gear: string;
  readonly outcome: GearOutcome;
  /** good: highest input torque held; bad: lowest at which it failed */
  readonly torqueNm?: number | undefined;
  /** the same over the line pressure, N·m/kPa: where both were recorded this is what an element is judged by */
  readonly nmPerKpa?: number | undefined;
  /** good: hottest; bad: coldest at which it failed */
  readonly fluidC?: number | undefined;
  /** on the over-run a one-way clutch holds nothing */
  readonly under?: "drive" | "coast" | undefined;
  /** bad: the input ran away while the gear was in; what grips by its teeth cannot do that */
  readonly slips?: boolean | undefined;
  /** bad: the same gear also held clean at as much torque, so torque does not say when it fails */
  readonly comesAndGoes?: boolean | undefined;
}

export interface ChartReading {
  readonly cleared: readonly string[];
  readonly accused: readonly string[];
  /** smallest sets of elements that cover all bad gears and touch no good one; empty when none does */
  readonly explanations: readonly (readonly string[])[];
}

/** Torque held to within this share of the failing torque clears. */
const ENOUGH_TORQUE = 0.9;
/** Colder by more than this does not clear what fails hot only, °C. */
const ENOUGH_HEAT_C = 10;

/** Elements that are worked in an observation and may fail in that way. */
function workedIn(unit: Unit, o: GearObservation): string[] {
  const worked = (unit.application[o.gear] ?? [])
    .filter((a) => !(o.under === "coast" && a.driveOnly))
    .map((a) => a.element);
  return o.slips ? worked.filter((id) => unit.elements.find((e) => e.id === id)?.kind !== "fork") : worked;
}

/**
 * Reads the application chart for a fault: good gears clear every element they use, the suspects cover all bad gears
 * and no good one. When no single element does, pairs are tried; when no pair does, something upstream of the
 * elements (pressure, fluid, a sensor) explains it better and `explanations` is empty.
 *
 * A good gear clears an element only when it worked it as hard as the bad gear that accuses it: input torque times the
 * element's share from the gear train (share 1 for a unit with ratios only), and not much colder.
 * By elimination: suspect is what works in every gear that fails and in none that holds.
 */
export function readObservations(unit: Unit, observations: readonly GearObservation[]): ChartReading {
  const good = observations.filter((o) => o.outcome === "good");
  const bad = observations.filter((o) => o.outcome === "bad");
  const shares = sharesByGear(unit);
  const load = (o: GearObservation, element: string, byPressure: boolean) => {
    const asked = byPressure ? o.nmPerKpa : o.torqueNm;
    return asked === undefined ? undefined : Math.abs(asked) * (shares.get(o.gear)?.get(element) ?? 1);
  };
  const accused = new Set(bad.flatMap((o) => workedIn(unit, o)));
  const clears = (o: GearObservation, element: string) =>
    bad
      .filter((b) => workedIn(unit, b).includes(element))
      .every((b) => {
        // what comes and goes in its own gear is not cleared by a drive of another
        if (b.comesAndGoes) return false;
        const byPressure = o.nmPerKpa !== undefined && b.nmPerKpa !== undefined;
        const [held, failed] = [load(o, element, byPressure), load(b, element, byPressure)];
        if (held !== undefined && failed !== undefined && held < failed * ENOUGH_TORQUE) return false;
        return o.fluidC === undefined || b.fluidC === undefined || o.fluidC >= b.fluidC - ENOUGH_HEAT_C;
      });
  // the only one that can fail in a gear did, whatever it held elsewhere
  const alone = new Set(bad.map((o) => workedIn(unit, o)).flatMap((worked) => (worked.length === 1 ? worked : [])));
  const cleared = new Set(good.flatMap((o) => workedIn(unit, o).filter((e) => !alone.has(e) && clears(o, e))));
  const candidates = unit.elements.map((e) => e.id).filter((id) => accused.has(id) && !cleared.has(id));
  const covers = (set: readonly string[]) => bad.every((o) => workedIn(unit, o).some((e) => set.includes(e)));

  let explanations: string[][] = [];
  if (bad.length > 0) {
    explanations = candidates.map((c) => [c]).filter(covers);
    if (explanations.length === 0) {
      for (let i = 0; i < candidates.length; i++) {
        for (let j = i + 1; j < candidates.length; j++) {
          const pair = [candidates[i] as string, candidates[j] as string];
          if (covers(pair)) explanations.push(pair);
        }
      }
    }
  }
  return {
    cleared: unit.elements.map((e) => e.id).filter((id) => cleared.has(id)),
    accused: unit.elements.map((e) => e.id).filter((id) => accused.has(id)),
    explanations,
  };
}

/** {@link readObservations} for outcomes alone, by gear name. */
export function readChart(unit: Unit, outcomes: Readonly<Record<string, GearOutcome>>): ChartReading {
  return readObservations(
    unit,
    Object.entries(outcomes).map(([gear, outcome]) => ({ gear, outcome })),
  );
}

/** An element with everything that makes it work: what to test before it is taken out. */
export interface Circuit {
  readonly element: string;
  readonly solenoids: readonly string[];
  readonly nets: readonly string[];
}

/** The circuit of each element of an explanation. */
export function circuitsOf(unit: Unit, elements: readonly string[]): Circuit[] {
  return elements.map((element) => {
    const solenoids = unit.solenoids.filter((s) => s.feeds === element).map((s) => s.id);
    return {
      element,
      solenoids,
      nets: unit.nets.filter((n) => n.connects.some((c) => solenoids.includes(c))).map((n) => n.id),
    };
  });
}
