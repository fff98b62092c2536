import type { Evidence, SuspectModel } from "../suspect/index.ts";

/** Makes evidence that numbers itself, each piece an entry of its own. */
export function madeEvidence() {
  let n = 0;
  const item = (
    table: string,
    outcome: string,
    subject: Evidence["subject"] = {},
    abnormal = true,
    afterRepairs = 0,
  ): Evidence => ({
    id: `e${++n}`,
    table,
    subject,
    outcome,
    label: `${table} ${outcome} ${Object.values(subject).join()}`,
    entryId: `entry-${n}`,
    abnormal,
    ...(afterRepairs > 0 ? { afterRepairs } : {}),
  });
  const gear = (name: string, outcome: "slips" | "holds", afterRepairs = 0) =>
    item("gear", outcome, { gear: name }, outcome === "slips", afterRepairs);
  const tried = (
    checkId: string,
    outcome: "no-change" | "better" | "gone" = "no-change",
    afterRepairs = 0,
  ): Evidence => ({
    ...item("tried", outcome, { component: checkId.split(":")[1] ?? "unit" }, false, afterRepairs),
    checkId,
  });
  return { item, gear, tried };
}

/** Position of a fault in its model. @throws Error when the unit cannot have it */
export function faultAt(model: SuspectModel, id: string): number {
  const at = model.faults.findIndex((f) => f.id === id);
  if (at < 0) throw new Error(`no fault ${id}`);
  return at;
}
