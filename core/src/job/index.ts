export type { EntryBodies } from "./bodies.ts";
export type { Entry, EntryKind, EntryOf } from "./entries.ts";
export { codeKey, slotOf } from "./entries.ts";
export type { JobState, Stage } from "./fold.ts";
export { currentInSlot, foldJob, STAGES, supersededIds, untouched } from "./fold.ts";
export { SYMPTOM_WORDS } from "./symptom-words.ts";
export type {
  BenchChosen,
  BenchValue,
  Debris,
  DebrisKind,
  DutyKind,
  EstimateLine,
  EventKind,
  FeltMark,
  FeltOutcome,
  HistoryKind,
  LogRole,
  MeasuredValue,
  PhotoPatch,
  Situation,
  Sureness,
  Symptom,
  Wish,
} from "./vocabulary.ts";
export { FELT_OUTCOMES, LOG_ROLES, outcomesAt, SITUATIONS } from "./vocabulary.ts";
export { wordsOf } from "./words.ts";
