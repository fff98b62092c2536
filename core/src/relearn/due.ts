import type { RepairKind } from "../knowledge/index.ts";
import type { RelearnProcedure, Unit } from "../unit/index.ts";
import { learnedUsed } from "./learned.ts";

export interface RelearnAdvice {
  /**
   * required: before it is driven hard; drive-first: only when shifts stay outside their limits; leave: it was driven, and they lie
   * inside
   */
  readonly policy: "required" | "drive-first" | "leave";
  readonly procedures: readonly RelearnProcedure[];
  /** why, in a sentence; empty: by the unit file alone */
  readonly why: string;
}

/** What was read and driven of a vehicle after the repair, as far as it is known. */
export interface RelearnKnown {
  /** newest learned values, by the ids of the unit file */
  readonly learned?: Readonly<Record<string, number>> | undefined;
  /** shifts of drives since the work: those outside their limit by name, and how many were made in all */
  readonly shifts?: { readonly outside: readonly string[]; readonly made: number } | undefined;
}

/** So many shifts without one outside its limit say that the learned values fit. */
export const SHIFTS_ENOUGH = 10;
/** Values this far on the way to their limit are not those of sound new parts. */
const FITS_SHARE = 0.45;

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
 * for each procedure; those that are due stand first. What the unit file does not require gives way to what was read and driven:
 * learned values that fit new parts are driven first, shifts that lie inside their limits are left alone, one outside asks for it.
 * @returns undefined when nothing was repaired that a control unit learns, or the unit file has no procedure
 */
export function relearnAfter(
  unit: Unit,
  repairs: readonly { readonly kindId: string; readonly option: RepairKind["option"] }[],
  fluidWasBurnt: boolean,
  { learned, shifts }: RelearnKnown = {},
): RelearnAdvice | undefined {
  const names = repairs.flatMap((r) => [r.kindId.replace(/-again$/, ""), r.option as string]);
  const service = names.includes(SERVICE);
  const done = service && fluidWasBurnt ? [...names, BURNT] : names;
  const hits = (unit.relearn ?? []).flatMap((procedure) => {
    const { policy = "after-repairs", afterRepairs = RELEARNS, kind } = procedure.machine ?? {};
    const hit = done.some((d) => afterRepairs.includes(d));
    return hit || (service && kind !== "write-back")
      ? [{ procedure, due: hit && policy !== "drive-first", required: hit && policy === "required" }]
      : [];
  });
  if (hits.length === 0) return undefined;
  const procedures = hits.sort((a, b) => Number(b.due) - Number(a.due)).map((p) => p.procedure);
  if (hits.some((h) => h.required)) return { policy: "required", procedures, why: "" };
  if (shifts && shifts.outside.length > 0) {
    const why = `Shifts out of limits on the drive: ${shifts.outside.join(", ")}.`;
    return { policy: "required", procedures, why };
  }
  if (shifts && shifts.made >= SHIFTS_ENOUGH)
    return { policy: "leave", procedures, why: `${shifts.made} shifts since, all within limits.` };
  if (!hits.some((h) => h.due)) return { policy: "drive-first", procedures, why: "" };
  const values = (unit.adaptations ?? []).flatMap((a) => {
    const v = learned?.[a.id];
    return v === undefined ? [] : [{ name: a.name, used: learnedUsed(a, v) }];
  });
  const off = values.filter((v) => v.used >= FITS_SHARE);
  if (values.length > 0 && off.length === 0)
    return { policy: "drive-first", procedures, why: "The learned values fit new parts." };
  const why = off.length > 0 ? `Still learned from the old parts: ${off.map((v) => v.name).join(", ")}.` : "";
  return { policy: "required", procedures, why };
}
