import { elementsIn, type Unit } from "@gearsense/core/unit";
import { flowTimeFactor } from "../physics/fluid.ts";
import { FILL_KPA, type Pack } from "../physics/hydraulics.ts";
import type { Range } from "../road/profiles.ts";
import type { Adaptation } from "./adaptation.ts";
import type { Commands, Feedback, Sensed } from "./signals.ts";

/** Why a routine ended, or how far it is; the second byte of its status record. */
export const ROUTINE_CODE = {
  running: 0x00,
  done: 0x01,
  brakeReleased: 0x11,
  moved: 0x12,
  leverMoved: 0x13,
  notIdling: 0x14,
  temperature: 0x15,
  troubleCode: 0x16,
  stopped: 0x17,
  leverLate: 0x18,
  doesNotFill: 0x21,
  atLimit: 0x22,
  unsteady: 0x23,
  forkShort: 0x31,
} as const;

export type RoutineState = "running" | "done" | "stopped" | "failed";

/** Refusals of a start, ISO 14229-1: conditions in general, and those that have a code of their own. */
export const ROUTINE_REFUSAL = {
  conditions: 0x22,
  sequence: 0x24,
  engineStands: 0x84,
  tooHot: 0x86,
  tooCold: 0x87,
  tooFast: 0x88,
  brakeOpen: 0x8f,
  notInPark: 0x90,
  lowVoltage: 0x93,
} as const;

const STANDS_KMH = 1;
const IDLE_RPM = [450, 1400] as const;
const LEAST_V = 12;
/** beyond the window of its start a running routine goes on so far, °C */
const SPARE_C = 5;
/** time for a hand to move the lever as it is told, s */
const LEVER_S = 30;
const REST_S = 0.35;
const HOLD_S = 0.15;
const TIMES = 3;
/** fill times of one pack that lie further apart than this are no measurement, s */
const SPREAD_S = 0.02;
/** of the longest fill time that may be learned, at the temperature */
const GIVE_UP = 2;
const FORK_S = 1.5;
const FORK_OUT_S = 0.4;
/** a clutch is closed no further than this over its touch point at new, kPa */
const TOUCH_OVER_KPA = 120;
const TOUCH_KPA_PER_S = 90;
/** a lining that takes torque shows it with a little more, kPa */
const TOUCH_SEEN_KPA = 30;
/** power upshifts of one pack after which it counts as learned */
const LESSONS = 6;

/** What a control unit tells of a routine of its own. */
export interface RoutineStatus {
  readonly state: RoutineState;
  readonly code: number;
  /** where the lever is to go; undefined: where it is */
  readonly lever: Range | undefined;
  /** element that the code speaks of, counted from 1 in the unit file's list; 0: none */
  readonly element: number;
  /** 0 … 1 */
  readonly progress: number;
}

export interface RoutineParts {
  readonly unit: Unit;
  readonly packs: readonly Pack[];
  readonly adaptation: Adaptation;
  readonly temperatureC: readonly [number, number];
  readonly coldThickening?: number | undefined;
}

/** Why a routine that wants the vehicle standing does not start now. @returns a refusal; undefined: it may */
export function standingRefusal(
  { kind }: Unit,
  s: Readonly<Sensed>,
  codes: number,
  [low, high]: readonly [number, number],
): number | undefined {
  const c = kind === "planetary" ? s.fluidC : s.clutchC;
  if (s.engineRpm < IDLE_RPM[0]) return ROUTINE_REFUSAL.engineStands;
  if (s.vehicleKmh > STANDS_KMH) return ROUTINE_REFUSAL.tooFast;
  if (!s.brake) return ROUTINE_REFUSAL.brakeOpen;
  if (s.range !== "P") return ROUTINE_REFUSAL.notInPark;
  if (c < low) return ROUTINE_REFUSAL.tooCold;
  if (c > high) return ROUTINE_REFUSAL.tooHot;
  if (s.batteryV < LEAST_V) return ROUTINE_REFUSAL.lowVoltage;
  return codes > 0 || s.engineRpm > IDLE_RPM[1] ? ROUTINE_REFUSAL.conditions : undefined;
}

/**
 * A routine of the controller while it has the clutches to itself: it looks at its conditions ten times a second and ends by
 * itself when one is broken. What it found is taken over only when all of it was found.
 */
export abstract class StandingRoutine implements RoutineStatus {
  state: RoutineState = "running";
  code: number = ROUTINE_CODE.running;
  lever: Range | undefined;
  element = 0;
  progress = 0;
  readonly packKpa: Float64Array;
  readonly forks = new Set<string>();
  protected readonly parts: RoutineParts;
  private leverS = 0;

  constructor(parts: RoutineParts) {
    this.parts = parts;
    this.packKpa = new Float64Array(parts.packs.length);
  }

