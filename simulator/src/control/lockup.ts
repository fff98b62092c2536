import type { Converter } from "@gearsense/core/unit";
import { type ControlStyle, usualStyle } from "../build.ts";

const MOST_PEDAL = 0.62;
const HYSTERESIS_PEDAL = 0.1;
const AFTER_SHIFT_S = 1.2;
const FILL_S = 0.15;
const FULL_KPA = 700;
/** kPa per rpm, and per rpm and second */
const PROPORTIONAL = 0.5;
const INTEGRAL = 0.5;

export type LockupStyle = Pick<ControlStyle, "lockupFromKmh" | "lockupRampS">;

export interface LockupInput {
  readonly gear: string;
  readonly shifting: boolean;
  readonly vehicleKmh: number;
  readonly pedal: number;
  readonly slipRpm: number;
  readonly fluidC: number;
  /** pressure that would just hold the engine's torque */
  readonly holdKpa: number;
}

/** Converter clutch control: when to apply, how to lay it on, what slip to keep. */
export class Lockup {
  private readonly converter: Converter;
  private readonly style: LockupStyle;
  private readonly gears: ReadonlySet<string>;
  private sinceShiftS = 0;
  private onS = 0;
  private integralKpa = 0;
  private settled = false;
  on = false;
  /** a fault was found: not used again */
  barred = false;

  constructor(converter: Converter, style: LockupStyle = usualStyle) {
    this.converter = converter;
    this.style = style;
    this.gears = new Set(converter.clutchGears);
  }

  /** past the ramp: slip is being kept, or there is none */
  get holding(): boolean {
    return this.on && this.settled;
  }

  /** @returns pressure to command, kPa */
  tick(dtS: number, s: LockupInput): number {
    this.sinceShiftS = s.shifting ? 0 : this.sinceShiftS + dtS;
    const wanted =
      !this.barred &&
      !s.shifting &&
      this.sinceShiftS > AFTER_SHIFT_S &&
      this.gears.has(s.gear) &&
      s.vehicleKmh > this.style.lockupFromKmh - (this.on ? 4 : 0) &&
      s.fluidC > 15 &&
      s.pedal > 0.02 &&
      s.pedal < MOST_PEDAL + (this.on ? HYSTERESIS_PEDAL : 0);
    if (!wanted) {
      this.on = false;
      this.onS = 0;
      this.integralKpa = 0;
      this.settled = false;
      return 0;
    }
    this.on = true;
    this.onS += dtS;
    const target = this.converter.strategy === "locked" ? 0 : this.converter.targetSlipRpm;
    const x = Math.min(1, Math.max(0, (this.onS - FILL_S) / this.style.lockupRampS));
    if (!this.settled) {
      if (x >= 1 || s.slipRpm < target + 12) this.settled = this.onS > FILL_S + 0.1;
      return this.onS < FILL_S ? 36 : 40 + (s.holdKpa - 40) * x;
    }
    if (target === 0) {
      // locked: laid on firmly
      this.integralKpa = Math.min(FULL_KPA, this.integralKpa + 500 * dtS);
      return Math.min(FULL_KPA, s.holdKpa * 1.05 + this.integralKpa);
    }
    const over = Math.max(-target, Math.min(120, s.slipRpm - target));
    this.integralKpa = Math.max(-0.6 * s.holdKpa, Math.min(FULL_KPA, this.integralKpa + INTEGRAL * over * dtS));
    return Math.max(20, Math.min(FULL_KPA, s.holdKpa + this.integralKpa + PROPORTIONAL * over));
  }
}
