import { converterTorques, jointsOf, type Stator, stallFactor, torqueShares, type Unit } from "@gearsense/core/unit";
import { Contacts } from "./contacts.ts";
import { Engine } from "./engine.ts";
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
  /** stiffness of the rubber in tyres and mounts that yields in time and so damps slow vibrations, over that of the shafts */
  readonly rubberShare: number;
  readonly engineInertiaKgM2: number;
  readonly idleRpm: number;
  /** idle in P and N over that in gear, and how far it wanders, rpm */
  readonly neutralIdleRpm: number;
  readonly idleWanderRpm: number;
  /** largest engine torque over what the unit bears */
  readonly engineShare: number;
  /** capacity factor of the converter over that of the unit file */
  readonly converterShare: number;
  readonly tyreRadiusM: number;
  /** force of the driven tyres for a slip of 1, N */
  readonly tyreGripN: number;
}

export const WORKING_VAN: VehicleData = {
  massKg: 2300,
  dragNs2PerM2: 0.62,
  rolling: 0.011,
  shaftStiffnessNmPerRad: 850,
  shaftDampingNmsPerRad: 0.5,
  rubberShare: 0.4,
  engineInertiaKgM2: 0.22,
  idleRpm: 760,
  neutralIdleRpm: 0,
  idleWanderRpm: 0,
  engineShare: 0.86,
  converterShare: 1,
  tyreRadiusM: 0.33,
  tyreGripN: 270_000,
};

export interface Controls {
  /** 0…1 */
  pedal: number;
  /** share of the engine's torque that the transmission allows, 1 = all */
  torqueRequest: number;
  /** at all wheels together, N */
  brakeN: number;
  /** rise over run */
  grade: number;
  /** what turns the output shaft unevenly besides, N·m: a damaged tooth, a wheel out of balance */
  outputNm: number;
  /** what each element can hold, N·m, in the order of `elements` */
  readonly capacityNm: Float64Array;
  converterClutchNm: number;
}

/** What is wrong between engine and road. */
export interface DrivelineHealth {
  stator: Stator;
  /** splines of turbine or input shaft are gone: the engine drives nothing */
  inputCut: boolean;
  /** the same behind the output */
  outputCut: boolean;
  /** free travel of joints and mounts, rad at the gearbox output, each way */
  slackRad: number;
  stiffnessScale: number;
  dampingScale: number;
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

export const SOUND_DRIVELINE: Readonly<DrivelineHealth> = {
  stator: "sound",
  inputCut: false,
  outputCut: false,
  slackRad: 0,
  stiffnessScale: 1,
  dampingScale: 1,
};

const GRAVITY = 9.81;
export const RPM_PER_RAD_S = 60 / (2 * Math.PI);
/** Shafts inside the unit; light against engine and vehicle, never zero. */
const SHAFT_INERTIA_KGM2 = 0.012;
const INPUT_INERTIA_KGM2 = 0.09;
const OUTPUT_INERTIA_KGM2 = 0.09;
/** Rubber yields in this time, s: slow vibrations are damped, shudder hardly. */
const RUBBER_S = 0.12;
/** Flow in the converter takes time to follow the speeds, s. Source: momentum of the fluid, Hrovat and Tobler. */
const CONVERTER_FLOW_S = 0.02;

/**
 * Engine, converter, gear train, half-shafts and vehicle, stepped in fixed time. Friction elements, forks and the
 * converter clutch are contacts: what sticks and what slips follows from their capacity. In a dual-clutch unit the
 * engine is the input shaft and there is no converter.
 */
export class Powertrain {
  readonly unit: Unit;
  readonly vehicle: VehicleData;
  readonly engine: Engine;
  /** joints in the order of `Controls.capacityNm`; a fork has one for each gear, `fork:gear` */
  readonly elements: readonly string[];
  readonly health: DrivelineHealth = { ...SOUND_DRIVELINE };
  /** a seized one-way clutch */
  oneWayHoldsBoth = false;
  readonly energy: Energy = { engine: 0, converter: 0, elements: 0, brakes: 0, drag: 0, shaft: 0, lift: 0 };
  private readonly size: number;
  private readonly speeds: Float64Array;
  private readonly slipsBefore: Float64Array;
  private readonly mass: Float64Array;
  private readonly massInverse: Float64Array;
  private readonly engineRow: Float64Array;
  private readonly inputRow: Float64Array;
  private readonly outputRow: Float64Array;
  private readonly nodeRows: ReadonlyMap<string, Float64Array>;
  private readonly contacts: Contacts;
  private readonly least: Float64Array;
  private readonly most: Float64Array;
  /** of a one-way clutch, the sign of the torque it can hold; 0 holds both ways */
  private readonly oneWay: Int8Array;
  /** acceleration of the coordinates for 1 N·m at each shaft */
  private readonly inputResponse: Float64Array;
  private readonly outputResponse: Float64Array;
  private readonly engineResponse: Float64Array;
  private readonly wheelResponse: Float64Array;
  private readonly wheelAt: number;
  private readonly wheelFactor: number;
  private readonly clutchAt: number;
  private engineRadS = 0;
  private inputRadS = 0;
  private outputRadS = 0;
  private twistRad = 0;
  /** what the rubber has yielded */
  private yieldedRad = 0;
  private readonly converter: NonNullable<Unit["converter"]> | undefined;
  private pumpNm = 0;
  private turbineNm = 0;
  private lastEngineNm = 0;
  private lastShaftNm = 0;

