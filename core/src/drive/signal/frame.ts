import { type Channel, channelSpec, InputError, type Recording } from "../../log/index.ts";
import { gearName, ratioTable, type Sensor, shaftPerInput, torqueRatio, type Unit } from "../../unit/index.ts";
import { type ClutchCommand, clutchCommand } from "./clutch-command.ts";
import { sampleAt } from "./sample-at.ts";
import { median } from "./stats.ts";

/**
 * The channels that judge a drive, on the time base of the input speed. Input is the turbine of a planetary unit and
 * the engine of a dual clutch: in both the synchronous speed of a gear is ratio · output.
 * A channel that was not recorded is undefined; a missing reading is NaN.
 */
export interface Frame {
  readonly unit: Unit;
  readonly timeS: Float64Array;
  /** time to the next sample, at most 1 s, so that a hole counts as no driving */
  readonly stepS: Float64Array;
  readonly rateHz: number;
  readonly inputRpm: Float64Array;
  readonly outputRpm: Float64Array;
  readonly engineRpm: Float64Array | undefined;
  /** gear codes, see `gearCode` */
  readonly gear: Float64Array;
  readonly torqueNm: Float64Array | undefined;
  /** torque at the input shaft: that of the engine, multiplied by the open converter where its speeds are known */
  readonly inputTorqueNm: Float64Array | undefined;
  /** torque over the unit's largest, else pedal share; NaN = unknown */
  readonly load: Float64Array;
  readonly loadSource: "engine_torque_nm" | "pedal_pct" | "throttle_pct" | undefined;
  readonly fluidC: Float64Array | undefined;
  readonly vehicleKmh: Float64Array | undefined;
  /** of the converter clutch: its duty, else by its state, its pressure, or where it plainly holds */
  readonly tccCommandPct: Float64Array | undefined;
  readonly tccFrom: ClutchCommand["from"] | undefined;
  readonly linePressureKpa: Float64Array | undefined;
  readonly pedalPct: Float64Array | undefined;
  readonly brakeOn: Float64Array | undefined;
  readonly clutchC: Float64Array | undefined;
  /** shafts behind the clutches of a dual-clutch unit, first and second */
  readonly shaftsRpm: readonly [Float64Array | undefined, Float64Array | undefined];
  /** channels computed from others; they never prove slip */
  readonly derived: readonly string[];
  /** false: nothing tells the turbine's speed, the engine's stands in for it; slip and shifts cannot be measured */
  readonly inputKnown: boolean;
  /** by gear code + 1 */
  readonly ratios: Float64Array;
}

export { sampleAt } from "./sample-at.ts";

const label = (id: string) => channelSpec(id)?.label ?? id;

/**
 * Puts a recording on one time base for a unit.
 * @throws InputError `channels-missing`, naming what is missing, what the log suggests, and what to record
 */
