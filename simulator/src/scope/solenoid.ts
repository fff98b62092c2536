import { normal, seededRandom } from "../random.ts";

/** A scope's recording: time and one signal. */
export interface ScopeRecording {
  readonly columns: readonly [string, string];
  readonly timeS: Float64Array;
  readonly values: Float64Array;
}

export const SOLENOID_FAULTS = ["none", "slow", "stuck", "no-current"] as const;
export type SolenoidFault = (typeof SOLENOID_FAULTS)[number];

const SUPPLY_V = 13.2;
/** steps of the integration and of the scope, s */
const STEP_S = 2e-6;
const SAMPLE_S = 4e-5;
const LENGTH_S = 0.08;
const SWITCHED_AT_S = 0.006;
/** inductance with the plunger out and its gain over the travel, H */
const L_OUT = 0.011;
const L_GAIN = 0.012;
const TRAVEL_M = 0.0011;
const MASS_KG = 0.009;
const SPRING_N = 3.2;
const SPRING_N_PER_M = 900;
const DAMPING_NS_PER_M = 1.5;
/** magnetic force at 1 A² */
const FORCE_N_PER_A2 = 14;

/**
 * Current of a solenoid that is switched on: V = R·i + d(L·i)/dt with an inductance that grows as the plunger moves in, so that the
 * current dips while it moves. The plunger is pulled by i² against spring and damping.
 * @param ohm - of its coil
 */
export function solenoidRecording(
  ohm: number,
  fault: SolenoidFault,
  seed: number,
): ScopeRecording & { readonly landsMs: number | undefined } {
  const random = seededRandom(seed);
  const n = Math.round(LENGTH_S / SAMPLE_S);
  const timeS = new Float64Array(n);
  const values = new Float64Array(n);
  // varnish drags on a slow plunger, debris holds a stuck one
  const drag = fault === "slow" ? 14 : DAMPING_NS_PER_M;
  const holds = fault === "stuck" ? 1e6 : fault === "slow" ? 3.5 : 0;
  let i = 0;
  let x = 0;
  let v = 0;
  let landsMs: number | undefined;
  const perSample = Math.round(SAMPLE_S / STEP_S);
  for (let k = 0; k < n; k++) {
    timeS[k] = k * SAMPLE_S;
    for (let s = 0; s < perSample; s++) {
      const t = k * SAMPLE_S + s * STEP_S;
      const volts = t >= SWITCHED_AT_S && fault !== "no-current" ? SUPPLY_V : 0;
      const inductance = L_OUT + (L_GAIN * x) / TRAVEL_M;
      // the motion induces against the current
      i += ((volts - ohm * i - ((L_GAIN * v) / TRAVEL_M) * i) / inductance) * STEP_S;
      const pull = FORCE_N_PER_A2 * i * i - SPRING_N - holds - SPRING_N_PER_M * x - drag * v;
      if (x <= 0 && pull < 0) v = 0;
      else if (x >= TRAVEL_M) v = 0;
      else v += (pull / MASS_KG) * STEP_S;
      if (x <= 0 && pull > 0) v += (pull / MASS_KG) * STEP_S;
      const before = x;
      x = Math.min(TRAVEL_M, Math.max(0, x + v * STEP_S));
      if (before < TRAVEL_M && x >= TRAVEL_M && landsMs === undefined) landsMs = (t - SWITCHED_AT_S) * 1000;
    }
    values[k] = i + normal(random, 0.004);
  }
  return { columns: ["time (s)", "current (A)"], timeS, values, landsMs };
}
