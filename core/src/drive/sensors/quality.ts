import { type Channel, channelSpec, type Recording } from "../../log/index.ts";
import { gearName, sensorValidIn, type Unit } from "../../unit/index.ts";
import { type Frame, sampleAt } from "../signal/frame.ts";
import { median, quantile } from "../signal/stats.ts";

/** What is to be known of a channel before it is believed. */
export interface ChannelQuality {
  readonly channel: string;
  readonly column: string;
  readonly rateHz: number;
  /** highest frequency that it can show, Hz: half its rate. Source: sampling theorem */
  readonly nyquistHz: number;
  readonly readings: number;
  /** sentinels, impossible values */
  readonly invalid: number;
  /** in words, empty when nothing is wrong */
  readonly flags: readonly string[];
}

/** A speed reading that ripples while what it is geared to runs smoothly. */
export interface Ripple {
  readonly sensor: string;
  readonly channel: string;
  readonly roughnessRpm: number;
  /** of the shaft that it is geared to, at this sensor's speed */
  readonly elsewhereRpm: number;
}

/** Noise rarely goes so many deviations. */
const NOISE_REACH = 3;
/**
 * How far sensors that ripple can take the input speed off the line of a gear, rpm.
 * @param ratio - of the gear: what is wrong with the output counts so many times. 0 where slip is not reckoned from them
 */
export const rippleReachRpm = (ripples: readonly Ripple[], ratio: number): number =>
  NOISE_REACH *
  Math.max(
    0,
    ...ripples.map((r) =>
      r.channel === "turbine_rpm" ? r.roughnessRpm : r.channel === "output_rpm" ? r.roughnessRpm * Math.abs(ratio) : 0,
    ),
  );

/** Are the speeds of input or output shaken by their own sensor? What vibrates by them says nothing of the shafts. */
export const speedsRipple = (ripples: readonly Ripple[]): boolean => rippleReachRpm(ripples, 1) > 0;

/** Is the slip of the converter not to be believed? */
export const turbineRipples = (ripples: readonly Ripple[]): boolean => ripples.some((r) => r.channel === "turbine_rpm");

const FROZEN_S = 12;
/** No shaft or fluid changes faster, unit/s. */
const FASTEST: Readonly<Record<string, number>> = {
  "speed-rpm": 12000,
  temperature: 8,
  "vehicle-speed": 60,
};
const DISAGREE = 0.06;
const RIPPLE_RPM = 12;
const RIPPLE_FACTOR = 4;

/** Flags of every channel. */
export function judgeQuality(recording: Recording, frame: Frame): ChannelQuality[] {
  return [...recording.channels.values()].map((c): ChannelQuality => {
    const flags: string[] = [];
    const spec = channelSpec(c.id);
    if (!spec?.discrete && spec?.quantity === "speed-rpm" && frozen(c, frame))
      flags.push(`the same value for over ${FROZEN_S} s while driving`);
    const most = spec && FASTEST[spec.quantity];
    if (most !== undefined && !spec?.discrete) {
      const jumps = impossibleSteps(c, most);
      if (jumps > 2) flags.push(`${jumps} changes faster than can be`);
    }
    if (c.invalidCount > 0) flags.push(`${c.invalidCount} readings impossible or "no reading"`);
    if (c.id === "vehicle_kmh" && frame.derived.length === 0) {
      const off = disagreement(frame, frame.unit);
      if (off !== undefined && Math.abs(off) > DISAGREE)
        flags.push(
          `${Math.abs(off * 100).toFixed(0)} % ${off > 0 ? "over" : "under"} what output speed, final drive and tyre give: check tyre size or unit`,
        );
    }
    return {
      channel: c.id,
      column: c.column,
      rateHz: c.rateHz,
      nyquistHz: c.rateHz / 2,
      readings: c.values.length,
      invalid: c.invalidCount,
      flags,
    };
  });
}

function frozen(c: Channel, frame: Frame): boolean {
  if (!frame.vehicleKmh || c.rateHz < 1) return false;
  const kmh = sampleAt({ ...c, timeS: frame.timeS, values: frame.vehicleKmh }, c.timeS, false, 3);
  let since = 0;
  for (let i = 1; i < c.values.length; i++) {
    const same = c.values[i] === c.values[i - 1] && (c.values[i] as number) > 1 && (kmh[i] as number) > 10;
    if (!same) since = i;
    else if ((c.timeS[i] as number) - (c.timeS[since] as number) > FROZEN_S) return true;
  }
  return false;
}

