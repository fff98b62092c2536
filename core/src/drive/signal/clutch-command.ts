import { type Channel, TCC_STATE } from "../../log/index.ts";
import { gearName, openSlipRpm, type Unit } from "../../unit/index.ts";
import { sampleAt } from "./sample-at.ts";
import { median, quantile, runs, where } from "./stats.ts";

/** What the converter clutch is told, on the time base of the frame. */
export interface ClutchCommand {
  /** 0: open; from {@link COMMANDED_PCT} on it is meant to take hold */
  readonly pct: Float64Array;
  /** where that comes from: what comes from the slip itself never proves that it slips */
  readonly from: "duty" | "state" | "pressure" | "slip";
}

/** Duty from which the clutch is meant to carry something: regulated slip needs a tenth of it. */
export const COMMANDED_PCT = 8;

/** Duty that stands for each phase where the log says the phase. */
const PCT_OF_STATE: Readonly<Record<number, number>> = {
  [TCC_STATE.open]: 0,
  [TCC_STATE.applying]: 50,
  [TCC_STATE.slipping]: 60,
  [TCC_STATE.locked]: 100,
  // it lets go: it still carries something, and is not meant to
  [TCC_STATE.releasing]: 6,
};

interface Known {
  readonly unit: Unit;
  readonly channels: ReadonlyMap<string, Channel>;
  readonly timeS: Float64Array;
  readonly at: (id: string) => Float64Array | undefined;
  readonly engineRpm: Float64Array | undefined;
  readonly inputRpm: Float64Array;
  readonly outputRpm: Float64Array | undefined;
  readonly gear: Float64Array;
  readonly torqueNm: Float64Array | undefined;
  readonly load: Float64Array;
}

/** @returns undefined where nothing tells it */
export function clutchCommand(known: Known): ClutchCommand | undefined {
  const duty = known.at("tcc_command");
  if (duty) return { pct: duty, from: "duty" };
  const state = known.channels.get("tcc_state");
  if (state) return { pct: fromState(state, known), from: "state" };
  const pressure = known.at("tcc_pressure_kpa");
  const byPressure = pressure && fromPressure(pressure);
  if (byPressure) return { pct: byPressure, from: "pressure" };
  const bySlip = fromSlip(known);
  return bySlip && { pct: bySlip, from: "slip" };
}

/** A phase of letting go lasts no longer, s. */
const LETS_GO_S = 2;
/** Median slip of a locked clutch. */
const LOCKED_RPM = 15;
const FEW = 20;

/** Words are ours to read; of a tool's own codes only nothing is known but what happens while they stand. */
function fromState(state: Channel, { timeS, engineRpm, inputRpm }: Known): Float64Array {
  const codes = sampleAt(state, timeS, true, 3);
  if (state.inWords) {
    // "on" beside nothing but "off" says no more than that it is commanded
    const phases = codes.some((c) => c === TCC_STATE.slipping || c === TCC_STATE.applying);
    const pctOf = (c: number) => PCT_OF_STATE[phases || c !== TCC_STATE.locked ? c : TCC_STATE.slipping] ?? Number.NaN;
    return codes.map((c) => (Number.isNaN(c) ? Number.NaN : pctOf(c)));
  }
  const slips = new Map<number, number[]>();
  const lets = new Map<number, { runs: number; toOpen: number }>();
  let since = 0;
  for (let i = 0; i < codes.length; i++) {
    const c = codes[i] as number;
    if (Number.isNaN(c)) continue;
    const list = slips.get(c) ?? [];
    list.push(Math.abs((engineRpm?.[i] ?? Number.NaN) - (inputRpm[i] as number)));
    slips.set(c, list);
    const before = codes[i - 1];
    if (i === 0 || before === c) continue;
    if (before !== undefined && before > 0) {
      const run = lets.get(before) ?? { runs: 0, toOpen: 0 };
      run.runs++;
      if (c === 0 && (timeS[i] as number) - (timeS[since] as number) < LETS_GO_S) run.toOpen++;
      lets.set(before, run);
    }
    since = i;
  }
  const pct = new Map<number, number>([[0, 0]]);
  for (const [code, list] of slips) {
    if (code === 0) continue;
    const own = lets.get(code);
    const releasing = own !== undefined && own.runs > 1 && own.toOpen === own.runs;
    const locked = list.length >= FEW && median(list) < LOCKED_RPM;
    pct.set(
      code,
      (releasing
        ? PCT_OF_STATE[TCC_STATE.releasing]
        : locked
          ? PCT_OF_STATE[TCC_STATE.locked]
          : PCT_OF_STATE[TCC_STATE.slipping]) as number,
    );
  }
  return codes.map((c) => pct.get(c) ?? Number.NaN);
}

/** Pressures under this are those of an open clutch. */
const LEAST_KPA = 60;
const PRESSED_SHARE = 0.12;

function fromPressure(pressure: Float64Array): Float64Array | undefined {
  const high = quantile(pressure, 0.95);
  if (!(high > LEAST_KPA)) return undefined;
  const least = Math.max(LEAST_KPA, PRESSED_SHARE * high);
  return pressure.map((kpa) => (Number.isNaN(kpa) ? Number.NaN : kpa < least ? 0 : Math.min(100, (100 * kpa) / high)));
}

const MOVING_RPM = 200;
/** With less the open converter slips hardly more than a regulated clutch. */
const PULLS_SHARE = 0.08;
/** Of what the open converter would slip, and at most. */
const HOLDS_SHARE = 0.4;
const HOLDS_RPM = 60;
const HOLDS_S = 1.2;

/** Where the slip is far under that of the open converter while the engine pulls, in a gear in which the clutch may work. */
function fromSlip({ unit, timeS, engineRpm, inputRpm, outputRpm, gear, torqueNm, load }: Known) {
  const { converter } = unit;
  if (!converter || !engineRpm || !outputRpm) return undefined;
  const most = Math.max(HOLDS_RPM, 1.6 * converter.targetSlipRpm);
  const holds = where(timeS.length, (i) => {
    const slip = Math.abs((engineRpm[i] as number) - (inputRpm[i] as number));
    if (!(slip < most && (outputRpm[i] as number) > MOVING_RPM && (load[i] as number) > PULLS_SHARE)) return false;
    const open = torqueNm && openSlipRpm(converter, engineRpm[i] as number, torqueNm[i] as number);
    return open === undefined || slip < HOLDS_SHARE * open;
  });
  const allowed = new Set(converter.clutchGears);
  const out = new Float64Array(timeS.length);
  for (const { start, end } of runs(timeS, holds, 0.4, HOLDS_S, 4))
    for (let i = start; i < end; i++) if (allowed.has(gearName(gear[i] as number))) out[i] = 60;
  return out;
}
