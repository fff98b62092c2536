import { normal, seededRandom } from "../random.ts";
import type { ScopeRecording } from "./solenoid.ts";

export const WHEEL_FAULTS = ["none", "missing-tooth", "run-out"] as const;
export type WheelFault = (typeof WHEEL_FAULTS)[number];

const SAMPLES_A_TOOTH = 40;
const TURNS = 8;
/** air gap, and how far a wheel that runs out moves in and out, mm */
const GAP_MM = 1;
const RUN_OUT_MM = 0.35;
/** volts of a coil at 1 mm and 1000 teeth a second; flux falls with the gap */
const COIL_V = 2.4;
const FALLS_PER_MM = 1.1;

/**
 * Signal of a sensor over a wheel of teeth that is turned up: a coil gives the change of its flux, so volts grow with speed; a Hall
 * sensor switches between two levels.
 */
export function wheelRecording(teeth: number, kind: "coil" | "hall", fault: WheelFault, seed: number): ScopeRecording {
  const random = seededRandom(seed);
  const broken = 3 + Math.floor(random() * (teeth - 4));
  const from = 3 + 2 * random();
  const to = 2 * from;
  const dt = 1 / (to * teeth * SAMPLES_A_TOOTH);
  const time: number[] = [];
  const volts: number[] = [];
  let turned = 0;
  for (let k = 0; turned < TURNS; k++) {
    const turnsPerS = from + ((to - from) * turned) / TURNS;
    turned += turnsPerS * dt;
    const phase = turned * teeth;
    const gone = fault === "missing-tooth" && Math.floor(phase) % teeth === broken;
    const gapMm = GAP_MM + (fault === "run-out" ? RUN_OUT_MM * Math.sin(2 * Math.PI * turned) : 0);
    const wave = gone ? -0.6 : Math.sin(2 * Math.PI * phase);
    const strength = COIL_V * ((turnsPerS * teeth) / 1000) * Math.exp(-FALLS_PER_MM * (gapMm - GAP_MM));
    time.push(k * dt);
    volts.push(kind === "coil" ? strength * wave + normal(random, 0.004) : (wave > 0 ? 5 : 0.4) + normal(random, 0.02));
  }
  return { columns: ["time (s)", "signal (V)"], timeS: Float64Array.from(time), values: Float64Array.from(volts) };
}
