/**
 * One piece of evidence against every fault. Several faults at once share an outcome by a noisy-or against what it would
 * be without any (Pearl 1988; with more than two outcomes the abnormal ones share what is not usual in proportion to
 * 1 − Π(1 − p)). A single fault keeps its own row.
 */
export class Column {
  /** P(outcome | fault alone) */
  readonly p: Float64Array;
  /** P(the usual outcome | fault alone) */
  private readonly usual: Float64Array;
  private readonly p0: number;
  private readonly usual0: number;
  private readonly isUsual: boolean;
  private readonly together: "either" | "repair" | undefined;
  private readonly drive: boolean;
  private readonly power: number;
  /** of a repair: P(all is well | fault alone) */
  private readonly gone: Float64Array;
  private readonly isGone: boolean;
  /** the other abnormal outcomes, of tables with more than two */
  private readonly others: readonly { readonly p: Float64Array; readonly p0: number }[];

  /**
   * @param rows - distribution over the outcomes for each fault
   * @param otherwise - the same without any fault; its likeliest outcome is the usual one
   * @param weight - 0…1, how far the evidence is believed
   * @param together - how several faults share it; see {@link LikelihoodTable}
   * @param drive - seen on the drive, on which a fault may be silent
   * @param power - 0…1, exponent: things that come and go together count less than one by one
   */
  constructor(
    rows: readonly Readonly<Record<string, number>>[],
    otherwise: Readonly<Record<string, number>>,
    outcome: string,
    weight: number,
    together: "either" | "repair" | undefined,
    drive = false,
    power = 1,
  ) {
    const names = Object.keys(otherwise);
    const usual = names.reduce((a, b) => ((otherwise[b] as number) > (otherwise[a] as number) ? b : a));
    const of = (name: string) =>
      Float64Array.from(
        rows,
        (r) => weight * (r[name] ?? (otherwise[name] as number)) + (1 - weight) * (otherwise[name] as number),
      );
    this.p = of(outcome);
    this.p0 = otherwise[outcome] as number;
    this.usual = of(usual);
    this.usual0 = otherwise[usual] as number;
    this.isUsual = outcome === usual;
    this.together = together;
    this.drive = drive;
    this.power = power;
    this.gone = together === "repair" ? of(GONE) : NONE;
    this.isGone = outcome === GONE;
    this.others =
      this.isUsual || together
        ? []
        : names.filter((n) => n !== usual && n !== outcome).map((n) => ({ p: of(n), p0: otherwise[n] as number }));
  }

  /** P(outcome | all these faults), to its power. */
  of(members: readonly number[]): number {
    const p = this.plain(members);
    return this.power === 1 ? p : p ** this.power;
  }

  private plain(members: readonly number[]): number {
    if (members.length === 0) return this.p0;
    if (members.length === 1) return this.p[members[0] as number] as number;
    if (this.together === "repair") {
      const product = (of: Float64Array) => members.reduce((q, i) => q * (of[i] as number), 1);
      const [nothing, all] = [product(this.usual), product(this.gone)];
      if (this.isGone) return all;
      // some of it is cured: it is noticed, or what is left hides it
      return (this.isUsual ? nothing : 0) + (1 - nothing - all) / 2;
    }
    if (this.together === "either") return members.reduce((s, i) => s + (this.p[i] as number), 0) / members.length;
    let usual = this.usual0;
    let highest = 0;
    for (const i of members) {
      usual *= (this.usual[i] as number) / this.usual0;
      highest = Math.max(highest, this.usual[i] as number);
    }
    usual = Math.min(usual, highest);
    if (this.isUsual) return usual;
    if (this.others.length === 0) return 1 - usual;
    const mine = noisyOr(this.p, this.p0, members);
    let all = mine;
    for (const o of this.others) all += noisyOr(o.p, o.p0, members);
    return ((1 - usual) * mine) / all;
  }

  /** Multiplies the weights of faults that are silent on the drive. @param w - by single fault */
  multiplySilent(w: Float64Array): void {
    for (let i = 0; i < w.length; i++)
      w[i] = (w[i] as number) * (this.drive ? this.p0 : (this.p[i] as number)) ** this.power;
  }

  /** Multiplies the weight of every set by its likelihood. @param real - faults that form pairs; @param singles - length of the first part of `w` */
  multiply(w: Float64Array, real: number, singles: number): void {
    const { p, usual, usual0, isUsual, together, others, power } = this;
    for (let i = 0; i < singles; i++) w[i] = (w[i] as number) * (p[i] as number) ** power;
    let at = singles;
    if (!together && others.length > 0) {
      this.multiplyShared(w, real, singles);
      return;
    }
    if (together) {
      const pair = [0, 0];
      for (let i = 0; i < real; i++)
        for (let j = i + 1; j < real; j++, at++) {
          pair[0] = i;
          pair[1] = j;
          w[at] = (w[at] as number) * this.of(pair);
        }
      return;
    }
    for (let i = 0; i < real; i++) {
      const ui = usual[i] as number;
      const ri = ui / usual0;
      for (let j = i + 1; j < real; j++, at++) {
        const uj = usual[j] as number;
        const u = Math.min(ri * uj, Math.max(ui, uj));
        const x = isUsual ? u : 1 - u;
        w[at] = (w[at] as number) * (power === 1 ? x : x ** power);
      }
    }
  }

  /**
   * {@link of} for some of the sets: of many at once it is cheaper for all.
   * @param kept - their positions, `members` - their faults
   */
  ofSets(
    kept: readonly number[],
    members: readonly (readonly number[])[],
    sets: { readonly count: number; readonly real: number; readonly faults: readonly unknown[] },
  ): Float64Array {
    if (kept.length * MANY < sets.count) return Float64Array.from(members, (m) => this.of(m));
    const all = new Float64Array(sets.count).fill(1);
    this.multiply(all, sets.real, sets.faults.length);
    return Float64Array.from(kept, (k) => all[k] as number);
  }

  /** {@link multiply} of the pairs for an outcome that shares what is not usual with others: {@link of}, without a list for each pair. */
  private multiplyShared(w: Float64Array, real: number, singles: number): void {
    const { p, p0, usual, usual0, others, power } = this;
    let at = singles;
    for (let i = 0; i < real; i++) {
      const pi = p[i] as number;
      const ui = usual[i] as number;
      for (let j = i + 1; j < real; j++, at++) {
        const uj = usual[j] as number;
        const u = Math.min((ui * uj) / usual0, Math.max(ui, uj));
        const mine = ofTwo(pi, p[j] as number, p0);
        let all = mine;
        for (const o of others) all += ofTwo(o.p[i] as number, o.p[j] as number, o.p0);
        const x = ((1 - u) * mine) / all;
        w[at] = (w[at] as number) * (power === 1 ? x : x ** power);
      }
    }
  }
}

/** Outcome of a repair. */
export const GONE = "gone";
const NONE = new Float64Array(0);

/** Sets one by one cost so many times as much as all of them together. */
const MANY = 12;

/** {@link noisyOr} of two. */
const ofTwo = (a: number, b: number, p0: number): number =>
  Math.max(1 - ((1 - a) * (1 - b)) / (1 - p0), Math.min(a, b));

/** 1 − Π (1 − p) against what is there without any fault; never below the least of the faults alone. */
function noisyOr(p: Float64Array, p0: number, members: readonly number[]): number {
  let not = 1 - p0;
  let least = 1;
  for (const i of members) {
    not *= (1 - (p[i] as number)) / (1 - p0);
    least = Math.min(least, p[i] as number);
  }
  return Math.max(1 - not, least);
}
