import type { StoredCode } from "./control/monitors.ts";
import type { SimulatedFault } from "./faults/fault.ts";
import type { SimulatedVehicle } from "./vehicle.ts";
import { TICK_S } from "./vehicle.ts";

export interface TrueShift {
  /** "2-3" */
  readonly name: string;
  readonly commandS: number;
  /** of the straight line through 10 and 90 % of the way from the old sync line to the new, prolonged to its ends */
  startS: number;
  endS: number;
  /** input above the line it should follow: the old one going up, the new one going down, rpm */
  flareRpm: number;
  readonly torqueNm: number;
  readonly fluidC: number;
  readonly pedal: number;
  /** change of the vehicle's acceleration within the shift, m/s² */
  joltMS2: number;
  /** false: the new gear was not reached */
  made: boolean;
}
export interface TrueSlip {
  readonly gear: string;
  readonly startS: number;
  endS: number;
  peakRpm: number;
  peakTorqueNm: number;
}
export interface TrueShudder {
  readonly startS: number;
  endS: number;
  readonly gear: string;
  frequencyHz: number;
  peakToPeakRpm: number;
}
export interface TrueDropout {
  readonly sensor: string;
  readonly startS: number;
  endS: number;
}
export interface TrueEngagement {
  readonly range: "D" | "R";
  readonly commandS: number;
  /** until the input is pulled down; NaN when it never was */
  delayS: number;
  joltMS2: number;
}
export interface TrueWrongGear {
  readonly commanded: string;
  readonly obtained: string;
  readonly startS: number;
  endS: number;
}

/** What really happened in a drive. Never shown to the analysis; tests and scores compare with it. */
export interface Truth {
  readonly unitId: string;
  readonly seed: number;
  readonly faults: readonly SimulatedFault[];
  readonly shifts: TrueShift[];
  readonly slips: TrueSlip[];
  readonly wrongGears: TrueWrongGear[];
  /** of a converter clutch whose friction falls with slip */
  readonly shudder: TrueShudder[];
  /** the same vibration from elsewhere: engine, wheels, shafts */
  readonly otherVibrations: TrueShudder[];
  /** the drive's torque turning round outside shifts: time without any, and the quickest change of acceleration after it, m/s² in 10 ms */
  readonly reversals: { readonly timeS: number; readonly freeS: number; joltMS2: number }[];
  readonly dropouts: TrueDropout[];
  readonly engagements: TrueEngagement[];
  limpS: number | undefined;
  codes: readonly StoredCode[];
  /** stored before the drive, and nothing to do with it */
  readonly strayCodes: readonly string[];
  readonly highestFluidC: number;
  readonly highestClutchC: number;
}

const SLIP_RPM = 60;
const SLIP_ENDS_RPM = 30;
const SLIP_MIN_S = 0.15;
const WRONG_TOLERANCE = 0.02;
const WRONG_MIN_S = 0.5;
const WINDOW_S = 1;
const SHUDDER_RPM = 20;
const SHUDDER_MIN_S = 2;
/** friction that falls with slip from here on */
const FALLING = 0.3;
const REVERSAL_S = 0.35;
const NO_TORQUE_NM = 0.3;
const LOWEST_HZ = 3;
const LEAST_CYCLES = 3;
const LOOK_TICKS = 10;
const JOLT_AFTER_S = 0.25;
const QUIET_S = 0.6;
const SEARCH_S = 3;

/** Writes down what happens, tick by tick, from the real speeds. */
export class TruthRecorder {
  readonly truth: Truth;
  private readonly vehicle: SimulatedVehicle;
  private gear = "";
  private open: (TrueShift & { t10: number; previous: number; up: boolean; from: number; to: number }) | undefined;
  private slip: TrueSlip | undefined;
  private wrong: TrueWrongGear | undefined;
  private shudder: (TrueShudder & { looks: number }) | undefined;
  private engagement: (TrueEngagement & { fromRpm: number }) | undefined;
  private readonly dropouts = new Map<string, TrueDropout>();
  private readonly ring = new Float64Array(Math.round(WINDOW_S / TICK_S));
  private ringAt = 0;
  private lastChangeS = -10;
  private signMS2 = 0;
  private freeS = 0;
  private lastMS2 = 0;
  private joltUntilS = -1;
  private joltLow = 0;
  private joltHigh = 0;
  private jolted: { joltMS2: number } | undefined;

