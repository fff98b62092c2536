import { elementsIn, type Sensor, sensorValidIn, type Unit } from "@gearsense/core/unit";
import type { SimulatedFault, Truth } from "./faults.ts";
import { type Phase, PROFILES, type ProfileName, phaseAt } from "./profile.ts";
import { normal, seededRandom } from "./random.ts";

export interface SimulationInput {
  readonly unit: Unit;
  readonly seed: number;
  readonly rateHz: number;
  readonly durationS: number;
  readonly profile: ProfileName | readonly Phase[];
  readonly startFluidC: number;
  /** temperature the fluid tends to */
  readonly finalFluidC: number;
  readonly faults: readonly SimulatedFault[];
}

export interface SimulatedLog {
  readonly columns: ReadonlyMap<string, Float64Array>;
  readonly truth: Truth;
}

const STEP_S = 0.01;
const MASS_KG = 2300;
const IDLE_RPM = 760;
const RPM = 60 / (2 * Math.PI);

const find = <K extends SimulatedFault["kind"]>(faults: readonly SimulatedFault[], kind: K) =>
  faults.filter((f): f is Extract<SimulatedFault, { kind: K }> => f.kind === kind);

/**
 * A drive as a scan tool would have recorded it: a small kinematic generator. Vehicle speed is integrated at 100 Hz from
 * engine torque, grade and drag; speeds inside the unit follow from ratios, shifts, slip and the converter.
 * Pure: the same input gives the same log.
 */
