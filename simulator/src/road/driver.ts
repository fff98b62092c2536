import type { Phase, Range } from "./profiles.ts";

const GRAVITY = 9.81;
const FOOT_S = 0.22;
const BRAKE_S = 0.18;
const LAST_METRES_KMH = 20;

export interface Feet {
  pedal: number;
  brakeN: number;
  brake: boolean;
  range: Range;
  grade: number;
}

export interface Car {
  readonly massKg: number;
  readonly dragNs2PerM2: number;
  readonly rolling: number;
  /** force at the wheels that full pedal would give now, N */
  readonly fullPedalN: number;
}

/**
 * A driver: knows about the pedal that holds a speed here, corrects by what is missing, brakes for what is too much.
 * Seeded: no two drive a profile quite alike.
 */
export class Driver {
  private readonly phases: readonly Phase[];
  private at = 0;
  private inPhaseS = 0;
  private integral = 0;
  private pressN = 0;
  private lastKmh = 0;
  readonly feet: Feet = { pedal: 0, brakeN: 0, brake: true, range: "P", grade: 0 };

  constructor(profile: readonly Phase[], random: () => number) {
    const near = (value: number, share: number) => value * (1 + share * (2 * random() - 1));
    this.phases = profile.map((p) => ({
      ...p,
      seconds: near(p.seconds, 0.06),
      targetKmh: near(p.targetKmh, 0.03),
      pedal: Math.min(1, p.pedal >= 1 ? 1 : near(p.pedal, 0.08)),
    }));
  }

  tick(dtS: number, vehicleKmh: number, car: Car): Feet {
    this.inPhaseS += dtS;
    let phase = this.phases[this.at] as Phase;
    if (this.inPhaseS >= phase.seconds) {
      this.inPhaseS = 0;
      this.at = (this.at + 1) % this.phases.length;
      phase = this.phases[this.at] as Phase;
    }
    const { feet } = this;
    const kmh = Math.abs(vehicleKmh);
    const wantedRange = phase.range ?? "D";
    // a lever is moved at rest only
    if (wantedRange !== feet.range && kmh < 0.5 && feet.brake) feet.range = wantedRange;
    const moving = feet.range === "D" || feet.range === "R";
    const target = feet.range === wantedRange && moving ? phase.targetKmh : 0;
    const gap = target - kmh;
    const v = kmh / 3.6;
    const stop = target < 0.5;
    const roadN =
      car.dragNs2PerM2 * v * v +
      car.massKg * GRAVITY * (car.rolling + (feet.range === "R" ? -phase.grade : phase.grade));
    this.integral = Math.max(-6, Math.min(10, this.integral + gap * dtS * 0.05));
    const hold = roadN / Math.max(500, car.fullPedalN);
    const wanted =
      stop || gap < -3 ? 0 : Math.max(0, Math.min(phase.pedal, hold + 0.035 * gap + 0.012 * this.integral));
    feet.pedal += (wanted - feet.pedal) * (dtS / FOOT_S);
    if (feet.pedal < 0.004) feet.pedal = 0;
    const decel = phase.brakeMS2 ?? Math.min(2.2, 0.7 + kmh / 40);
    let brakeN = 0;
    if (stop) {
      const ease = kmh < LAST_METRES_KMH ? Math.max(0.8, decel * (0.45 + 0.55 * (kmh / LAST_METRES_KMH))) : decel;
      const hillN = car.massKg * GRAVITY * Math.abs(phase.grade);
      // against the creep of the engine: harder while it does not slow down
      const slowing = (this.lastKmh - kmh) / 3.6 / dtS;
      this.pressN = kmh < 0.3 ? this.pressN : Math.max(0, this.pressN + (slowing < 0.5 * ease ? 1800 : -600) * dtS);
      brakeN = (kmh < 0.7 ? 3500 + hillN : ease * car.massKg) + this.pressN;
    } else if (gap < -3.5) brakeN = decel * 0.8 * car.massKg;
    if (!stop) this.pressN = 0;
    this.lastKmh = kmh;
    if (wanted > 0.01) brakeN = 0;
    feet.brakeN += (brakeN - feet.brakeN) * (dtS / BRAKE_S);
    if (feet.brakeN < 20) feet.brakeN = 0;
    feet.brake = feet.brakeN > 150;
    feet.grade = feet.range === "R" ? -phase.grade : phase.grade;
    return feet;
  }
}
