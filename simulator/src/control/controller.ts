import { clutchOf, type Unit } from "@gearsense/core/unit";
import type { Build } from "../build.ts";
import { flowTimeFactor } from "../physics/fluid.ts";
import { FILL_KPA, type Pack, pressureFor } from "../physics/hydraulics.ts";
import type { Range } from "../road/profiles.ts";
import type { Adaptation } from "./adaptation.ts";
import { type GearRow, gearRows, linePressureFor } from "./gear-table.ts";
import { InputTorque } from "./input-torque.ts";
import { Launch } from "./launch.ts";
import { Lockup } from "./lockup.ts";
import { CodeMemory, type Doubt, Timer } from "./monitors.ts";
import type { StandingRoutine } from "./routine.ts";
import { GearChoice, scheduleOf } from "./schedule.ts";
import { Shift, type ShiftStyle } from "./shift.ts";
import type { Commands, Feedback, Sensed } from "./signals.ts";

const LOWEST_LINE_KPA = 330;
const LIMP_LINE_KPA = 1650;
/** while clutches are measured one by one */
const ROUTINE_LINE_KPA = 900;
const SHIFT_SPARE = 0.3;
const TURBINE_INERTIA_KGM2 = 0.09;
/** share of the engine that an open converter lets turn with the turbine within a shift */
const ENGINE_WITH_TURBINE = 0.5;
/** an engine fixed to the clutches runs away faster */
const DUAL_SYNC_CUT = 0.4;
const BETWEEN_SHIFTS_S = 1.1;
const BETWEEN_KICKS_S = 0.35;
const LOST_S = 0.5;
/** a fork that has not reported to be in by then is given up */
const FORK_S = 1.5;
/** input speed up to which a gear is taken when D comes back on the road */
const REJOIN_RPM = 2600;
const RATIO_S = 1;
const RATIO_OFF = 0.08;
const LIMP_AFTER = 3;
const DEFAULT_FLUID_C = 80;

/** load that the times of the style are for */
const USUAL_LOAD = 0.4;

type ControlBuild = Pick<Build, "style" | "idleRpm" | "coldThickening">;

/** A made-up transmission controller: gear choice, pressures, shifts, converter clutch or launch, adaptation, codes, limp. */
export class Controller {
  readonly unit: Unit;
  readonly packs: readonly Pack[];
  readonly gears: ReadonlyMap<string, GearRow>;
  readonly out: Commands;
  readonly codes: CodeMemory;
  readonly adaptation: Adaptation;
  readonly lockup: Lockup | undefined;
  readonly choice: GearChoice;
  private readonly launch: Launch | undefined;
  private readonly forward: readonly GearRow[];
  private readonly neutral: Uint8Array;
  private readonly highestLineKpa: number;
  private readonly inertiaKgM2: number;
  private readonly build: ControlBuild;
  private readonly lost = new Map<string, Timer>();
  private readonly ratioTimer = new Timer();
  private readonly converterTimer = new Timer();
  private readonly pressureTimer = new Timer();
  private readonly forkTimer = new Timer();
  private readonly standstillTimer = new Timer();
  private readonly fluidTimer = new Timer();
  private readonly openTimers = new Map<string, Timer>();
  private shift: Shift | undefined;
  private waiting: GearRow | undefined;
  private engageS = -1;
  private lastRequest = 1;
  private slipRpm = 0;
  private readonly torque: InputTorque;
  private sinceShiftS = 10;
  private ratioEvents = 0;
  private lastFluidC = Number.NaN;
  private lastRange: Range | undefined;
  private barred = new Set<string>();
  /** when limp mode began; undefined while it has not */
  limpS: number | undefined;
  /** restart after the controller lost power: nothing is powered until then */
  private resetUntilS = -1;
  /** a routine that has the clutches to itself while it runs */
  routine: StandingRoutine | undefined;
  timeS = 0;

