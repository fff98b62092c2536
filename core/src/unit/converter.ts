import type { Converter } from "./unit.ts";

/** Turbine over engine at which the stator lets go, where the unit file is silent; 0.85 to 0.9 is usual. */
const TYPICAL_COUPLING = 0.87;
/** How fast the pump's grip falls as the turbine catches up: (1 − SR^8), 0.73 at 0.85 and 0.34 at 0.95. */
const eighthPower = (x: number): number => {
  const square = x * x;
  const fourth = square * square;
  return fourth * fourth;
};
/** On the over-run the blades are swept the wrong way. */
const OVERRUN_CAPACITY = 0.6;
/**
 * A stator that slips both ways: no multiplication, and the pump is held down at stall. What it lacks is the torque that a
 * sound one takes up, which falls to nothing at the coupling point, where every stator runs free.
 */
const FREE_STATOR_CAPACITY = 1.7;

/** sound: holds one way; slips: both ways free; seized: never free */
export type Stator = "sound" | "slips" | "seized";

/**
 * Torque ratio turbine over pump at a speed ratio: linear from its stall value to 1 at the coupling point, then 1.
 * @param speedRatio - turbine / engine, 0 at stall
 */
export function torqueRatio(converter: Converter, speedRatio: number, stator: Stator = "sound"): number {
  if (stator === "slips") return 1;
  const coupling = converter.couplingSpeedRatio ?? TYPICAL_COUPLING;
  const line = converter.stallTorqueRatio - (converter.stallTorqueRatio - 1) * (speedRatio / coupling);
  // a seized stator goes on turning the flow past the coupling point: less comes out than goes in
  return stator === "seized" ? Math.max(0.5, line) : Math.max(1, line);
}

/** Capacity factor at stall, rpm per √N·m: K = N/√T. @throws RangeError when the unit file gives no torque for its stall speed */
export function stallFactor(converter: Converter): number {
  if (!converter.stallTorqueNm) throw new RangeError("the unit file rates the stall speed without its torque");
  return converter.stallRpm / Math.sqrt(converter.stallTorqueNm);
}

/** Stall speed at an engine torque: N = K·√T. */
export const stallSpeedRpm = (converter: Converter, torqueNm: number): number =>
  stallFactor(converter) * Math.sqrt(Math.max(0, torqueNm));

export interface ConverterTorques {
  /** what the engine feels; negative on the over-run */
  readonly pumpNm: number;
  readonly turbineNm: number;
}

/** Torques of an open converter at two speeds. T = (N/K)²·(1 − SR^8); with the turbine ahead the parts change over. */
export function converterTorques(
  converter: Converter,
  engineRpm: number,
  turbineRpm: number,
  stator: Stator = "sound",
): ConverterTorques {
  const k = stallFactor(converter);
  if (turbineRpm > engineRpm) {
    const ratio = Math.max(0, engineRpm) / turbineRpm;
    const drag = OVERRUN_CAPACITY * (turbineRpm / k) ** 2 * (1 - eighthPower(ratio));
    return { pumpNm: -drag, turbineNm: -drag };
  }
  if (engineRpm <= 0) return { pumpNm: 0, turbineNm: 0 };
  const speedRatio = Math.max(0, turbineRpm / engineRpm);
  const takenUp = (torqueRatio(converter, speedRatio) - 1) / (converter.stallTorqueRatio - 1);
  const grip = stator === "slips" ? 1 + (FREE_STATOR_CAPACITY - 1) * takenUp : 1;
  const pumpNm = grip * (engineRpm / k) ** 2 * (1 - eighthPower(speedRatio));
  return { pumpNm, turbineNm: pumpNm * torqueRatio(converter, speedRatio, stator) };
}

/** Efficiency of an open converter: SR·TR. */
export const converterEfficiency = (converter: Converter, speedRatio: number, stator: Stator = "sound"): number =>
  speedRatio * torqueRatio(converter, speedRatio, stator);

/**
 * Slip of an open converter that carries a torque, rpm: SR from T = (N/K)²·(1 − SR^8), the inverse of {@link converterTorques}.
 * @returns undefined when the unit file does not rate the converter; the whole engine speed when it cannot carry so much
 */
export function openSlipRpm(converter: Converter, engineRpm: number, torqueNm: number): number | undefined {
  if (!converter.stallTorqueNm) return undefined;
  if (torqueNm <= 0 || engineRpm <= 0) return 0;
  const left = 1 - (torqueNm * stallFactor(converter) ** 2) / engineRpm ** 2;
  return left <= 0 ? engineRpm : engineRpm * (1 - Math.sqrt(Math.sqrt(Math.sqrt(left))));
}