  tick(dtS: number, s: Sensed, back: Feedback, codes: number): void {
    if (this.state !== "running") return;
    const broken = this.broken(s, codes);
    if (broken !== undefined) {
      this.end("stopped", broken);
      return;
    }
    if (this.lever !== undefined && s.range !== this.lever) {
      this.packKpa.fill(0);
      this.leverS += dtS;
      if (this.leverS > LEVER_S) this.end("stopped", ROUTINE_CODE.leverLate);
      return;
    }
    this.leverS = 0;
    this.work(dtS, s, back);
  }

  private broken(s: Sensed, codes: number): number | undefined {
    const [low, high] = this.parts.temperatureC;
    if (!s.brake) return ROUTINE_CODE.brakeReleased;
    if (s.vehicleKmh > 2 * STANDS_KMH) return ROUTINE_CODE.moved;
    if (s.engineRpm < IDLE_RPM[0] || s.engineRpm > IDLE_RPM[1]) return ROUTINE_CODE.notIdling;
    if (this.temperatureC(s) < low - SPARE_C || this.temperatureC(s) > high + SPARE_C) return ROUTINE_CODE.temperature;
    return codes > 0 ? ROUTINE_CODE.troubleCode : undefined;
  }
  private temperatureC(s: Sensed): number {
    return this.parts.unit.kind === "planetary" ? s.fluidC : s.clutchC;
  }

  stop(): void {
    if (this.state === "running") this.end("stopped", ROUTINE_CODE.stopped);
  }

  /** Commands while it runs. */
  command(out: Commands): void {
    out.packKpa.set(this.packKpa);
    out.forks.clear();
    for (const f of this.forks) out.forks.add(f);
  }

  protected abstract work(dtS: number, s: Sensed, back: Feedback): void;

  protected end(state: RoutineState, code: number, elementId?: string): void {
    this.state = state;
    this.code = code;
    this.lever = undefined;
    this.packKpa.fill(0);
    this.forks.clear();
    this.element = elementId === undefined ? 0 : 1 + this.parts.unit.elements.findIndex((e) => e.id === elementId);
  }

  protected limitsOf(pack: Pack, unitOf: string): readonly [number, number] | undefined {
    return this.parts.unit.adaptations?.find((a) => a.component === pack.id && a.unit === unitOf)?.limits;
  }
}

/**
 * Fills every clutch by itself, three times, and times it: the first half in D, the second in N, then back to P. One clutch alone
 * carries no gear.
 */
export class FillRoutine extends StandingRoutine {
  override lever: Range | undefined = "D";
  private at = 0;
  private inS = 0;
  /** of the filled clutch, s; negative: it isn't held */
  private holdS = -1;
  private readonly seenS: number[] = [];
  private readonly foundS: number[] = [];

  protected work(dtS: number, s: Sensed, back: Feedback): void {
    const { packs, adaptation } = this.parts;
    const half = Math.ceil(packs.length / 2);
    const pack = packs[this.at];
    if (!pack) {
      if (this.lever === "P") {
        adaptation.fillS.set(this.foundS);
        adaptation.lineTrim = 0;
        this.progress = 1;
        this.end("done", ROUTINE_CODE.done);
      } else this.lever = "P";
      return;
    }
    const lever = this.at < half ? "D" : "N";
    if (lever !== this.lever) {
      this.lever = lever;
      return;
    }
    this.inS += dtS;
    const flow = flowTimeFactor(s.fluidC, this.parts.coldThickening);
    const limits = this.limitsOf(pack, "ms") ?? [0, 1000 * pack.fillS * GIVE_UP];
    this.packKpa.fill(0);
    if (this.inS < REST_S) return;
    this.packKpa[this.at] = FILL_KPA;
    // full shows in the turbine, which is held for a moment
    if ((back.stroke[this.at] as number) < 1) {
      if (this.inS - REST_S > (GIVE_UP * flow * limits[1]) / 1000)
        this.end("failed", ROUTINE_CODE.doesNotFill, pack.id);
      return;
    }
    if (this.holdS < 0) {
      this.seenS.push((this.inS - REST_S) / flow);
      this.holdS = 0;
    }
    this.holdS += dtS;
    if (this.holdS < HOLD_S) return;
    this.holdS = -1;
    this.inS = 0;
    this.progress = (this.at + this.seenS.length / TIMES) / packs.length;
    if (this.seenS.length < TIMES) return;
    const meanS = this.seenS.reduce((a, b) => a + b, 0) / TIMES;
    if (Math.max(...this.seenS) - Math.min(...this.seenS) > SPREAD_S) {
      this.end("failed", ROUTINE_CODE.unsteady, pack.id);
      return;
    }
    if (meanS * 1000 < limits[0] || meanS * 1000 > limits[1]) {
      this.end("failed", ROUTINE_CODE.atLimit, pack.id);
      return;
    }
    this.foundS.push(meanS);
    this.seenS.length = 0;
    this.at++;
  }
}

