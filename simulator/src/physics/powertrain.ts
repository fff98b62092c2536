import { converterTorques, jointsOf, type Stator, stallFactor, type Unit } from "@gearsense/core/unit";
import { Contacts } from "./contacts.ts";
import { buildMechanism, inverse } from "./mechanism.ts";

export interface VehicleData {
  readonly massKg: number;
  /** ½·ρ·c·A, N per (m/s)² */
  readonly dragNs2PerM2: number;
  /** rolling resistance over weight */
  readonly rolling: number;
  /** twist of half-shafts, seen at the gearbox output, N·m/rad */
  readonly shaftStiffnessNmPerRad: number;
  readonly shaftDampingNmsPerRad: number;
  readonly engineInertiaKgM2: number;
  readonly idleRpm: number;
}

export const WORKING_VAN: VehicleData = {
  massKg: 2300,
  dragNs2PerM2: 0.62,
  rolling: 0.011,
  shaftStiffnessNmPerRad: 900,
  shaftDampingNmsPerRad: 2.5,
  engineInertiaKgM2: 0.22,
  idleRpm: 760,
};

export interface Controls {
  /** 0…1 */
  pedal: number;
  /** at all wheels together, N */
  brakeN: number;
  /** rise over run */
  grade: number;
  /** what each element can hold, N·m, in the order of `elements` */
  readonly capacityNm: Float64Array;
  converterClutchNm: number;
}

/** Where energy went since the start, J. In − out − stored is the error of the integration. */
export interface Energy {
  engine: number;
  converter: number;
  elements: number;
  brakes: number;
  drag: number;
  shaft: number;
  lift: number;
}

const GRAVITY = 9.81;
const RPM = 60 / (2 * Math.PI);
const ROUNDS = 12;
/** Shafts inside the unit; light against engine and vehicle, never zero. */
const SHAFT_INERTIA_KGM2 = 0.012;
const INPUT_INERTIA_KGM2 = 0.07;
/** Full-load torque over the largest, by engine speed. */
function fullLoad(rpm: number): number {
  if (rpm < 600) return 0.4;
  if (rpm < 1900) return 0.4 + (0.6 * (rpm - 600)) / 1300;
  if (rpm < 4200) return 1;
  return Math.max(0, 1 - (rpm - 4200) / 2400);
}

/**
 * Engine, converter, gear train, half-shafts and vehicle of a planetary unit, stepped in fixed time. Friction elements
 * and the converter clutch are contacts: what sticks and what slips follows from their capacity.
 */
export class Powertrain {
  readonly unit: Unit;
  readonly vehicle: VehicleData;
  readonly elements: readonly string[];
  readonly energy: Energy = { engine: 0, converter: 0, elements: 0, brakes: 0, drag: 0, shaft: 0, lift: 0 };
  stator: Stator = "sound";
  private readonly size: number;
  private readonly speeds: Float64Array;
  private readonly before: Float64Array;
  private readonly mass: Float64Array;
  private readonly massInverse: Float64Array;
  private readonly inputRow: Float64Array;
  private readonly outputRow: Float64Array;
  private readonly contacts: Contacts;
  private readonly least: Float64Array;
  private readonly most: Float64Array;
  private readonly force: Float64Array;
  private readonly engineAt: number;
  private readonly wheelAt: number;
  private readonly wheelFactor: number;
  private twistRad = 0;
  private idleNm = 0;
  private lastEngineNm = 0;