export function simulateDrive(input: SimulationInput): SimulatedLog {
  const { unit, rateHz, durationS, faults } = input;
  const random = seededRandom(input.seed);
  const profile = typeof input.profile === "string" ? PROFILES[input.profile] : input.profile;
  const forward = unit.gears.filter((g) => g.ratio > 0);
  const top = forward.length;
  const ratio = (g: number) => forward[g - 1]?.ratio ?? 1;
  const name = (g: number) => forward[g - 1]?.name ?? "1";
  const planetary = unit.kind === "planetary";
  const maxTorque = unit.maxInputTorqueNm * 0.86;
  const stallRpm = unit.converter?.stallRpm ?? 0;
  const clutchGears = new Set(unit.converter?.clutchGears ?? []);
  const targetSlip = unit.converter?.targetSlipRpm ?? 0;
  const slips = find(faults, "element-slip");
  const flares = find(faults, "flare");
  const slows = find(faults, "slow-shift");
  const shudder = find(faults, "shudder")[0];
  const converterSlip = find(faults, "converter-slip")[0];
  const sensorFaults = find(faults, "sensor-dropout");
  const limpGear = forward.findIndex((g) => g.name === unit.limp.gear) + 1;

  const rows = Math.floor(durationS * rateHz);
  const columns = new Map<string, Float64Array>();
  const col = (id: string) => {
    const c = new Float64Array(rows);
    columns.set(id, c);
    return c;
  };
  const out = {
    time: col("time_s"),
    engine: col("engine_rpm"),
    turbine: planetary ? col("turbine_rpm") : undefined,
    k1: planetary ? undefined : col("k1_rpm"),
    k2: planetary ? undefined : col("k2_rpm"),
    output: col("output_rpm"),
    vehicle: col("vehicle_kmh"),
    gear: col("gear_commanded"),
    range: col("range"),
    pedal: col("pedal_pct"),
    throttle: col("throttle_pct"),
    torque: col("engine_torque_nm"),
    brake: col("brake_on"),
    tcc: planetary ? col("tcc_command") : undefined,
    line: col("line_pressure_kpa"),
    fluid: col("fluid_c"),
    clutch: planetary ? undefined : col("clutch_c"),
  };
  const solenoids = unit.solenoids
    .filter((s) => s.feeds !== "converter-clutch" && s.feeds !== "line-pressure")
    .slice(0, 5);
  const solenoidColumns = solenoids.map((s) => col(s.id));

  const truth: Truth = { shifts: [], slips: [], shudder: [], dropouts: [], limpS: undefined };
  let v = 0;
  let gear = 1;
  let commanded = 1;
  let commandS = -10;
  let holdUntilS = -10;
  let shift: { from: number; to: number; startS: number; endS: number; flare: number } | undefined;
  let pedal = 0;
  let torque = 0;
  let slip = 0;
  let clutchSlip = 0;
  let tccOn = false;
  let fluid = input.startFluidC;
  let engine = IDLE_RPM;
  let inputRpm = 0;
  let integral = 0;
  let limp = false;
  let row = 0;
  let openSlip: Truth["slips"][number] | undefined;
  let openShudder: Truth["shudder"][number] | undefined;
  const dropUntil = new Map<string, number>();
  const pending = sensorFaults.map((f) => ({ fault: f, left: [...f.atS], done: 0 }));

  const steps = Math.round(durationS / STEP_S);
  for (let n = 0; n < steps; n++) {
    const t = n * STEP_S;
    const phase = phaseAt(profile, t);
    const kmh = v * 3.6;
    const gap = phase.targetKmh - kmh;
    integral = Math.max(-6, Math.min(10, integral + gap * STEP_S * 0.05));
    // the driver knows about the pedal that holds the speed here, and corrects by the gap
    const roadN = (v > 0.05 ? 260 : 0) + 0.62 * v * v + MASS_KG * 9.81 * phase.grade;
    const hold = (roadN * unit.tyreRadiusM) / (ratio(gear) * unit.finalDrive * 0.94) / maxTorque;
    const wanted = gap < -3 ? 0 : Math.max(0, Math.min(phase.pedal, hold + 0.035 * gap + 0.012 * integral));
    pedal += (wanted - pedal) * (STEP_S / 0.25);
    const braking = gap < -2.5 || (phase.targetKmh === 0 && kmh < 20);
    const wantTorque =
      pedal < 0.01 ? -28 : maxTorque * Math.min(1, pedal * 1.05) * (0.75 + 0.25 * Math.min(1, inputRpm / 1800));
    torque += (wantTorque - torque) * (STEP_S / 0.15);

    const outputRpm = (v / unit.tyreRadiusM) * RPM * unit.finalDrive;
    // shift schedule: input speed against pedal, with the hysteresis that the ratio step gives
    const sync = outputRpm * ratio(commanded);
    if (!shift && t - commandS > 1.8 && !limp) {
      const upAt = 1750 + 3300 * pedal ** 1.3;
      const downAt = 1020 + 900 * pedal;
      const after = commanded < top ? outputRpm * ratio(commanded + 1) : 0;
      let to = commanded;
      if (commanded < top && t > holdUntilS && sync > upAt && after > 1000 + 700 * pedal) to = commanded + 1;
      else if (commanded > 1 && sync < downAt && outputRpm * ratio(commanded - 1) < 5400) to = commanded - 1;
      if (to !== commanded) {
        // a gear asked for under power is kept a while: no hunting on a hill
        if (to < commanded && pedal > 0.45) holdUntilS = t + 9;
        const label = `${name(commanded)}-${name(to)}`;
        const flareFault = to > commanded && torque > 30 ? flares.find((f) => f.shift === label) : undefined;
        const slowFault = slows.find((f) => f.shift === label);
        const delay = (flareFault ? 0.3 : 0.17) + 0.02 * random();
        const inertia = slowFault?.inertiaS ?? (planetary ? 0.36 : 0.28) + 0.05 * random();
        shift = { from: commanded, to, startS: t + delay, endS: t + delay + inertia, flare: flareFault?.rpm ?? 0 };
        truth.shifts.push({
          name: label,
          commandS: t,
          startS: shift.startS,
          endS: shift.endS,
          flareRpm: shift.flare,
          torqueNm: torque,
        });
        commanded = to;
        commandS = t;
      }
    }
    // sensor faults, then the limp strategy that answers them
    for (const p of pending) {
      const next = p.left[0];
      const sensor = unit.sensors.find((s) => s.id === p.fault.sensor) as Sensor;
      if (next !== undefined && t >= next && outputRpm > 500 && !shift && sensorValidIn(sensor, name(gear))) {
        p.left.shift();
        dropUntil.set(sensor.id, t + p.fault.lengthS);
        truth.dropouts.push({ sensor: sensor.id, startS: t, endS: t + p.fault.lengthS });
        p.done++;
      }
      if (
        p.fault.limpAfter &&
        !limp &&
        p.left.length === 0 &&
        p.done > 0 &&
        t > (dropUntil.get(p.fault.sensor) ?? Infinity) - p.fault.lengthS + 0.6
      ) {
        limp = true;
        truth.limpS = t;
        commanded = limpGear;
        gear = limpGear;
        shift = undefined;
        commandS = t;
      }
    }
    if (shift && t >= shift.endS) {
      gear = shift.to;
      shift = undefined;
    }

    // slip of the elements that carry the gear
    let wantSlip = 0;
    if (!shift) {
      for (const f of slips) {
        if (elementsIn(unit, name(gear)).includes(f.element) && fluid >= (f.minFluidC ?? -Infinity))
          wantSlip += Math.max(0, torque - f.onsetTorqueNm) * f.rpmPerNm;
      }
    }
    slip += (wantSlip - slip) * (STEP_S / 0.12);
    if (slip > 60) {
      if (!openSlip || openSlip.gear !== name(gear)) {
        openSlip = { gear: name(gear), startS: t, endS: t, peakRpm: slip, peakTorqueNm: torque };
        truth.slips.push(openSlip);
      }
      openSlip.endS = t;
      if (slip > openSlip.peakRpm) {
        openSlip.peakRpm = slip;
        openSlip.peakTorqueNm = torque;
      }
    } else if (slip < 30) openSlip = undefined;

    const line = (g: number) => outputRpm * ratio(g);
    if (shift) {
      const share = (t - shift.startS) / (shift.endS - shift.startS);
      const flareFrom = shift.startS - 0.26;
      const bump =
        shift.flare > 0 && t > flareFrom && t < shift.startS
          ? shift.flare * Math.sin((Math.PI * (t - flareFrom)) / 0.26)
          : 0;
      inputRpm =
        share <= 0
          ? line(shift.from) + bump
          : line(shift.from) + (line(shift.to) - line(shift.from)) * Math.min(1, share);
    } else inputRpm = line(gear) + slip;

    // converter with its clutch, or launch of the dual clutch
    if (planetary) {
      const wantTcc: boolean =
        !limp &&
        !shift &&
        t - commandS > 1.3 &&
        clutchGears.has(name(commanded)) &&
        kmh > 32 &&
        pedal > 0.02 &&
        pedal < (tccOn ? 0.72 : 0.62);
      tccOn = wantTcc;
      const open = Math.sqrt(inputRpm ** 2 + stallRpm ** 2 * (Math.max(0, torque) / unit.maxInputTorqueNm)) - inputRpm;
      const hold = converterSlip
        ? Math.max(targetSlip, converterSlip.rpm * Math.min(1.4, Math.max(0.4, torque / 120)))
        : targetSlip;
      clutchSlip += ((tccOn ? Math.min(open, hold) : open) - clutchSlip) * (STEP_S / (tccOn ? 0.3 : 0.18));
      const settled = tccOn && t - commandS > 2.2;
      const shudders = shudder && settled && torque >= shudder.minTorqueNm && torque <= shudder.maxTorqueNm;
      const wave = shudders ? (shudder.peakToPeakRpm / 2) * Math.sin(2 * Math.PI * shudder.frequencyHz * t) : 0;
      if (shudders) {
        if (!openShudder) {
          openShudder = { startS: t, endS: t, gear: name(gear) };
          truth.shudder.push(openShudder);
        }
        openShudder.endS = t;
      } else openShudder = undefined;
      engine = Math.max(IDLE_RPM, inputRpm + clutchSlip) + wave;
    } else {
      // wet clutch slips until the shaft has caught up with the launch speed
      const launch = IDLE_RPM + 340 + 900 * pedal;
      engine =
        gear <= 2 && inputRpm < launch
          ? Math.max(inputRpm, Math.min(launch, engine + 2500 * STEP_S), IDLE_RPM)
          : Math.max(inputRpm, IDLE_RPM);
    }

    // vehicle
    const driving =
      gear === commanded || shift ? ratio(shift && t > (shift.startS + shift.endS) / 2 ? shift.to : gear) : ratio(gear);
    const multiply = planetary && !tccOn ? 1 + 0.9 * Math.max(0, 1 - inputRpm / Math.max(engine, 1) / 0.87) : 1;
    const creep = kmh < 7 && pedal < 0.02 && !braking ? 600 : 0;
    const force =
      (torque > 0 || kmh > 8 ? (torque * multiply * driving * unit.finalDrive * 0.94) / unit.tyreRadiusM : 0) + creep;
    const brake = braking ? Math.min(1.7, 0.6 + kmh / 30) * MASS_KG : 0;
    v = Math.max(0, v + ((force - roadN - brake) / MASS_KG) * STEP_S);
    const heat = (Math.max(0, clutchSlip + slip) * Math.max(0, torque)) / 9549;
    fluid += ((input.finalFluidC - fluid) / 240 + heat * 0.004) * STEP_S;

    if (t + 1e-9 >= row / rateHz && row < rows) {
      const lost = (sensorId: string) => (dropUntil.get(sensorId) ?? -1) > t;
      const noisy = (rpm: number, channel: string) => {
        const sensor = unit.sensors.find((s) => s.channel === channel);
        if (sensor && lost(sensor.id)) return 0;
        return rpm < 20 ? 0 : Math.max(0, Math.round(rpm + normal(random, 1.6)));
      };
      out.time[row] = Math.round(t * 1000) / 1000;
      out.engine[row] = Math.max(0, Math.round(engine + normal(random, 2)));
      if (out.turbine) out.turbine[row] = noisy(inputRpm, "turbine_rpm");
      if (out.k1 && out.k2) {
        const own = shift && t > shift.startS ? shift.to : gear;
        const shaft = line(own);
        const other = line(
          Math.max(
            1,
            Math.min(top, shift ? (own === shift.to ? shift.from : shift.to) : gear < top ? gear + 1 : gear - 1),
          ),
        );
        const odd = own % 2 === 1;
        out.k1[row] = noisy(odd ? shaft : other, "k1_rpm");
        out.k2[row] = noisy(odd ? other : shaft, "k2_rpm");
      }
      out.output[row] = noisy(outputRpm, "output_rpm");
      out.vehicle[row] = Math.round(kmh * 10) / 10;
      out.gear[row] = commanded;
      out.range[row] = 4;
      out.pedal[row] = Math.round(pedal * 250) / 2.5;
      out.throttle[row] = Math.round((8 + pedal * 80) * 10) / 10;
      out.torque[row] = Math.round(torque + normal(random, 1));
      out.brake[row] = braking ? 1 : 0;
      if (out.tcc) out.tcc[row] = tccOn ? 85 : 0;
      out.line[row] =
        limp && unit.limp.linePressureKpa
          ? unit.limp.linePressureKpa
          : Math.round(430 + 2.4 * Math.abs(torque) + normal(random, 4));
      out.fluid[row] = Math.round(fluid);
      if (out.clutch) out.clutch[row] = Math.round(fluid + 6 + heat);
      const chart = unit.solenoidChart[name(commanded)] ?? {};
      solenoids.forEach((s, k) => {
        const state = limp ? "off" : chart[s.id];
        (solenoidColumns[k] as Float64Array)[row] =
          state === "on" ? 100 : state === "modulated" ? Math.round(40 + pedal * 40) : 0;
      });
      row++;
    }
  }
  return { columns, truth };
}