  /** @throws RangeError for a unit without gear train, or a planetary one without converter rating */
  constructor(
    unit: Unit,
    vehicle: VehicleData = { ...WORKING_VAN, tyreRadiusM: unit.tyreRadiusM },
    random: () => number = () => 0,
  ) {
    const { gearTrain, converter } = unit;
    if (!gearTrain) throw new RangeError(`${unit.name} has no gear train: its speeds cannot be integrated`);
    const planetary = unit.kind === "planetary";
    if (planetary) {
      if (!converter) throw new RangeError(`${unit.name} has no converter: its speeds cannot be integrated`);
      stallFactor(converter);
      this.converter = { ...converter, stallRpm: converter.stallRpm * vehicle.converterShare };
    }
    this.unit = unit;
    this.vehicle = vehicle;
    this.engine = new Engine(unit.maxInputTorqueNm * vehicle.engineShare, vehicle, random);
    const joints = jointsOf(unit);
    this.elements = joints.map((j) => j.id);
    const train = buildMechanism(gearTrain, joints, (nodes) => {
      if (nodes.includes("input")) return planetary ? INPUT_INERTIA_KGM2 : vehicle.engineInertiaKgM2;
      return nodes.includes("output") ? OUTPUT_INERTIA_KGM2 : SHAFT_INERTIA_KGM2;
    });
    const size = train.size + (planetary ? 2 : 1);
    this.size = size;
    this.wheelAt = size - 1;
    // output speed of the gearbox per m/s of the vehicle
    this.wheelFactor = unit.finalDrive / vehicle.tyreRadiusM;
    this.mass = new Float64Array(size * size);
    for (let i = 0; i < train.size; i++)
      for (let j = 0; j < train.size; j++) this.mass[i * size + j] = train.mass[i * train.size + j] as number;
    if (planetary) this.mass[train.size * size + train.size] = vehicle.engineInertiaKgM2;
    this.mass[this.wheelAt * size + this.wheelAt] = vehicle.massKg / this.wheelFactor ** 2;
    this.massInverse = inverse(this.mass, size);
    const wide = (row: Float64Array | undefined) => {
      const out = new Float64Array(size);
      out.set(row ?? []);
      return out;
    };
    const unitVector = (at: number) => {
      const out = new Float64Array(size);
      out[at] = 1;
      return out;
    };
    this.nodeRows = new Map([...train.rows].map(([node, row]) => [node, wide(row)]));
    this.inputRow = wide(train.rows.get("input"));
    this.outputRow = wide(train.rows.get("output"));
    this.engineRow = planetary ? unitVector(train.size) : this.inputRow;
    const vectors = joints.map((j) => {
      const [a, b] = j.joins.map((n) => wide(train.rows.get(n)));
      return (a as Float64Array).map((x, i) => x - ((b as Float64Array)[i] as number));
    });
    if (planetary) vectors.push(this.engineRow.map((x, i) => x - (this.inputRow[i] as number)));
    this.clutchAt = planetary ? joints.length : -1;
    vectors.push(unitVector(this.wheelAt));
    this.contacts = new Contacts(vectors, this.massInverse, size);
    this.oneWay = new Int8Array(joints.map((j) => oneWaySign(unit, j.id)));
    this.least = new Float64Array(vectors.length);
    this.most = new Float64Array(vectors.length);
    this.speeds = new Float64Array(size);
    for (let i = 0; i < size; i++) if (this.engineRow[i] === 1) this.speeds[i] = vehicle.idleRpm / RPM_PER_RAD_S;
    this.slipsBefore = new Float64Array(vectors.length);
    const response = (row: Float64Array) =>
      row.map((_, i) => dot(this.massInverse.subarray(i * size, (i + 1) * size), row));
    this.inputResponse = response(this.inputRow);
    this.outputResponse = response(this.outputRow);
    this.engineResponse = response(this.engineRow);
    this.wheelResponse = response(unitVector(this.wheelAt));
    for (let k = 0; k < vectors.length; k++) this.contacts.slips[k] = this.contacts.slip(k, this.speeds);
    this.look();
  }

