import type { Recording } from "../../log/index.ts";
import { learnedUsed } from "../../relearn/index.ts";
import type { Unit } from "../../unit/index.ts";

/** A learned value over the drive, against the limits of the unit file. */
export interface AdaptationValue {
  readonly id: string;
  readonly name: string;
  readonly component: string;
  readonly unit: string;
  readonly first: number;
  readonly last: number;
  readonly limits: readonly [number, number];
  /** that of a new unit */
  readonly newValue: number;
  /** way from the new value to the nearer limit that is used up: 1 = at the limit, over 1 = beyond it */
  readonly used: number;
}

/** Values of the channels `adapt_<id>` that the unit file knows. */
export function readAdaptations(recording: Recording, unit: Unit): AdaptationValue[] {
  return (unit.adaptations ?? []).flatMap((a): AdaptationValue[] => {
    const values = recording.channels.get(`adapt_${a.id}`)?.values.filter((v) => v - v === 0);
    const [first] = values ?? [];
    const last = values?.at(-1);
    if (first === undefined || last === undefined) return [];
    const used = learnedUsed(a, last);
    return [
      {
        id: a.id,
        name: a.name,
        component: a.component,
        unit: a.unit,
        first,
        last,
        limits: a.limits,
        newValue: a.newValue,
        used: Number.isFinite(used) ? used : 99,
      },
    ];
  });
}
