import { jointsOf, type Unit } from "@gearsense/core/unit";
import { type Build, drawBuild } from "./build.ts";
import { Adaptation } from "./control/adaptation.ts";
import { Controller } from "./control/controller.ts";
import type { StoredCode } from "./control/monitors.ts";
import type { Commands, Sensed } from "./control/signals.ts";
import { Intermittent, type SimulatedFault, strengthAt } from "./faults/fault.ts";
import { Health } from "./faults/health.ts";
import type { FaultKind } from "./faults/kind.ts";
import { componentsFor, faultKind } from "./faults/kinds.ts";
import { Fluid, flowTimeFactor } from "./physics/fluid.ts";
import { Hydraulics, packsOf } from "./physics/hydraulics.ts";
import { judderFactor, runOutFactor, wetFriction } from "./physics/lining.ts";
import { type Controls, Powertrain, RPM_PER_RAD_S } from "./physics/powertrain.ts";
import { seededRandom } from "./random.ts";
import type { Reality } from "./reality.ts";
import type { Feet } from "./road/driver.ts";
import { SensorBank } from "./scan/sensors.ts";
import { engineInertiaKgM2, vehicleFor } from "./vehicle-data.ts";

/** Physics runs at this step; controller, driver and sensors at ten of them. */
export const STEP_S = 0.001;
export const TICK_STEPS = 10;
export const TICK_S = STEP_S * TICK_STEPS;

const FORK_MOVE_S = 0.14;
const SYNC_NM = 45;
const DOG_NM = 20_000;
const IN_SYNC_RAD_S = 1.5;
const CLUTCH_HEAT_J_PER_K = 4200;
const CLUTCH_COOLING_W_PER_K = { "dct-wet": 220, "dct-dry": 28, planetary: 0 } as const;
/** under the bonnet, over the air outside, °C */
const ENGINE_BAY_C = 30;
/** a full converter clutch command, kPa */
const CONVERTER_FULL_KPA = 700;

export interface VehicleInput {
  readonly unit: Unit;
  readonly seed: number;
  readonly faults: readonly SimulatedFault[];
  readonly startFluidC: number;
  /** learned on earlier drives, by the adaptations of the unit file; those of a new unit where left out */
  readonly adaptations?: Readonly<Record<string, number>> | undefined;
  /** steps of learning against usual driving; 1 where left out */
  readonly learning?: number | undefined;
  /** drawn by the seed where left out */
  readonly build?: Build | undefined;
}

interface ActiveFault {
  readonly fault: SimulatedFault;
  readonly kind: FaultKind;
  readonly component: string;
  readonly intermittent: Intermittent;
}

/**
 * A whole vehicle with its transmission controller: physics at 1 kHz, controller and sensors at 100 Hz. A driver's feet
 * go in, readings come out. It is stepped from outside, so that a drive can be recorded, watched live or driven by hand.
 */
export class SimulatedVehicle {
  readonly unit: Unit;
  readonly build: Build;
  readonly faults: readonly SimulatedFault[];
  readonly powertrain: Powertrain;
  readonly hydraulics: Hydraulics;
  readonly fluid: Fluid;
  readonly controller: Controller;
  readonly health: Health;
  readonly sensors: SensorBank;
  readonly real: Reality;
  timeS = 0;
  private readonly active: readonly ActiveFault[];
  private readonly random: () => number;
  private readonly controls: Controls;
  private readonly sensed: Sensed;
  /** of each pack, its joint in the powertrain */
  private readonly jointOfPack: readonly number[];
  private readonly oneWays: readonly number[];
  private readonly forks: readonly { id: string; joint: number; solenoid: string | undefined }[];
  private readonly forkTravel: Float64Array;
  private readonly forksIn = new Set<string>();
  private readonly openSolenoids = new Set<string>();
  private readonly touchSeen: Float64Array;
  private readonly packSolenoid: readonly (string | undefined)[];
  private readonly converterSolenoid: string | undefined;
  private readonly lineSolenoid: string | undefined;
  private readonly unpowered: ReadonlyMap<string, boolean>;
  private readonly clutchC: Float64Array;
  private fillOff = 0;
  private lossJ = 0;
  private wheelRad = 0;
  private outputRad = 0;
  /** turn of one face of a clutch against the other, by pack */
  private readonly faceRad: Float64Array;