  /** Speeds of the shafts that everything asks for, after each change of the coordinates. */
  private look(): void {
    const { size, speeds, engineRow, inputRow, outputRow } = this;
    let engine = 0;
    let input = 0;
    let output = 0;
    for (let i = 0; i < size; i++) {
      const v = speeds[i] as number;
      engine += (engineRow[i] as number) * v;
      input += (inputRow[i] as number) * v;
      output += (outputRow[i] as number) * v;
    }
    this.engineRadS = engine;
    this.inputRadS = input;
    this.outputRadS = output;
  }

  /** Controls with nothing applied and the pedal up. */
  idleControls(): Controls {
    return {
      pedal: 0,
      torqueRequest: 1,
      brakeN: 0,
      grade: 0,
      outputNm: 0,
      capacityNm: new Float64Array(this.elements.length),
      converterClutchNm: 0,
    };
  }

  get engineRpm(): number {
    return this.engineRadS * RPM_PER_RAD_S;
  }
  /** input shaft: the turbine, or the engine of a dual-clutch unit */
  get turbineRpm(): number {
    return this.inputRadS * RPM_PER_RAD_S;
  }
  get outputRpm(): number {
    return this.outputRadS * RPM_PER_RAD_S;
  }
  get vehicleMS(): number {
    return (this.speeds[this.wheelAt] as number) / this.wheelFactor;
  }
  /** what the engine gave in the last step */
  get engineNm(): number {
    return this.lastEngineNm;
  }
  /** what the converter, without its clutch, gave the input shaft in the last step */
  get converterNm(): number {
    return this.turbineNm;
  }
  /** torque in the half-shafts, at the gearbox output */
  get shaftNm(): number {
    return this.lastShaftNm;
  }
  /** @throws RangeError for a node that the train has not */
  nodeRpm(node: string): number {
    const row = this.nodeRows.get(node);
    if (!row) throw new RangeError(`${this.unit.name} has no shaft ${node}`);
    return dot(row, this.speeds) * RPM_PER_RAD_S;
  }
  /** torque of an element in the last step of `dtS` */
  elementNm(index: number, dtS: number): number {
    return (this.contacts.impulse[index] as number) / dtS;
  }
  /** slip of an element after the last step, rad/s */
  elementSlipRadS(index: number): number {
    return this.contacts.slips[index] as number;
  }
  /** of the converter clutch, engine less turbine, rad/s; 0 in a dual-clutch unit */
  get clutchSlipRadS(): number {
    return this.clutchAt < 0 ? 0 : (this.contacts.slips[this.clutchAt] as number);
  }