  /** @param engineInertiaKgM2 - what the controller was set up with */
  constructor(
    unit: Unit,
    packs: readonly Pack[],
    highestLineKpa: number,
    engineInertiaKgM2: number,
    adaptation: Adaptation,
    build: ControlBuild,
  ) {
    this.build = build;
    this.unit = unit;
    this.torque = new InputTorque(unit);
    this.highestLineKpa = highestLineKpa;
    this.packs = packs;
    this.gears = gearRows(unit, packs);
    this.adaptation = adaptation;
    this.codes = new CodeMemory(unit);
    this.forward = [...this.gears.values()].filter((g) => g.code > 0);
    this.choice = new GearChoice(this.forward, scheduleOf(build.style), build.idleRpm);
    const planetary = unit.kind === "planetary";
    this.inertiaKgM2 = planetary
      ? TURBINE_INERTIA_KGM2 + ENGINE_WITH_TURBINE * engineInertiaKgM2
      : engineInertiaKgM2 + 0.01;
    const [first, reverse] = [this.gears.get("1"), this.gears.get("R")];
    // where the unit file is silent, what first and reverse have in common stays on in neutral
    this.neutral = Uint8Array.from(packs, (p, i) =>
      Number(
        planetary && (unit.neutral ? unit.neutral.includes(p.id) : first?.applied[i] && reverse?.applied[i]) ? 1 : 0,
      ),
    );
    if (planetary && unit.converter) this.lockup = new Lockup(unit.converter, build.style);
    if (!planetary) this.launch = new Launch(engineInertiaKgM2, build.idleRpm);
    for (const s of unit.sensors) this.lost.set(s.id, new Timer());
    for (const s of unit.solenoids) this.openTimers.set(s.id, new Timer());
    this.out = {
      packKpa: new Float64Array(packs.length),
      lineKpa: LOWEST_LINE_KPA,
      converterKpa: 0,
      torqueRequest: 1,
      forks: new Set(),
      gear: undefined,
      unpowered: false,
    };
  }

  get shifting(): boolean {
    return this.shift !== undefined || this.engageS >= 0 || this.waiting !== undefined;
  }
  /** a change between forward gears has its command given and is not through */
  get changing(): boolean {
    return this.shift !== undefined;
  }
  get clutchClosed(): boolean {
    return this.launch?.closed ?? false;
  }

  /** Power is lost: outputs fall off for a moment and the controller starts anew in the gear that fits. */
  losePower(seconds: number): void {
    this.resetUntilS = this.timeS + seconds;
  }

