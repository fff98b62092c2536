import type { Unit, UnitKind } from "@gearsense/core/unit";
import type { Intermittent } from "./fault.ts";
import type { Health } from "./health.ts";

/** What a fault may look at when it writes the health. */
export interface FaultContext {
  readonly unit: Unit;
  readonly timeS: number;
  readonly dtS: number;
  readonly vehicleKmh: number;
  readonly random: () => number;
  readonly intermittent: Intermittent;
}

type Per =
  | "pack"
  | "dual-clutch"
  | "launching-clutch"
  | "one-way"
  | "element-solenoid"
  | "converter-solenoid"
  | "line-solenoid"
  | "speed-sensor"
  | "supply-net"
  | "signal-net"
  | "ground-net"
  | "fork"
  | "unit";

export interface FaultKind {
  readonly id: string;
  readonly per: Per;
  readonly title: string;
  /** what a technician meets */
  readonly symptom: string;
  /** kinds of units that can have it; all where left out */
  readonly units?: readonly UnitKind[];
  /** writes what it changes; strength 0 … 1 */
  readonly apply: (h: Health, component: string, strength: number, c: FaultContext) => void;
}

export const PLANETARY = ["planetary"] as const;
export const DUAL = ["dct-wet", "dct-dry"] as const;
/** Whose clutches run in the fluid. */
export const WET = ["planetary", "dct-wet"] as const;

export const between = (strength: number, least: number, most: number) => least + (most - least) * strength;

/** A net that is broken takes with it all that hangs on it. */
export function breakNet(h: Health, c: FaultContext, net: string): void {
  for (const id of c.unit.nets.find((n) => n.id === net)?.connects ?? []) {
    if (h.sensors.has(id)) h.sensor(id).lost = true;
    else h.solenoids.set(id, "dead");
  }
}

export const kind = (
  id: string,
  per: Per,
  title: string,
  symptom: string,
  apply: FaultKind["apply"],
  units?: readonly UnitKind[],
): FaultKind => ({ id, per, title, symptom, apply, ...(units ? { units } : {}) });
