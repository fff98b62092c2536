import type { Entry } from "./entries.ts";
import { supersededIds } from "./fold.ts";

/** Longer texts of one job are cut: nobody searches for what stands beyond. */
const MOST_LETTERS = 20_000;
/** Kinds whose text the head of a job holds already, or that hold none that anybody wrote. */
const LEFT_OUT: ReadonlySet<Entry["kind"]> = new Set([
  "intake",
  "identity",
  "analysis",
  "retraction",
  "plan",
  "tray",
  "sources",
  "assigned",
  "promise",
]);
/** Fields that name things by ids, choices and times, not by words. */
const NO_WORDS =
  /^(id|.*Id|.*Ids|step|kind|about|state|outcome|colour|smell|cloudiness|blot|role|triage|rung|place|how|saw|deed|status|signature|weight|load|temperature|modelVersion|seed)$/;

function collect(value: unknown, into: Set<string>): void {
  if (typeof value === "string") {
    if (value.trim() !== "") into.add(value.trim());
  } else if (Array.isArray(value)) for (const v of value) collect(v, into);
  else if (typeof value === "object" && value !== null)
    for (const [key, v] of Object.entries(value)) if (!NO_WORDS.test(key)) collect(v, into);
}

/** What was written on a timeline and stands: codes, notes, checks, captions, parts, reasons, file names; one text to be searched. */
export function wordsOf(entries: readonly Entry[]): string {
  const { retracted, replaced } = supersededIds(entries);
  const found = new Set<string>();
  for (const e of entries)
    if (!LEFT_OUT.has(e.kind) && !retracted.has(e.id) && !replaced.has(e.id)) collect(e.body, found);
  return [...found].join("\n").slice(0, MOST_LETTERS);
}
