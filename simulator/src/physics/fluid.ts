/** What is wrong with the fluid and its cooling. */
export interface FluidHealth {
  /** litres too much (+) or too little (−) */
  levelL: number;
  /** 0…1: friction falls with slip instead of rising */
  spoiled: number;
  /** of the friction that is there, 1 = all */
  frictionScale: number;
  /** of the cooler's flow that is there, 1 = all */
  coolerShare: number;
}

/** Fluid and the metal that warms with it, J/K per litre of fill. */
const HEAT_J_PER_K_L = 5200;
/** W/K to the cooler, and from the case to the air */
const COOLER_W_PER_K = 170;
const CASE_W_PER_K = 14;
const COOLANT_C = 88;
/** the coolant's own warming, s */
const COOLANT_S = 300;
/** churning and pump, W at 1000 rpm of input speed */
const CHURN_W = 450;
const MIN_AIR = 0.08;

/** Temperature, level and air of the fluid. */
export class Fluid {
  temperatureC: number;
  readonly health: FluidHealth = { levelL: 0, spoiled: 0, frictionScale: 1, coolerShare: 1 };
  /** share of air that the pump sucks, 0…1 */
  air = 0;
  private readonly totalL: number;
  private readonly ambientC: number;
  private coolantC: number;

  constructor(totalL: number, startC: number, ambientC: number) {
    this.totalL = totalL;
    this.temperatureC = startC;
    this.ambientC = ambientC;
    this.coolantC = Math.min(COOLANT_C, startC);
  }

  /**
   * @param lossW - heat made by converter, linings and gears
   * @param unrest - how far the fluid is thrown away from the intake: hills, corners, braking; in g
   */
  step(dtS: number, lossW: number, inputRpm: number, unrest: number): void {
    const { health } = this;
    this.coolantC += (COOLANT_C - this.coolantC) * (dtS / COOLANT_S);
    const churnW = CHURN_W * (Math.abs(inputRpm) / 1000) * (1 + 6 * this.air);
    const outW =
      COOLER_W_PER_K * health.coolerShare * (this.temperatureC - this.coolantC) +
      CASE_W_PER_K * (this.temperatureC - this.ambientC);
    const content = HEAT_J_PER_K_L * Math.max(0.5 * this.totalL, this.totalL + health.levelL);
    this.temperatureC += ((lossW + churnW - outW) / content) * dtS;
    const missing = -health.levelL / this.totalL;
    const over = health.levelL / this.totalL;
    // cold fluid stands lower: what is missing shows cold first
    const cold = Math.max(0, (60 - this.temperatureC) * 0.00075);
    const starving = Math.min(1, Math.max(0, (missing + cold - 0.12) * 3.2 + (missing > 0.05 ? unrest * 1.6 : 0)));
    const foam = Math.min(0.6, Math.max(0, over - 0.05) * 4) * Math.min(1, Math.abs(inputRpm) / 2200);
    const toward = Math.max(starving, foam);
    this.air += (toward - this.air) * (dtS / (toward > this.air ? 0.25 : 1.2));
    if (this.air < MIN_AIR && toward < MIN_AIR) this.air = 0;
  }
}

/**
 * Filling time at a temperature over that at 70 °C.
 * @param thickening - how much of it follows the viscosity: 0.1 takes 1.5 times as long at 0 °C
 */
export const flowTimeFactor = (fluidC: number, thickening = 0.1): number =>
  1 + thickening * (Math.exp((70 - fluidC) / 40) - 1);
