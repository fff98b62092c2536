export type { Entry, EntryBodies, EntryKind, EntryOf, Symptom } from "./entries.ts";
export { slotOf } from "./entries.ts";
export type { JobState, Stage } from "./fold.ts";
export { currentInSlot, foldJob, STAGES, supersededIds } from "./fold.ts";