  /** @throws RangeError for a unit without gear train or converter rating */
  constructor(unit: Unit, vehicle: VehicleData = WORKING_VAN) {
    const { gearTrain, converter } = unit;
    if (!gearTrain || !converter)
      throw new RangeError(`${unit.name} has no gear train or no converter: its speeds cannot be integrated`);
    stallFactor(converter);
    this.unit = unit;
    this.vehicle = vehicle;
    const joints = jointsOf(unit);
    this.elements = joints.map((j) => j.id);
    const train = buildMechanism(gearTrain, joints, (nodes) =>
      nodes.includes("input") ? INPUT_INERTIA_KGM2 : nodes.includes("output") ? 0.03 : SHAFT_INERTIA_KGM2,
    );
    const size = train.size + 2;
    this.size = size;
    this.engineAt = train.size;
    this.wheelAt = train.size + 1;
    // output speed of the gearbox per m/s of the vehicle
    this.wheelFactor = unit.finalDrive / unit.tyreRadiusM;
    this.mass = new Float64Array(size * size);
    for (let i = 0; i < train.size; i++)
      for (let j = 0; j < train.size; j++) this.mass[i * size + j] = train.mass[i * train.size + j] as number;
    this.mass[this.engineAt * size + this.engineAt] = vehicle.engineInertiaKgM2;
    this.mass[this.wheelAt * size + this.wheelAt] = vehicle.massKg / this.wheelFactor ** 2;
    this.massInverse = inverse(this.mass, size);
    const wide = (row: Float64Array | undefined) => {
      const out = new Float64Array(size);
      out.set(row ?? []);
      return out;
    };
    this.inputRow = wide(train.rows.get("input"));
    this.outputRow = wide(train.rows.get("output"));
    const unitVector = (at: number) => {
      const out = new Float64Array(size);
      out[at] = 1;
      return out;
    };
    const vectors = joints.map((j) => {
      const [a, b] = j.joins.map((n) => wide(train.rows.get(n)));
      return (a as Float64Array).map((x, i) => x - ((b as Float64Array)[i] as number));
    });
    const clutch = unitVector(this.engineAt).map((x, i) => x - (this.inputRow[i] as number));
    this.contacts = new Contacts([...vectors, clutch, unitVector(this.wheelAt)], this.massInverse, size);
    this.least = new Float64Array(vectors.length + 2);
    this.most = new Float64Array(vectors.length + 2);
    this.speeds = new Float64Array(size);
    this.speeds[this.engineAt] = vehicle.idleRpm / RPM;
    this.before = new Float64Array(size);
    this.force = new Float64Array(size);
  }

  /** Controls with nothing applied and the pedal up. */
  idleControls(): Controls {
    return {
      pedal: 0,
      brakeN: 0,
      grade: 0,
      capacityNm: new Float64Array(this.elements.length),
      converterClutchNm: 0,
    };
  }

  get engineRpm(): number {
    return (this.speeds[this.engineAt] as number) * RPM;
  }
  get turbineRpm(): number {
    return dot(this.inputRow, this.speeds) * RPM;
  }
  get outputRpm(): number {
    return dot(this.outputRow, this.speeds) * RPM;
  }
  get vehicleMS(): number {
    return (this.speeds[this.wheelAt] as number) / this.wheelFactor;
  }
  /** what the engine gave in the last step */
  get engineNm(): number {
    return this.lastEngineNm;
  }
  /** torque of an element in the last step of `dtS` */
  elementNm(index: number, dtS: number): number {
    return (this.contacts.impulse[index] as number) / dtS;
  }

  /** Sets the vehicle rolling with every shaft at rest relative to the output. */
  roll(vehicleMS: number): void {
    this.speeds[this.wheelAt] = vehicleMS * this.wheelFactor;
    for (let i = 0; i < this.size; i++)
      if ((this.outputRow[i] as number) !== 0) this.speeds[i] = vehicleMS * this.wheelFactor;
  }

  /** Kinetic energy and that of the twisted shafts, J. */
  stored(): number {
    let sum = 0;
    for (let i = 0; i < this.size; i++)
      for (let j = 0; j < this.size; j++)
        sum += 0.5 * (this.speeds[i] as number) * (this.mass[i * this.size + j] as number) * (this.speeds[j] as number);
    return sum + 0.5 * this.vehicle.shaftStiffnessNmPerRad * this.twistRad ** 2;
  }

