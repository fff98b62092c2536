import { type ControlStyle, usualStyle } from "../build.ts";
import { flowTimeFactor } from "../physics/fluid.ts";
import { FILL_KPA, type Pack, pressureFor } from "../physics/hydraulics.ts";
import type { GearRow } from "./gear-table.ts";

const RAD_S_PER_RPM = (2 * Math.PI) / 60;
const LEAD_S = 0.02;
/** a change that should come by itself and does not is pulled after this */
const PATIENCE_S = 0.2;
const LATE_PULL_S = 0.15;
const GIVE_UP_S = 2.6;
const SETTLE_S = 0.16;
const AT_SYNC_RPM = 25;
const NEAR_SYNC_RPM = 70;
/** the engine is held back while the on-coming element takes over at sync */
const SYNC_CUT = 0.5;
/** the off-going element still holds while the on-coming one takes over, s */
const OVERLAP_S = 0.09;

export type ShiftStyle = Pick<ControlStyle, "inertiaS" | "torquePhaseS" | "torqueCut"> & {
  readonly coldThickening?: number;
};

export interface ShiftInput {
  readonly inputRpm: number;
  readonly outputRpm: number;
  /** at the input shaft */
  readonly torqueNm: number;
  /** the same without what this shift holds back of the engine: it will be there again */
  readonly demandNm: number;
  readonly fluidC: number;
  readonly lineKpa: number;
}

/** What a shift told about its on-coming element, for the adaptation. */
export interface ShiftLesson {
  readonly pack: number;
  /** input speed above the old line while the torque changed hands, rpm */
  readonly flareRpm: number;
  /** movement of the input over the end of the torque phase, s; negative came early */
  readonly lateS: number;
}

type Phase = "fill" | "torque" | "release" | "inertia" | "settle" | "done";

/**
 * One change of gear, from command to done: fill, torque phase, inertia phase, settling. Where the on-coming element has
 * to move the input speed (up under power, down on the over-run) it is controlled and the off-going one let go; where
 * the engine's own torque moves it (down under power, up on the over-run) the off-going one is controlled and the
 * on-coming one applied at sync.
 */
export class Shift {
  readonly from: GearRow;
  readonly to: GearRow;
  readonly pulls: boolean;
  /** fork to be moved first; nothing else happens until it is in */
  private readonly packs: readonly Pack[];
  private readonly on: readonly number[];
  private readonly off: readonly number[];
  private readonly fillS: number;
  private readonly inertiaKgM2: number;
  private readonly direction: number;
  private phase: Phase = "fill";
  private phaseS = 0;
  private totalS = 0;
  private atStartRpm = 0;
  private integral = 0;
  private readonly syncCut: number;
  private pullS: number;
  private readonly inertiaS: number;
  private readonly torquePhaseS: number;
  private readonly cut: number;
  private flareRpm = 0;
  private movedS = Number.NaN;
  private torqueEndS = Number.NaN;
  private lesson: ShiftLesson | undefined;
  torqueRequest = 1;

  /**
   * @param fillS - learned fill time of the on-coming elements at 70 °C, by pack
   * @param inertiaKgM2 - what turns with the input while it changes speed
   * @param style - how long it may take and how far the engine is held back
   * @param syncCut - share of its torque that the engine keeps while a downshift under power comes to sync
   */
  constructor(
    packs: readonly Pack[],
    from: GearRow,
    to: GearRow,
    input: ShiftInput,
    fillS: Float64Array,
    inertiaKgM2: number,
    syncCut = SYNC_CUT,
    style: ShiftStyle = usualStyle,
  ) {
    this.inertiaS = style.inertiaS;
    this.pullS = style.inertiaS;
    this.torquePhaseS = style.torquePhaseS;
    this.cut = style.torqueCut;
    this.syncCut = syncCut;
    this.packs = packs;
    this.from = from;
    this.to = to;
    const index = packs.map((_, i) => i);
    this.on = index.filter((i) => to.applied[i] && !from.applied[i]);
    this.off = index.filter((i) => from.applied[i] && !to.applied[i]);
    const up = to.ratio < from.ratio;
    this.direction = up ? -1 : 1;
    const powered = input.torqueNm > 5;
    this.pulls = powered === up;
    this.fillS =
      Math.max(0, ...this.on.map((i) => fillS[i] as number)) * flowTimeFactor(input.fluidC, style.coldThickening);
    this.inertiaKgM2 = inertiaKgM2;
  }

