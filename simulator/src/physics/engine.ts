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

/** A four-stroke engine by its mean torque: full-load curve, drag, idle control; a missing cylinder is seen stroke by stroke. */
export class Engine {
  readonly largestNm: number;
  readonly health: EngineHealth = { torqueScale: 1, misfire: 0, imbalanceNm: 0 };
  readonly idleRpm: number;
  /** pedal that the air path has followed */
  private air = 0;
  private idleNm = 0;
  private angleRad = 0;
  private misses = false;
  private readonly random: () => number;

  constructor(largestNm: number, idleRpm: number, random: () => number) {
    this.largestNm = largestNm;
    this.idleRpm = idleRpm;
    this.random = random;
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
    const below = this.idleRpm - rpm;
    // the idle control only ever adds, and lets go above its speed
    this.idleNm = below > -60 ? Math.min(0.25 * this.largestNm, Math.max(0, this.idleNm + 0.25 * below * dtS)) : 0;
    let nm = this.meanNm(rpm, this.air * request, this.idleNm);
    if (health.torqueScale !== 1 && nm > 0) nm *= health.torqueScale;
    if (health.misfire > 0 || health.imbalanceNm > 0) nm = this.uneven(nm, dtS, rpm);
    return nm;
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