export function buildFrame(recording: Recording, unit: Unit): Frame {
  const { channels } = recording;
  const has = (id: string) => channels.has(id);
  const dct = unit.kind !== "planetary";
  const derived: string[] = [];
  const missing: string[] = [];

  const inputId = dct ? "engine_rpm" : "turbine_rpm";
  let input = channels.get(inputId);
  const slip = channels.get("tcc_slip_rpm");
  const engine = channels.get("engine_rpm");
  if (!input && !dct && engine && slip) {
    const slipAt = sampleAt(slip, engine.timeS, false, 2);
    input = { ...engine, id: "turbine_rpm", values: engine.values.map((e, i) => e - (slipAt[i] as number)) };
    derived.push("turbine_rpm");
  }
  const middle = unit.sensors.find((s) => s.channel === "middle_rpm");
  const middleShaft = channels.get("middle_rpm");
  const gearId = has("gear_commanded") ? "gear_commanded" : has("gear_reported") ? "gear_reported" : undefined;
  if (!input && !dct && middleShaft && gearId) {
    const values = fromMiddle(unit, middle, middleShaft, channels.get(gearId) as Channel);
    if (values) {
      input = { ...middleShaft, id: "turbine_rpm", values };
      derived.push("turbine_rpm");
    }
  }
  let inputKnown = true;
  if (!input && !dct && engine) {
    input = { ...engine, id: "turbine_rpm" };
    derived.push("turbine_rpm");
    inputKnown = false;
  }
  if (!input) missing.push(inputId);
  if (!has("output_rpm") && !has("vehicle_kmh")) missing.push("output_rpm");
  if (!gearId) missing.push("gear_commanded");
  if (!input || missing.length > 0) {
    let hint = "";
    if (!dct && (has("k1_rpm") || has("k2_rpm")))
      hint =
        " The log carries K1 and K2 shaft speeds: it was recorded on a dual-clutch unit. Check the unit of the job.";
    else if (dct && has("turbine_rpm") && !has("k1_rpm"))
      hint = " The log carries a turbine speed: it was recorded on a unit with a converter. Check the unit of the job.";
    throw new InputError(
      "channels-missing",
      `The log does not suit ${unit.name}: ${missing.map(label).join(", ")} ${missing.length > 1 ? "are" : "is"} missing. Map the column that holds it, or record it.${hint}`,
    );
  }
  if (dct && !has("k1_rpm") && !has("k2_rpm") && has("turbine_rpm")) {
    throw new InputError(
      "channels-missing",
      `The log does not suit ${unit.name}: it carries a turbine speed and no K1 or K2 shaft speed, so it was recorded on a unit with a converter. Check the unit of the job.`,
    );
  }
  const timeS = input.timeS;
  const hole = Math.max(1.5, 6 / input.rateHz);
  const at = (id: string): Float64Array | undefined => {
    const c = channels.get(id);
    return c && sampleAt(c, timeS, channelSpec(id)?.discrete ?? false, Math.max(hole, 3 / c.rateHz));
  };
  let outputRpm = at("output_rpm");
  const vehicleKmh = at("vehicle_kmh");
  if (!outputRpm && vehicleKmh) {
    // wheel speed rpm = v / (2πr); v in m/min
    const factor = (unit.finalDrive * 1000) / 60 / (2 * Math.PI * unit.tyreRadiusM);
    outputRpm = vehicleKmh.map((v) => v * factor);
    derived.push("output_rpm");
  }
  const gear = at(gearId as string) as Float64Array;
  const ratios = ratioTable(unit);
  if (derived.includes("output_rpm") && inputKnown && outputRpm) {
    const scale = tyreScale(timeS, input.values, outputRpm, gear, ratios);
    outputRpm = outputRpm.map((v) => v * scale);
  }
  const torqueNm = at("engine_torque_nm");
  const loadSource = torqueNm
    ? "engine_torque_nm"
    : has("pedal_pct")
      ? "pedal_pct"
      : has("throttle_pct")
        ? "throttle_pct"
        : undefined;
  const load = torqueNm
    ? torqueNm.map((t) => t / unit.maxInputTorqueNm)
    : loadSource
      ? (at(loadSource) as Float64Array).map((p) => p / 100)
      : new Float64Array(timeS.length).fill(Number.NaN);
  const engineRpm = at("engine_rpm");
  const clutch =
    dct || !inputKnown
      ? undefined
      : clutchCommand({
          unit,
          channels,
          timeS,
          at,
          engineRpm,
          inputRpm: input.values,
          outputRpm,
          gear,
          torqueNm,
          load,
        });
  return {
    unit,
    timeS,
    stepS: stepsOf(timeS),
    rateHz: input.rateHz,
    inputRpm: input.values,
    outputRpm: outputRpm as Float64Array,
    engineRpm,
    gear,
    torqueNm,
    inputTorqueNm: torqueNm && multiplied(torqueNm, engineRpm, input.values, unit),
    load,
    loadSource,
    fluidC: at("fluid_c") ?? at("clutch_c"),
    vehicleKmh,
    tccCommandPct: clutch?.pct,
    tccFrom: clutch?.from,
    linePressureKpa: at("line_pressure_measured_kpa") ?? at("line_pressure_kpa"),
    pedalPct: at("pedal_pct") ?? at("throttle_pct"),
    brakeOn: at("brake_on"),
    clutchC: at("clutch_c"),
    shaftsRpm: [at("k1_rpm"), at("k2_rpm")],
    derived,
    inputKnown,
    ratios,
  };
}

