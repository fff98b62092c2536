export { seededRandom } from "@gearsense/core/chance";

/** A normal deviate by Box and Muller. */
export function normal(random: () => number, sigma: number): number {
  return sigma * Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
}
