import type { Unit } from "@gearsense/core/unit";

/** Hands the unit to the browser as its file. */
export function saveUnitFile(unit: Unit): void {
  const url = URL.createObjectURL(new Blob([`${JSON.stringify(unit, null, 2)}\n`], { type: "application/json" }));
  const link = document.createElement("a");
  link.href = url;
  link.download = `${unit.id}.unit.json`;
  link.click();
  URL.revokeObjectURL(url);
}
