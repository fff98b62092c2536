import { clutchOf, gearName, shaftRatios } from "../../unit/index.ts";
import { type Frame, ratioOf, syncRpm } from "../signal/frame.ts";
import { JOLT_RATE_HZ, meanOf, outputAcceleration, rangeWithin } from "../signal/motion.ts";
import { finite } from "../signal/stats.ts";

export interface Shift {
  /** "2-3" */
  readonly name: string;
  readonly from: string;
  readonly to: string;
  readonly commandS: number;
  /** end of the inertia phase, or of the search when the shift failed */
  readonly endS: number;
  readonly completed: boolean;
  /** gear really obtained when the commanded one was not; undefined when none fits */
  readonly obtained?: string | undefined;
  /** command to start of the inertia phase, s; like the next two undefined when not measured */
  readonly delayS?: number | undefined;
  readonly inertiaS?: number | undefined;
  /** highest input speed above the line it should follow, rpm; 0 when it never rose above */
  readonly flareRpm?: number | undefined;
  /** lowest input speed below the line it should follow, before the phase going up, after it going down, rpm */
  readonly undershootRpm?: number | undefined;
  /** change of the output shaft's acceleration, rpm/s; undefined below 10 readings a second */
  readonly joltRpmPerS?: number | undefined;
  /** how far the output slows below what it did before the shift, under power, rpm/s: two gears fight */
  readonly brakesRpmPerS?: number | undefined;
  readonly linePressureKpa?: number | undefined;
  /** dual clutch: how long before the command the next gear stood ready on its shaft, s, up to 10; 0 = not before it */
  readonly preselectedS?: number | undefined;
  readonly torqueNm?: number | undefined;
  readonly load?: number | undefined;
  readonly fluidC?: number | undefined;
  readonly underPower: boolean;
  /** false when speeds were too low, a sensor was out, or the next command came too soon */
  readonly measured: boolean;
}

const SEARCH_S = 3;
const MIN_SPAN_RPM = 120;
const LAUNCHING_RPM = 60;
/** the jolt of the end of a shift is felt so long */
const JOLT_AFTER_S = 0.25;
/** Between logs that were joined nothing is known of the gear. */
const BREAK_S = 5;
const LOW = 0.1;
const HIGH = 0.9;

interface Command {
  readonly index: number;
  readonly from: number;
  readonly to: number;
}

function commands(frame: Frame): Command[] {
  const { gear, timeS } = frame;
  const list: Command[] = [];
  let last = Number.NaN;
  let lastS = Number.NEGATIVE_INFINITY;
  for (let i = 0; i < gear.length; i++) {
    const g = gear[i] as number;
    if (Number.isNaN(g)) continue;
    const t = timeS[i] as number;
    if (!Number.isNaN(last) && g !== last && t - lastS < BREAK_S) list.push({ index: i, from: last, to: g });
    last = g;
    lastS = t;
  }
  return list;
}

/** Time at which the progress crosses `level` between samples i-1 and i. */
function crossing(timeS: Float64Array, a: number, b: number, level: number, i: number): number {
  const share = b === a ? 1 : (level - a) / (b - a);
  const t0 = timeS[i - 1] as number;
  return t0 + Math.min(1, Math.max(0, share)) * ((timeS[i] as number) - t0);
}

/**
 * Every commanded change between two forward gears. Progress is (input − old line) / (new line − old line), so it does
 * not depend on the vehicle's acceleration. The inertia phase is the straight line through progress 0.1 and 0.9,
 * prolonged to 0 and 1: start = t10 − (t90 − t10)/8, end = t90 + (t90 − t10)/8.
 * @param mask - 1 where a speed sensor is not to be believed
 */