  /** Sets the vehicle rolling with every shaft at rest relative to the output. */
  roll(vehicleMS: number): void {
    this.speeds[this.wheelAt] = vehicleMS * this.wheelFactor;
    for (let i = 0; i < this.size; i++)
      if ((this.outputRow[i] as number) !== 0) this.speeds[i] = vehicleMS * this.wheelFactor;
    for (let k = 0; k < this.least.length; k++) this.contacts.slips[k] = this.contacts.slip(k, this.speeds);
    this.look();
  }

  /** Kinetic energy and that of the twisted shafts, J. */
  stored(): number {
    let sum = 0;
    for (let i = 0; i < this.size; i++)
      for (let j = 0; j < this.size; j++)
        sum += 0.5 * (this.speeds[i] as number) * (this.mass[i * this.size + j] as number) * (this.speeds[j] as number);
    const spring = this.springRad(this.twistRad);
    return sum + 0.5 * this.stiffness * spring ** 2 + 0.5 * this.rubber * (spring - this.yieldedRad) ** 2;
  }

  private get stiffness(): number {
    return this.vehicle.shaftStiffnessNmPerRad * this.health.stiffnessScale;
  }

  private get rubber(): number {
    return this.stiffness * this.vehicle.rubberShare * this.health.dampingScale;
  }

  /** Twist beyond the free travel. */
  private springRad(twistRad: number): number {
    const { slackRad } = this.health;
    if (slackRad === 0) return twistRad;
    return Math.abs(twistRad) <= slackRad ? 0 : twistRad - Math.sign(twistRad) * slackRad;
  }

