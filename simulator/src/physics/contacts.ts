/**
 * Dry friction between bodies, solved on speeds: each contact's impulse brings its slip to zero when its capacity is
 * enough, else it is the capacity against the slip. Sticking, slipping, tie-ups and elements that fight need no cases.
 * Source: Moreau, time stepping for unilateral contact; projected Gauss-Seidel.
 */
export class Contacts {
  private readonly size: number;
  private readonly count: number;
  /** count × size */
  private readonly vectors: Float64Array;
  /** M⁻¹ times each vector, count × size */
  private readonly response: Float64Array;
  /** vector · M⁻¹ · vector */
  private readonly weight: Float64Array;
  /** N·m·s of the last step, the start of the next */
  readonly impulse: Float64Array;

  /**
   * @param vectors - slip of contact c is vectors[c] · speeds
   * @param massInverse - size × size, row-major
   */
  constructor(vectors: readonly Float64Array[], massInverse: Float64Array, size: number) {
    this.size = size;
    this.count = vectors.length;
    this.vectors = new Float64Array(this.count * size);
    this.response = new Float64Array(this.count * size);
    this.weight = new Float64Array(this.count);
    this.impulse = new Float64Array(this.count);
    vectors.forEach((v, c) => {
      for (let i = 0; i < size; i++) {
        this.vectors[c * size + i] = v[i] as number;
        let sum = 0;
        for (let j = 0; j < size; j++) sum += (massInverse[i * size + j] as number) * (v[j] as number);
        this.response[c * size + i] = sum;
      }
      for (let i = 0; i < size; i++)
        this.weight[c] = (this.weight[c] as number) + (v[i] as number) * (this.response[c * size + i] as number);
    });
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
  solve(speeds: Float64Array, least: Float64Array, most: Float64Array, rounds: number): void {
    const { size, count, vectors, response, weight, impulse } = this;
    // the last step's impulses are near the answer
    for (let c = 0; c < count; c++) {
      const kept = Math.min(most[c] as number, Math.max(least[c] as number, impulse[c] as number));
      impulse[c] = kept;
      if (kept === 0) continue;
      for (let i = 0; i < size; i++) speeds[i] = (speeds[i] as number) + (response[c * size + i] as number) * kept;
    }
    for (let round = 0; round < rounds; round++) {
      let moved = 0;
      for (let c = 0; c < count; c++) {
        const lowest = least[c] as number;
        const highest = most[c] as number;
        const old = impulse[c] as number;
        if (lowest === 0 && highest === 0 && old === 0) continue;
        let slip = 0;
        for (let i = 0; i < size; i++) slip += (vectors[c * size + i] as number) * (speeds[i] as number);
        const wanted = old - slip / (weight[c] as number);
        const next = Math.max(lowest, Math.min(wanted, highest));
        const change = next - old;
        if (change === 0) continue;
        impulse[c] = next;
        for (let i = 0; i < size; i++) speeds[i] = (speeds[i] as number) + (response[c * size + i] as number) * change;
        const effect = Math.abs(change * (weight[c] as number));
        if (effect > moved) moved = effect;
      }
      if (moved < 1e-7) return;
    }
  }
}
