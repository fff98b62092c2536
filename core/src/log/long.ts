import { measureUnit } from "./channels.ts";
import { InputError } from "./input-error.ts";
import type { Column, Table } from "./table.ts";

const NAME_HEADERS = /^(name|channel|parameter|param|signal|pid|item|variable|sensor|measurement|data item)$/i;
const VALUE_HEADERS = /^(value|reading|data|val|result)\b/i;
const UNIT_HEADERS = /^units?\b/i;
const TIME_HEADERS = /time|stamp|clock|^t$/i;
/** A table of readings is narrow. */
const MOST_COLUMNS = 7;
const MOST_CHANNELS = 400;
const LOOK_ROWS = 2000;

interface Shape {
  readonly time: Column;
  readonly name: Column;
  readonly value: Column;
  readonly unit: Column | undefined;
}

/** How often the word changes from row to row: nearly always in a column of channel names, seldom in one of states. */
function changeShare(column: Column): number {
  const n = Math.min(column.wordAt.length, LOOK_ROWS);
  let changes = 0;
  for (let i = 1; i < n; i++) if (column.wordAt[i] !== column.wordAt[i - 1]) changes++;
  return n > 1 ? changes / (n - 1) : 0;
}

/** The columns of a table in long format. @returns undefined when it is a wide one */
function shapeOf(table: Table): Shape | undefined {
  const { columns, rows } = table;
  if (columns.length < 3 || columns.length > MOST_COLUMNS) return undefined;
  const wordy = columns.filter(
    (c) => c.wordCells > rows * 0.9 && c.words.length >= 2 && c.words.length <= MOST_CHANNELS,
  );
  const isUnits = (c: Column) =>
    c.filled === c.wordCells &&
    (UNIT_HEADERS.test(c.header) || c.words.filter((w) => measureUnit(w) !== undefined).length > c.words.length / 2);
  // a channel without a unit leaves its cell empty
  const unit = columns.find((c) => c.wordCells > rows * 0.2 && isUnits(c));
  const names = wordy.filter((c) => c !== unit);
  const name =
    names.find((c) => NAME_HEADERS.test(c.header)) ??
    names.find((c) => c.words.length >= 3 && changeShare(c) > 0.5 && !VALUE_HEADERS.test(c.header));
  if (!name) return undefined;
  const rest = columns.filter((c) => c !== name);
  const timed = rest.filter((c) => c.filled > rows * 0.9 && c.wordCells === 0);
  const time = timed.find((c) => c.clockCells > 0 || TIME_HEADERS.test(c.header)) ?? timed[0];
  const others = rest.filter((c) => c !== time && c !== unit);
  const value = others.find((c) => VALUE_HEADERS.test(c.header)) ?? others.find((c) => c.filled > c.wordCells);
  return time && value ? { time, name, value, unit } : undefined;
}

/**
 * A table with one reading a line becomes one with a column a channel; any other table is handed through.
 * @throws InputError `mixed-units` when a channel changes its unit
 * Cost: O(rows).
 */
export function widen(table: Table): Table {
  const shape = shapeOf(table);
  if (!shape) return table;
  const { time, name, value, unit } = shape;
  const counts = new Int32Array(name.words.length + 1);
  for (let i = 0; i < table.rows; i++) {
    const at = name.wordAt[i] as number;
    counts[at] = (counts[at] as number) + 1;
  }
  const made: (Column & { filled: number; wordCells: number; noReadingCells: number; samples: string[] })[] = [];
  const next = new Int32Array(counts.length);
  const unitOf: (number | undefined)[] = [];
  name.words.forEach((header, k) => {
    const length = counts[k + 1] as number;
    const split = /^(.*?)\s*[[(]([^\])]*)[\])]\s*$/.exec(header);
    made.push({
      index: k + 1,
      header: split?.[1] || header,
      unitText: split?.[2]?.trim() || undefined,
      numbers: new Float64Array(length),
      rowOf: new Int32Array(length),
      wordAt: value.words.length > 0 ? new Uint16Array(length) : new Uint16Array(0),
      words: value.words,
      filled: 0,
      wordCells: 0,
      clockCells: 0,
      datedCells: 0,
      noReadingCells: 0,
      samples: [],
    });
  });
  const unnamed: number[] = [];
  for (let i = 0; i < table.rows; i++) {
    const at = name.wordAt[i] as number;
    if (at === 0) {
      unnamed.push(i);
      continue;
    }
    const column = made[at - 1] as (typeof made)[number];
    const k = next[at] as number;
    next[at] = k + 1;
    const v = value.numbers[i] as number;
    const word = value.wordAt[i] as number;
    column.numbers[k] = v;
    (column.rowOf as Int32Array)[k] = i;
    if (word > 0) {
      column.wordAt[k] = word;
      column.wordCells++;
      column.filled++;
    } else if (Number.isNaN(v)) column.noReadingCells++;
    else column.filled++;
    if (column.samples.length < 3) column.samples.push(word > 0 ? (value.words[word - 1] as string) : String(v));
    const u = unit?.wordAt[i];
    if (u !== undefined && u > 0) {
      const before = unitOf[at - 1];
      if (before === undefined) unitOf[at - 1] = u;
      else if (before !== u)
        throw new InputError(
          "mixed-units",
          `"${column.header}" mixes units: "${unit?.words[before - 1]}", from line ${table.lineOfRow[i]} "${unit?.words[u - 1]}". Export it in one unit, or cut the log where the unit changes.`,
          table.lineOfRow[i],
        );
    }
  }
  const columns: Column[] = [
    { ...time, index: 0 },
    ...made.map((c, k) => {
      const u = unitOf[k];
      return u === undefined ? c : { ...c, unitText: unit?.words[u - 1] };
    }),
  ];
  return {
    ...table,
    layout: "long",
    columns,
    rejects: [
      ...table.rejects,
      ...unnamed.slice(0, 50).map((i) => ({ line: table.lineOfRow[i] as number, reason: "names no channel" })),
    ],
    rejectCount: table.rejectCount + unnamed.length,
    lines: { ...table.lines, rejected: table.lines.rejected + unnamed.length, rows: table.lines.rows - unnamed.length },
  };
}