  /** @throws RangeError for an unknown fault, a fault that this unit cannot have, or a unit that cannot be integrated */
  constructor(input: VehicleInput) {
    const { unit, seed } = input;
    this.unit = unit;
    this.random = seededRandom(seed ^ 0x5bd1e995);
    const build = input.build ?? drawBuild(packsOf(unit).length, seed);
    this.build = build;
    const vehicle = vehicleFor(unit, build);
    this.powertrain = new Powertrain(unit, vehicle, seededRandom(seed ^ 0x2545f491));
    this.hydraulics = new Hydraulics(unit, build);
    this.fluid = new Fluid(unit.fluid.totalL, input.startFluidC, Math.min(build.ambientC, input.startFluidC));
    const { packs } = this.hydraulics;
    const learned = Float64Array.from(
      packs,
      (p, i) => p.fillS * (build.packFill[i] as number) * (1 + (build.packLearned[i] as number)),
    );
    this.controller = new Controller(
      unit,
      packs,
      this.hydraulics.highestKpa,
      engineInertiaKgM2(unit),
      new Adaptation(unit, packs, learned),
      build,
    );
    this.controller.adaptation.speed = input.learning ?? 1;
    if (input.adaptations) this.controller.adaptation.adopt(unit, packs, input.adaptations);
    this.controller.converterHoldKpa = (nm) => this.hydraulics.converterKpaFor(nm);
    this.health = new Health(unit, {
      engine: this.powertrain.engine.health,
      driveline: this.powertrain.health,
      fluid: this.fluid.health,
      hydraulics: this.hydraulics,
    });
    this.faults = input.faults;
    this.active = input.faults.map((fault, n) => {
      const kind = faultKind(fault.kind);
      const choices = componentsFor(unit, kind);
      if (kind.units && !kind.units.includes(unit.kind))
        throw new RangeError(
          `${unit.name} cannot have "${fault.kind}": it is a fault of ${kind.units.join(" and ")} units.`,
        );
      const component = fault.component ?? choices[0] ?? "";
      if (kind.per !== "unit" && !choices.includes(component))
        throw new RangeError(
          choices.length === 0
            ? `${unit.name} has no part that can have "${fault.kind}".`
            : `"${fault.kind}" of ${unit.name} needs one of: ${choices.join(", ")}; not "${component}".`,
        );
      return { fault, kind, component, intermittent: new Intermittent(fault, seededRandom(seed * 31 + n + 7)) };
    });
    this.controls = this.powertrain.idleControls();
    const joints = jointsOf(unit);
    this.faceRad = new Float64Array(packs.length);
    this.jointOfPack = packs.map((p) => joints.findIndex((j) => j.id === p.id));
    this.oneWays = joints.flatMap((j, i) =>
      unit.elements.find((e) => e.id === j.id)?.kind === "one-way-clutch" ? [i] : [],
    );
    this.forks = joints.flatMap((j, joint) => {
      const [fork, gear] = j.id.split(":");
      if (gear === undefined) return [];
      const solenoid = unit.solenoids.find((s) => s.feeds === fork && unit.solenoidChart[gear]?.[s.id] === "on")?.id;
      return [{ id: j.id, joint, solenoid }];
    });
    this.forkTravel = new Float64Array(this.forks.length);
    this.touchSeen = new Float64Array(packs.length).fill(Number.NaN);
    const feeder = (what: string) => unit.solenoids.find((s) => s.feeds === what)?.id;
    this.packSolenoid = packs.map((p) => feeder(p.id));
    this.converterSolenoid = feeder("converter-clutch");
    this.lineSolenoid = feeder("line-pressure");
    this.unpowered = new Map(unit.solenoids.map((s) => [s.id, s.unpoweredState === "applied"]));
    this.clutchC = new Float64Array(packs.length).fill(input.startFluidC + 4);
    this.real = {
      engineRpm: 0,
      inputRpm: 0,
      outputRpm: 0,
      vehicleKmh: 0,
      shownKmh: 0,
      engineNm: 0,
      fluidC: input.startFluidC,
      clutchC: input.startFluidC + 4,
      shaftNm: 0,
    };
    this.sensors = new SensorBank(unit, this.health, build.sensors, seededRandom(seed ^ 0x1b873593));
    this.sensed = {
      engineRpm: 0,
      inputRpm: 0,
      outputRpm: 0,
      shaftRpm: new Float64Array(2),
      vehicleKmh: 0,
      pedal: 0,
      brake: true,
      range: "P",
      fluidC: input.startFluidC,
      clutchC: input.startFluidC,
      engineNm: 0,
      linePressureKpa: 420,
      batteryV: 14,
    };
    this.look();
  }