  constructor(vehicle: SimulatedVehicle, seed: number, strayCodes: readonly string[] = []) {
    this.vehicle = vehicle;
    this.truth = {
      unitId: vehicle.unit.id,
      seed,
      faults: vehicle.faults,
      shifts: [],
      slips: [],
      wrongGears: [],
      shudder: [],
      otherVibrations: [],
      reversals: [],
      dropouts: [],
      engagements: [],
      limpS: undefined,
      codes: [],
      strayCodes,
      highestFluidC: Number.NEGATIVE_INFINITY,
      highestClutchC: Number.NEGATIVE_INFINITY,
    };
  }

  tick(): void {
    const { vehicle, truth } = this;
    const { real, timeS, commands, controller } = vehicle;
    const gear = commands.gear?.name ?? "";
    const high = truth as { highestFluidC: number; highestClutchC: number };
    high.highestFluidC = Math.max(high.highestFluidC, real.fluidC);
    high.highestClutchC = Math.max(high.highestClutchC, real.clutchC);
    truth.limpS ??= controller.limpS;
    truth.codes = vehicle.codes;
    this.jolt(timeS);
    if (gear !== this.gear) this.changed(gear, timeS);
    this.gear = gear;
    if (this.engagement) this.engage(timeS);
    if (this.open) this.follow(this.open, timeS);
    const still = !this.open && timeS - this.lastChangeS > QUIET_S;
    this.held(gear, timeS, still);
    this.converter(gear, timeS, still);
    this.sensors(timeS);
    this.reversal(timeS, still);
  }

  private changed(gear: string, timeS: number): void {
    const { vehicle, truth } = this;
    const { real, controller } = vehicle;
    this.lastChangeS = timeS;
    const [from, to] = [controller.gears.get(this.gear), controller.gears.get(gear)];
    if (this.open) this.close(this.open, false);
    if (from && to && from.code > 0 && to.code > 0) {
      this.open = {
        name: `${this.gear}-${gear}`,
        commandS: timeS,
        startS: Number.NaN,
        endS: Number.NaN,
        flareRpm: 0,
        torqueNm: real.engineNm,
        fluidC: real.fluidC,
        pedal: vehicle.readings.pedal,
        joltMS2: 0,
        made: false,
        t10: Number.NaN,
        previous: 0,
        up: to.ratio < from.ratio,
        from: from.ratio,
        to: to.ratio,
      };
      this.watchJolt(this.open, timeS + SEARCH_S);
    } else if (to && !from && real.outputRpm < 40) {
      this.engagement = {
        range: to.code > 0 ? "D" : "R",
        commandS: timeS,
        delayS: Number.NaN,
        joltMS2: 0,
        fromRpm: real.inputRpm,
      };
      truth.engagements.push(this.engagement);
      this.watchJolt(this.engagement, timeS + 1.6);
    }
  }

  private engage(timeS: number): void {
    const e = this.engagement as NonNullable<typeof this.engagement>;
    const { vehicle } = this;
    const forks = vehicle.commands.gear?.forks ?? [];
    // the input is pulled down; in a dual-clutch unit, whose clutch waits for the brake, the forks are in
    const there =
      forks.length > 0 ? forks.every((f) => vehicle.forksReady.has(f)) : vehicle.real.inputRpm < 0.5 * e.fromRpm;
    if (there) {
      e.delayS = timeS - e.commandS;
      this.engagement = undefined;
    } else if (timeS - e.commandS > 4) this.engagement = undefined;
  }

  private watchJolt(of: { joltMS2: number }, untilS: number): void {
    this.jolted = of;
    this.joltUntilS = untilS;
    this.joltLow = Number.POSITIVE_INFINITY;
    this.joltHigh = Number.NEGATIVE_INFINITY;
  }
  private jolt(timeS: number): void {
    const { vehicle } = this;
    if (!this.jolted) return;
    const force = (vehicle.real.shaftNm * vehicle.unit.finalDrive) / vehicle.unit.tyreRadiusM;
    const a = force / vehicle.powertrain.vehicle.massKg;
    this.joltLow = Math.min(this.joltLow, a);
    this.joltHigh = Math.max(this.joltHigh, a);
    this.jolted.joltMS2 = this.joltHigh - this.joltLow;
    if (timeS > this.joltUntilS) this.jolted = undefined;
  }

