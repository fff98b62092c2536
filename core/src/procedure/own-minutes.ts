import type { ThreePoint } from "../chance/index.ts";

/** How far a shop's own time for a step lies from the file's, as the logarithm of their ratio: one standard deviation. Judgement. */
export const SHOP_SPREAD = 0.3;
/** How far one time lies from the shop's own, the same way. Judgement. */
export const TIME_SPREAD = 0.35;

export interface OwnMinutes {
  /** the file's minutes times this */
  readonly factor: number;
  /** jobs that speak */
  readonly jobs: number;
  /** within this it lies in nineteen of twenty cases */
  readonly from: number;
  readonly to: number;
}

/**
 * A shop's own minutes for a step: what its jobs took over the likely time, with the file's word as the prior. Conjugate update of
 * a normal mean with known variance on the logarithm of the ratio (Gelman and others, Bayesian Data Analysis, 2.5).
 * @param ratios - minutes taken over likely minutes, of one job each, above 0
 */
export function ownMinutes(ratios: readonly number[]): OwnMinutes {
  const known = ratios.filter((r) => r > 0 && Number.isFinite(r));
  const precision = 1 / SHOP_SPREAD ** 2 + known.length / TIME_SPREAD ** 2;
  const mean = known.reduce((s, r) => s + Math.log(r), 0) / TIME_SPREAD ** 2 / precision;
  const sd = Math.sqrt(1 / precision);
  return {
    factor: Math.exp(mean),
    jobs: known.length,
    from: Math.exp(mean - 1.96 * sd),
    to: Math.exp(mean + 1.96 * sd),
  };
}

/** Best, likely, worst in this shop. */
export const scaled = ([a, b, c]: ThreePoint, { factor }: Pick<OwnMinutes, "factor">): ThreePoint => [
  a * factor,
  b * factor,
  c * factor,
];
