import { type Entry, type EntryBodies, type EntryKind, slotOf } from "../job/index.ts";

/** Id of the n-th entry of a made timeline. */
export const entryId = (n: number): string => `00000000-0000-4000-8000-${String(n).padStart(12, "0")}`;

/** An entry as a store would hand it out. @param seq - position on the timeline, from 1 */
export function madeEntry<K extends EntryKind>(seq: number, kind: K, body: EntryBodies[K]): Entry {
  const id = entryId(seq);
  return {
    id,
    seq,
    at: "2026-11-25T10:00:00.000Z",
    author: "A",
    source: "typed",
    kind,
    slot: slotOf(kind, body, id),
    body,
  } as Entry;
}

/** A timeline that numbers its entries as they are written. */
export function madeTimeline(): {
  entries: Entry[];
  write: <K extends EntryKind>(k: K, body: EntryBodies[K]) => Entry;
} {
  const entries: Entry[] = [];
  return {
    entries,
    write: (kind, body) => {
      const entry = madeEntry(entries.length + 1, kind, body);
      entries.push(entry);
      return entry;
    },
  };
}

/** Bodies that most tests want as they are. */
export const BODY = {
  intake: { complaint: "it slips", symptoms: [], doneAlready: "", recentEvents: "" } as EntryBodies["intake"],
  level: (state: EntryBodies["level"]["state"]): EntryBodies["level"] => ({
    state,
    method: "overflow",
    fluidC: 40,
    litresFromFull: null,
    engineRunning: true,
    note: "",
  }),
  code: (code: string, triage: EntryBodies["code"]["triage"]): EntryBodies["code"] => ({
    code,
    text: "",
    module: "",
    triage,
    reason: "",
  }),
  log: (role: "before" | "after", logId: string = role): EntryBodies["log"] => ({
    logId,
    fileName: "a.csv",
    bytes: 1,
    sha256: "abcdef0123456789",
    role,
  }),
  analysis: (logId: string, findings = 1): EntryBodies["analysis"] => ({ logId, findings, headline: "Gear 4 slips" }),
  check: {
    checkId: "pan",
    component: "unit",
    title: "Pan",
    outcome: "clean",
    outcomeLabel: "Clean",
    abnormal: false,
    minutes: 1,
    note: "",
  } as EntryBodies["check"],
  decision: {
    repairId: "fluid",
    title: "Fluid",
    reason: "r",
    expectedCost: 1,
    cures: 1,
    modelVersion: 1,
    odds: [],
    levelKnown: true,
  } as EntryBodies["decision"],
  work: (minutes: number): EntryBodies["work"] => ({ text: "Pan off", minutes, parts: [] }),
  proof: { beforeLogId: "before", afterLogId: "after", sentence: "gone", note: "" } as EntryBodies["proof"],
  handover: { remarks: "", followUps: [] } as EntryBodies["handover"],
};
