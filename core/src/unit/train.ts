/**
 * How the gears of a unit are put together. A node is `input`, `output`, `case`, a named shaft, or a member of a set
 * such as `P1.sun`. Speeds are relative to the case; those of parallel shafts are counted in the sense in which each
 * turns in a forward gear, so that a pair of gears keeps the sign and an idler turns it.
 */
export interface PlanetarySet {
  readonly id: string;
  /** single: one planet between sun and ring; double: two that mesh with each other */
  readonly kind: "single" | "double";
  readonly sunTeeth: number;
  readonly ringTeeth: number;
  readonly planets: number;
}

/** Two gears on parallel shafts. */
export interface GearPair {
  readonly id: string;
  readonly driver: string;
  readonly driven: string;
  readonly driverTeeth: number;
  readonly drivenTeeth: number;
  /** an idler between them turns the sense, as in reverse */
  readonly idler?: boolean | undefined;
}

export interface GearTrain {
  readonly sets: readonly PlanetarySet[];
  readonly pairs?: readonly GearPair[] | undefined;
  /** permanent joints of two nodes */
  readonly links: readonly (readonly [string, string])[];
}

/** Two nodes that an applied element makes one; a brake names `case`. */
export interface Joint {
  readonly id: string;
  readonly joins: readonly [string, string];
}

export const MEMBERS = ["sun", "ring", "carrier"] as const;
const FIXED = "case";

/** Every node of a train, the joints' own shafts included, in a fixed order. */
export function nodesOf(train: GearTrain, joints: readonly Joint[] = []): string[] {
  const nodes = new Set<string>(["input", "output", FIXED]);
  for (const s of train.sets) for (const m of MEMBERS) nodes.add(`${s.id}.${m}`);
  for (const p of train.pairs ?? []) nodes.add(p.driver).add(p.driven);
  for (const [a, b] of train.links) nodes.add(a).add(b);
  for (const j of joints) for (const n of j.joins) nodes.add(n);
  return [...nodes];
}

/**
 * Willis' equations of a train: coefficients of the node speeds of each set and pair, whose sum is zero.
 * single: Ns·ω_s + Nr·ω_r − (Ns + Nr)·ω_c; double: Nr·ω_r − Ns·ω_s − (Nr − Ns)·ω_c; pair: N1·ω_1 − N2·ω_2, with an idler N1·ω_1 + N2·ω_2.
 * Source: Willis' equation of each planetary set.
 */
export function equationsOf(train: GearTrain): { readonly id: string; readonly terms: ReadonlyMap<string, number> }[] {
  const sets = train.sets.map((s) => {
    const sun = s.kind === "single" ? s.sunTeeth : -s.sunTeeth;
    return {
      id: s.id,
      terms: new Map([
        [`${s.id}.sun`, sun],
        [`${s.id}.ring`, s.ringTeeth],
        [`${s.id}.carrier`, -(sun + s.ringTeeth)],
      ]),
    };
  });
  const pairs = (train.pairs ?? []).map((p) => ({
    id: p.id,
    terms: new Map([
      [p.driver, p.driverTeeth],
      [p.driven, p.idler ? p.drivenTeeth : -p.drivenTeeth],
    ]),
  }));
  return [...sets, ...pairs];
}

/** Joins nodes into shafts: links always, joints when applied. */
export class Shafts {
  private readonly parent = new Map<string, string>();

  constructor(nodes: readonly string[]) {
    for (const n of nodes) this.parent.set(n, n);
  }

  /** The node that stands for the whole shaft. */
  of(node: string): string {
    let at = node;
    for (let up = this.parent.get(at); up !== undefined && up !== at; up = this.parent.get(at)) at = up;
    return at;
  }

  /** @returns false when the two were one shaft already */
  join(a: string, b: string): boolean {
    const [one, other] = [this.of(a), this.of(b)];
    if (one === other) return false;
    // input, output and case stand for their shafts
    const named = (n: string) => ["input", "output", FIXED].indexOf(n);
    if (named(other) > named(one)) this.parent.set(one, other);
    else this.parent.set(other, one);
    return true;
  }
}
