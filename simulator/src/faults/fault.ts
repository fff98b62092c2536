/** A fault put into the simulated vehicle. */
export interface SimulatedFault {
  /** id of the catalogue */
  readonly kind: string;
  /** element, solenoid, sensor or net that has it; of kinds that belong to a component */
  readonly component?: string | undefined;
  /** 0 just begun … 1 as bad as it gets; 0.6 where left out */
  readonly severity?: number | undefined;
  /** it begins so long after the start of the drive, s */
  readonly onsetS?: number | undefined;
  /** and grows to its severity over this time, s */
  readonly growS?: number | undefined;
  /** it shows in this window of fluid temperature only, °C */
  readonly minFluidC?: number | undefined;
  readonly maxFluidC?: number | undefined;
  /** of faults that come and go: when, s; else they come at random */
  readonly atS?: readonly number[] | undefined;
  /** and for how long, s */
  readonly lengthS?: number | undefined;
}

export const USUAL_SEVERITY = 0.6;

/** How strong a fault is now, 0 … 1. */
export function strengthAt(fault: SimulatedFault, timeS: number, fluidC: number): number {
  const onset = fault.onsetS ?? 0;
  if (timeS < onset) return 0;
  if (fluidC < (fault.minFluidC ?? Number.NEGATIVE_INFINITY) || fluidC > (fault.maxFluidC ?? Number.POSITIVE_INFINITY))
    return 0;
  const grown = fault.growS ? Math.min(1, (timeS - onset) / fault.growS) : 1;
  return (fault.severity ?? USUAL_SEVERITY) * grown;
}

/**
 * When a fault that comes and goes is there. With `atS` at those moments; else at random, on average so many times a
 * minute, while `wanted` holds at the beginning.
 */
export class Intermittent {
  private readonly fault: SimulatedFault;
  private readonly random: () => number;
  private readonly left: number[];
  private untilS = -1;

  constructor(fault: SimulatedFault, random: () => number) {
    this.fault = fault;
    this.random = random;
    this.left = [...(fault.atS ?? [])];
  }

  /** @param wanted - conditions under which it can begin */
  tick(timeS: number, dtS: number, perMinute: number, meanS: number, wanted: boolean): boolean {
    if (timeS < this.untilS) return true;
    if (!wanted) return false;
    const next = this.left[0];
    const begins = this.fault.atS ? next !== undefined && timeS >= next : this.random() < (perMinute / 60) * dtS;
    if (!begins) return false;
    this.left.shift();
    this.untilS = timeS + (this.fault.lengthS ?? meanS * (0.5 + this.random()));
    return true;
  }
}