  get commands(): Commands {
    return this.controller.out;
  }
  get codes(): readonly StoredCode[] {
    return this.controller.codes.stored;
  }
  /** what the controller reads now */
  get readings(): Readonly<Sensed> {
    return this.sensed;
  }
  /** solenoids that are powered now, 0 … 1 */
  solenoidDuty(id: string): number {
    const { commands } = this;
    if (commands.unpowered) return 0;
    const solenoid = this.unit.solenoids.find((s) => s.id === id);
    if (!solenoid) return 0;
    const pack = this.hydraulics.packs.findIndex((p) => p.id === solenoid.feeds);
    const applied = this.unpowered.get(id);
    if (pack >= 0) {
      const share = Math.min(1, (commands.packKpa[pack] as number) / Math.max(1, commands.lineKpa));
      return applied ? 1 - share : share;
    }
    const fork = this.forks.find((f) => f.solenoid === id);
    if (fork) return commands.forks.has(fork.id) ? 1 : 0;
    if (solenoid.feeds === "converter-clutch") return Math.min(1, commands.converterKpa / CONVERTER_FULL_KPA);
    return solenoid.feeds === "line-pressure" ? Math.max(0, 1 - commands.lineKpa / 1800) : 0;
  }
  /** converter clutch command as a scan tool shows it, % */
  get converterDutyPct(): number {
    const { converterKpa } = this.commands;
    return converterKpa > 0 ? Math.min(100, 34 + (66 * converterKpa) / CONVERTER_FULL_KPA) : 0;
  }
  /** force that full pedal would give at the wheels now, N */
  get fullPedalN(): number {
    const ratio = this.commands.gear?.ratio ?? 1;
    return (
      (0.92 * this.powertrain.engine.largestNm * ratio * this.unit.finalDrive) / this.powertrain.vehicle.tyreRadiusM
    );
  }

  /** Clears the codes, as a scan tool does with the ignition on. A limp mode ends with them. */
  clearCodes(): void {
    this.controller.codes.clear();
    this.controller.limpS = undefined;
  }

  /** One tick of 10 ms with the driver's feet where they are. */
  tick(feet: Readonly<Feet>): void {
    const { controller, hydraulics, powertrain, controls, sensed, health } = this;
    this.timeS += TICK_S;
    sensed.pedal = feet.pedal;
    sensed.brake = feet.brake;
    this.breakThings();
    const told = health.rangeRead ?? feet.range;
    sensed.range = told === "" ? undefined : told;
    sensed.batteryV = health.batteryV;
    controller.choice.restless = health.restless;
    if (health.powerLossS > 0) controller.losePower(health.powerLossS);
    controller.tick(TICK_S, sensed, {
      openSolenoids: this.openSolenoids,
      forksIn: this.forksIn,
      forksUnseen: this.health.forksUnseen,
      touchKpa: this.touchSeen,
      stroke: hydraulics.stroke,
    });
    this.applyCommands(feet);
    controls.pedal = feet.pedal;
    controls.torqueRequest = this.commands.torqueRequest;
    controls.brakeN = (feet.range === "P" ? Math.max(feet.brakeN, 15_000) : feet.brakeN) + health.brakeDragN;
    controls.grade = feet.grade;
    powertrain.engine.inNeutral = feet.range === "P" || feet.range === "N";
    hydraulics.setFluid(this.fluid.temperatureC, this.fluid.air);
    const before = powertrain.energy.converter + powertrain.energy.elements;
    for (let n = 0; n < TICK_STEPS; n++) {
      hydraulics.step(STEP_S, powertrain.engineRpm);
      this.setCapacities();
      this.vibrate();
      powertrain.step(STEP_S, controls);
    }
    this.lossJ = powertrain.energy.converter + powertrain.energy.elements - before;
    const unrest = Math.abs(feet.grade) * 0.6 + (feet.brake ? 0.06 : 0) + feet.pedal * 0.05;
    this.fluid.step(TICK_S, this.unit.kind === "dct-dry" ? 0 : this.lossJ / TICK_S, powertrain.turbineRpm, unrest);
    this.warmClutches();
    this.look();
  }

