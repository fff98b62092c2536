import { gearCode, gearName, ratioTable, type Unit } from "../unit/index.ts";
import { type AskedFor, notDrivenYet } from "./asked.ts";
import { allMet, type MetCondition, metConditions, type SameCondition } from "./companion.ts";
import { analyseCoverage, type Coverage } from "./coverage.ts";
import { limitsOf, TYPICAL } from "./limits.ts";
import { drivePlan, type PlannedStretch } from "./plan.ts";
import { loadBand, temperatureBand } from "./signal/conditions.ts";

export interface LiveSpan {
  readonly gear: string;
  readonly startS: number;
  readonly endS: number;
}

export interface LiveWarning {
  readonly kind: "hot" | "slip";
  /** gear of a slip */
  readonly gear?: string | undefined;
  /** °C, or rpm of a slip */
  readonly value: number;
  readonly timeS: number;
}

/** A drive as far as it has come. */
export interface LiveState {
  readonly timeS: number;
  /** undefined: the link does not tell it */
  readonly gear?: string | undefined;
  /** newest last */
  readonly ribbon: readonly LiveSpan[];
  readonly coverage: Coverage;
  /** of what the customer complains of, in words: what was not met yet */
  readonly complaint: readonly string[];
  /** conditions in which something was found before the repair, as far as they are met */
  readonly companion: readonly MetCondition[];
  /** the way to drive, stretch by stretch, with what is still to be driven */
  readonly plan: readonly PlannedStretch[];
  /** all of the complaint and of those conditions was driven */
  readonly enough: boolean;
  readonly warnings: readonly LiveWarning[];
}

/** Longer without a reading is a gap: it counts for nothing, s. */
const GAP_S = 2;
/** From a change of the commanded gear until the gear is expected to be in, s. */
const SETTLE_S = 1.2;
/** A slip of one reading may be two readings that are not of one time, s. */
const SLIPS_S = 0.6;
/** So far two readings of one row may be apart, s: the faster a shaft speeds up, the more of a slip is none. */
const SKEW_S = 0.15;
/** A dual clutch slips while it pulls away; for longer than this it does not, s. */
const LAUNCH_S = 6;
const MOVING_RPM = 100;
const STANDING_RPM = 30;
/** With less of the unit's torque nothing is asked of an element. */
const LEAST_LOAD = 0.05;
const RIBBON_SPANS = 60;
const MOST_WARNINGS = 20;

const bandKey = (gear: string, load: string, temperature: string) => `${gear}|${load}|${temperature}`;

/**
 * What a drive has exercised while it is still driven, from readings as they come: coverage as the analysis of the log will judge
 * it, coarser, for the helper's eye only. None of it is evidence; the log is analysed when it is kept. It holds no readings: eight
 * hours take no more memory than eight minutes.
 */
export class LiveDrive {
  private readonly unit: Unit;
  private readonly asked: readonly AskedFor[];
  private readonly ratios: Float64Array;
  private readonly latest = new Map<string, number>();
  private readonly seconds = new Map<string, number>();
  private readonly lockup: Record<string, number> = {};
  private readonly shifts: {
    name: string;
    from: string;
    to: string;
    completed: boolean;
    load?: number;
    fluidC?: number;
  }[] = [];
  private readonly engagements = new Set<"D" | "R">();
  private readonly ribbon: { gear: string; startS: number; endS: number }[] = [];
  private readonly warnings: LiveWarning[] = [];
  private timeS = 0;
  private inputRpm = 0;
  private slipsS = 0;
  private code: number | undefined;
  private sinceS = 0;
  private from: number | undefined;
  private hot = false;
  private stoodS = 0;
  private launches = false;
  private awaits: "D" | "R" | undefined;

  private readonly wanted: readonly SameCondition[];

  /** @param asked - what the customer complains of; @param wanted - what a proof drive has to meet again */
  constructor(unit: Unit, asked: readonly AskedFor[] = [], wanted: readonly SameCondition[] = []) {
    this.wanted = wanted;
    this.unit = unit;
    this.asked = asked;
    this.ratios = ratioTable(unit);
  }

  /** @param timeS - since the beginning, never earlier than before; @param values - channels that were read, NaN for no reading */
  take(timeS: number, values: ReadonlyMap<string, number>): void {
    const passedS = timeS - this.timeS;
    const before = this.latest.get("gear_commanded");
    for (const [c, v] of values) this.latest.set(c, v);
    this.timeS = timeS;
    const gap = passedS > GAP_S;
    const code = this.of("gear_commanded");
    if (code === undefined) return;
    if (this.code === undefined || gap) {
      this.code = code;
      this.sinceS = timeS;
      this.from = undefined;
      this.slipsS = 0;
    } else if (code !== before) this.changed(this.code, code);
    this.paint(gearName(code), gap);
    if (!gap && passedS > 0) this.count(passedS);
  }

  state(): LiveState {
    const groups = [...this.seconds].map(([key, seconds]) => {
      const [gear, load, temperature] = key.split("|") as [
        string,
        ReturnType<typeof loadBand>,
        ReturnType<typeof temperatureBand>,
      ];
      return { gear, load, temperature, seconds };
    });
    const total = new Map<string, number>();
    for (const g of groups) total.set(g.gear, (total.get(g.gear) ?? 0) + g.seconds);
    const gears = [...total].map(([gear, seconds]) => ({ gear, seconds }));
    const driven = {
      groups,
      shifts: [...this.shifts],
      held: { groups, gears },
      converter: { byGear: this.lockup },
      engagements: [...this.engagements].map((range) => ({ range })),
    };
    const complaint = notDrivenYet(this.asked, driven);
    const companion = metConditions(this.wanted, driven);
    return {
      timeS: this.timeS,
      gear: this.code === undefined ? undefined : gearName(this.code),
      ribbon: this.ribbon.map((s) => ({ ...s })),
      coverage: analyseCoverage(this.unit, driven),
      complaint,
      companion,
      plan: drivePlan(this.unit, driven, this.asked, this.wanted),
      enough: this.asked.length + this.wanted.length > 0 && complaint.length === 0 && allMet(companion),
      warnings: [...this.warnings],
    };
  }

