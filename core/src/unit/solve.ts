import { reduceRows } from "./reduce.ts";
import { equationsOf, type GearTrain, type Joint, nodesOf, Shafts } from "./train.ts";

export type TrainState =
  | {
      readonly kind: "gear";
      /** ω_in / ω_out */
      readonly ratio: number;
      /** speed of each node at input speed 1; undefined where nothing holds the node */
      readonly speeds: ReadonlyMap<string, number | undefined>;
    }
  | { readonly kind: "neutral"; readonly speeds: ReadonlyMap<string, number | undefined> }
  /** nothing can turn: `input` when the input stands, `output` when the input turns and the output cannot */
  | { readonly kind: "tie-up"; readonly locked: "input" | "output" };

/**
 * Speeds of a train with some elements applied. Node speeds obey the equations of sets and pairs; joined nodes share one
 * speed; the case stands. The input comes last among the unknowns, the output before it: a gear is an output that the
 * input alone settles.
 * @param released - their nodes are reported too
 * Source: Willis' equation of each planetary set.
 */
export function solveTrain(train: GearTrain, applied: readonly Joint[], released: readonly Joint[] = []): TrainState {
  const nodes = nodesOf(train, [...applied, ...released]);
  const shafts = new Shafts(nodes);
  for (const [a, b] of train.links) shafts.join(a, b);
  for (const j of applied) shafts.join(j.joins[0], j.joins[1]);
  const fixed = shafts.of("case");
  const input = shafts.of("input");
  const output = shafts.of("output");
  if (input === fixed) return { kind: "tie-up", locked: "input" };
  if (output === fixed) return { kind: "tie-up", locked: "output" };
  const free = [...new Set(nodes.map((n) => shafts.of(n)))].filter((n) => n !== fixed && n !== input && n !== output);
  const order = [...free, ...(output === input ? [] : [output]), input];
  const at = new Map(order.map((n, i) => [n, i]));
  const equations = equationsOf(train);
  const columns = order.length;
  const matrix = new Float64Array(equations.length * columns);
  equations.forEach(({ terms }, r) => {
    for (const [node, k] of terms) {
      const c = at.get(shafts.of(node));
      if (c !== undefined) matrix[r * columns + c] = (matrix[r * columns + c] as number) + k;
    }
  });
  const pivot = reduceRows(matrix, equations.length, columns);
  const last = columns - 1;
  if ((pivot[last] as number) >= 0) return { kind: "tie-up", locked: "input" };
  const speedOf = (shaft: string): number | undefined => {
    if (shaft === fixed) return 0;
    if (shaft === input) return 1;
    const c = at.get(shaft) as number;
    const row = pivot[c] as number;
    if (row < 0) return undefined;
    // settled only when no other free column has a say
    for (let k = c + 1; k < last; k++) if (Math.abs(matrix[row * columns + k] as number) > 1e-9) return undefined;
    return -(matrix[row * columns + last] as number) + 0;
  };
  const speeds = new Map(nodes.map((n) => [n, speedOf(shafts.of(n))]));
  const out = speedOf(output);
  if (out === undefined) return { kind: "neutral", speeds };
  if (Math.abs(out) < 1e-9) return { kind: "tie-up", locked: "output" };
  return { kind: "gear", ratio: 1 / out, speeds };
}

export interface TorqueShares {
  /** output torque at input torque 1 */
  readonly output: number;
  /** torque of each applied element, its absolute value being its share of the input torque; undefined = not settled */
  readonly elements: ReadonlyMap<string, number | undefined>;
}

/**
 * Torque that each applied element carries at input torque 1, from the equilibrium of every shaft. By virtual work the
 * torques of a set stand to each other as the coefficients of its speed equation. Where two elements hold the same
 * thing, how they share it is not settled by the train.
 * @returns undefined when the applied elements give no gear
 * Source: balance of torques and power over the train.
 */
export function torqueShares(train: GearTrain, applied: readonly Joint[]): TorqueShares | undefined {
  if (solveTrain(train, applied).kind !== "gear") return undefined;
  const nodes = nodesOf(train, applied);
  const shafts = new Shafts(nodes);
  for (const [a, b] of train.links) shafts.join(a, b);
  const fixed = shafts.of("case");
  const rows = [...new Set(nodes.map((n) => shafts.of(n)))].filter((n) => n !== fixed);
  const rowOf = new Map(rows.map((n, i) => [n, i]));
  const equations = equationsOf(train);
  // unknowns: one torque a set or pair, then the elements, then the output; last the known input torque
  const columns = equations.length + applied.length + 2;
  const matrix = new Float64Array(rows.length * columns);
  const add = (node: string, column: number, value: number) => {
    const r = rowOf.get(shafts.of(node));
    if (r !== undefined) matrix[r * columns + column] = (matrix[r * columns + column] as number) + value;
  };
  equations.forEach(({ terms }, c) => {
    for (const [node, k] of terms) add(node, c, k);
  });
  applied.forEach((j, i) => {
    add(j.joins[0], equations.length + i, 1);
    add(j.joins[1], equations.length + i, -1);
  });
  add("output", columns - 2, -1);
  add("input", columns - 1, 1);
  const pivot = reduceRows(matrix, rows.length, columns);
  const last = columns - 1;
  const settled = (c: number): number | undefined => {
    const row = pivot[c] as number;
    if (row < 0) return undefined;
    for (let k = c + 1; k < last; k++) if (Math.abs(matrix[row * columns + k] as number) > 1e-9) return undefined;
    return -(matrix[row * columns + last] as number) + 0;
  };
  const output = settled(columns - 2);
  if (output === undefined) return undefined;
  return {
    output,
    elements: new Map(applied.map((j, i) => [j.id, settled(equations.length + i)])),
  };
}

/** Slip speed of a released or applied element at input speed 1: ω of its first node less that of its second. */
export function elementSlip(state: TrainState, joint: Joint): number | undefined {
  if (state.kind === "tie-up") return undefined;
  const [a, b] = joint.joins.map((n) => (n === "case" ? 0 : state.speeds.get(n)));
  return a === undefined || b === undefined ? undefined : a - b;
}

export interface Combination {
  readonly elements: readonly string[];
  readonly state: TrainState["kind"];
  /** of a gear only */
  readonly ratio: number | undefined;
}

/** What every set of `sizes` elements makes of the train: a gear, neutral, or a tie-up. */
export function classifyCombinations(
  train: GearTrain,
  joints: readonly Joint[],
  sizes: readonly number[] = [1, 2, 3],
): Combination[] {
  const found: Combination[] = [];
  const visit = (from: number, chosen: readonly Joint[]) => {
    if (sizes.includes(chosen.length)) {
      const state = solveTrain(train, chosen);
      found.push({
        elements: chosen.map((j) => j.id),
        state: state.kind,
        ratio: state.kind === "gear" ? state.ratio : undefined,
      });
    }
    if (chosen.length >= Math.max(...sizes)) return;
    for (let i = from; i < joints.length; i++) visit(i + 1, [...chosen, joints[i] as Joint]);
  };
  visit(0, []);
  return found;
}