  private breakThings(): void {
    const { health, timeS } = this;
    // nothing was changed, nothing is to be mended
    if (this.active.length === 0) return;
    health.reset();
    for (const { fault, kind, component, intermittent } of this.active) {
      const strength = strengthAt(fault, timeS, this.fluid.temperatureC);
      if (strength <= 0) continue;
      kind.apply(health, component, strength, {
        unit: this.unit,
        timeS,
        dtS: TICK_S,
        vehicleKmh: this.real.vehicleKmh,
        random: this.random,
        intermittent,
      });
    }
    if (health.fillOff !== this.fillOff) {
      // put out of place when the fault begins; what is learned from there on counts
      const factor = (1 + health.fillOff) / (1 + this.fillOff);
      this.fillOff = health.fillOff;
      for (let i = 0; i < this.controller.adaptation.fillS.length; i++)
        this.controller.adaptation.fillS[i] = (this.controller.adaptation.fillS[i] as number) * factor;
    }
  }

  /** What the valves do of what the controller wants: solenoids, wiring, the manual valve. */
  private applyCommands(feet: Readonly<Feet>): void {
    const { hydraulics, health, commands, unpowered } = this;
    const state = (id: string | undefined) => (id === undefined ? "sound" : (health.solenoids.get(id) ?? "sound"));
    this.openSolenoids.clear();
    for (const [id, s] of health.solenoids)
      if (s === "dead" && this.solenoidDuty(id) > 0.05) this.openSolenoids.add(id);
    const line = state(this.lineSolenoid);
    hydraulics.lineCommandKpa = commands.unpowered || line === "dead" || line === "off" ? 1800 : commands.lineKpa;
    const supplied = feet.range === "D" || feet.range === "R";
    for (let i = 0; i < hydraulics.packs.length; i++) {
      const id = this.packSolenoid[i];
      const s = state(id);
      const still = id === undefined ? false : (unpowered.get(id) as boolean);
      let kpa = commands.packKpa[i] as number;
      // in limp reverse comes from the manual valve
      const hydraulic = commands.unpowered && feet.range !== "R" && this.unit.kind === "planetary";
      if (s === "dead" || s === "off" || hydraulic) kpa = still ? hydraulics.lineCommandKpa : 0;
      else if (s === "on") kpa = still ? 0 : hydraulics.lineCommandKpa;
      if ((s !== "sound" || hydraulic) && !supplied) kpa = 0;
      const leak = id === undefined ? 0 : (health.solenoidLeak.get(id) ?? 0);
      hydraulics.commandKpa[i] = kpa * (1 - leak);
    }
    const converter = state(this.converterSolenoid);
    hydraulics.converterCommandKpa =
      converter === "on"
        ? CONVERTER_FULL_KPA * (supplied ? 1 : 0)
        : converter !== "sound" || commands.unpowered
          ? 0
          : commands.converterKpa;
    this.moveForks();
  }

