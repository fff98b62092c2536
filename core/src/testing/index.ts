export { BODY, entryId, madeEntry, madeTimeline } from "./entries.ts";