  get done(): boolean {
    return this.phase === "done";
  }
  takeLesson(): ShiftLesson | undefined {
    const { lesson } = this;
    this.lesson = undefined;
    return lesson;
  }

  private enter(phase: Phase): void {
    this.phase = phase;
    this.phaseS = 0;
  }

  /** Writes the pressures of all packs for one tick. */
  tick(dtS: number, s: ShiftInput, kpa: Float64Array): void {
    const { packs, from, to } = this;
    this.phaseS += dtS;
    this.totalS += dtS;
    const oldLine = s.outputRpm * from.ratio;
    const newLine = s.outputRpm * to.ratio;
    const span = newLine - oldLine;
    const progress = Math.abs(span) < 40 ? 1 : (s.inputRpm - oldLine) / span;
    const torque = Math.abs(s.torqueNm);
    for (let i = 0; i < packs.length; i++) kpa[i] = to.applied[i] && from.applied[i] ? s.lineKpa : 0;
    if (this.direction < 0 && this.phase !== "settle") this.flareRpm = Math.max(this.flareRpm, s.inputRpm - oldLine);
    if (Number.isNaN(this.movedS) && progress > 0.06) this.movedS = this.totalS;
    const holdOff = (factor: number, i: number) =>
      pressureFor(packs[i] as Pack, factor * (from.shares[i] as number) * Math.max(torque, 15));
    this.torqueRequest = 1;

    if (this.phase === "fill") {
      for (const i of this.on) kpa[i] = FILL_KPA;
      for (const i of this.off) kpa[i] = Math.min(s.lineKpa, holdOff(1.5, i) + 40);
      if (this.phaseS >= this.fillS) this.enter(this.pulls ? "torque" : "release");
    } else if (this.phase === "torque") {
      // pressures follow late: the on-coming element leads, the off-going one lets go after it
      const x = Math.min(1, this.phaseS / this.torquePhaseS);
      const lead = Math.min(1, (this.phaseS + LEAD_S) / this.torquePhaseS);
      const lag = Math.max(0, (this.phaseS - LEAD_S) / this.torquePhaseS);
      for (const i of this.on)
        kpa[i] = pressureFor(packs[i] as Pack, (to.shares[i] as number) * Math.max(torque, 20) * lead);
      for (const i of this.off) kpa[i] = Math.min(s.lineKpa, holdOff(1.15 * (1 - 0.92 * lag), i));
      if (x >= 1) {
        this.torqueEndS = this.totalS;
        this.atStartRpm = s.inputRpm;
        this.enter("inertia");
      }
    } else if (this.phase === "release") {
      this.release(dtS, s, kpa, newLine, progress);
    } else if (this.phase === "inertia") {
      this.pull(dtS, s, kpa, newLine, torque);
    } else {
      const x = Math.min(1, this.phaseS / SETTLE_S);
      // what has run past the line is brought back
      const past = Math.max(0, this.direction * (s.inputRpm - newLine)) * RAD_S_PER_RPM * this.inertiaKgM2 * 14;
      for (const i of this.on) {
        const hold = pressureFor(
          packs[i] as Pack,
          1.15 * (to.shares[i] as number) * (Math.max(Math.abs(s.demandNm), 25) + past),
        );
        kpa[i] = Math.min(s.lineKpa, hold + (s.lineKpa - hold) * x);
      }
      if (!this.pulls && this.phaseS < OVERLAP_S)
        for (const i of this.off)
          kpa[i] = Math.min(s.lineKpa, holdOff(0.95 * Math.min(1, 2 - (2 * this.phaseS) / OVERLAP_S), i));
      if (!this.pulls && this.direction > 0 && s.demandNm > 40)
        this.torqueRequest = this.syncCut + (1 - this.syncCut) * x;
      if (x >= 1) this.enter("done");
    }
    if (this.phase !== "settle" && this.phase !== "done") {
      const atSync = this.direction * (s.inputRpm - newLine) > -AT_SYNC_RPM && this.totalS > this.fillS;
      const near = this.phase === "release" && this.direction * (s.inputRpm - newLine) > -NEAR_SYNC_RPM;
      if (((this.phase === "inertia" || this.phase === "torque") && atSync) || near || this.totalS > GIVE_UP_S)
        this.finish();
    }
  }

