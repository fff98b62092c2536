import type { Unit } from "@gearsense/core/unit";
import { asDrawn, type Build } from "../build.ts";
import { flowTimeFactor } from "./fluid.ts";
import { DESIGN_FRICTION, DRY_OVER_WET } from "./lining.ts";

/** Fill time of an element at 70 °C with the filling pressure where the unit file is silent, s. */
export const FILL_S = 0.115;
export const FILL_KPA = 330;
const EMPTY_S = 0.07;
/** what the pump can bring up at 1000 rpm, warm, kPa */
const PUMP_KPA = 3200;
/** pressure a controller may ask for, where no clutch needs more */
const HIGHEST_LINE_KPA = 1800;
/** relief valve over the highest pressure */
const RELIEF = 1.4;
/** what a quarter of the intake would still bring up, four times */
const INTAKE_KPA = 4200;
const EXCESS_SHARE = 0.12;
const CONVERTER_LAG_S = 0.06;
/** converter clutch pressure that moves its piston */
const CONVERTER_KISS_KPA = 40;
const CONVERTER_FULL_KPA = 700;

export type HydraulicBuild = Pick<Build, "packFill" | "packPlayKpa" | "valveLagS" | "coldThickening">;

/** An element that pressure applies, by what the unit file tells of it. */
export interface Pack {
  readonly id: string;
  /** pressure that overcomes the return spring; of a dual clutch its touch point */
  readonly kissKpa: number;
  /** N·m per kPa beyond it at friction 1 */
  readonly gain: number;
  readonly dual: boolean;
  /** of a sound one at 70 °C with the filling pressure, s */
  readonly fillS: number;
}

/** What is wrong with the hydraulics; arrays by pack. */
export class HydraulicHealth {
  readonly leak: Float64Array;
  readonly fillExtra: Float64Array;
  readonly slow: Float64Array;
  readonly slowRelease: Float64Array;
  readonly touchShiftKpa: Float64Array;
  converterLeak = 0;
  pumpScale = 1;
  /** suction side: filter; hurts thick fluid and high flow */
  suction = 1;
  regulatorScale = 1;
  regulatorFloorKpa = 0;
  /** share of the supply that the manual valve lets through */
  supply = 1;
  /** the cushion is gone: pressure steps instead of rising */
  hard = 0;

  constructor(packs: number) {
    this.leak = new Float64Array(packs);
    this.fillExtra = new Float64Array(packs);
    this.slow = new Float64Array(packs);
    this.slowRelease = new Float64Array(packs);
    this.touchShiftKpa = new Float64Array(packs);
  }

  reset(): void {
    for (const a of [this.leak, this.fillExtra, this.slow, this.slowRelease, this.touchShiftKpa]) a.fill(0);
    this.converterLeak = 0;
    this.pumpScale = 1;
    this.suction = 1;
    this.regulatorScale = 1;
    this.regulatorFloorKpa = 0;
    this.supply = 1;
    this.hard = 0;
  }
}

/** Friction elements with a piston, in the order of the unit file. Pistons that the file leaves out are taken as usual ones. */
export function packsOf(unit: Unit): Pack[] {
  return unit.elements.flatMap((e): Pack[] => {
    if (e.kind === "fork" || e.kind === "one-way-clutch") return [];
    const { areaCm2 = 140, returnSpringN = 900, meanRadiusMm = 70 } = e.apply ?? {};
    const dual = e.kind === "dual-clutch";
    const touch = unit.adaptations?.find((a) => a.component === e.id && a.unit === "kPa")?.newValue;
    const dry = dual && unit.kind === "dct-dry" ? DRY_OVER_WET : 1;
    return [
      {
        id: e.id,
        kissKpa: dual && touch !== undefined ? touch : returnSpringN / (areaCm2 * 0.1),
        // kPa·cm² = 0.1 N; two faces a plate
        gain: 2 * (e.plates ?? 4) * areaCm2 * 0.1 * (meanRadiusMm / 1000) * dry,
        dual,
        fillS:
          (unit.adaptations?.find((a) => a.component === e.id && a.unit === "ms")?.newValue ?? FILL_S * 1000) / 1000,
      },
    ];
  });
}

/** Pressure at which a pack holds a torque at the friction it is laid out for, kPa. */
export const pressureFor = (pack: Pack, torqueNm: number): number =>
  pack.kissKpa + Math.max(0, torqueNm) / (pack.gain * DESIGN_FRICTION);

/**
 * Line pressure, filling and following of every piston. A piston must move before its pressure rises: that is the fill
 * time a controller learns.
 */
export class Hydraulics {
  readonly packs: readonly Pack[];
  readonly health: HydraulicHealth;
  /** what the valves are set to, after solenoids */
  readonly commandKpa: Float64Array;
  readonly pressureKpa: Float64Array;
  /** 0 empty … 1 the piston touches */
  readonly stroke: Float64Array;
  lineCommandKpa = 330;
  lineKpa = 0;
  converterCommandKpa = 0;
  converterKpa = 0;
  private thick = 1;
  private thin = 1;
  private warm = 1;
  private air = 0;
  private readonly converterGain: number;
  /** highest pressure that the controller may ask for */
  readonly highestKpa: number;
  private readonly electricPump: boolean;
  private readonly build: HydraulicBuild;
  /** where each valve stands: commands within its play move nothing, kPa */
  private readonly heldKpa: Float64Array;

