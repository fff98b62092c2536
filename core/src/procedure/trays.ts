import type { TrayCell, Unit } from "../unit/index.ts";
import type { Plan, PlanStep } from "./compose.ts";

export interface Cell {
  readonly id: string;
  readonly name: string;
  readonly kind: TrayCell["kind"];
  readonly atMm: readonly [number, number];
  readonly lengthMm: number | undefined;
  /** lies in another length than most of its kind */
  readonly other: boolean;
  readonly note: string;
}

export interface Tray {
  /** key of the step that fills it */
  readonly step: string;
  readonly title: string;
  readonly cells: readonly Cell[];
}

/** The step that took off what a step puts back; itself when it takes off. */
const removalOf = (plan: Plan, step: PlanStep): PlanStep | undefined =>
  step.undoneKey === undefined ? step : plan.steps.find((s) => s.key === step.undoneKey);

/**
 * The map of what a step takes off, or puts back: a cell for every bolt whose place the unit file gives, and for every valve,
 * spring and ball of the tray that the step names. Undefined when there is nothing to lay out.
 */
export function trayOf(unit: Unit, plan: Plan, step: PlanStep): Tray | undefined {
  const removal = removalOf(plan, step);
  if (!removal || !(removal.removes || removal.opens)) return undefined;
  const bolts = (unit.fasteners ?? []).filter((f) => removal.fasteners?.includes(f.id) && f.positionsMm !== undefined);
  const lengths = bolts.map((f) => f.lengthMm);
  const usual = lengths.find((l) => lengths.filter((x) => x === l).length > lengths.length / 2) ?? bolts[0]?.lengthMm;
  const cells: Cell[] = bolts.flatMap((f) =>
    (f.positionsMm ?? []).map((atMm, i) => ({
      id: `${f.id}-${i + 1}`,
      name: `${f.name} ${i + 1}`,
      kind: "bolt" as const,
      atMm,
      lengthMm: f.lengthMm,
      other: f.lengthMm !== usual,
      note: `${f.thread} × ${f.lengthMm}`,
    })),
  );
  const own = unit.trays?.find((t) => t.id === removal.tray);
  for (const c of own?.cells ?? [])
    cells.push({
      id: c.id,
      name: c.name,
      kind: c.kind,
      atMm: c.atMm,
      lengthMm: c.lengthMm,
      other: false,
      note: c.note ?? "",
    });
  return cells.length === 0 ? undefined : { step: removal.key, title: removal.title, cells };
}

/** Names of what still lies in a tray when its step is to put everything back; empty when nothing does. */
export function leftInTray(unit: Unit, plan: Plan, step: PlanStep, full: readonly string[] | undefined): string[] {
  if (step.undoes === undefined || !full || full.length === 0) return [];
  const tray = trayOf(unit, plan, step);
  return full.map((id) => tray?.cells.find((c) => c.id === id)?.name ?? id);
}
