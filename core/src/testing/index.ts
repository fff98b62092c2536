export { BODY, entryId, madeEntry, madeTimeline } from "./entries.ts";
export { faultAt, madeEvidence } from "./evidence.ts";
