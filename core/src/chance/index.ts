export type { ThreePoint } from "./chance.ts";
export { draw, seededRandom, triangular, triangularMean } from "./chance.ts";
