/** Seeded generator of uniform numbers in [0, 1): mulberry32, public domain. The same seed gives the same sequence everywhere. */
export function seededRandom(seed: number): () => number {
  let a = seed >>> 0;
  return () => {
    a = (a + 0x6d2b79f5) >>> 0;
    let t = a;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** Best, likely, worst. */
export type ThreePoint = readonly [number, number, number];

/**
 * Quantile of the triangular distribution over a three-point estimate. Closed form; its mean is (a + m + b) / 3.
 * @param u - 0…1
 */
export function triangular([best, likely, worst]: ThreePoint, u: number): number {
  const span = worst - best;
  if (span <= 0) return likely;
  const turn = (likely - best) / span;
  return u < turn ? best + Math.sqrt(u * span * (likely - best)) : worst - Math.sqrt((1 - u) * span * (worst - likely));
}

/** Mean of {@link triangular}. */
export const triangularMean = ([best, likely, worst]: ThreePoint): number => (best + likely + worst) / 3;

/** Draws a position by weights that sum to one. */
export function draw(weights: ArrayLike<number>, random: () => number): number {
  let x = random();
  for (let k = 0; k < weights.length; k++) {
    x -= weights[k] as number;
    if (x < 0) return k;
  }
  return weights.length - 1;
}
