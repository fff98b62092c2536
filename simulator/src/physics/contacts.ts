import { inverse } from "./mechanism.ts";

/** below it a slip doesn't count, rad/s */
const TINY = 1e-9;
/** round-off of an impulse at its bound, N·m·s */
const ROUND_OFF = 1e-13;
const PIVOTS = 12;
const SWEEPS = 80;

/**
 * Dry friction between bodies, solved on speeds: each contact's impulse brings its slip to zero when its capacity is
 * enough, else it is the capacity against the slip. Sticking, slipping, tie-ups and elements that fight need no cases.
 * The set that stuck in the last step is tried first and solved exactly; contacts that do not agree change sides; where
 * that does not settle (more contacts stick than there are freedoms) impulses are relaxed one by one.
 * Source: Moreau, time stepping for unilateral contact; block pivoting, Júdice and Pires; projected Gauss-Seidel.
 */
export class Contacts {
  private readonly size: number;
  private readonly count: number;
  /** count × size */
  private readonly vectors: Float64Array;
  /** M⁻¹ times each vector, count × size */
  private readonly response: Float64Array;
  /** vector · M⁻¹ · vector, count × count */
  private readonly coupling: Float64Array;
  /** N·m·s of the last step, the start of the next */
  readonly impulse: Float64Array;
  /** slip of each contact after the last step, rad/s */
  readonly slips: Float64Array;
  /** slip before friction */
  private readonly free: Float64Array;
  /** 0 sticks, 1 at most, −1 at least, 2 carries nothing */
  private readonly side: Int8Array;
  private readonly members: Int32Array;
  private readonly scratch: Float64Array;
  private readonly inverses = new Map<number, Float64Array | null>();

  /**
   * @param vectors - slip of contact c is vectors[c] · speeds
   * @param massInverse - size × size, row-major
   */
  constructor(vectors: readonly Float64Array[], massInverse: Float64Array, size: number) {
    const count = vectors.length;
    this.size = size;
    this.count = count;
    this.vectors = new Float64Array(count * size);
    this.response = new Float64Array(count * size);
    this.coupling = new Float64Array(count * count);
    this.impulse = new Float64Array(count);
    this.slips = new Float64Array(count);
    this.free = new Float64Array(count);
    this.side = new Int8Array(count);
    this.members = new Int32Array(count);
    this.scratch = new Float64Array(count);
    vectors.forEach((v, c) => {
      for (let i = 0; i < size; i++) {
        this.vectors[c * size + i] = v[i] as number;
        let sum = 0;
        for (let j = 0; j < size; j++) sum += (massInverse[i * size + j] as number) * (v[j] as number);
        this.response[c * size + i] = sum;
      }
    });
    for (let a = 0; a < count; a++)
      for (let b = 0; b < count; b++) {
        let sum = 0;
        for (let i = 0; i < size; i++)
          sum += (this.vectors[a * size + i] as number) * (this.response[b * size + i] as number);
        this.coupling[a * count + b] = sum;
      }
  }

  slip(contact: number, speeds: Float64Array): number {
    let sum = 0;
    const at = contact * this.size;
    for (let i = 0; i < this.size; i++) sum += (this.vectors[at + i] as number) * (speeds[i] as number);
    return sum;
  }

  /**
   * Applies the friction of one step to the speeds, in place.
   * @param least - smallest impulse of each contact, N·m·s; 0 for a one-way clutch that holds positive slip back only
   * @param most - largest impulse of each contact
   */
  solve(speeds: Float64Array, least: Float64Array, most: Float64Array): void {
    const { size, count, vectors, response, impulse, slips, free, side } = this;
    for (let c = 0; c < count; c++) {
      if ((most[c] as number) === 0 && (least[c] as number) === 0) side[c] = 2;
      else if (side[c] === 2) side[c] = 0;
      let sum = 0;
      const at = c * size;
      for (let i = 0; i < size; i++) sum += (vectors[at + i] as number) * (speeds[i] as number);
      free[c] = sum;
    }
    const settled = this.pivot(least, most);
    if (!settled) this.relax(least, most);
    for (let c = 0; c < count; c++) {
      const p = impulse[c] as number;
      if (p === 0) continue;
      const at = c * size;
      for (let i = 0; i < size; i++) speeds[i] = (speeds[i] as number) + (response[at + i] as number) * p;
    }
    // a settled round has left the slip of every contact that carries something
    for (let c = 0; c < count; c++) if (!settled || side[c] === 2) slips[c] = this.slipAfter(c);
  }

