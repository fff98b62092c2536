import { converterTorques, type Unit } from "@gearsense/core/unit";
import type { Sensed } from "./signals.ts";

/** flow in the converter takes time, and so does its torque, s */
const TORQUE_LAG_S = 0.06;

/** Torque at the input shaft as the controller reckons it, N·m: that of the engine, through the converter where there is one. */
export class InputTorque {
  private readonly unit: Unit;
  private pumpNm = 0;
  private turbineNm = 0;

  constructor(unit: Unit) {
    this.unit = unit;
  }

  /** @param locked - the converter clutch is commanded: what the engine gives beyond the pump goes through it */
  follow(dtS: number, s: Sensed, locked: boolean): number {
    const { converter } = this.unit;
    if (!converter || this.unit.kind !== "planetary") return s.engineNm;
    const { pumpNm, turbineNm } = converterTorques(converter, s.engineRpm, s.inputRpm);
    const follow = dtS / TORQUE_LAG_S;
    this.pumpNm += (pumpNm - this.pumpNm) * follow;
    this.turbineNm += (turbineNm - this.turbineNm) * follow;
    return locked ? this.turbineNm + Math.max(-80, s.engineNm - this.pumpNm) : this.turbineNm;
  }
}
