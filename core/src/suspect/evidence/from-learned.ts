import { learnedEvidence } from "../../drive/index.ts";
import type { JobState } from "../../job/index.ts";
import { learnedUsed } from "../../relearn/index.ts";
import type { Unit } from "../../unit/index.ts";
import type { Evidence } from "./evidence.ts";

/** What a value beyond any limit counts as: an infinite way cannot be ordered. */
const MOST_USED = 99;

/**
 * Learned values that were read by themselves, or before a relearn, speak as those of a log do: the newest reading before the first
 * work on the unit. What a relearn has left says how the new parts are, and proves.
 */
export function fromLearned(unit: Unit, state: JobState): Evidence[] {
  const worked = Math.min(...[...state.work, ...state.tried].map((e) => e.seq));
  const readings = [
    ...state.learned.map((e) => ({ id: e.id, seq: e.seq, values: e.body.values })),
    ...state.relearns.map((e) => ({ id: e.id, seq: e.seq, values: e.body.before })),
  ]
    .filter((r) => r.seq < worked && Object.keys(r.values).length > 0)
    .sort((a, b) => a.seq - b.seq);
  // a second look at values that a relearn has changed meanwhile says nothing of the old ones
  const relearned = Math.min(...state.relearns.filter((r) => r.body.outcome === "done").map((r) => r.seq));
  const reading = readings.findLast((r) => r.seq <= relearned);
  if (!reading) return [];
  const values = (unit.adaptations ?? []).flatMap((a) => {
    const last = reading.values[a.id];
    if (last === undefined) return [];
    const { id, name, component, newValue } = a;
    return [{ id, name, component, newValue, last, used: Math.min(MOST_USED, learnedUsed(a, last)) }];
  });
  const list: Evidence[] = [];
  learnedEvidence(unit, values, (table, key, subject, outcome, label, abnormal) =>
    list.push({ id: `learned:${key}`, table, subject, outcome, label, entryId: reading.id, abnormal }),
  );
  return list;
}
