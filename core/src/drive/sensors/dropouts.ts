import { type Channel, indexAtOrAfter, type Recording } from "../../log/index.ts";
import { gearName, type Sensor, sensorValidIn, shaftRatios, type Unit } from "../../unit/index.ts";
import { type Frame, sampleAt } from "../signal/frame.ts";
import { finite, median, runs, where } from "../signal/stats.ts";
import { type FrozenRun, frozenRuns } from "./frozen.ts";

export interface Dropout {
  readonly sensor: string;
  readonly channel: string;
  readonly startS: number;
  readonly endS: number;
  /** readings lost */
  readonly samples: number;
  readonly gear: string;
  readonly fluidC?: number | undefined;
  readonly kind: "zero while moving" | "no valid reading" | "not D while driving" | "frozen";
}

const JOIN_S = 0.35;
const MOVING_OUTPUT_RPM = 200;
const MOVING_KMH = 11;
/** A shaft cannot stop faster than this with wheels that grip, rpm/s. */
const IMPOSSIBLE_FALL_RPM_PER_S = 6000;

interface Witness {
  readonly outputRpm: Float64Array | undefined;
  readonly vehicleKmh?: Float64Array | undefined;
  readonly gear: Float64Array | undefined;
  /** of a shaft behind one of the dual clutches: its speed over that of the output, by gear */
  readonly shaftRatio: ReadonlyMap<string, number> | undefined;
}

/** Does another channel say that this shaft must turn at sample i? */
function mustTurn(
  sensor: Sensor,
  w: Witness,
  values: Float64Array,
  timeS: Float64Array,
  i: number,
  lastGood: number,
): boolean {
  const code = w.gear?.[i] ?? Number.NaN;
  const gear = Number.isNaN(code) ? undefined : gearName(code);
  if (sensor.channel === "output_rpm") {
    if (w.vehicleKmh) return (w.vehicleKmh[i] as number) > MOVING_KMH;
    if (lastGood < 0) return false;
    const dt = (timeS[i] as number) - (timeS[lastGood] as number);
    return (values[lastGood] as number) / Math.max(dt, 1e-3) > IMPOSSIBLE_FALL_RPM_PER_S;
  }
  if (!gear || code === 0 || !sensorValidIn(sensor, gear)) return false;
  // the output's own signal may be gone as well: either of the two will do
  const turning = (w.outputRpm?.[i] ?? 0) * (w.shaftRatio?.get(gear) ?? 1) > MOVING_OUTPUT_RPM;
  return turning || (w.vehicleKmh?.[i] ?? 0) > MOVING_KMH;
}

/**
 * Spans in which a speed sensor of the unit reads nothing although another channel says its shaft turns, in gears
 * where the unit file calls its reading valid; and spans of sentinel or impossible values of any sensor.
 */
export function findDropouts(recording: Recording, frame: Frame): Dropout[] {
  const found: Dropout[] = [];
  for (const sensor of frame.unit.sensors) {
    const channel = recording.channels.get(sensor.channel);
    if (channel) found.push(...sensorDropouts(recording, frame.unit, sensor, channel));
    if (channel && sensor.channel === "range") found.push(...rangeFalls(frame, sensor, channel));
  }
  return found.sort((a, b) => a.startS - b.startS);
}

const DRIVE = 4;
/** A lever that somebody moves on the road stays where it was put. */
const LONGEST_FALL_S = 6;

/** The range reads something else than D for a moment while the vehicle drives forward. */
function rangeFalls(frame: Frame, sensor: Sensor, channel: Channel): Dropout[] {
  const { timeS, vehicleKmh, gear, fluidC } = frame;
  if (!vehicleKmh) return [];
  const range = sampleAt(channel, timeS, true, 1);
  let drives = false;
  const hits = where(timeS.length, (i) => {
    const moving = (vehicleKmh[i] as number) > MOVING_KMH;
    if (range[i] === DRIVE) drives = true;
    else if (!moving) drives = false;
    return drives && moving && range[i] !== DRIVE;
  });
  return runs(timeS, hits, JOIN_S, 0, 1).flatMap(({ start, end }): Dropout[] => {
    const [startS, endS] = [timeS[start] as number, timeS[end - 1] as number];
    if (endS - startS > LONGEST_FALL_S) return [];
    // the command falls with the range: the gear is the one before
    const code = gear[Math.max(0, start - 1)] as number;
    return [
      {
        sensor: sensor.id,
        channel: sensor.channel,
        startS,
        endS,
        samples: end - start,
        gear: Number.isNaN(code) ? "?" : gearName(code),
        fluidC: finite(fluidC?.[start]),
        kind: "not D while driving",
      },
    ];
  });
}

/** Speed of the sensor's shaft over the output speed in the gears that its clutch drives; undefined for other sensors. */
function shaftRatioOf(unit: Unit, sensor: Sensor): ReadonlyMap<string, number> | undefined {
  const at = ["k1_rpm", "k2_rpm"].indexOf(sensor.channel);
  const clutch = unit.elements.filter((e) => e.kind === "dual-clutch")[at]?.id;
  if (clutch === undefined) return undefined;
  return new Map(
    unit.gears.flatMap(({ name }) => {
      const ratio = shaftRatios(unit, name).get(clutch);
      return ratio === undefined ? [] : [[name, ratio] as const];
    }),
  );
}

/** A signal that is lost falls from its level at once, and comes back to it when it was away no longer than this. */
const BRIEF_S = 0.6;
const NEAR_LEVEL = 0.7;
const NEIGHBOURS = 4;

