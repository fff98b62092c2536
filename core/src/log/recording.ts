import { gearCode } from "../unit/index.ts";
import { channelSpec, MEASURE_UNITS, TCC_STATE } from "./channels.ts";
import { inOrder, lateRows } from "./in-order.ts";
import { InputError } from "./input-error.ts";
import type { ColumnMapping } from "./mapping.ts";
import type { Column, LineCount, Reject, Table } from "./table.ts";

/** Shortest recording that is judged, s. */
export const MIN_DURATION_S = 10;

/** One channel with its own time base. `timeS` may be shared between channels: read only. */
export interface Channel {
  readonly id: string;
  readonly timeS: Float64Array;
  /** length of `timeS`, core unit; NaN where the cell held a sentinel or an impossible value */
  readonly values: Float64Array;
  /** header of the column it came from */
  readonly column: string;
  /** readings a second, from the median step */
  readonly rateHz: number;
  /** cells thrown out as sentinels or impossible values */
  readonly invalidCount: number;
  /** the file said it in words: codes are ours, not those of a tool */
  readonly inWords?: boolean | undefined;
}

export interface Gap {
  readonly startS: number;
  readonly endS: number;
  readonly line: number;
}

export interface Repair {
  readonly what: string;
  readonly count: number;
  /** the first lines concerned, at most ten */
  readonly lines: readonly number[];
}

export interface ImportReport {
  /** rows of the table: `rowsUsed` and those without a time */
  readonly rows: number;
  readonly rowsUsed: number;
  /** where every line of the file went; undefined for logs that were joined */
  readonly lines?: LineCount | undefined;
  readonly columns: number;
  readonly durationS: number;
  readonly rateHz: number;
  readonly gaps: readonly Gap[];
  readonly repairs: readonly Repair[];
  readonly rejects: readonly Reject[];
  readonly rejectCount: number;
  readonly emptyCells: number;
  readonly invalidCells: number;
}

export interface Recording {
  readonly channels: ReadonlyMap<string, Channel>;
  /** second 0 of the channels on the clock of the file: since midnight, since 1970, or as the file counts */
  readonly originS: number;
  readonly durationS: number;
  readonly report: ImportReport;
}

const RANGE_CODES: Readonly<Record<string, number>> = {
  p: 1,
  park: 1,
  r: 2,
  reverse: 2,
  n: 3,
  neutral: 3,
  "p/n": 3,
  pn: 3,
  d: 4,
  drive: 4,
  s: 5,
  m: 6,
  l: 7,
};

/** State of the converter clutch as words. Source: what scan tools call the five phases of its control. */
const CLUTCH_STATES: readonly (readonly [RegExp, number])[] = [
  [/^(off|open|released|unlocked|disengaged|not applied|inactive|no|none|0 ?%)$/i, TCC_STATE.open],
  [/^(apply|applying|engaging|locking|closing)$/i, TCC_STATE.applying],
  [
    /^(partial|partly|partially)( (locked|applied|engaged))?$|^slip(ping)?( control(led)?)?$|^control(led|ling)?( slip)?$|^(regulat|modulat)(ed|ing)$/i,
    TCC_STATE.slipping,
  ],
  [/^(on|lock|locked|locked up|applied|engaged|active|yes|closed|full|fully (locked|applied))$/i, TCC_STATE.locked],
  [/^(release|releasing|unlocking|disengaging|opening)$/i, TCC_STATE.releasing],
];

function wordValue(channel: string, word: string): number {
  const w = word.trim();
  if (channel === "tcc_state") return CLUTCH_STATES.find(([pattern]) => pattern.test(w))?.[1] ?? Number.NaN;
  if (channel === "range") return RANGE_CODES[w.toLowerCase()] ?? Number.NaN;
  if (channel === "brake_on")
    return /^(on|yes|true|pressed|active)$/i.test(w)
      ? 1
      : /^(off|no|false|released|inactive)$/i.test(w)
        ? 0
        : Number.NaN;
  if (channel.startsWith("gear_")) {
    if (/^(n|p|p ?[/-]? ?n|neutral|park)$/i.test(w)) return 0;
    if (/^(r|rev|reverse)$/i.test(w)) return -1;
    const m = /^(?:d|gear|g)?\s*(\d+)(?:st|nd|rd|th)?$/i.exec(w);
    return m ? gearCode(m[1] ?? "") : Number.NaN;
  }
  return /^(on|yes|true)$/i.test(w) ? 1 : /^(off|no|false)$/i.test(w) ? 0 : Number.NaN;
}