  private finish(): void {
    const [pack] = this.on;
    if (pack !== undefined && this.pulls && this.direction < 0 && this.totalS < GIVE_UP_S)
      this.lesson = {
        pack,
        flareRpm: this.flareRpm,
        lateS:
          (Number.isNaN(this.movedS) ? this.totalS : this.movedS) -
          (Number.isNaN(this.torqueEndS) ? this.totalS : this.torqueEndS),
      };
    this.enter("settle");
  }

  /** The on-coming element brings the input to its new line in the time set. */
  private pull(dtS: number, s: ShiftInput, kpa: Float64Array, newLine: number, torque: number): void {
    const { packs, to } = this;
    const x = Math.min(1, this.phaseS / this.pullS);
    const wanted = this.atStartRpm + (newLine - this.atStartRpm) * x;
    // positive: behind
    const behindRadS = this.direction * (wanted - s.inputRpm) * RAD_S_PER_RPM;
    this.integral = Math.max(-0.5, Math.min(5, this.integral + behindRadS * dtS));
    const rate = (Math.abs(newLine - this.atStartRpm) * RAD_S_PER_RPM) / this.pullS;
    const powered = s.torqueNm > 5;
    // once the engine turns round it helps or hinders
    const against = powered === this.direction < 0 ? torque : -torque;
    const late = Math.max(0, this.phaseS - 1.6 * this.pullS);
    const nm = Math.max(
      8,
      against + this.inertiaKgM2 * (rate * (x < 1 ? 1 : 0.6) + behindRadS * 10 + this.integral * 40) + late * 320,
    );
    for (const i of this.on) kpa[i] = Math.min(s.lineKpa, pressureFor(packs[i] as Pack, (to.shares[i] as number) * nm));
    if (this.direction < 0 && s.torqueNm > 50) this.torqueRequest = this.cut;
  }

  /** The off-going element lets the engine take the input to its new line. */
  private release(dtS: number, s: ShiftInput, kpa: Float64Array, newLine: number, progress: number): void {
    const { packs, from, to } = this;
    if (this.phaseS <= dtS) this.atStartRpm = s.inputRpm;
    const x = Math.min(1, this.phaseS / this.inertiaS);
    const wanted = this.atStartRpm + (newLine - this.atStartRpm) * x;
    const behindRadS = this.direction * (wanted - s.inputRpm) * RAD_S_PER_RPM;
    const rate = (Math.abs(newLine - this.atStartRpm) * RAD_S_PER_RPM) / this.inertiaS;
    const drives = this.direction * s.torqueNm;
    this.integral = Math.max(-4, Math.min(12, this.integral + behindRadS * dtS));
    const nm = drives - this.inertiaKgM2 * (rate + behindRadS * 14 + this.integral * 110);
    for (const i of this.off)
      kpa[i] = nm <= 0 ? 0 : Math.min(s.lineKpa, pressureFor(packs[i] as Pack, (from.shares[i] as number) * nm));
    // filled, touching with next to nothing, and under way before sync is there
    const early = Math.max(0, progress - 0.55) * (this.direction > 0 ? 1.6 : 0.8) * Math.max(0, drives);
    for (const i of this.on) kpa[i] = pressureFor(packs[i] as Pack, (to.shares[i] as number) * early) + 4;
    if (progress > 0.7 && this.direction > 0 && s.demandNm > 40) this.torqueRequest = this.syncCut;
    // with power there is no need to pull: less of the off-going element does it
    if (drives < 30 && this.phaseS > this.inertiaS * 0.6 + (progress < 0.5 ? 0 : PATIENCE_S * 0.6)) {
      this.integral = 0;
      this.pullS = LATE_PULL_S;
      this.atStartRpm = s.inputRpm;
      this.enter("inertia");
    }
  }
}
