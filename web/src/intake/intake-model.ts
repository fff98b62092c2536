import type { NewJobInput } from "@gearsense/contract";

export type IntakeValue = NewJobInput["intake"];
export type SymptomValue = IntakeValue["symptoms"][number];

export const EMPTY_INTAKE: IntakeValue = { complaint: "", symptoms: [], doneAlready: "", recentEvents: "" };
export const NEW_SYMPTOM: SymptomValue = { kind: "slip", where: [], load: "any", temperature: "any", since: "" };

export const SYMPTOM_KINDS: readonly { value: SymptomValue["kind"]; label: string }[] = [
  { value: "slip", label: "Slips" },
  { value: "harsh", label: "Harsh shift" },
  { value: "late", label: "Late" },
  { value: "shudder", label: "Shudder" },
  { value: "limp", label: "Limp mode" },
  { value: "no-drive", label: "No drive" },
  { value: "noise", label: "Noise" },
  { value: "leak", label: "Leak" },
  { value: "warning-light", label: "Warning light" },
];

export const LOADS: readonly { value: SymptomValue["load"]; label: string }[] = [
  { value: "any", label: "Any load" },
  { value: "light", label: "Light" },
  { value: "steady", label: "Steady" },
  { value: "hard", label: "Hard" },
  { value: "coast", label: "Coast" },
];

export const TEMPERATURES: readonly { value: SymptomValue["temperature"]; label: string }[] = [
  { value: "any", label: "Cold or hot" },
  { value: "cold", label: "Cold" },
  { value: "hot", label: "Hot" },
];

/** Gears and shifts as a person writes them: "4, 2-3". @returns the parts, and those that are neither */
export function parseWhere(text: string): { where: string[]; wrong: string[] } {
  const parts = text.split(/[\s,;]+/).filter((p) => p !== "");
  const ok = (p: string) => /^(R|\d{1,2})(-(R|\d{1,2}))?$/i.test(p);
  return { where: parts.filter(ok).map((p) => p.toUpperCase()), wrong: parts.filter((p) => !ok(p)) };
}
