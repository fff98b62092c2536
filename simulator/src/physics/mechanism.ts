import { equationsOf, type GearTrain, type Joint, nodesOf, reduceRows, Shafts } from "@gearsense/core/unit";

/**
 * A gear train with nothing applied, as a body of few coordinates: every node's speed is a row times the coordinates,
 * kinetic energy is ½·q̇ᵀ·M·q̇.
 */
export interface Mechanism {
  /** number of coordinates, d */
  readonly size: number;
  /** row of each node, length d; the case is all zero */
  readonly rows: ReadonlyMap<string, Float64Array>;
  /** d × d, row-major, kg·m² */
  readonly mass: Float64Array;
}

/**
 * @param inertiaKgM2 - of a shaft, by the nodes that it joins
 * @throws RangeError when the train leaves no freedom, or input and output are not free of each other
 */
export function buildMechanism(
  train: GearTrain,
  joints: readonly Joint[],
  inertiaKgM2: (nodes: readonly string[]) => number,
): Mechanism {
  const nodes = nodesOf(train, joints);
  const shafts = new Shafts(nodes);
  for (const [a, b] of train.links) shafts.join(a, b);
  const fixed = shafts.of("case");
  const moving = [...new Set(nodes.map((n) => shafts.of(n)))].filter((s) => s !== fixed);
  const order = [...moving.filter((s) => s !== "output" && s !== "input"), "output", "input"];
  const equations = equationsOf(train);
  const columns = order.length;
  const matrix = new Float64Array(equations.length * columns);
  equations.forEach(({ terms }, r) => {
    for (const [node, k] of terms) {
      const c = order.indexOf(shafts.of(node));
      if (c >= 0) matrix[r * columns + c] = (matrix[r * columns + c] as number) + k;
    }
  });
  const pivot = reduceRows(matrix, equations.length, columns);
  const free = order.flatMap((_, c) => ((pivot[c] as number) < 0 ? [c] : []));
  if (!free.includes(columns - 1) || !free.includes(columns - 2))
    throw new RangeError("input and output of the train are bound to each other with nothing applied");
  const rowOf = (shaft: string): Float64Array => {
    const row = new Float64Array(free.length);
    const c = order.indexOf(shaft);
    if (c < 0) return row;
    const at = pivot[c] as number;
    free.forEach((f, i) => {
      row[i] = at < 0 ? Number(f === c) : -(matrix[at * columns + f] as number) + 0;
    });
    return row;
  };
  const rows = new Map(nodes.map((n) => [n, rowOf(shafts.of(n))]));
  const size = free.length;
  const mass = new Float64Array(size * size);
  for (const shaft of moving) {
    const own = rowOf(shaft);
    const inertia = inertiaKgM2(nodes.filter((n) => shafts.of(n) === shaft));
    for (let i = 0; i < size; i++)
      for (let j = 0; j < size; j++)
        mass[i * size + j] = (mass[i * size + j] as number) + inertia * (own[i] as number) * (own[j] as number);
  }
  return { size, rows, mass };
}

/** Inverse of a small positive definite matrix, row-major. @throws RangeError when it is singular */
export function inverse(matrix: Float64Array, size: number): Float64Array {
  const wide = new Float64Array(size * size * 2);
  for (let i = 0; i < size; i++) {
    for (let j = 0; j < size; j++) wide[i * 2 * size + j] = matrix[i * size + j] as number;
    wide[i * 2 * size + size + i] = 1;
  }
  const pivot = reduceRows(wide, size, 2 * size);
  const out = new Float64Array(size * size);
  for (let i = 0; i < size; i++) {
    const row = pivot[i] as number;
    if (row < 0) throw new RangeError("the mass matrix is singular: a shaft has no inertia");
    for (let j = 0; j < size; j++) out[i * size + j] = wide[row * 2 * size + size + j] as number;
  }
  return out;
}