/** Does a shaft that is braked or vibrates pass through zero by itself? @param start @param end - readings of zero, both included */
function passes({ timeS, values }: Channel, start: number, end: number): boolean {
  const turning = (from: number, to: number) =>
    Array.from(values.subarray(Math.max(0, from), to)).filter((v) => v >= 1);
  const before = turning(start - NEIGHBOURS, start);
  const after = turning(end + 1, end + 1 + NEIGHBOURS);
  const brief = (timeS[end] as number) - (timeS[start] as number) < BRIEF_S;
  const level = median(brief ? [...before, ...after] : before);
  const off = (v: number | undefined) => v !== undefined && (v < NEAR_LEVEL * level || v > level / NEAR_LEVEL);
  return off(before.at(-1)) || (brief && off(after[0]));
}

function sensorDropouts(recording: Recording, unit: Unit, sensor: Sensor, channel: Channel): Dropout[] {
  const { timeS, values } = channel;
  const on = (id: string, discrete: boolean) => {
    const c = recording.channels.get(id);
    return c && c !== channel ? sampleAt(c, timeS, discrete, 3) : undefined;
  };
  const gearId = recording.channels.has("gear_commanded") ? "gear_commanded" : "gear_reported";
  const witness: Witness = {
    outputRpm: on("output_rpm", false),
    vehicleKmh: on("vehicle_kmh", false),
    gear: on(gearId, true),
    shaftRatio: shaftRatioOf(unit, sensor),
  };
  const fluid = on("fluid_c", false);
  const isSpeed = sensor.channel.endsWith("_rpm");
  const out: Dropout[] = [];
  let open: { start: number; end: number; zero: boolean; samples: number; inARow: boolean } | undefined;
  let lastGood = -1;
  const close = () => {
    if (
      open &&
      // single cells that were garbled here and there are the file's fault
      ((open.samples >= 2 && (open.zero || open.inARow)) || (open.zero && channel.rateHz < 5)) &&
      !(open.zero && passes(channel, open.start, open.end))
    ) {
      const code = witness.gear?.[open.start] ?? Number.NaN;
      out.push({
        sensor: sensor.id,
        channel: sensor.channel,
        startS: timeS[open.start] as number,
        endS: Math.max(timeS[open.end] as number, (timeS[open.start] as number) + 1 / channel.rateHz),
        samples: open.samples,
        gear: Number.isNaN(code) ? "?" : gearName(code),
        fluidC: finite(fluid?.[open.start]),
        kind: open.zero ? "zero while moving" : "no valid reading",
      });
    }
    open = undefined;
  };
  for (let i = 0; i < values.length; i++) {
    const v = values[i] as number;
    const missing = Number.isNaN(v);
    const zero = !missing && isSpeed && v < 1 && mustTurn(sensor, witness, values, timeS, i, lastGood);
    if (missing || zero) {
      if (open && (timeS[i] as number) - (timeS[open.end] as number) <= JOIN_S) {
        if (i === open.end + 1) open.inARow = true;
        open.end = i;
        open.samples++;
      } else {
        close();
        open = { start: i, end: i, zero, samples: 1, inARow: false };
      }
    } else if (!isSpeed || v >= 1) lastGood = i;
  }
  close();
  const frozen = isSpeed ? frozenRuns(values, othersMove(recording, channel)) : [];
  const lasts = ({ start, end }: FrozenRun) => (timeS[end] as number) - (timeS[start] as number);
  // a single brief one may be chance
  if (frozen.length >= FROZEN_TIMES || frozen.some((r) => lasts(r) >= FROZEN_LONG_S))
    for (const { start, end } of frozen) {
      const code = witness.gear?.[start] ?? Number.NaN;
      const gear = Number.isNaN(code) ? "?" : gearName(code);
      out.push({
        sensor: sensor.id,
        channel: sensor.channel,
        startS: timeS[start] as number,
        endS: timeS[end] as number,
        samples: end - start,
        gear,
        fluidC: finite(fluid?.[start]),
        kind: "frozen",
      });
    }
  return out;
}

const FROZEN_TIMES = 2;
const FROZEN_LONG_S = 1;

/** Other speeds whose readings change from one to the next at least so often are alive. */
const ALIVE_SHARE = 0.5;

/** Does any other speed go on changing while this one stands? */
function othersMove(recording: Recording, channel: Channel): (start: number, end: number) => boolean {
  const others = [...recording.channels.values()].filter((c) => c !== channel && c.id.endsWith("_rpm"));
  return (start, end) => {
    const [fromS, toS] = [channel.timeS[start] as number, channel.timeS[end] as number];
    return others.some(({ timeS, values }) => {
      const [a, b] = [indexAtOrAfter(timeS, fromS), indexAtOrAfter(timeS, toS + 1e-9)];
      let changes = 0;
      for (let i = a + 1; i < b; i++) if (values[i] !== values[i - 1]) changes++;
      return b - a > 2 && changes >= ALIVE_SHARE * (b - a - 1);
    });
  };
}

/** 1 where a speed sensor is not to be believed, with `marginS` around each drop-out. Length of the frame. */
export function dropoutMask(frame: Frame, dropouts: readonly Dropout[], marginS = 0.4): Uint8Array {
  const mask = new Uint8Array(frame.timeS.length);
  for (const d of dropouts) {
    if (!d.channel.endsWith("_rpm")) continue;
    for (let i = 0; i < mask.length; i++) {
      const t = frame.timeS[i] as number;
      if (t > d.endS + marginS) break;
      if (t >= d.startS - marginS) mask[i] = 1;
    }
  }
  return mask;
}
