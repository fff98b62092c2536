/** What is wrong with the engine, if anything. */
export interface EngineHealth {
  /** share of its torque that is there, 1 = all */
  torqueScale: number;
  /** chance that the bad one of four cylinders misses its turn, 0…1 */
  misfire: number;
  /** torque that turns with the crankshaft, of a converter out of balance, N·m */
  imbalanceNm: number;
}

const RPM = 60 / (2 * Math.PI);
/** filling of the cylinders behind the pedal, s */
const AIR_S = 0.09;
/** four cylinders, four strokes: each has its turn once in two revolutions */
const CYCLE_RAD = 4 * Math.PI;
const TURN = 0.25;

/** Torque over the largest at full load, by engine speed. */
function fullLoad(rpm: number): number {
  if (rpm < 600) return 0.4;
  if (rpm < 1900) return 0.4 + (0.6 * (rpm - 600)) / 1300;
  if (rpm < 4200) return 1;
  return Math.max(0, 1 - (rpm - 4200) / 2400);
}

/** how slowly an idle wanders, s */
const WANDER_S = 1.5;

export interface IdleMakeup {
  readonly idleRpm: number;
  readonly neutralIdleRpm: number;
  readonly idleWanderRpm: number;
}

/** A four-stroke engine by its mean torque: full-load curve, drag, idle control; a missing cylinder is seen stroke by stroke. */
export class Engine {
  readonly largestNm: number;
  readonly health: EngineHealth = { torqueScale: 1, misfire: 0, imbalanceNm: 0 };
  /** in gear; set by whoever knows the lever, see {@link Engine.idleRpm} */
  inNeutral = false;
  private readonly makeup: IdleMakeup;
  private wanderRpm = 0;
  /** pedal that the air path has followed */
  private air = 0;
  private idleNm = 0;
  private angleRad = 0;
  private misses = false;
  private readonly random: () => number;

  constructor(largestNm: number, makeup: IdleMakeup, random: () => number) {
    this.largestNm = largestNm;
    this.makeup = makeup;
    this.random = random;
  }

  /** What the idle control aims for now. */
  get idleRpm(): number {
    const { idleRpm, neutralIdleRpm } = this.makeup;
    return idleRpm + (this.inNeutral ? neutralIdleRpm : 0) + this.wanderRpm;
  }

  /** Torque that the engine is asked for, before misfires: what its controller reports. */
  reportedNm(rpm: number, request: number): number {
    return this.meanNm(rpm, this.air * request, this.idleNm);
  }

  /**
   * Torque at the crankshaft over one step.
   * @param pedal - 0…1
   * @param request - share of that torque that the transmission allows, 1 = all
   */
  step(dtS: number, rpm: number, pedal: number, request: number): number {
    const { health } = this;
    this.air += (pedal - this.air) * (dtS / AIR_S);
    if (this.makeup.idleWanderRpm > 0) this.wander(dtS);
    const below = this.idleRpm - rpm;
    // the idle control only ever adds, and lets go above its speed
    this.idleNm = below > -60 ? Math.min(0.25 * this.largestNm, Math.max(0, this.idleNm + 0.25 * below * dtS)) : 0;
    let nm = this.meanNm(rpm, this.air * request, this.idleNm);
    if (health.torqueScale !== 1 && nm > 0) nm *= health.torqueScale;
    if (health.misfire > 0 || health.imbalanceNm > 0) nm = this.uneven(nm, dtS, rpm);
    return nm;
  }

  /** Slow noise of a standard deviation of `idleWanderRpm`: first-order, a step now and then is enough. */
  private wander(dtS: number): void {
    const { idleWanderRpm } = this.makeup;
    const step = Math.sqrt((2 * dtS) / WANDER_S) * idleWanderRpm * Math.sqrt(3) * (2 * this.random() - 1);
    this.wanderRpm += step - this.wanderRpm * (dtS / WANDER_S);
  }

  private uneven(nm: number, dtS: number, rpm: number): number {
    const { health } = this;
    const before = this.angleRad;
    this.angleRad = (before + (rpm / RPM) * dtS) % CYCLE_RAD;
    if (this.angleRad < before) this.misses = this.random() < health.misfire;
    let out = nm;
    // a quarter of the cycle is one cylinder's turn: its share of the torque is missing, and its drag is there
    if (this.misses && this.angleRad < CYCLE_RAD * TURN) out = Math.min(nm, 0) - 0.02 * this.largestNm;
    if (health.imbalanceNm > 0) out += health.imbalanceNm * Math.sin(this.angleRad) * (rpm / 2000) ** 2;
    return out;
  }

  private meanNm(rpm: number, air: number, idleNm: number): number {
    const drag = (0.03 + 0.045 * (rpm / 6000)) * this.largestNm;
    const below = this.idleRpm - rpm;
    const idle = below > -60 ? Math.max(0, idleNm + 0.35 * below + drag * (1 - air)) : 0;
    return air * this.largestNm * fullLoad(rpm) - (1 - air) * drag + idle;
  }
}