  private moveForks(): void {
    const { commands, health, powertrain, controls } = this;
    this.forksIn.clear();
    for (let n = 0; n < this.forks.length; n++) {
      const { id, joint, solenoid } = this.forks[n] as (typeof this.forks)[number];
      const works = (health.solenoids.get(solenoid ?? "") ?? "sound") === "sound" && !health.forksStuck.has(id);
      const wanted = commands.forks.has(id) && (works || health.solenoids.get(solenoid ?? "") === "on");
      const travel = this.forkTravel[n] as number;
      const synced = Math.abs(powertrain.elementSlipRadS(joint)) < IN_SYNC_RAD_S;
      // it waits at the synchroniser until speeds are alike
      const most = wanted ? (travel < 0.5 || synced ? 1 : 0.5) : 0;
      const step = TICK_S / FORK_MOVE_S;
      const next = travel < most ? Math.min(most, travel + step) : Math.max(most, travel - step);
      this.forkTravel[n] = next;
      controls.capacityNm[joint] = next >= 1 ? DOG_NM : next >= 0.5 ? SYNC_NM : 0;
      if (next >= 1 && !health.forksUnseen.has(id)) this.forksIn.add(id);
    }
  }

  private setCapacities(): void {
    const { hydraulics, health, powertrain, controls, fluid, jointOfPack } = this;
    const { spoiled, frictionScale } = fluid.health;
    const dry = this.unit.kind === "dct-dry";
    const { build } = this;
    // thick fluid between plates that are apart
    const shear = build.releasedDragNm * flowTimeFactor(fluid.temperatureC, build.coldThickening);
    for (let i = 0; i < jointOfPack.length; i++) {
      const joint = jointOfPack[i] as number;
      if (joint < 0) continue;
      const drag = shear + (health.dragNm[i] as number);
      if ((hydraulics.stroke[i] as number) < 1) {
        controls.capacityNm[joint] = drag;
        continue;
      }
      const slip = Math.abs(powertrain.elementSlipRadS(joint));
      let friction = wetFriction(slip, dry ? 0 : spoiled * 0.35, health.wear[i] as number) * (dry ? 1 : frictionScale);
      friction *= build.frictionShare * (build.packFriction[i] as number);
      const judder = health.judder[i] as number;
      if (judder > 0) {
        const turned = ((this.faceRad[i] as number) + slip * STEP_S) % (2 * Math.PI);
        this.faceRad[i] = turned;
        friction *= judderFactor(slip, judder) * runOutFactor(turned, judder);
      }
      if (dry) friction *= 1 - Math.max(0, Math.min(0.5, ((this.clutchC[i] as number) - 180) * 0.0015));
      controls.capacityNm[joint] = Math.max(drag, hydraulics.capacityNm(i, friction));
    }
    const way = health.oneWay;
    for (const joint of this.oneWays) controls.capacityNm[joint] = way === "slips" ? 6 : 20_000;
    powertrain.oneWayHoldsBoth = way === "seized";
    const slip = Math.abs(powertrain.clutchSlipRadS);
    const falling = Math.max(spoiled, health.converterGlaze);
    const friction =
      wetFriction(slip, falling, health.converterWear) *
      frictionScale *
      build.frictionShare *
      (1 - 0.25 * health.converterGlaze - 0.5 * health.converterWear);
    controls.converterClutchNm = hydraulics.converterClutchNm(friction);
  }

  /** What turns unevenly and shakes the vehicle. */
  private vibrate(): void {
    const { health, powertrain, controls } = this;
    controls.outputNm = 0;
    if (health.wheelImbalanceNm === 0 && health.gearKnockNm === 0) return;
    const wheelRadS = powertrain.vehicleMS / powertrain.vehicle.tyreRadiusM;
    this.wheelRad = (this.wheelRad + wheelRadS * STEP_S) % (2 * Math.PI);
    this.outputRad = (this.outputRad + (powertrain.outputRpm / RPM_PER_RAD_S) * STEP_S) % (2 * Math.PI);
    const speed = powertrain.vehicleMS / 20;
    controls.outputNm += health.wheelImbalanceNm * speed * speed * Math.sin(this.wheelRad);
    // one tooth: a short push once a turn
    if (health.gearKnockNm > 0 && powertrain.outputRpm > 60 && this.outputRad < 0.9)
      controls.outputNm -= health.gearKnockNm * Math.min(1, 0.3 + Math.abs(powertrain.shaftNm) / 80);
  }