  private of(channel: string): number | undefined {
    const v = this.latest.get(channel);
    return v === undefined || !Number.isFinite(v) ? undefined : v;
  }

  private get inputChannel(): string {
    return this.unit.kind === "planetary" ? "turbine_rpm" : "engine_rpm";
  }

  private changed(from: number, to: number): void {
    this.code = to;
    this.sinceS = this.timeS;
    this.from = from;
    this.slipsS = 0;
    const standing = Math.abs(this.of("output_rpm") ?? Number.POSITIVE_INFINITY) < STANDING_RPM;
    if (from === 0 && to !== 0 && standing) this.awaits = to < 0 ? "R" : "D";
    else if (to === 0) this.awaits = undefined;
  }

  private paint(gear: string, gap: boolean): void {
    const last = this.ribbon.at(-1);
    if (last && !gap && last.gear === gear) last.endS = this.timeS;
    else {
      if (last && !gap) last.endS = this.timeS;
      this.ribbon.push({ gear, startS: this.timeS, endS: this.timeS });
      if (this.ribbon.length > RIBBON_SPANS) this.ribbon.shift();
    }
  }

  private count(passedS: number): void {
    const code = this.code as number;
    const gear = gearName(code);
    const fluidC = this.of("fluid_c");
    this.warnOfHeat(fluidC);
    const engine = this.of("engine_rpm");
    const input = this.of(this.inputChannel);
    const output = this.of("output_rpm");
    const ratio = this.ratios[code + 1];
    if (this.awaits && input !== undefined && engine !== undefined && input < engine / 2) {
      this.engagements.add(this.awaits);
      this.awaits = undefined;
    }
    if (input === undefined || output === undefined || ratio === undefined || Number.isNaN(ratio)) return;
    const risesRpmPerS = Math.abs(input - this.inputRpm) / passedS;
    this.inputRpm = input;
    if (Math.abs(output) < MOVING_RPM) {
      this.stoodS = this.timeS;
      this.launches = this.unit.kind !== "planetary";
    }
    if (Math.abs(output) < MOVING_RPM || this.timeS - this.sinceS < SETTLE_S) return;
    const torque = this.of("engine_torque_nm");
    const pedal = this.of("pedal_pct");
    const load =
      torque !== undefined ? torque / this.unit.maxInputTorqueNm : pedal === undefined ? undefined : pedal / 100;
    const limits = limitsOf(this.unit);
    const line = Math.abs(ratio * output);
    const slip = input - line;
    const most = Math.max(limits.slipRpm.value, (line * limits.ratioTolerancePct.value) / 100);
    if (Math.abs(slip) <= most) this.launches = false;
    if (Math.abs(slip) > most + risesRpmPerS * SKEW_S) {
      this.slipsS += passedS;
      if (this.launches && this.timeS - this.stoodS < LAUNCH_S) this.slipsS = 0;
      if (this.slipsS >= SLIPS_S && slip > 0 && (load ?? 0) > LEAST_LOAD) this.warn("slip", slip, gear);
      return;
    }
    this.slipsS = 0;
    this.settled(gear, load);
    const key = bandKey(gear, loadBand(load), temperatureBand(fluidC));
    this.seconds.set(key, (this.seconds.get(key) ?? 0) + passedS);
    const { converter } = this.unit;
    if (converter?.clutchGears.includes(gear) && engine !== undefined) {
      const slipsMost = converter.targetSlipRpm + limits.residualSlipRpm.value;
      if ((load ?? 0) > LEAST_LOAD && Math.abs(engine - input) < slipsMost)
        this.lockup[gear] = (this.lockup[gear] ?? 0) + passedS;
    }
  }

  /** The new gear holds: the shift was made. */
  private settled(gear: string, load: number | undefined): void {
    const from = this.from;
    this.from = undefined;
    if (from === undefined || from === 0 || from === gearCode(gear)) return;
    const name = `${gearName(from)}-${gear}`;
    const fluidC = this.of("fluid_c");
    this.shifts.push({
      name,
      from: gearName(from),
      to: gear,
      completed: true,
      ...(load === undefined ? {} : { load }),
      ...(fluidC === undefined ? {} : { fluidC }),
    });
  }

  private warnOfHeat(fluidC: number | undefined): void {
    if (fluidC === undefined) return;
    if (fluidC > TYPICAL.fluidC && !this.hot) this.warn("hot", fluidC);
    // a little colder before it is told again
    this.hot = fluidC > TYPICAL.fluidC || (this.hot && fluidC > TYPICAL.fluidC - 2);
  }

  /** One of a kind and gear until it has passed for a while. */
  private warn(kind: LiveWarning["kind"], value: number, gear?: string): void {
    const same = this.warnings.findIndex((w) => w.kind === kind && w.gear === gear);
    const warning = { kind, value, timeS: this.timeS, ...(gear === undefined ? {} : { gear }) };
    if (same >= 0) this.warnings.splice(same, 1);
    this.warnings.push(warning);
    if (this.warnings.length > MOST_WARNINGS) this.warnings.shift();
  }
}