  tick(dtS: number, s: Sensed, back: Feedback): void {
    this.timeS += dtS;
    this.sinceShiftS += dtS;
    const { out, packs } = this;
    this.lastRequest = out.torqueRequest;
    out.torqueRequest = 1;
    out.converterKpa = 0;
    const fluidC = this.plausibleFluid(dtS, s);
    const torqueNm = this.torque.follow(dtS, s, this.lockup?.on ?? false);
    // what will be there again once the shift lets go of the engine
    const demandNm = torqueNm > 0 ? torqueNm / this.lastRequest : torqueNm;
    this.watch(dtS, s, back);
    const range = s.range ?? this.lastRange ?? "N";
    if (range !== this.lastRange) this.select(range, s);
    this.lastRange = range;
    if (this.routine?.state === "running") {
      this.routine.tick(dtS, s, back, this.codes.stored.length);
      this.shift = undefined;
      out.gear = undefined;
      out.unpowered = false;
      out.lineKpa = ROUTINE_LINE_KPA;
      this.routine.command(out);
      // the gear of the lever comes again as if it had just been put there
      if (this.routine.state !== "running") this.select(range, s);
      return;
    }
    const now = out.gear;
    out.unpowered = this.timeS < this.resetUntilS || (this.limpS !== undefined && this.launch === undefined);
    if (this.limpS !== undefined && this.launch === undefined) {
      out.lineKpa = this.unit.limp.linePressureKpa ?? LIMP_LINE_KPA;
      out.gear = range === "D" ? this.gears.get(this.unit.limp.gear) : range === "R" ? this.gears.get("R") : undefined;
      for (let i = 0; i < packs.length; i++) out.packKpa[i] = out.gear?.applied[i] ? out.lineKpa : 0;
      return;
    }
    // a shift has the engine's inertia to move as well
    const shiftNm = Math.abs(demandNm) + SHIFT_SPARE * this.unit.maxInputTorqueNm;
    const most = this.shift
      ? Math.max(linePressureFor(packs, this.shift.from, shiftNm), linePressureFor(packs, this.shift.to, shiftNm))
      : now
        ? linePressureFor(packs, now, torqueNm)
        : 0;
    out.lineKpa =
      Math.min(
        this.highestLineKpa,
        Math.max(LOWEST_LINE_KPA, most * this.build.style.lineMargin + 30 + 60 * s.pedal * s.pedal),
      ) *
      (1 + this.adaptation.lineTrim);
    if (this.launch) out.lineKpa = Math.max(out.lineKpa, 900);
    if (!now) {
      this.shift = undefined;
      for (let i = 0; i < packs.length; i++) out.packKpa[i] = this.neutral[i] ? out.lineKpa : 0;
      this.standby();
      return;
    }
    if (this.engageS >= 0) this.engage(dtS, now, fluidC, s);
    else if (this.shift) this.runShift(dtS, s, torqueNm, demandNm, fluidC);
    else this.hold(dtS, s, now, torqueNm, fluidC, back);
    if (this.lockup && !this.launch)
      out.converterKpa = this.lockup.tick(dtS, {
        gear: now.name,
        shifting: this.shifting || this.limpS !== undefined,
        vehicleKmh: s.vehicleKmh,
        pedal: s.pedal,
        slipRpm: s.engineRpm - s.inputRpm,
        fluidC,
        holdKpa: this.converterHoldKpa(s.engineNm),
      });
    if (this.launch) {
      this.adaptation.seeTouch(back.touchKpa);
      out.forks.clear();
      for (const f of now.forks) out.forks.add(f);
      for (const f of this.shift?.from.forks ?? []) out.forks.add(f);
      const ready = this.waiting ?? (this.shift ? undefined : this.preselect(now, s));
      for (const f of ready?.forks ?? []) out.forks.add(f);
    }
  }

  /** set by the vehicle: pressure that holds a torque in the converter clutch */
  converterHoldKpa: (engineNm: number) => number = () => 0;

  private standby(): void {
    if (!this.launch) return;
    this.out.forks.clear();
    for (const f of this.gears.get("1")?.forks ?? []) this.out.forks.add(f);
  }

  private select(range: Range, s: Sensed): void {
    // on the road it takes the gear that fits the speed
    const fits = this.forward.find((g) => s.outputRpm * g.ratio < REJOIN_RPM) ?? this.forward.at(-1);
    const drive = this.limpS === undefined ? fits : this.gears.get(this.unit.limp.gear);
    const next = range === "D" ? drive : range === "R" ? this.gears.get("R") : undefined;
    this.out.gear = next;
    this.shift = undefined;
    this.waiting = undefined;
    this.engageS = next ? 0 : -1;
    this.launch?.reset();
    this.ratioTimer.reset();
  }

