import type { TrainState } from "./solve.ts";
import { MEMBERS, type PlanetarySet } from "./train.ts";

export interface LeverPoint {
  readonly member: (typeof MEMBERS)[number];
  /** place along the lever: sun 0, ring 1, carrier where the teeth put it */
  readonly at: number;
  /** at input speed 1; undefined where nothing holds the node */
  readonly speed: number | undefined;
}

/**
 * The speeds of a set as a lever: over places chosen by the teeth they lie on a straight line. With the sun at 0 and the
 * ring at 1 the carrier stands at Nr/(Nr + Ns) for one planet, at Nr/(Nr − Ns) for two.
 * Source: the equation of the set, solved for the carrier.
 */
export function leverOf(set: PlanetarySet, state: TrainState): LeverPoint[] {
  const sun = set.kind === "single" ? set.sunTeeth : -set.sunTeeth;
  const places = { sun: 0, ring: 1, carrier: set.ringTeeth / (set.ringTeeth + sun) };
  return MEMBERS.map((member) => ({
    member,
    at: places[member],
    speed: state.kind === "tie-up" ? undefined : state.speeds.get(`${set.id}.${member}`),
  })).sort((a, b) => a.at - b.at);
}