function impossibleSteps(c: Channel, perSecond: number): number {
  let jumps = 0;
  for (let i = 1; i < c.values.length; i++) {
    const dt = (c.timeS[i] as number) - (c.timeS[i - 1] as number);
    const step = Math.abs((c.values[i] as number) - (c.values[i - 1] as number));
    // a step of the last digit isn't a rate of change
    if (step > 3 && step > perSecond * Math.max(dt, 0.05)) jumps++;
  }
  return jumps;
}

/** Relative error of road speed against output speed; undefined when hardly driven. */
function disagreement({ vehicleKmh, outputRpm }: Frame, unit: Unit): number | undefined {
  if (!vehicleKmh) return undefined;
  const kmhPerRpm = (2 * Math.PI * unit.tyreRadiusM * 60) / (unit.finalDrive * 1000);
  const errors: number[] = [];
  for (let i = 0; i < outputRpm.length; i++) {
    const expected = (outputRpm[i] as number) * kmhPerRpm;
    if (expected > 25) errors.push((vehicleKmh[i] as number) / expected - 1);
  }
  return errors.length > 50 ? median(errors) : undefined;
}

/** Up to this command the converter clutch does nothing. */
const LET_GO_PCT = 5;

/** Scatter of a signal about its neighbours: what is left beside a straight line through every three samples. */
function roughness(values: Float64Array, use: (i: number) => boolean): number {
  const seen: number[] = [];
  for (let i = 1; i + 1 < values.length; i++) {
    if (!use(i)) continue;
    const second = (values[i - 1] as number) - 2 * (values[i] as number) + (values[i + 1] as number);
    if (second - second === 0) seen.push(Math.abs(second));
  }
  // a second difference of white noise has √6 times its deviation; its median is 0.6745 of that
  return seen.length < 100 ? Number.NaN : quantile(seen, 0.5) / (0.6745 * Math.sqrt(6));
}

/**
 * Speed sensors that ripple on their own: output against the turbine through the ratio, in steady gears. The one that is
 * rougher than the other by more than gearing explains, with the converter clutch let go as well, is the sensor, wire or
 * connector, not the shaft.
 * @param steady - 1 where a gear is held and both speeds can be believed
 */
export function findRipples(frame: Frame, steady: Uint8Array): Ripple[] {
  const { inputRpm, outputRpm, gear, ratios, unit, tccCommandPct } = frame;
  if (frame.derived.length > 0) return [];
  const use = (i: number) => steady[i - 1] === 1 && steady[i] === 1 && steady[i + 1] === 1;
  // a clutch that shudders shakes the turbine, and only while it works
  const letGo = (i: number) => use(i) && !((tccCommandPct?.[i] ?? 0) > LET_GO_PCT);
  const calmest = (values: Float64Array) => {
    const open = tccCommandPct ? roughness(values, letGo) : Number.NaN;
    if (open <= RIPPLE_RPM) return open;
    const all = roughness(values, use);
    return Number.isNaN(open) ? all : Math.min(open, all);
  };
  const input = calmest(inputRpm);
  const output = calmest(outputRpm);
  const held: number[] = [];
  for (let i = 0; i < gear.length; i++)
    if (steady[i]) held.push(Math.abs(ratios[(gear[i] as number) + 1] ?? Number.NaN));
  const ratio = median(held);
  if (!(ratio > 0)) return [];
  const sensorOf = (channel: string) => unit.sensors.find((s) => s.channel === channel)?.id;
  const found: Ripple[] = [];
  const judge = (channel: string, own: number, elsewhere: number) => {
    const sensor = sensorOf(channel);
    if (sensor && own > RIPPLE_RPM && own > RIPPLE_FACTOR * Math.max(elsewhere, 1.5))
      found.push({ sensor, channel, roughnessRpm: own, elsewhereRpm: elsewhere });
  };
  if (unit.kind === "planetary") judge("turbine_rpm", input, output * ratio);
  judge("output_rpm", output, input / ratio);
  // a shaft behind a clutch turns with the output through the ratio of its own gears
  frame.shaftsRpm.forEach((shaft, k) => {
    const channel = `k${k + 1}_rpm`;
    const sensor = unit.sensors.find((s) => s.channel === channel);
    if (!shaft || !sensor) return;
    const own = (i: number) => use(i) && sensorValidIn(sensor, gearName(gear[i] as number));
    judge(channel, roughness(shaft, own), roughness(outputRpm, own) * ratio);
  });
  return found;
}