  constructor(unit: Unit, build?: HydraulicBuild) {
    this.packs = packsOf(unit);
    this.build = build ?? asDrawn(this.packs.length);
    this.heldKpa = new Float64Array(this.packs.length);
    this.electricPump = unit.kind !== "planetary";
    const most = Math.max(...this.packs.map((p) => (p.dual ? pressureFor(p, 1.3 * unit.maxInputTorqueNm) : 0)));
    this.highestKpa = Math.max(HIGHEST_LINE_KPA, most);
    const n = this.packs.length;
    this.health = new HydraulicHealth(n);
    this.commandKpa = new Float64Array(n);
    this.pressureKpa = new Float64Array(n);
    this.stroke = new Float64Array(n);
    // at full pressure it holds one and a half times what the unit bears
    this.converterGain = (1.5 * unit.maxInputTorqueNm) / ((CONVERTER_FULL_KPA - CONVERTER_KISS_KPA) * DESIGN_FRICTION);
  }

  /** The fluid of the next steps. @param air - share of air in what the pump sucks, 0…1 */
  setFluid(fluidC: number, air: number): void {
    this.thick = flowTimeFactor(fluidC, this.build.coldThickening);
    this.thin = 0.75 + Math.max(0, fluidC - 20) * 0.004;
    this.warm = Math.min(1.25, Math.max(0.12, (fluidC - 35) / 50));
    this.air = air;
  }

  step(dtS: number, pumpRpm: number): void {
    const { health, packs, commandKpa, pressureKpa, stroke } = this;
    const { thick, thin, warm, air } = this;
    const relief = this.highestKpa * RELIEF;
    const brought = this.electricPump ? relief : PUMP_KPA * (pumpRpm / 1000);
    const available = Math.min(
      relief,
      (brought * health.pumpScale * (1 - 0.9 * air)) / thin,
      // a clogged intake lets through the less, the thicker the fluid
      health.suction === 1 ? relief : (INTAKE_KPA * health.suction) / (thick * thick),
    );
    const wanted = Math.max(health.regulatorFloorKpa, this.lineCommandKpa * health.regulatorScale);
    this.lineKpa += (Math.min(available, wanted) - this.lineKpa) * Math.min(1, dtS / 0.03);
    const supply = this.lineKpa * health.supply;
    // valves let some of what is too much through
    const excess = EXCESS_SHARE * Math.max(0, this.lineKpa - this.lineCommandKpa);
    const soft = 1 + 3 * air;
    const lag = this.build.valveLagS * (0.7 + 0.3 * thick) * soft * (1 - 0.7 * health.hard);
    for (let i = 0; i < packs.length; i++) {
      const kiss = (packs[i] as Pack).kissKpa + (health.touchShiftKpa[i] as number);
      const asked = this.behindPlay(i, commandKpa[i] as number);
      const target =
        Math.min(asked > 0 ? asked + excess : 0, supply) * (1 - Math.min(0.95, (health.leak[i] as number) * warm));
      const full = stroke[i] as number;
      if (target < 0.5 * kiss) {
        const empty = EMPTY_S + (health.slowRelease[i] as number);
        if ((pressureKpa[i] as number) > kiss)
          pressureKpa[i] =
            (pressureKpa[i] as number) -
            ((pressureKpa[i] as number) - target) * (dtS / (lag + (health.slowRelease[i] as number)));
        else {
          stroke[i] = Math.max(0, full - dtS / empty);
          pressureKpa[i] = kiss * (stroke[i] as number);
        }
        continue;
      }
      if (full < 1) {
        const rate =
          Math.sqrt(Math.max(0, target) / FILL_KPA) /
          ((packs[i] as Pack).fillS *
            (this.build.packFill[i] as number) *
            thick *
            soft *
            (1 + (health.fillExtra[i] as number)) *
            (1 + (health.slow[i] as number)));
        stroke[i] = Math.min(1, full + rate * dtS);
        pressureKpa[i] = kiss * (stroke[i] as number);
      } else {
        const falling = target < (pressureKpa[i] as number) ? (health.slowRelease[i] as number) : 0;
        const own = lag * (1 + 2 * (health.slow[i] as number)) + falling;
        pressureKpa[i] = (pressureKpa[i] as number) + (target - (pressureKpa[i] as number)) * Math.min(1, dtS / own);
      }
    }
    const converter =
      Math.min(this.converterCommandKpa, this.lineKpa) *
      (1 - Math.min(0.97, health.converterLeak * (0.4 + 0.6 * warm)));
    this.converterKpa += (converter - this.converterKpa) * (dtS / (CONVERTER_LAG_S * thick * soft));
  }

  /** A valve moves once its command has gone beyond its play; shut is shut. */
  private behindPlay(i: number, askedKpa: number): number {
    const play = this.build.packPlayKpa[i] as number;
    const held = this.heldKpa[i] as number;
    const now = askedKpa <= 0 ? 0 : Math.min(askedKpa + play, Math.max(askedKpa - play, held));
    this.heldKpa[i] = now;
    return now;
  }

  /** Torque that a pack can hold at a friction coefficient, N·m. */
  capacityNm(i: number, friction: number): number {
    const pack = this.packs[i] as Pack;
    const beyond = (this.pressureKpa[i] as number) - pack.kissKpa - (this.health.touchShiftKpa[i] as number);
    return beyond > 0 ? pack.gain * beyond * friction : 0;
  }
  converterClutchNm(friction: number): number {
    return this.converterGain * Math.max(0, this.converterKpa - CONVERTER_KISS_KPA) * friction;
  }
  /** Pressure at which the converter clutch holds a torque at the friction it is laid out for. */
  converterKpaFor(torqueNm: number): number {
    return CONVERTER_KISS_KPA + Math.max(0, torqueNm) / (this.converterGain * DESIGN_FRICTION);
  }
}
