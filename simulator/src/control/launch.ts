import type { GearRow } from "./gear-table.ts";

const RAD_S_PER_RPM = (2 * Math.PI) / 60;
const CREEP_NM = 16;
const CREEP_RPM = 650;
const CLOSED_RPM = 45;
const MARGIN = 1.3;
const SPARE_NM = 35;
/** how fast the engine may be brought to the launch speed, s */
const RESPONSE_S = 0.22;

interface LaunchInput {
  readonly engineRpm: number;
  readonly engineNm: number;
  readonly pedal: number;
  readonly brake: boolean;
}

/** Torque of the driving clutch of a dual-clutch unit: open at rest, creep, launch, closed. */
export class Launch {
  private readonly inertiaKgM2: number;
  private readonly idleRpm: number;
  private commandNm = 0;
  closed = false;

  constructor(inertiaKgM2: number, idleRpm: number) {
    this.inertiaKgM2 = inertiaKgM2;
    this.idleRpm = idleRpm;
  }

  reset(): void {
    this.closed = false;
    this.commandNm = 0;
  }
  /** A shift has left this clutch closed. */
  take(gear: GearRow, s: { readonly engineRpm: number; readonly engineNm: number }): void {
    this.closed = gear.code > 0 && s.engineRpm > 700;
    this.commandNm = Math.abs(s.engineNm) * MARGIN + SPARE_NM;
  }

  /** @param shaftRpm - speed that the closed clutch would give the engine. @returns torque to command, N·m; 0 = open */
  tick(dtS: number, s: LaunchInput, gear: GearRow, shaftRpm: number): number {
    const idle = this.idleRpm;
    const target = Math.max(shaftRpm, idle + 260 + 1000 * s.pedal);
    if (this.closed) {
      // before the engine is dragged under its idle the clutch opens
      if (shaftRpm < idle - 30 || (shaftRpm < idle + 60 && s.brake)) this.closed = false;
      else {
        const wanted = Math.abs(s.engineNm) * MARGIN + SPARE_NM;
        this.commandNm += (wanted - this.commandNm) * Math.min(1, dtS / (wanted > this.commandNm ? 0.04 : 0.15));
        return this.commandNm;
      }
    }
    let wanted: number;
    if (s.pedal < 0.03) {
      // creep: a little torque, none against the brake, and none when it rolls faster than it would creep
      const rolls = shaftRpm > CREEP_RPM && gear.code > 0;
      wanted = s.brake || rolls ? 0 : CREEP_NM;
      if (shaftRpm > idle + 40 && !s.brake) wanted = 25;
    } else {
      const ahead = (s.engineRpm - target) * RAD_S_PER_RPM;
      wanted = Math.max(0, s.engineNm + (this.inertiaKgM2 * ahead) / RESPONSE_S);
      // the pedal just touched: no jump from creep
      wanted = Math.min(wanted, s.engineNm * 1.6 + 20);
    }
    this.commandNm += (wanted - this.commandNm) * Math.min(1, dtS / 0.05);
    if (Math.abs(s.engineRpm - shaftRpm) < CLOSED_RPM && shaftRpm > idle + 20) {
      this.closed = true;
      this.commandNm = Math.max(this.commandNm, 20);
    }
    return this.commandNm;
  }
}
