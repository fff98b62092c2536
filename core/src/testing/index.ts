export { BODY, entryId, madeEntry, madeTimeline } from "./entries.ts";
export { madeEvidence } from "./evidence.ts";
