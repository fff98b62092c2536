import type { FaultSet, FaultSets } from "../faults/sets.ts";

/** Probabilities of all single faults and pairs of a model, and of the triples that were looked at. Sums to one. */
export class Belief {
  readonly sets: FaultSets;
  /** by set of the model */
  readonly p: Float64Array;
  readonly triples: readonly FaultSet[];
  /** part of `p`, by single fault: that it is there and was silent on the drive */
  readonly silent: Float64Array;

  constructor(
    sets: FaultSets,
    p: Float64Array,
    triples: readonly FaultSet[] = [],
    silent: Float64Array = new Float64Array(sets.faults.length),
  ) {
    this.sets = sets;
    this.p = p;
    this.triples = triples;
    this.silent = silent;
  }

  /** Probability that a fault is present, alone or with others, in the order of the model's faults. */
  marginals(): Float64Array {
    const { faults, real } = this.sets;
    const m = this.p.slice(0, faults.length);
    let at = faults.length;
    for (let i = 0; i < real; i++)
      for (let j = i + 1; j < real; j++, at++) {
        const p = this.p[at] as number;
        m[i] = (m[i] as number) + p;
        m[j] = (m[j] as number) + p;
      }
    for (const t of this.triples) for (const i of t.members) m[i] = (m[i] as number) + t.probability;
    return m;
  }

  /**
   * Probability that any fault of a group is present: of two in one group it counts once.
   * @param groupOf - by position of the fault
   */
  byGroup(groupOf: (fault: number) => string): Map<string, number> {
    const { faults, real } = this.sets;
    const groups = Array.from({ length: faults.length }, (_, i) => groupOf(i));
    const out = new Map<string, number>();
    const add = (members: readonly number[], p: number) => {
      for (const g of new Set(members.map((i) => groups[i] as string))) out.set(g, (out.get(g) ?? 0) + p);
    };
    for (let i = 0; i < faults.length; i++) add([i], this.p[i] as number);
    for (let i = 0, at = faults.length; i < real; i++)
      for (let j = i + 1; j < real; j++, at++) add([i, j], this.p[at] as number);
    for (const t of this.triples) add(t.members, t.probability);
    return out;
  }

  /** The likeliest sets, until they hold a share of the whole. @param most - never more than so many */
  top(most: number, share = 1): FaultSet[] {
    const floor = 1e-7;
    const list: FaultSet[] = [...this.triples];
    for (let k = 0; k < this.p.length; k++) {
      const probability = this.p[k] as number;
      if (probability > floor) list.push({ members: [k], probability });
    }
    list.sort((a, b) => b.probability - a.probability);
    const out: FaultSet[] = [];
    let held = 0;
    for (const s of list) {
      if (out.length >= most || held >= share) break;
      held += s.probability;
      // of a pair the number of its set stands there until here
      out.push(s.members.length === 1 ? { ...s, members: this.sets.membersOf(s.members[0] as number) } : s);
    }
    return out;
  }

  /** Probability of exactly these faults. @param members - positions, in order */
  of(members: readonly number[]): number {
    const [i = 0, j] = members;
    if (members.length > 2) return this.triples.find((t) => t.members.join() === members.join())?.probability ?? 0;
    return this.p[j === undefined ? i : this.sets.pair(i, j)] as number;
  }

  best(): FaultSet {
    return this.top(1)[0] as FaultSet;
  }
}
