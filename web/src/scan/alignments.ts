import type { Analysis } from "@gearsense/core/drive";

export interface Alignment {
  readonly id: string;
  readonly label: string;
  /** what is added to the times of the other log, s */
  readonly shiftS: number;
}

/** Events that both logs have: their starts, the first of each kind of shift, the same finding. */
export function alignments(own: Analysis, other: Analysis): Alignment[] {
  const out: Alignment[] = [{ id: "start", label: "their starts", shiftS: 0 }];
  for (const name of new Set(own.shifts.map((s) => s.name))) {
    const [a, b] = [own, other].map((x) => x.shifts.find((s) => s.name === name && s.completed));
    if (a && b) out.push({ id: `shift:${name}`, label: `first shift ${name}`, shiftS: a.commandS - b.commandS });
  }
  for (const f of own.findings) {
    const twin = other.findings.find((g) => g.id === f.id);
    if (twin) out.push({ id: f.id, label: f.title, shiftS: f.startS - twin.startS });
  }
  return out;
}