/** Turbine speed from a shaft inside the train, where the unit file says how it turns in each gear. @returns undefined where it does not */
function fromMiddle(unit: Unit, sensor: Sensor | undefined, shaft: Channel, gears: Channel): Float64Array | undefined {
  const perInput = sensor && shaftPerInput(unit, sensor);
  if (!perInput || perInput.size === 0) return undefined;
  const gear = sampleAt(gears, shaft.timeS, true, 3);
  return shaft.values.map((rpm, i) => rpm / (perInput.get(gearName(gear[i] as number)) ?? Number.NaN));
}

/** A gear is held by then. */
const HELD_AFTER_S = 1.5;
const SCALE_SAMPLES = 40;
/** Worn tyres and other sizes do not lie further from the unit file. */
const SCALE_WITHIN = 0.08;

/**
 * How far tyres and final drive differ from the unit file: what road speed has to be multiplied with so that held gears
 * have their ratios. 1 where too little was driven to tell.
 */
function tyreScale(
  timeS: Float64Array,
  inputRpm: Float64Array,
  outputRpm: Float64Array,
  gear: Float64Array,
  ratios: Float64Array,
): number {
  const scales: number[] = [];
  let since = 0;
  for (let i = 1; i < timeS.length; i++) {
    if (gear[i] !== gear[i - 1]) since = i;
    const g = gear[i] as number;
    if (!(g > 0) || !((outputRpm[i] as number) > 250) || !((inputRpm[i] as number) > 900)) continue;
    if ((timeS[i] as number) - (timeS[since] as number) < HELD_AFTER_S) continue;
    const scale = (inputRpm[i] as number) / ((ratios[g + 1] ?? Number.NaN) * (outputRpm[i] as number));
    if (Math.abs(scale - 1) < SCALE_WITHIN) scales.push(scale);
  }
  return scales.length < SCALE_SAMPLES ? 1 : median(scales);
}

/** Engine torque through the converter: torque ratio at turbine over engine. A locked clutch has the ratio 1 by itself. */
function multiplied(
  torqueNm: Float64Array,
  engineRpm: Float64Array | undefined,
  turbineRpm: Float64Array,
  { converter }: Unit,
): Float64Array {
  if (!converter || !engineRpm || engineRpm === turbineRpm) return torqueNm;
  return torqueNm.map((nm, i) => {
    const speedRatio = (turbineRpm[i] as number) / (engineRpm[i] as number);
    return nm > 0 && speedRatio >= 0 && speedRatio < 1 ? nm * torqueRatio(converter, speedRatio) : nm;
  });
}

function stepsOf(timeS: Float64Array): Float64Array {
  const out = new Float64Array(timeS.length);
  for (let i = 0; i + 1 < out.length; i++) out[i] = Math.min((timeS[i + 1] as number) - (timeS[i] as number), 1);
  return out;
}

/** {@link buildFrame} with the refusal returned, not thrown. */
export function tryFrame(recording: Recording, unit: Unit): Frame | InputError {
  try {
    return buildFrame(recording, unit);
  } catch (error) {
    if (error instanceof InputError) return error;
    throw error;
  }
}

/** Ratio of a gear code in this frame's unit; NaN when there is none. */
export const ratioOf = (frame: Frame, code: number): number =>
  Number.isNaN(code) ? Number.NaN : (frame.ratios[code + 1] ?? Number.NaN);

/** Synchronous input speed of a gear at a sample: |ratio| · output. */
export const syncRpm = (frame: Frame, code: number, i: number): number =>
  Math.abs(ratioOf(frame, code)) * (frame.outputRpm[i] as number);