/** Moves every fork to its end and back, then closes each clutch slowly until it takes torque. */
export class BasicSetting extends StandingRoutine {
  private readonly ends: readonly string[];
  private at = 0;
  private inS = 0;
  private readonly foundKpa: number[] = [];

  /** @param forks - "fork:gear", each an end of a fork */
  constructor(parts: RoutineParts, forks: readonly string[]) {
    super(parts);
    this.ends = forks;
  }

  protected work(dtS: number, _s: Sensed, back: Feedback): void {
    const { packs, adaptation } = this.parts;
    this.inS += dtS;
    const steps = this.ends.length + packs.length;
    const fork = this.ends[this.at];
    this.forks.clear();
    this.packKpa.fill(0);
    if (fork !== undefined) {
      // out first, then this end alone
      if (this.inS < FORK_OUT_S) return;
      this.forks.add(fork);
      if (back.forksIn.has(fork)) this.next(steps);
      else if (this.inS > FORK_OUT_S + FORK_S) this.end("failed", ROUTINE_CODE.forkShort, fork.split(":")[0]);
      return;
    }
    const i = this.at - this.ends.length;
    const pack = packs[i];
    if (!pack) {
      adaptation.touchKpa.set(this.foundKpa);
      this.progress = 1;
      this.end("done", ROUTINE_CODE.done);
      return;
    }
    if (this.inS < FORK_OUT_S) return;
    const limits = this.limitsOf(pack, "kPa") ?? [0, pack.kissKpa + TOUCH_OVER_KPA];
    const kpa = 0.5 * pack.kissKpa + TOUCH_KPA_PER_S * (this.inS - FORK_OUT_S);
    this.packKpa[i] = kpa;
    const touch = back.touchKpa[i] as number;
    if (kpa > limits[1] + 2 * TOUCH_OVER_KPA) {
      this.end("failed", ROUTINE_CODE.doesNotFill, pack.id);
      return;
    }
    if (Number.isNaN(touch) || kpa < touch + TOUCH_SEEN_KPA) return;
    if (touch < limits[0] || touch > limits[1]) {
      this.end("failed", ROUTINE_CODE.atLimit, pack.id);
      return;
    }
    this.foundKpa.push(touch);
    this.next(steps);
  }

  private next(steps: number): void {
    this.at++;
    this.inS = 0;
    this.progress = this.at / steps;
  }
}

/** Learns from the shifts of a drive: begun anew, quicker than usual, until every clutch that comes on has had its lessons. */
export class DriveLearn implements RoutineStatus {
  readonly lever = undefined;
  private ended: RoutineStatus | undefined;
  private readonly unit: Unit;
  private readonly packs: readonly Pack[];
  private readonly adaptation: Adaptation;
  /** packs that come on in an upshift */
  private readonly comesOn: readonly number[];

  constructor(unit: Unit, packs: readonly Pack[], adaptation: Adaptation, speed: number) {
    this.unit = unit;
    this.packs = packs;
    this.adaptation = adaptation;
    const applied = unit.gears.filter((g) => g.ratio > 0).map((g) => elementsIn(unit, g.name));
    const on = new Set(applied.slice(1).flatMap((to, i) => to.filter((e) => !applied[i]?.includes(e))));
    this.comesOn = packs.flatMap((p, i) => (on.has(p.id) ? [i] : []));
    adaptation.reset(packs);
    adaptation.speed = speed;
  }

  private now(): RoutineStatus {
    if (this.ended) return this.ended;
    const had = this.comesOn.map((i) => Math.min(1, (this.adaptation.lessons[i] as number) / LESSONS));
    const bad = this.comesOn.find(
      (i) => (this.adaptation.lessons[i] as number) >= LESSONS && this.adaptation.atLimit(i),
    );
    const progress = had.reduce((a, b) => a + b, 0) / Math.max(1, had.length);
    if (bad !== undefined) {
      const id = (this.packs[bad] as Pack).id;
      const element = 1 + this.unit.elements.findIndex((e) => e.id === id);
      return this.end({ state: "failed", code: ROUTINE_CODE.atLimit, lever: undefined, element, progress });
    }
    const done = had.every((h) => h >= 1);
    const now: RoutineStatus = {
      state: done ? "done" : "running",
      code: done ? ROUTINE_CODE.done : ROUTINE_CODE.running,
      lever: undefined,
      element: 0,
      progress,
    };
    return done ? this.end(now) : now;
  }
  private end(status: RoutineStatus): RoutineStatus {
    this.adaptation.speed = 1;
    this.ended = status;
    return status;
  }

  get state(): RoutineState {
    return this.now().state;
  }
  get code(): number {
    return this.now().code;
  }
  get element(): number {
    return this.now().element;
  }
  get progress(): number {
    return this.now().progress;
  }
  stop(): void {
    const now = this.now();
    if (now.state === "running") this.end({ ...now, state: "stopped", code: ROUTINE_CODE.stopped });
  }
}
