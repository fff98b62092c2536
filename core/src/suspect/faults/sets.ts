import type { Fault } from "./instances.ts";

/** A set of faults with its probability. */
export interface FaultSet {
  /** positions in the faults */
  readonly members: readonly number[];
  readonly probability: number;
}

/** All single faults and pairs, numbered: the singles first, then the pairs of those that form pairs. */
export class FaultSets {
  readonly faults: readonly Fault[];
  /** how many of the faults form pairs; those stand first */
  readonly real: number;

  constructor(faults: readonly Fault[], real: number) {
    this.faults = faults;
    this.real = real;
  }

  get count(): number {
    return this.faults.length + (this.real * (this.real - 1)) / 2;
  }

  /** Faults of a set, as positions. */
  membersOf(set: number): readonly number[] {
    if (set < this.faults.length) return [set];
    let rest = set - this.faults.length;
    for (let i = 0; i < this.real; i++) {
      const row = this.real - 1 - i;
      if (rest < row) return [i, i + 1 + rest];
      rest -= row;
    }
    throw new Error(`no set ${set}`);
  }

  /** Number of a pair. @param i @param j - i below j */
  pair(i: number, j: number): number {
    return this.faults.length + i * this.real - (i * (i + 1)) / 2 + (j - i - 1);
  }
}