interface Timeline {
  readonly timeS: Float64Array;
  readonly originS: number;
  readonly gaps: Gap[];
  readonly repairs: Repair[];
  readonly stepS: number;
  readonly missingCount: number;
}

/** All-ones of the usual widths and scales, and what tools write for "nothing there"; in the unit of the file. */
const SENTINELS: readonly number[] = [
  65535, 65534, 32767, -32768, 16383, 16383.75, 8191, 8191.75, 8191.875, 6553.5, 4095.9375, 9999, 99999, -9999,
];
/** A sentinel stands this share of itself away from the readings around it. */
const SENTINEL_JUMP = 0.25;

/**
 * Blanks sentinels: a value that is exactly one and far from the readings before and after it.
 * @param values - core unit, changed in place
 * @returns indices that were blanked
 */
function blankSentinels(values: Float64Array, factor: number, offset: number): number[] {
  const known = new Set(SENTINELS.map((s) => s * factor + offset));
  const found: number[] = [];
  let last = Number.NaN;
  for (let i = 0; i < values.length; i++) {
    const v = values[i] as number;
    if (v - v !== 0) continue;
    const far = Math.abs(v - last) > SENTINEL_JUMP * Math.abs(v);
    if ((far || Number.isNaN(last)) && known.has(v)) {
      // the reading after it, if there is one, must be far from it as well
      let k = i + 1;
      while (k < values.length && (values[k] === v || Number.isNaN(values[k] as number))) k++;
      const next = values[k];
      if (next === undefined || Math.abs(next - v) > SENTINEL_JUMP * Math.abs(v)) {
        for (let j = i; j < k; j++)
          if (values[j] === v) {
            values[j] = Number.NaN;
            found.push(j);
          }
        i = k - 1;
        continue;
      }
    }
    last = v;
  }
  return found;
}

function medianOf(values: Float64Array | number[]): number {
  if (values.length === 0) return Number.NaN;
  const sorted = Float64Array.from(values).sort();
  return sorted[sorted.length >> 1] as number;
}

/** Relative seconds that never run backwards; what had to be mended is listed. */
function readTime(column: Column, factor: number, lineOfRow: Int32Array): Timeline {
  const n = column.numbers.length;
  const timeS = new Float64Array(n);
  const backLines: number[] = [];
  const missingLines: number[] = [];
  let backCount = 0;
  let missingCount = 0;
  let shift = 0;
  let previous = Number.NaN;
  let origin = Number.NaN;
  const steps = new Float64Array(n);
  let stepCount = 0;
  for (let i = 1; i < n; i++) {
    const d = ((column.numbers[i] as number) - (column.numbers[i - 1] as number)) * factor;
    if (d > 0) steps[stepCount++] = d;
  }
  const stepS = medianOf(steps.subarray(0, stepCount));
  for (let i = 0; i < n; i++) {
    let t = (column.numbers[i] as number) * factor;
    if (Number.isNaN(t)) {
      missingCount++;
      if (missingLines.length < 10) missingLines.push(lineOfRow[i] as number);
      timeS[i] = Number.NaN;
      continue;
    }
    if (Number.isNaN(origin)) origin = t;
    t += shift;
    if (t < previous) {
      const wrapped = t + 86400 - previous;
      const clock = column.clockCells > column.datedCells;
      const jump = clock && wrapped >= 0 && wrapped < 60 ? 86400 : previous - t + stepS;
      shift += jump;
      t += jump;
      if (jump !== 86400) {
        backCount++;
        if (backLines.length < 10) backLines.push(lineOfRow[i] as number);
      }
    }
    previous = t;
    timeS[i] = t - origin;
  }
  const gaps: Gap[] = [];
  const limit = Math.max(5 * stepS, 1);
  for (let i = 1; i < n; i++) {
    if ((timeS[i] as number) - (timeS[i - 1] as number) > limit)
      gaps.push({ startS: timeS[i - 1] as number, endS: timeS[i] as number, line: lineOfRow[i] as number });
  }
  const repairs: Repair[] = [];
  if (backCount > 0)
    repairs.push({ what: "clock stepped backwards; the rows were joined on", count: backCount, lines: backLines });
  if (missingCount > 0)
    repairs.push({ what: "row without a time; not used", count: missingCount, lines: missingLines });
  return { timeS, originS: origin, gaps, repairs, stepS, missingCount };
}

