import type { RepairKind } from "../knowledge/index.ts";
import type { RelearnProcedure, Unit } from "../unit/index.ts";

export interface RelearnAdvice {
  /** required: before it is driven hard; drive-first: only when shifts stay outside their limits */
  readonly policy: "required" | "drive-first";
  readonly procedures: readonly RelearnProcedure[];
}

/** Repairs after which what the control unit has learned fits no longer. */
const RELEARNS: ReadonlySet<RepairKind["option"]> = new Set(["valve body", "rebuild", "exchange"]);
const RELEARNS_TOO: ReadonlySet<string> = new Set([
  "solenoid",
  "line-solenoid",
  "control-unit",
  "software",
  "release",
  "hydraulic-pump",
  "relearn",
]);

/**
 * Is a relearn due after these repairs? After parts that fill or grip it is; after a service it is driven first, for a reset
 * takes away what the owner is used to. Fluid that was burnt counts as a part.
 * @returns undefined when nothing was repaired that a control unit learns, or the unit file has no procedure
 */
export function relearnAfter(
  unit: Unit,
  repairs: readonly { readonly kindId: string; readonly option: RepairKind["option"] }[],
  fluidWasBurnt: boolean,
): RelearnAdvice | undefined {
  const procedures = unit.relearn ?? [];
  if (procedures.length === 0) return undefined;
  const kind = (r: (typeof repairs)[number]) => r.kindId.replace(/-again$/, "");
  const service = repairs.some((r) => r.option === "fluid service");
  if (repairs.some((r) => RELEARNS.has(r.option) || RELEARNS_TOO.has(kind(r))) || (service && fluidWasBurnt))
    return { policy: "required", procedures };
  return service ? { policy: "drive-first", procedures } : undefined;
}
