import type { RepairKind } from "../knowledge/index.ts";
import type { RelearnProcedure, Unit } from "../unit/index.ts";

export interface RelearnAdvice {
  /** required: before it is driven hard; drive-first: only when shifts stay outside their limits */
  readonly policy: "required" | "drive-first";
  readonly procedures: readonly RelearnProcedure[];
}

/** Repairs after which what the control unit has learned fits no longer, where the unit file does not name its own. */
const RELEARNS: readonly string[] = [
  "valve body",
  "rebuild",
  "exchange",
  "solenoid",
  "line-solenoid",
  "control-unit",
  "software",
  "release",
  "hydraulic-pump",
  "relearn",
  "burnt fluid",
];
const SERVICE = "fluid service";
/** counts as a repair by this name */
const BURNT = "burnt fluid";

/**
 * Is a relearn due after these repairs? After parts that fill or grip it is; after a service it is driven first, for a reset
 * takes away what the owner is used to. Fluid that was burnt counts as a part. The unit file may name its own repairs and policy
 * for each procedure; those that are due stand first.
 * @returns undefined when nothing was repaired that a control unit learns, or the unit file has no procedure
 */
export function relearnAfter(
  unit: Unit,
  repairs: readonly { readonly kindId: string; readonly option: RepairKind["option"] }[],
  fluidWasBurnt: boolean,
  _learned: Readonly<Record<string, number>> = {},
): RelearnAdvice | undefined {
  const names = repairs.flatMap((r) => [r.kindId.replace(/-again$/, ""), r.option as string]);
  const service = names.includes(SERVICE);
  const done = service && fluidWasBurnt ? [...names, BURNT] : names;
  const policies = (unit.relearn ?? []).flatMap((procedure): { procedure: RelearnProcedure; due: boolean }[] => {
    const { policy = "after-repairs", afterRepairs = RELEARNS, kind } = procedure.machine ?? {};
    if (done.some((d) => afterRepairs.includes(d))) return [{ procedure, due: policy !== "drive-first" }];
    return service && kind !== "write-back" ? [{ procedure, due: policy === "required" }] : [];
  });
  if (policies.length === 0) return undefined;
  return {
    policy: policies.some((p) => p.due) ? "required" : "drive-first",
    procedures: policies.sort((a, b) => Number(b.due) - Number(a.due)).map((p) => p.procedure),
  };
}