/**
 * Turns a table into channels by a mapping: units converted, time made relative and increasing, sentinels and
 * impossible values blanked. Every channel keeps its own timestamps.
 * @throws InputError `no-time`, `too-short`, `duplicate-channel`
 */
export function buildRecording(asWritten: Table, mapping: readonly ColumnMapping[]): Recording {
  const used = mapping.filter((m) => m.channel !== null);
  const timeMap = used.find((m) => m.channel === "time_s");
  const writtenTime = timeMap && asWritten.columns[timeMap.column];
  if (!timeMap || !writtenTime || writtenTime.filled < asWritten.rows * 0.5) {
    throw new InputError(
      "no-time",
      "No time column: say which column holds the time (s, ms or clock) in the mapping table, or export the log with timestamps.",
    );
  }
  const seen = new Map<string, number>();
  for (const m of used) {
    const other = seen.get(m.channel as string);
    if (other !== undefined) {
      throw new InputError(
        "duplicate-channel",
        `${channelSpec(m.channel as string)?.label ?? m.channel} is given to two columns: "${asWritten.columns[other]?.header}" and "${asWritten.columns[m.column]?.header}". Leave one of them unused.`,
      );
    }
    seen.set(m.channel as string, m.column);
  }
  const factorOf = (m: ColumnMapping) => MEASURE_UNITS.find((u) => u.label === m.unit) ?? { factor: 1, offset: 0 };
  const { factor: timeFactor } = factorOf(timeMap);
  const late = lateRows(writtenTime.numbers.map((t) => t * timeFactor));
  const table = late ? inOrder(asWritten, late.order) : asWritten;
  const timeColumn = table.columns[timeMap.column] as Column;
  const time = readTime(timeColumn, timeFactor, table.lineOfRow);
  const first = time.timeS.find((t) => !Number.isNaN(t)) ?? 0;
  const durationS = (time.timeS.findLast((t) => !Number.isNaN(t)) ?? 0) - first;
  if (!(durationS >= MIN_DURATION_S)) {
    throw new InputError(
      "too-short",
      `The log lasts ${durationS.toFixed(1)} s; at least ${MIN_DURATION_S} s are needed to judge a drive. If it is longer in truth, the time column or its unit is mapped wrongly.`,
    );
  }
  const channels = new Map<string, Channel>();
  const repairs = [...time.repairs];
  if (late)
    repairs.push({
      what: "line out of order; put where its time belongs",
      count: late.moved.length,
      lines: late.moved.slice(0, 10).map((row) => asWritten.lineOfRow[row] as number),
    });
  let emptyCells = 0;
  let invalidCells = 0;
  const wholeTime = time.repairs.length === 0 && isIncreasing(time.timeS);
  for (const m of used) {
    if (m === timeMap) continue;
    const id = m.channel as string;
    const column = table.columns[m.column];
    if (!column) continue;
    const { factor, offset } = factorOf(m);
    const spec = channelSpec(id);
    const [low, high] = spec?.range ?? [-Infinity, Infinity];
    const wordValues = column.words.map((w) => wordValue(id, w));
    const { rowOf } = column;
    const cells = rowOf ? rowOf.length : table.rows;
    const shared = rowOf === undefined && wholeTime && column.filled === table.rows;
    const timeS = shared ? time.timeS : new Float64Array(column.filled + column.noReadingCells);
    const values = new Float64Array(shared ? table.rows : timeS.length);
    let invalid = 0;
    const direct = shared && column.wordCells === 0;
    if (direct) invalid = convert(column.numbers, factor, offset, low, high, values);
    let k = 0;
    let lastT = -Infinity;
    const duplicates: number[] = [];
    let duplicateCount = 0;
    const hasWords = column.wordAt.length > 0;
    for (let c = 0; c < cells && !direct; c++) {
      const row = rowOf ? (rowOf[c] as number) : c;
      let v = column.numbers[c] as number;
      const word = hasWords ? (column.wordAt[c] as number) : 0;
      if (word > 0) v = wordValues[word - 1] as number;
      else v = v * factor + offset;
      if (shared) {
        if (v < low || v > high) {
          v = Number.NaN;
          invalid++;
        }
        values[c] = v;
        continue;
      }
      const t = time.timeS[row] as number;
      // an empty cell of a wide table says nothing; a reading of a sparse column that can't be read is one that was lost
      if (Number.isNaN(v) && word === 0 && !rowOf) continue;
      if (Number.isNaN(t)) continue;
      if (t <= lastT) {
        duplicateCount++;
        if (duplicates.length < 10) duplicates.push(table.lineOfRow[row] as number);
        continue;
      }
      if (v < low || v > high) {
        v = Number.NaN;
        invalid++;
      }
      (timeS as Float64Array)[k] = t;
      values[k++] = v;
      lastT = t;
    }
    const n = shared ? table.rows : k;
    if (duplicateCount > 0)
      repairs.push({
        what: `"${column.header}": second reading at the same time left out`,
        count: duplicateCount,
        lines: duplicates,
      });
    if (!spec?.discrete) {
      const sentinels = blankSentinels(values.subarray(0, n), factor, offset);
      if (sentinels.length > 0) {
        invalid += sentinels.length;
        const lineAt = (i: number) => table.lineOfRow[rowOf ? (rowOf[i] as number) : i] as number;
        repairs.push({
          what: `"${column.header}": a value that stands for "no reading"; blanked`,
          count: sentinels.length,
          lines: shared ? sentinels.slice(0, 10).map(lineAt) : [],
        });
      }
    }
    if (!rowOf) emptyCells += table.rows - column.filled;
    invalidCells += invalid;
    if (n === 0) continue;
    const t = shared ? time.timeS : timeS.slice(0, n);
    channels.set(id, {
      id,
      timeS: t,
      values: shared ? values : values.slice(0, n),
      column: column.header,
      // of a single reading there is no rate
      rateHz: t.length < 2 ? 0 : 1 / (shared ? time.stepS : medianStep(t)),
      invalidCount: invalid,
      ...(spec?.discrete && column.wordCells > column.filled / 2 ? { inWords: true } : {}),
    });
  }
  if (table.repeatedHeaderLines.length > 0) {
    repairs.push({
      what: "header repeated among the rows; left out",
      count: table.repeatedHeaderLines.length,
      lines: table.repeatedHeaderLines.slice(0, 10),
    });
  }
  if (table.repair) repairs.push({ what: table.repair, count: 1, lines: [] });
  return {
    channels,
    originS: time.originS,
    durationS,
    report: {
      rows: table.rows,
      rowsUsed: table.rows - time.missingCount,
      lines: table.lines,
      columns: table.columns.length,
      durationS,
      // lines of a long log or frames of a bus are not rows: what counts is how often the fastest channel was read
      rateHz: table.layout === "wide" ? 1 / time.stepS : Math.max(...[...channels.values()].map((c) => c.rateHz)),
      gaps: time.gaps,
      repairs,
      rejects: table.rejects,
      rejectCount: table.rejectCount,
      emptyCells,
      invalidCells,
    },
  };
}

/** Numbers to core units; values out of range become NaN. @returns how many */
function convert(
  numbers: Float64Array,
  factor: number,
  offset: number,
  low: number,
  high: number,
  out: Float64Array,
): number {
  let invalid = 0;
  for (let i = 0; i < numbers.length; i++) {
    const v = (numbers[i] as number) * factor + offset;
    const bad = v < low || v > high;
    if (bad) invalid++;
    out[i] = bad ? Number.NaN : v;
  }
  return invalid;
}

function isIncreasing(t: Float64Array): boolean {
  for (let i = 1; i < t.length; i++) if (!((t[i] as number) > (t[i - 1] as number))) return false;
  return true;
}

function medianStep(t: Float64Array): number {
  const steps = new Float64Array(Math.max(0, t.length - 1));
  for (let i = 1; i < t.length; i++) steps[i - 1] = (t[i] as number) - (t[i - 1] as number);
  return medianOf(steps);
}
