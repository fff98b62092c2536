import type { Unit } from "@gearsense/core/unit";
import { normal, seededRandom } from "../random.ts";

/** Share of the volume at 20 °C by which the fluid grows per °C. */
const GROWTH_PER_C = 0.00075;
const BASE_C = 20;
const grown = (fluidC: number) => 1 + GROWTH_PER_C * (fluidC - BASE_C);
/** What a pump moves into converter and lines, l/s. */
const PUMP_L_PER_S = 0.08;
/** Under this share of the pan its pump draws air. */
const PICKUP_SHARE = 0.3;
/** Idling it warms, standing it cools, °C a minute. */
const WARMS_C_PER_MIN = 1.3;
const COOLS_C_PER_MIN = 0.6;
/** With the engine off the converter runs back into the pan with this time constant, min. */
const RUNS_BACK_MIN = 25;
/** Fluid in the tube wets the stick: it shows more, and dries with this time constant, min. */
const WET_L = 0.35;
const DRIES_MIN = 3.5;
const NOMINAL_CIRCUITS_L = 0.25;

/**
 * Fluid of one vehicle while it is drained and filled: pan with its mark, converter, cooler and lines, clutch circuits; all in
 * litres at 20 °C. Each seed is another vehicle: its volumes differ from the unit file as castings and converters do.
 */
export class Filling {
  fluidC: number;
  running = false;
  /** s for which the pump drew air */
  starvedS = 0;
  /** in the pan, at 20 °C */
  pan: number;
  private converter: number;
  private lines: number;
  private circuits: number;
  private readonly converterL: number;
  private readonly linesL: number;
  private readonly circuitsL: number;
  /** volume of the pan up to the mark, l as it stands */
  private readonly markL: number;
  /** stays in the pan when the plug is out */
  private readonly sumpL: number;
  /** share of the converter that runs back when it stands */
  private readonly runsBack: number;
  private readonly ambientC: number;
  private readonly referenceC: number;
  private sincePouredMin = 1e6;
  private readonly slopeL: number;
  private readonly random: () => number;

  constructor(unit: Unit, seed: number, startC = 60) {
    const random = seededRandom(seed);
    this.random = random;
    const { fluid } = unit;
    const off = (share: number) => 1 + Math.max(-2.5 * share, Math.min(2.5 * share, normal(random, share)));
    this.converterL = (fluid.converterL ?? 0) * off(0.05);
    this.circuitsL = fluid.level.method === "sight-hole" ? 0 : NOMINAL_CIRCUITS_L;
    this.linesL = (fluid.coolerL ?? 0) * off(0.1);
    this.sumpL = fluid.level.method === "sight-hole" ? 0.1 : 0.15 + 0.2 * random();
    this.runsBack = 0.05 + 0.25 * random();
    this.ambientC = 12 + 14 * random();
    this.slopeL = normal(random, 0.03);
    this.referenceC = fluid.level.referenceC;
    this.fluidC = startC;
    // what a drain brings by the file, engine off and run back, at the reference
    const back = this.converterL * this.runsBack;
    this.markL = Math.max(0.5, fluid.panDrainL * off(0.04) - back - this.linesL * 0.2 + this.sumpL);
    this.converter = this.converterL / grown(startC);
    this.lines = this.linesL / grown(startC);
    this.circuits = this.circuitsL / grown(startC);
    // as it came in: anywhere near full
    const total =
      (this.markL + this.converterL + this.linesL + this.circuitsL + normal(random, 0.15)) / grown(this.referenceC);
    this.pan = total - this.converter - this.lines - this.circuits;
  }

  private get total(): number {
    return this.pan + this.converter + this.lines + this.circuits;
  }

  /** Time goes by. @param minutes - engine as it is */
  wait(minutes: number): void {
    const steps = Math.ceil(minutes * 60);
    for (let i = 0; i < steps; i++) this.second();
    this.sincePouredMin += minutes;
  }