  /** From neutral into a gear: fill, then a soft rise. */
  private engage(dtS: number, gear: GearRow, fluidC: number, s: Sensed): void {
    this.engageS += dtS;
    const { packs, out } = this;
    if (this.launch) {
      // forks first; the clutch comes with the brake's release
      for (let i = 0; i < packs.length; i++) out.packKpa[i] = 0;
      if (this.engageS > 0.25) this.engageS = -1;
      return;
    }
    const fresh = packs.map((_, i) => i).filter((i) => gear.applied[i] && !this.neutral[i]);
    const fill =
      Math.max(0.05, ...fresh.map((i) => this.adaptation.fillS[i] as number)) *
      flowTimeFactor(fluidC, this.build.coldThickening);
    const x = Math.min(1, Math.max(0, (this.engageS - fill) / 0.5));
    for (let i = 0; i < packs.length; i++) {
      const pack = packs[i] as Pack;
      if (!gear.applied[i]) out.packKpa[i] = 0;
      else if (this.neutral[i]) out.packKpa[i] = out.lineKpa;
      else {
        const start = pressureFor(pack, 12 * (gear.shares[i] as number));
        out.packKpa[i] = this.engageS < fill ? FILL_KPA : start + (out.lineKpa - start) * x * x;
      }
    }
    // a foot that is already down gets the gear at once
    if (x >= 1 || (s.pedal > 0.25 && this.engageS > fill + 0.2)) this.engageS = -1;
  }

  private hold(dtS: number, s: Sensed, now: GearRow, torqueNm: number, fluidC: number, back: Feedback): void {
    const { packs, out } = this;
    if (this.launch) {
      const nm = this.launch.tick(dtS, s, now, this.shaftOf(now, s));
      for (let i = 0; i < packs.length; i++)
        out.packKpa[i] =
          now.applied[i] && nm > 0 && now.forks.every((f) => back.forksIn.has(f)) ? this.clutchKpa(i, nm) : 0;
      // at rest nothing else asks whether the gear is in
      if (this.standstillTimer.tick(dtS, nm > 0 && now.forks.some((f) => !back.forksIn.has(f)), FORK_S))
        this.doubtForks(now, s, back);
    } else for (let i = 0; i < packs.length; i++) out.packKpa[i] = now.applied[i] ? out.lineKpa : 0;
    if (now.code < 0) return;
    if (this.limpS !== undefined) return;
    const moving = s.outputRpm > 20;
    if (!moving && now.code === 1) return;
    const pause = s.pedal > 0.6 ? BETWEEN_KICKS_S : BETWEEN_SHIFTS_S;
    if (this.sinceShiftS < pause || s.outputRpm <= 0) {
      if (now.code > 1 && s.vehicleKmh < 2 && this.sinceShiftS > pause)
        this.begin(this.forward[0] as GearRow, s, torqueNm, fluidC, back);
      return;
    }
    const wanted = this.waiting?.code ?? this.choice.next(this.timeS, now.code, s.outputRpm, s.pedal);
    const next = this.forward[wanted - 1];
    if (!next || next === now || this.barred.has(next.name)) {
      this.waiting = undefined;
      return;
    }
    this.begin(next, s, torqueNm, fluidC, back, dtS);
  }

  /** Begins a change; in a dual-clutch unit the fork goes in first. */
  private begin(next: GearRow, s: Sensed, torqueNm: number, fluidC: number, back: Feedback, dtS = 0): void {
    const now = this.out.gear as GearRow;
    if (this.launch && !next.forks.every((f) => back.forksIn.has(f))) {
      this.waiting = next;
      if (this.forkTimer.tick(dtS, true, FORK_S)) {
        this.forkTimer.reset();
        this.barred.add(next.name);
        this.waiting = undefined;
        this.doubtForks(next, s, back);
      }
      return;
    }
    this.forkTimer.reset();
    this.waiting = undefined;
    const input = {
      inputRpm: s.inputRpm,
      outputRpm: s.outputRpm,
      torqueNm,
      demandNm: torqueNm,
      fluidC,
      lineKpa: this.out.lineKpa,
    };
    if (this.launch && s.vehicleKmh < 2) {
      this.out.gear = next;
      this.launch.reset();
      this.sinceShiftS = 0;
      return;
    }
    this.shift = new Shift(
      this.touched(),
      now,
      next,
      input,
      this.adaptation.fillS,
      this.inertiaKgM2,
      this.launch ? DUAL_SYNC_CUT : undefined,
      this.shiftStyle(torqueNm),
    );
    this.out.gear = next;
    this.ratioTimer.reset();
  }