export function findShifts(frame: Frame, mask: Uint8Array): Shift[] {
  const { timeS, inputRpm, torqueNm, load, fluidC, linePressureKpa } = frame;
  const list = commands(frame);
  const acceleration =
    frame.rateHz >= JOLT_RATE_HZ && frame.derived.length === 0 && list.length > 0
      ? outputAcceleration(frame)
      : undefined;
  const out: Shift[] = [];
  list.forEach((cmd, n) => {
    if (cmd.from <= 0 || cmd.to <= 0) return;
    const commandS = timeS[cmd.index] as number;
    const until = Math.min(
      commandS + SEARCH_S,
      (list[n + 1] && (timeS[list[n + 1]?.index as number] as number)) ?? Infinity,
    );
    let endIndex = cmd.index;
    while (endIndex + 1 < timeS.length && (timeS[endIndex + 1] as number) <= until) endIndex++;
    const up = Math.abs(ratioOf(frame, cmd.to)) < Math.abs(ratioOf(frame, cmd.from));
    const loadNow = load[cmd.index] as number;
    const base = {
      name: `${gearName(cmd.from)}-${gearName(cmd.to)}`,
      from: gearName(cmd.from),
      to: gearName(cmd.to),
      commandS,
      torqueNm: finite(torqueNm?.[cmd.index]),
      load: finite(loadNow),
      fluidC: finite(fluidC?.[cmd.index]),
      linePressureKpa: finite(linePressureKpa?.[cmd.index]),
      preselectedS: preselected(frame, cmd),
      underPower: loadNow > 0.05,
    };
    const failed = {
      delayS: undefined,
      inertiaS: undefined,
      flareRpm: undefined,
      undershootRpm: undefined,
      joltRpmPerS: undefined,
      brakesRpmPerS: undefined,
      obtained: undefined,
    };
    const span = Math.abs(syncRpm(frame, cmd.to, cmd.index) - syncRpm(frame, cmd.from, cmd.index));
    let masked = false;
    for (let i = cmd.index; i <= endIndex; i++) if (mask[i]) masked = true;
    if (!(span >= MIN_SPAN_RPM) || masked || endIndex - cmd.index < 4) {
      out.push({ ...base, ...failed, endS: Math.min(until, commandS + 1.5), completed: true, measured: false });
      return;
    }
    const above = (inputRpm[cmd.index] as number) - syncRpm(frame, cmd.from, cmd.index);
    const launching = frame.unit.kind !== "planetary" && above > LAUNCHING_RPM;
    let t10 = Number.NaN;
    let t90 = Number.NaN;
    let flare = 0;
    let undershoot = 0;
    let previous = 0;
    let heldNew = 0;
    for (let i = cmd.index + 1; i <= endIndex; i++) {
      const oldLine = syncRpm(frame, cmd.from, i);
      const newLine = syncRpm(frame, cmd.to, i);
      const input = inputRpm[i] as number;
      const progress = (input - oldLine) / (newLine - oldLine);
      if (Number.isNaN(progress)) continue;
      if (Number.isNaN(t10)) {
        if (up) flare = Math.max(flare, input - oldLine);
        else undershoot = Math.max(undershoot, oldLine - input);
        if (previous < LOW && progress >= LOW) t10 = crossing(timeS, previous, progress, LOW, i);
      } else if (progress < LOW / 2 && Number.isNaN(t90)) t10 = Number.NaN;
      if (!Number.isNaN(t10) && Number.isNaN(t90) && progress >= HIGH) {
        t90 = crossing(timeS, previous, progress, HIGH, i);
      }
      if (!Number.isNaN(t90)) {
        if ((timeS[i] as number) < t90 + 0.6) {
          if (up) undershoot = Math.max(undershoot, newLine - input);
          else flare = Math.max(flare, input - newLine);
        }
        heldNew++;
      }
      previous = progress;
    }
    if (Number.isNaN(t10) || Number.isNaN(t90)) {
      const cut = (timeS[endIndex] as number) - commandS < 1.2;
      out.push({
        ...base,
        ...failed,
        endS: timeS[endIndex] as number,
        completed: cut,
        measured: false,
        obtained: cut ? undefined : obtainedGear(frame, endIndex),
      });
      return;
    }
    const eighth = (t90 - t10) / 8;
    const felt = acceleration && rangeWithin(timeS, acceleration, cmd.index, t90 + eighth + JOLT_AFTER_S);
    const before =
      acceleration && meanOf(acceleration, Math.max(0, cmd.index - Math.ceil(frame.rateHz * 0.4)), cmd.index);
    out.push({
      ...base,
      endS: t90 + eighth,
      completed: heldNew > 0,
      obtained: undefined,
      delayS: Math.max(0, t10 - eighth - commandS),
      inertiaS: t90 - t10 + 2 * eighth,
      // a launch that still slips when the shift begins stands above its line already: that isn't a flare
      flareRpm: launching ? undefined : flare,
      undershootRpm: undershoot,
      joltRpmPerS: felt && felt.highest - felt.lowest,
      brakesRpmPerS:
        felt && before !== undefined && base.underPower ? Math.max(0, Math.min(before, 30) - felt.lowest) : undefined,
      measured: true,
    });
  });
  return out;
}

const PRESELECT_TOLERANCE = 0.03;
const LONGEST_PRESELECT_S = 10;

/** Time for which the shaft of the coming gear turned at its speed before the command. */
function preselected(frame: Frame, cmd: Command): number | undefined {
  const { unit, timeS, outputRpm, shaftsRpm } = frame;
  const gear = gearName(cmd.to);
  const clutches = unit.elements.filter((e) => e.kind === "dual-clutch").map((e) => e.id);
  const clutch = clutchOf(unit, gear);
  const shaft = clutch === undefined ? undefined : shaftsRpm[clutches.indexOf(clutch)];
  const ratio = clutch === undefined ? undefined : shaftRatios(unit, gear).get(clutch);
  if (!shaft || ratio === undefined) return undefined;
  const at = timeS[cmd.index] as number;
  let k = cmd.index;
  const ready = (i: number) =>
    (outputRpm[i] as number) > 100 &&
    Math.abs((shaft[i] as number) / ((outputRpm[i] as number) * ratio) - 1) < PRESELECT_TOLERANCE;
  while (k > 0 && at - (timeS[k - 1] as number) <= LONGEST_PRESELECT_S && ready(k - 1)) k--;
  return at - (timeS[k] as number);
}

/** The gear whose ratio fits at a sample within the unit's tolerance. */
export function obtainedGear(frame: Frame, i: number, tolerance = 0.02): string | undefined {
  const ratio = (frame.inputRpm[i] as number) / (frame.outputRpm[i] as number);
  for (const g of frame.unit.gears) {
    if (g.ratio > 0 && Math.abs(ratio / g.ratio - 1) <= tolerance) return g.name;
  }
  return undefined;
}