  private slipAfter(c: number): number {
    const { count, coupling, impulse } = this;
    let sum = this.free[c] as number;
    const at = c * count;
    for (let k = 0; k < count; k++) sum += (coupling[at + k] as number) * (impulse[k] as number);
    return sum;
  }

  /** @returns false when no set of sticking contacts agrees with its bounds */
  private pivot(least: Float64Array, most: Float64Array): boolean {
    const { count, coupling, impulse, slips, free, side, members } = this;
    for (let round = 0; round < PIVOTS; round++) {
      let stuck = 0;
      let mask = 0;
      for (let c = 0; c < count; c++) {
        const s = side[c] as number;
        if (s === 0) {
          members[stuck++] = c;
          mask |= 1 << c;
        } else impulse[c] = s === 1 ? (most[c] as number) : s === -1 ? (least[c] as number) : 0;
      }
      const inverseOf = this.inverseFor(mask, stuck);
      if (!inverseOf) return false;
      for (let a = 0; a < stuck; a++) {
        const c = members[a] as number;
        let sum = free[c] as number;
        const at = c * count;
        for (let k = 0; k < count; k++)
          if (side[k] === 1 || side[k] === -1) sum += (coupling[at + k] as number) * (impulse[k] as number);
        this.scratch[a] = sum;
      }
      for (let a = 0; a < stuck; a++) {
        let sum = 0;
        for (let b = 0; b < stuck; b++) sum -= (inverseOf[a * stuck + b] as number) * (this.scratch[b] as number);
        impulse[members[a] as number] = sum;
      }
      let agreed = true;
      for (let c = 0; c < count; c++) {
        const s = side[c] as number;
        if (s === 2) continue;
        if (s === 0) {
          const p = impulse[c] as number;
          slips[c] = 0;
          if (p > (most[c] as number) + ROUND_OFF) {
            side[c] = 1;
            agreed = false;
          } else if (p < (least[c] as number) - ROUND_OFF) {
            side[c] = -1;
            agreed = false;
          }
        } else {
          const slip = this.slipAfter(c);
          slips[c] = slip;
          if (s === 1 ? slip > TINY : slip < -TINY) {
            side[c] = 0;
            agreed = false;
          }
        }
        // late rounds move one contact at a time: that cannot go in circles with others
        if (!agreed && round > 5) break;
      }
      if (agreed) return true;
    }
    return false;
  }

  private inverseFor(mask: number, stuck: number): Float64Array | null {
    const kept = this.inverses.get(mask);
    if (kept !== undefined) return kept;
    const part = new Float64Array(stuck * stuck);
    let scale = 0;
    for (let a = 0; a < stuck; a++)
      for (let b = 0; b < stuck; b++) {
        const g = this.coupling[(this.members[a] as number) * this.count + (this.members[b] as number)] as number;
        part[a * stuck + b] = g;
        if (a === b) scale = Math.max(scale, g);
      }
    let made: Float64Array | null = null;
    try {
      made = inverse(part, stuck);
      // nearly singular: more stick than there are freedoms
      if (made.some((x) => Math.abs(x) * scale > 1e9)) made = null;
    } catch (error) {
      if (!(error instanceof RangeError)) throw error;
    }
    this.inverses.set(mask, made);
    return made;
  }

  private relax(least: Float64Array, most: Float64Array): void {
    const { count, coupling, impulse, side } = this;
    for (let c = 0; c < count; c++)
      impulse[c] = Math.min(most[c] as number, Math.max(least[c] as number, impulse[c] as number));
    for (let sweep = 0; sweep < SWEEPS; sweep++) {
      let moved = 0;
      for (let c = 0; c < count; c++) {
        if (side[c] === 2) continue;
        const weight = coupling[c * count + c] as number;
        const old = impulse[c] as number;
        const wanted = old - this.slipAfter(c) / weight;
        const next = Math.max(least[c] as number, Math.min(wanted, most[c] as number));
        if (next === old) continue;
        impulse[c] = next;
        moved = Math.max(moved, Math.abs(next - old) * weight);
      }
      if (moved < 1e-6) break;
    }
    for (let c = 0; c < count; c++) {
      if (side[c] === 2) continue;
      const p = impulse[c] as number;
      side[c] = p >= (most[c] as number) - TINY ? 1 : p <= (least[c] as number) + TINY ? -1 : 0;
    }
  }
}