  step(dtS: number, c: Controls): void {
    const { size, speeds, before, force, vehicle, energy, least, most } = this;
    before.set(speeds);
    const engineRadS = speeds[this.engineAt] as number;
    const inputRadS = dot(this.inputRow, speeds);
    const outputRadS = dot(this.outputRow, speeds);
    const wheelRadS = speeds[this.wheelAt] as number;
    const engineNm = this.engineTorque(dtS, engineRadS * RPM, c.pedal);
    const { pumpNm, turbineNm } = converterTorques(
      this.unit.converter as NonNullable<Unit["converter"]>,
      engineRadS * RPM,
      inputRadS * RPM,
      this.stator,
    );
    const twistRate = outputRadS - wheelRadS;
    const shaftNm =
      vehicle.shaftStiffnessNmPerRad * (this.twistRad + 0.5 * dtS * twistRate) +
      vehicle.shaftDampingNmsPerRad * twistRate;
    const speedMS = wheelRadS / this.wheelFactor;
    const dragN = vehicle.dragNs2PerM2 * speedMS * Math.abs(speedMS);
    const slope = Math.atan(c.grade);
    const liftN = vehicle.massKg * GRAVITY * Math.sin(slope);
    for (let i = 0; i < size; i++)
      force[i] = turbineNm * (this.inputRow[i] as number) - shaftNm * (this.outputRow[i] as number);
    force[this.engineAt] = engineNm - pumpNm;
    force[this.wheelAt] = shaftNm - (dragN + liftN) / this.wheelFactor;
    for (let i = 0; i < size; i++) {
      let a = 0;
      for (let j = 0; j < size; j++) a += (this.massInverse[i * size + j] as number) * (force[j] as number);
      speeds[i] = (speeds[i] as number) + a * dtS;
    }
    const n = this.elements.length;
    for (let e = 0; e < n; e++) {
      const impulse = (c.capacityNm[e] as number) * dtS;
      most[e] = impulse;
      least[e] = -impulse;
    }
    const clutch = c.converterClutchNm * dtS;
    most[n] = clutch;
    least[n] = -clutch;
    const wheels = ((c.brakeN + vehicle.rolling * vehicle.massKg * GRAVITY * Math.cos(slope)) / this.wheelFactor) * dtS;
    most[n + 1] = wheels;
    least[n + 1] = -wheels;
    this.contacts.solve(speeds, least, most, ROUNDS);

    // ½·(v + v′)·impulse is the work of every force, exactly
    const mid = (i: number) => 0.5 * ((before[i] as number) + (speeds[i] as number));
    const midOf = (row: Float64Array) => 0.5 * (dot(row, before) + dot(row, speeds));
    const midSlip = (k: number) => 0.5 * (this.contacts.slip(k, before) + this.contacts.slip(k, speeds));
    const midTwist = midOf(this.outputRow) - mid(this.wheelAt);
    energy.engine += engineNm * mid(this.engineAt) * dtS;
    energy.converter += (pumpNm * mid(this.engineAt) - turbineNm * midOf(this.inputRow)) * dtS;
    for (let k = 0; k <= n; k++) energy.elements -= (this.contacts.impulse[k] as number) * midSlip(k);
    energy.brakes -= (this.contacts.impulse[n + 1] as number) * mid(this.wheelAt);
    energy.drag += (dragN / this.wheelFactor) * mid(this.wheelAt) * dtS;
    energy.lift += (liftN / this.wheelFactor) * mid(this.wheelAt) * dtS;
    energy.shaft += vehicle.shaftDampingNmsPerRad * twistRate * midTwist * dtS;
    this.twistRad += midTwist * dtS;
    this.lastEngineNm = engineNm;
  }

  private engineTorque(dtS: number, rpm: number, pedal: number): number {
    const largest = this.unit.maxInputTorqueNm * 0.86;
    const drag = (0.03 + 0.045 * (rpm / 6000)) * largest;
    const below = this.vehicle.idleRpm - rpm;
    // the idle control only ever adds, and lets go above its speed
    this.idleNm = below > -60 ? Math.min(0.25 * largest, Math.max(0, this.idleNm + 0.25 * below * dtS)) : 0;
    const idle = below > -60 ? Math.max(0, this.idleNm + 0.35 * below + drag * (1 - pedal)) : 0;
    return pedal * largest * fullLoad(rpm) - (1 - pedal) * drag + idle;
  }
}

function dot(a: Float64Array, b: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += (a[i] as number) * (b[i] as number);
  return sum;
}
