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

export const HISTORY = [
  { value: "service", label: "Service" },
  { value: "fluid", label: "Fluid changed" },
  { value: "part", label: "Part swapped" },
  { value: "codes-cleared", label: "Codes cleared" },
  { value: "battery", label: "Battery off or new" },
  { value: "fuse", label: "Fuse pulled" },
] as const satisfies readonly { value: NonNullable<IntakeValue["history"]>[number]["kind"]; label: string }[];

export const EVENTS = [
  { value: "tow", label: "Towed" },
  { value: "impact", label: "Kerb, rock, crash" },
  { value: "flood", label: "Ford or flood" },
  { value: "engine-work", label: "Engine work" },
  { value: "more-power", label: "More power" },
] as const satisfies readonly { value: NonNullable<IntakeValue["events"]>[number]["kind"]; label: string }[];

export const DUTY = [
  { value: "tow", label: "Tows" },
  { value: "taxi", label: "Taxi, stop-and-go" },
  { value: "hills", label: "Hills" },
] as const satisfies readonly { value: NonNullable<IntakeValue["duty"]>[number]; label: string }[];

export const WISHES = [
  { value: "keep-long", label: "To keep it long" },
  { value: "cheap-and-safe", label: "Cheap and safe" },
  { value: "quick", label: "Needs it quickly" },
  { value: "sell-soon", label: "To sell it" },
  { value: "only-know", label: "Diagnosis only" },
] as const satisfies readonly { value: NonNullable<IntakeValue["wish"]>; label: string }[];

/** While no unit is chosen. */
export const USUAL_GEARS = ["1", "2", "3", "4", "5", "6", "7", "8", "R"];