  private second(): void {
    if (!this.running) {
      this.fluidC += Math.sign(this.ambientC - this.fluidC) * (COOLS_C_PER_MIN / 60);
      const keeps = (this.converterL * (1 - this.runsBack)) / grown(this.fluidC);
      if (this.converter > keeps) this.move("converter", -(this.converter - keeps) / (RUNS_BACK_MIN * 60));
      const linesKeep = (this.linesL * 0.8) / grown(this.fluidC);
      if (this.lines > linesKeep) this.move("lines", -(this.lines - linesKeep) / (RUNS_BACK_MIN * 60));
      return;
    }
    this.fluidC += (WARMS_C_PER_MIN / 60) * (this.fluidC < 90 ? 1 : 0);
    if (this.pan * grown(this.fluidC) < PICKUP_SHARE * this.markL) {
      this.starvedS++;
      return;
    }
    let left = PUMP_L_PER_S;
    for (const part of ["converter", "lines", "circuits"] as const) {
      const room = this[`${part}L`] / grown(this.fluidC) - this[part];
      const moved = room > 0 ? Math.min(room, left) : room;
      this.move(part, moved);
      left -= Math.max(0, moved);
    }
  }

  private move(part: "converter" | "lines" | "circuits", litres: number): void {
    this[part] += litres;
    this.pan -= litres;
  }

  /** Plug or pan off, engine off. @returns litres that come out, as they stand */
  drain(): number {
    this.running = false;
    this.wait(15);
    const out = Math.max(0, this.pan - this.sumpL / grown(this.fluidC));
    this.pan -= out;
    return out * grown(this.fluidC);
  }

  /** Lines opened and run empty. */
  emptyLines(): void {
    this.lines = 0;
  }

  /** Converter changed for an empty one, or drained of a share. */
  emptyConverter(share: number): number {
    const out = this.converter * share;
    this.converter -= out;
    return out;
  }

  /** Poured into the converter on the bench. @returns what it takes standing, of that much */
  prefill(litres: number): number {
    const taken = Math.min(litres, 0.6 * this.converterL - this.converter);
    this.converter += Math.max(0, taken);
    return Math.max(0, taken);
  }

  /** Another unit, dry but for what clings to it. */
  dryUnit(): void {
    this.pan = 0.05;
    this.converter = 0.1 * this.converterL;
    this.lines = 0;
    this.circuits = 0;
  }

  /** Poured from a can of the workshop. @param plugOut - at the overflow: what is over the mark runs out again */
  pour(litres: number, plugOut: boolean): { readonly inL: number; readonly ranOver: boolean } {
    const added = litres / grown(this.ambientC);
    const before = this.total;
    this.fluidC = (this.fluidC * Math.max(0.3, before) + this.ambientC * added) / (Math.max(0.3, before) + added);
    this.pan += added;
    this.sincePouredMin = 0;
    if (this.running) this.wait(0.2);
    const over = this.overL;
    if (!plugOut || over <= 0) return { inL: litres, ranOver: false };
    this.pan -= over / grown(this.fluidC);
    return { inL: litres - over, ranOver: true };
  }

  letOut(litres: number): void {
    this.pan -= litres / grown(this.fluidC);
  }

  /** Above the mark, l as it stands; negative: below. The vehicle stands a little askew. */
  private get overL(): number {
    return this.pan * grown(this.fluidC) - this.markL + this.slopeL;
  }

  /** @param seconds - until the ear tells: with the ranges cycled some 36 s, else as long as it is left on */
  start(seconds = 36): "quiet" | "whine" {
    const before = this.starvedS;
    this.running = true;
    this.wait(seconds / 60);
    return this.starvedS - before > 1 ? "whine" : "quiet";
  }

  stop(): void {
    this.running = false;
  }

  /** The plug is taken out: what comes, and it is left until it only drops. */
  overflow(): "nothing" | "drops" | "stream-then-drops" {
    const over = this.overL;
    if (over < -0.02) return "nothing";
    if (over < 0.05) return "drops";
    this.pan -= (over - 0.02) / grown(this.fluidC);
    return "stream-then-drops";
  }

  /** Lower of the two sides of a wiped stick, l from full. */
  stick(): number {
    const wet = WET_L * Math.exp(-this.sincePouredMin / DRIES_MIN);
    const side = () => this.overL + wet + normal(this.random, 0.07);
    return Math.min(side(), side());
  }

  /** A drive of ten minutes: hot, everything filled. */
  drive(): void {
    this.running = true;
    this.wait(10);
    this.fluidC = 75 + 10 * this.random();
    this.second();
  }

  /** How far from the mark it would stand at the reference temperature with the engine running and everything full, l. */
  get offL(): number {
    return this.total * grown(this.referenceC) - this.converterL - this.linesL - this.circuitsL - this.markL;
  }
}