  /** Shift times go with the load. */
  private shiftStyle(torqueNm: number): ShiftStyle {
    const { style } = this.build;
    const load = Math.abs(torqueNm) / this.unit.maxInputTorqueNm;
    return {
      ...style,
      coldThickening: this.build.coldThickening,
      inertiaS: style.inertiaS * (1 + style.inertiaByLoad * (load - USUAL_LOAD)),
    };
  }

  private doubtForks(gear: GearRow, s: Sensed, back: Feedback): void {
    for (const id of gear.forks)
      if (!back.forksIn.has(id))
        this.doubt({ about: "fork", fork: id.split(":")[0] as string, signal: !back.forksUnseen.has(id) }, s);
  }

  /** Packs with the touch points that were learned. */
  private touched(): readonly Pack[] {
    if (!this.launch) return this.packs;
    return this.packs.map((p, i) => ({ ...p, kissKpa: this.adaptation.touchKpa[i] as number }));
  }
  private clutchKpa(i: number, nm: number): number {
    return pressureFor({ ...(this.packs[i] as Pack), kissKpa: this.adaptation.touchKpa[i] as number }, nm);
  }

  private runShift(dtS: number, s: Sensed, torqueNm: number, demandNm: number, fluidC: number): void {
    const shift = this.shift as Shift;
    shift.tick(
      dtS,
      { inputRpm: s.inputRpm, outputRpm: s.outputRpm, torqueNm, demandNm, fluidC, lineKpa: this.out.lineKpa },
      this.out.packKpa,
    );
    this.out.torqueRequest = shift.torqueRequest;
    const lesson = shift.takeLesson();
    if (lesson) this.adaptation.learn(lesson, torqueNm, fluidC);
    if (!shift.done) return;
    this.shift = undefined;
    this.sinceShiftS = 0;
    this.launch?.take(shift.to, s);
  }

  private shaftOf(gear: GearRow, s: Sensed): number {
    return s.outputRpm * gear.ratio;
  }

  /** The gear to lay ready on the other shaft. */
  private preselect(now: GearRow, s: Sensed): GearRow | undefined {
    if (now.code < 1) return undefined;
    const up = this.forward[now.code];
    const down = this.forward[now.code - 2];
    const sync = s.outputRpm * now.ratio;
    const rising = sync > 1350 || s.pedal > 0.1;
    const pick = (rising ? up : down) ?? up ?? down;
    if (!pick || this.barred.has(pick.name)) return undefined;
    return clutchOf(this.unit, pick.name) === clutchOf(this.unit, now.name) ? undefined : pick;
  }

  private plausibleFluid(dtS: number, s: Sensed): number {
    const sensor = this.unit.sensors.find((x) => x.channel === "fluid_c");
    if (!sensor) return s.fluidC;
    const bad = s.fluidC < -40 || s.fluidC > 180 || Number.isNaN(s.fluidC);
    const frozen = s.fluidC === this.lastFluidC && s.vehicleKmh > 15 && s.fluidC < 60;
    this.lastFluidC = s.fluidC;
    if (bad) this.doubt({ about: "sensor", sensor: sensor.id }, s);
    // a warming unit moves by a degree long before this
    if (this.fluidTimer.tick(s.vehicleKmh > 15 || !frozen ? dtS : 0, frozen || s.vehicleKmh <= 15, 1200))
      this.doubt({ about: "sensor", sensor: sensor.id }, s);
    return bad ? DEFAULT_FLUID_C : s.fluidC;
  }

  private doubt(doubt: Doubt, s: Sensed): boolean {
    return this.codes.set(doubt, this.timeS, {
      engine_rpm: Math.round(s.engineRpm),
      input_rpm: Math.round(s.inputRpm),
      output_rpm: Math.round(s.outputRpm),
      vehicle_kmh: Math.round(s.vehicleKmh),
      pedal_pct: Math.round(s.pedal * 100),
      fluid_c: Math.round(s.fluidC),
      gear: this.out.gear?.code ?? 0,
    });
  }