  private warmClutches(): void {
    const { unit, powertrain, clutchC, hydraulics } = this;
    if (unit.kind === "planetary") {
      this.real.clutchC = this.fluid.temperatureC;
      return;
    }
    const around = unit.kind === "dct-wet" ? this.fluid.temperatureC : this.build.ambientC + ENGINE_BAY_C;
    const cooling = CLUTCH_COOLING_W_PER_K[unit.kind] * this.health.clutchCooling;
    let hottest = 0;
    for (let i = 0; i < hydraulics.packs.length; i++) {
      const joint = this.jointOfPack[i] as number;
      const heatW = Math.abs(powertrain.elementNm(joint, STEP_S) * powertrain.elementSlipRadS(joint));
      const c = clutchC[i] as number;
      clutchC[i] = c + ((heatW - cooling * (c - around)) / CLUTCH_HEAT_J_PER_K) * TICK_S;
      hottest = Math.max(hottest, clutchC[i] as number);
    }
    this.real.clutchC = hottest;
  }

  /** Sensors read what is there. */
  private look(): void {
    const { powertrain, real, sensed, unit, hydraulics } = this;
    real.engineRpm = powertrain.engineRpm;
    real.inputRpm = powertrain.turbineRpm;
    real.outputRpm = Math.abs(powertrain.outputRpm);
    real.vehicleKmh = Math.abs(powertrain.vehicleMS) * 3.6;
    real.shownKmh = (real.vehicleKmh / this.build.tyreShare) * this.health.kmhScale;
    real.engineNm = powertrain.engineNm;
    real.fluidC = this.fluid.temperatureC;
    real.shaftNm = powertrain.shaftNm;
    this.sensors.read(TICK_S, this);
    const planetary = unit.kind === "planetary";
    sensed.engineRpm = this.sensors.value("engine_rpm");
    sensed.inputRpm = planetary ? this.sensors.value("turbine_rpm") : sensed.engineRpm;
    sensed.outputRpm = this.sensors.value("output_rpm");
    sensed.vehicleKmh = this.sensors.value("vehicle_kmh");
    if (!planetary) {
      sensed.shaftRpm[0] = this.sensors.value("k1_rpm");
      sensed.shaftRpm[1] = this.sensors.value("k2_rpm");
    }
    sensed.fluidC = planetary ? this.sensors.value("fluid_c") : this.fluid.temperatureC;
    sensed.clutchC = planetary ? sensed.fluidC : this.sensors.value("clutch_c");
    sensed.engineNm = powertrain.engine.reportedNm(powertrain.engineRpm, this.commands?.torqueRequest ?? 1);
    sensed.linePressureKpa = hydraulics.lineKpa;
    for (let i = 0; i < this.touchSeen.length; i++) {
      const pack = hydraulics.packs[i];
      // a clutch that has just closed on a moving shaft shows where it began to take torque
      const seen =
        pack?.dual && (hydraulics.stroke[i] as number) >= 1 && (this.commands?.packKpa[i] ?? 0) > pack.kissKpa + 20;
      this.touchSeen[i] =
        seen && pack ? pack.kissKpa + (this.health.hydraulics.touchShiftKpa[i] as number) : Number.NaN;
    }
  }

  /** Node of the gear train that a shaft speed channel measures. @returns undefined for other channels */
  nodeOf(channel: string): string | undefined {
    const named = this.unit.sensors.find((s) => s.channel === channel)?.shaft;
    if (named !== undefined) return named;
    if (channel === "turbine_rpm") return "input";
    if (channel === "output_rpm") return "output";
    const k = channel === "k1_rpm" ? "K1" : channel === "k2_rpm" ? "K2" : undefined;
    if (!k) return undefined;
    const duals = this.unit.elements.filter((e) => e.kind === "dual-clutch");
    const element = duals.find((e) => e.id === k) ?? duals[k === "K1" ? 0 : 1];
    return element?.joins?.find((n) => n !== "input");
  }

  /** forks that are in and say so */
  get forksReady(): ReadonlySet<string> {
    return this.forksIn;
  }
  /** The driving clutch of a dual-clutch unit is commanded to be closed. */
  get clutchClosed(): boolean {
    return this.controller.clutchClosed;
  }
}