  private follow(s: NonNullable<typeof this.open>, timeS: number): void {
    const { inputRpm, outputRpm } = this.vehicle.real;
    const [oldLine, newLine] = [outputRpm * s.from, outputRpm * s.to];
    const progress = Math.abs(newLine - oldLine) < 1 ? 1 : (inputRpm - oldLine) / (newLine - oldLine);
    const cross = (level: number) =>
      timeS - TICK_S * (progress === s.previous ? 0 : Math.min(1, (progress - level) / (progress - s.previous)));
    if (s.up && Number.isNaN(s.t10)) s.flareRpm = Math.max(s.flareRpm, inputRpm - oldLine);
    if (Number.isNaN(s.t10)) {
      if (s.previous < 0.1 && progress >= 0.1) s.t10 = cross(0.1);
    } else if (progress < 0.05 && Number.isNaN(s.endS)) s.t10 = Number.NaN;
    if (!Number.isNaN(s.t10) && Number.isNaN(s.endS) && progress >= 0.9) {
      const t90 = cross(0.9);
      const eighth = (t90 - s.t10) / 8;
      s.startS = s.t10 - eighth;
      s.endS = t90 + eighth;
      s.made = true;
    }
    if (s.made && !s.up) s.flareRpm = Math.max(s.flareRpm, inputRpm - newLine);
    s.previous = progress;
    const over = timeS - s.commandS > SEARCH_S;
    if ((s.made && timeS > s.endS + JOLT_AFTER_S && !this.vehicle.controller.changing) || over) this.close(s, s.made);
  }

  private close(s: NonNullable<typeof this.open>, made: boolean): void {
    const { t10: _a, previous: _b, up: _c, from: _d, to: _e, ...shift } = s;
    this.truth.shifts.push({ ...shift, made });
    this.open = undefined;
    this.jolted = undefined;
    this.lastChangeS = this.vehicle.timeS;
  }

  private held(gear: string, timeS: number, still: boolean): void {
    const { vehicle, truth } = this;
    const { real, controller } = vehicle;
    const row = controller.gears.get(gear);
    const closed = vehicle.unit.kind === "planetary" || vehicle.clutchClosed;
    if (!row || row.code < 1 || !still || real.outputRpm < 150 || !closed) {
      this.slip = undefined;
      this.wrong = undefined;
      return;
    }
    const sync = real.outputRpm * row.ratio;
    const slip = real.inputRpm - sync;
    const other = [...controller.gears.values()].find(
      (g) => g.code > 0 && g !== row && Math.abs(real.inputRpm / real.outputRpm / g.ratio - 1) < WRONG_TOLERANCE,
    );
    const off = Math.abs(real.inputRpm / sync - 1) > 0.06 && !(row.driveOnly && slip < 0);
    if (other && off) {
      if (this.wrong?.obtained !== other.name || this.wrong.commanded !== gear)
        this.wrong = { commanded: gear, obtained: other.name, startS: timeS, endS: timeS };
      this.wrong.endS = timeS;
      const wrong = this.wrong;
      if (wrong.endS - wrong.startS >= WRONG_MIN_S && !truth.wrongGears.includes(wrong)) truth.wrongGears.push(wrong);
    } else this.wrong = undefined;
    if (slip > SLIP_RPM) {
      this.slip ??= { gear, startS: timeS, endS: timeS, peakRpm: slip, peakTorqueNm: real.engineNm };
      const s = this.slip;
      s.endS = timeS;
      if (slip > s.peakRpm) {
        s.peakRpm = slip;
        s.peakTorqueNm = real.engineNm;
      }
      if (s.endS - s.startS >= SLIP_MIN_S && !truth.slips.includes(s)) truth.slips.push(s);
    } else if (slip < SLIP_ENDS_RPM) this.slip = undefined;
  }