  step(dtS: number, c: Controls): void {
    const { size, speeds, slipsBefore, vehicle, energy, least, most, health, contacts } = this;
    const { engineRadS, inputRadS, outputRadS } = this;
    const wheelRadS = speeds[this.wheelAt] as number;
    const engineNm = this.engine.step(dtS, engineRadS * RPM_PER_RAD_S, c.pedal, c.torqueRequest);
    const planetary = this.clutchAt >= 0;
    if (this.converter) {
      const { pumpNm, turbineNm } = converterTorques(
        this.converter,
        engineRadS * RPM_PER_RAD_S,
        inputRadS * RPM_PER_RAD_S,
        health.stator,
      );
      const follow = dtS / CONVERTER_FLOW_S;
      // a turbine that drives nothing turns with the flow and takes no torque
      this.pumpNm += ((health.inputCut ? 0 : pumpNm) - this.pumpNm) * follow;
      this.turbineNm += ((health.inputCut ? 0 : turbineNm) - this.turbineNm) * follow;
    }
    const { pumpNm, turbineNm } = this;
    // a tyre that pulls creeps, the faster it rolls the more, and so the shafts unwind: Maxwell's spring and damper in series
    const creepRadS = ((this.lastShaftNm * this.wheelFactor) / vehicle.tyreGripN) * Math.abs(wheelRadS);
    const twistRate = outputRadS - wheelRadS - creepRadS;
    const spring = this.springRad(this.twistRad + 0.5 * dtS * twistRate);
    const damping = vehicle.shaftDampingNmsPerRad * health.dampingScale;
    const whole = !health.outputCut;
    // joints in their free travel damp nothing
    const taut = whole && (health.slackRad === 0 || spring !== 0);
    const dampNm = taut ? damping * twistRate : 0;
    const yieldRate = (spring - this.yieldedRad) / RUBBER_S;
    const rubberNm = taut ? this.rubber * (spring - this.yieldedRad) : 0;
    const shaftNm = whole ? this.stiffness * spring + rubberNm + dampNm : 0;
    const speedMS = wheelRadS / this.wheelFactor;
    const dragN = vehicle.dragNs2PerM2 * speedMS * Math.abs(speedMS);
    // sine and cosine of the slope
    const cosine = 1 / Math.sqrt(1 + c.grade * c.grade);
    const liftN = vehicle.massKg * GRAVITY * c.grade * cosine;
    const outNm = c.outputNm - shaftNm;
    const crankNm = engineNm - pumpNm;
    const wheelNm = shaftNm - (dragN + liftN) / this.wheelFactor;
    const { inputResponse, outputResponse, engineResponse, wheelResponse } = this;
    for (let i = 0; i < size; i++)
      speeds[i] =
        (speeds[i] as number) +
        dtS *
          (turbineNm * (inputResponse[i] as number) +
            outNm * (outputResponse[i] as number) +
            crankNm * (engineResponse[i] as number) +
            wheelNm * (wheelResponse[i] as number));
    const n = this.elements.length;
    for (let e = 0; e < n; e++) {
      const impulse = (c.capacityNm[e] as number) * dtS;
      const way = this.oneWayHoldsBoth ? 0 : (this.oneWay[e] as number);
      most[e] = way < 0 ? 0 : impulse;
      least[e] = way > 0 ? 0 : -impulse;
    }
    if (planetary) {
      const clutch = health.inputCut ? 0 : c.converterClutchNm * dtS;
      most[n] = clutch;
      least[n] = -clutch;
    }
    const wheelContact = contacts.impulse.length - 1;
    const wheels = ((c.brakeN + vehicle.rolling * vehicle.massKg * GRAVITY * cosine) / this.wheelFactor) * dtS;
    most[wheelContact] = wheels;
    least[wheelContact] = -wheels;
    for (let k = 0; k < slipsBefore.length; k++) slipsBefore[k] = contacts.slips[k] as number;
    contacts.solve(speeds, least, most);
    this.look();

    // ½·(v + v′)·impulse is the work of every force, exactly
    const midEngine = 0.5 * (engineRadS + this.engineRadS);
    const midWheel = 0.5 * (wheelRadS + (speeds[this.wheelAt] as number));
    const midTwist = 0.5 * (outputRadS + this.outputRadS) - midWheel;
    energy.engine += engineNm * midEngine * dtS;
    energy.converter += (pumpNm * midEngine - turbineNm * 0.5 * (inputRadS + this.inputRadS)) * dtS;
    for (let k = 0; k < wheelContact; k++) {
      const impulse = contacts.impulse[k] as number;
      if (impulse !== 0)
        energy.elements -= 0.5 * impulse * ((slipsBefore[k] as number) + (contacts.slips[k] as number));
    }
    energy.brakes -= (contacts.impulse[wheelContact] as number) * midWheel;
    energy.drag += (dragN / this.wheelFactor) * midWheel * dtS;
    if (c.outputNm !== 0) energy.drag -= c.outputNm * (midTwist + midWheel) * dtS;
    energy.lift += (liftN / this.wheelFactor) * midWheel * dtS;
    const wound = midTwist - creepRadS;
    energy.shaft += (dampNm * wound + rubberNm * yieldRate + shaftNm * creepRadS) * dtS;
    this.yieldedRad += yieldRate * dtS;
    this.twistRad = whole ? this.twistRad + wound * dtS : 0;
    this.lastEngineNm = engineNm;
    this.lastShaftNm = shaftNm;
  }
}

/** Sign of the torque that a one-way clutch bears under drive in the gears of the chart; 0 for other elements. */
function oneWaySign(unit: Unit, id: string): number {
  if (unit.elements.find((e) => e.id === id)?.kind !== "one-way-clutch" || !unit.gearTrain) return 0;
  const joints = jointsOf(unit);
  for (const { name } of unit.gears.filter((g) => g.ratio > 0)) {
    const applied = (unit.application[name] ?? []).flatMap((a) => joints.filter((j) => j.id === a.element));
    const share = applied.some((j) => j.id === id)
      ? torqueShares(unit.gearTrain, applied)?.elements.get(id)
      : undefined;
    if (share) return Math.sign(share);
  }
  return 0;
}

function dot(a: Float64Array, b: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += (a[i] as number) * (b[i] as number);
  return sum;
}
