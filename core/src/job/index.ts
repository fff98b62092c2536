export type {
  BenchChosen,
  BenchValue,
  Debris,
  DebrisKind,
  DutyKind,
  Entry,
  EntryBodies,
  EntryKind,
  EntryOf,
  EstimateLine,
  EventKind,
  FeltMark,
  FeltOutcome,
  HistoryKind,
  MeasuredValue,
  PhotoPatch,
  Situation,
  Sureness,
  Symptom,
  Wish,
} from "./entries.ts";
export { codeKey, FELT_OUTCOMES, outcomesAt, SITUATIONS, slotOf } from "./entries.ts";
export type { JobState, Stage } from "./fold.ts";
export { currentInSlot, foldJob, STAGES, supersededIds, untouched } from "./fold.ts";
export { SYMPTOM_WORDS } from "./symptom-words.ts";