  /** Shudder: slip of the converter clutch that vibrates within the last second while it works. */
  private converter(gear: string, timeS: number, still: boolean): void {
    const { vehicle, ring, truth } = this;
    const { real, controller } = vehicle;
    ring[this.ringAt] = real.engineRpm - real.inputRpm;
    this.ringAt = (this.ringAt + 1) % ring.length;
    if (!controller.lockup?.on || !still) {
      this.shudder = undefined;
      return;
    }
    // looked at ten times a second
    if (this.ringAt % LOOK_TICKS !== 0) return;
    const { peakToPeak, frequencyHz } = vibration(ring, this.ringAt);
    if (peakToPeak < SHUDDER_RPM || frequencyHz < LOWEST_HZ) {
      if (this.shudder && timeS - this.shudder.endS > WINDOW_S) this.shudder = undefined;
      return;
    }
    this.shudder ??= {
      startS: timeS - WINDOW_S,
      endS: timeS,
      gear,
      frequencyHz,
      peakToPeakRpm: peakToPeak,
      looks: 0,
    };
    const s = this.shudder;
    s.endS = timeS;
    // means over the looks; the first second still holds the clutch taking hold
    if (timeS - s.startS > 2 * WINDOW_S || s.looks === 0) {
      const share = 1 / (s.looks === 0 ? 1 : s.looks);
      s.frequencyHz += (frequencyHz - s.frequencyHz) * share;
      s.peakToPeakRpm += (peakToPeak - s.peakToPeakRpm) * share;
      s.looks++;
    }
    // a vibration that dies out after the clutch took hold doesn't count
    const { fluid, converterGlaze } = vehicle.health;
    const list = Math.max(fluid.spoiled, converterGlaze) > FALLING ? truth.shudder : truth.otherVibrations;
    if (s.endS - s.startS >= SHUDDER_MIN_S && !list.includes(s)) list.push(s);
  }

  private reversal(timeS: number, still: boolean): void {
    const { vehicle, truth } = this;
    const force = (vehicle.real.shaftNm * vehicle.unit.finalDrive) / vehicle.unit.tyreRadiusM;
    const a = force / vehicle.powertrain.vehicle.massKg;
    const last = truth.reversals.at(-1);
    if (last && timeS - last.timeS < REVERSAL_S) {
      last.joltMS2 = Math.max(last.joltMS2, Math.abs(a - this.lastMS2));
    } else if (still && vehicle.real.vehicleKmh > 8 && a * this.signMS2 < 0 && Math.abs(a) > 0.02)
      truth.reversals.push({ timeS, freeS: this.freeS, joltMS2: 0 });
    this.freeS =
      Math.abs(vehicle.real.shaftNm) < NO_TORQUE_NM ? this.freeS + TICK_S : Math.abs(a) > 0.02 ? 0 : this.freeS;
    if (Math.abs(a) > 0.02) this.signMS2 = Math.sign(a);
    this.lastMS2 = a;
  }

  private sensors(timeS: number): void {
    const { vehicle, truth, dropouts } = this;
    for (const sensor of vehicle.unit.sensors) {
      const health = vehicle.health.sensor(sensor.id);
      const node = vehicle.nodeOf(sensor.channel);
      const turning = node !== undefined && Math.abs(vehicle.powertrain.nodeRpm(node)) > 60;
      if (health.lost && turning) {
        let d = dropouts.get(sensor.id);
        if (!d) {
          d = { sensor: sensor.id, startS: timeS, endS: timeS };
          dropouts.set(sensor.id, d);
          truth.dropouts.push(d);
        }
        d.endS = timeS;
      } else dropouts.delete(sensor.id);
    }
  }
}

/** Height and frequency of what vibrates in a ring of readings about a straight line through them. */
function vibration(ring: Float64Array, from: number): { peakToPeak: number; frequencyHz: number } {
  const n = ring.length;
  const at = (k: number) => ring[(from + k) % n] as number;
  let sum = 0;
  let moment = 0;
  const middle = (n - 1) / 2;
  for (let k = 0; k < n; k++) {
    sum += at(k);
    moment += (k - middle) * at(k);
  }
  const mean = sum / n;
  const slope = moment / ((n * (n * n - 1)) / 12);
  let low = Number.POSITIVE_INFINITY;
  let high = Number.NEGATIVE_INFINITY;
  let crossings = 0;
  let firstCross = -1;
  let lastCross = -1;
  let previous = 0;
  for (let k = 0; k < n; k++) {
    const v = at(k) - mean - slope * (k - middle);
    low = Math.min(low, v);
    high = Math.max(high, v);
    if (k > 0 && previous < 0 && v >= 0) {
      if (firstCross < 0) firstCross = k;
      else crossings++;
      lastCross = k;
    }
    previous = v;
  }
  const frequencyHz = crossings >= LEAST_CYCLES - 1 ? crossings / ((lastCross - firstCross) * TICK_S) : 0;
  return { peakToPeak: high - low, frequencyHz };
}