  private limp(): void {
    if (this.limpS !== undefined) return;
    this.limpS = this.timeS;
    this.shift = undefined;
    this.waiting = undefined;
    if (this.launch && this.lastRange === "D") {
      this.out.gear = this.gears.get(this.unit.limp.gear);
      this.launch.reset();
    }
  }

  /** The plausibility checks, each by the condition that the unit file states for its code. */
  private watch(dtS: number, s: Sensed, back: Feedback): void {
    const { unit } = this;
    const gear = this.out.gear;
    for (const sensor of unit.sensors) {
      const timer = this.lost.get(sensor.id) as Timer;
      let gone = false;
      if (sensor.channel === "output_rpm") gone = s.outputRpm === 0 && s.vehicleKmh > 9;
      else if (sensor.channel === "turbine_rpm")
        gone = s.inputRpm === 0 && s.outputRpm > 300 && s.engineRpm > 500 && gear !== undefined;
      else if (sensor.channel === "k1_rpm" || sensor.channel === "k2_rpm") {
        const k = sensor.channel === "k1_rpm" ? 0 : 1;
        const own = gear && (sensor.validGears === "all" || sensor.validGears.includes(gear.name));
        gone = Boolean(own) && s.shaftRpm[k] === 0 && s.outputRpm > 300;
      }
      if (timer.tick(dtS, gone, LOST_S) && this.doubt({ about: "sensor", sensor: sensor.id }, s)) this.limp();
    }
    for (const { id } of unit.solenoids)
      if (
        (this.openTimers.get(id) as Timer).tick(dtS, back.openSolenoids.has(id), 0.2) &&
        this.doubt({ about: "circuit", solenoid: id }, s)
      )
        this.limp();
    if (this.limpS !== undefined) return;
    const held = gear && !this.shifting && this.sinceShiftS > 0.6 && s.outputRpm > 150 && s.inputRpm > 0;
    const planetary = this.launch === undefined;
    const sync = gear ? s.outputRpm * gear.ratio : 0;
    const slip = planetary ? s.inputRpm - sync : this.launch?.closed ? s.engineRpm - sync : 0;
    const off = planetary ? Math.abs(slip) > RATIO_OFF * sync && !(gear?.driveOnly && slip < 0) : Math.abs(slip) > 200;
    if (this.ratioTimer.tick(dtS, Boolean(held) && off, RATIO_S)) {
      this.ratioTimer.reset();
      this.sinceShiftS = 0;
      this.ratioEvents++;
      if (this.doubt({ about: planetary ? "ratio" : "clutch" }, s) && this.ratioEvents >= LIMP_AFTER) this.limp();
    }
    // a little slip under load is answered with pressure; at the end of that stands a code
    this.slipRpm += (slip - this.slipRpm) * (dtS / 0.3);
    if (
      held &&
      planetary &&
      this.slipRpm > 22 &&
      this.slipRpm < RATIO_OFF * sync + 200 &&
      s.pedal > 0.1 &&
      this.adaptation.raiseLine(dtS)
    )
      this.doubt({ about: "pressure" }, s);
    if (this.lockup) {
      const slips = this.lockup.holding && s.engineRpm - s.inputRpm > 120;
      if (this.converterTimer.tick(dtS, slips, 4) && this.doubt({ about: "converter-clutch" }, s))
        this.lockup.barred = true;
    }
    if (this.launch) {
      const apart = Math.abs(s.linePressureKpa - this.out.lineKpa) > 0.25 * this.out.lineKpa && s.engineRpm > 500;
      if (this.pressureTimer.tick(dtS, apart, 2)) this.doubt({ about: "supply" }, s);
    }
  }
}
