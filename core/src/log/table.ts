import Papa from "papaparse";
import { readClock } from "./clock.ts";
import { type Dialect, NO_READING } from "./dialect.ts";
import { InputError } from "./input-error.ts";
import { plainNumber } from "./number.ts";

/** A column as read: numbers where cells held numbers or clock times, words where they held text. */
export interface Column {
  readonly index: number;
  readonly header: string;
  /** unit text of the header's brackets, the unit row, or the cells */
  readonly unitText: string | undefined;
  /** length rows, or that of `rowOf`; NaN where the cell held no number */
  readonly numbers: Float64Array;
  /** row of each value, increasing, of a column that few rows fill; undefined: one value a row */
  readonly rowOf: Int32Array | undefined;
  /** length as `numbers`, or 0 without words; 0 = no word, else 1 + index into `words` */
  readonly wordAt: Uint16Array;
  readonly words: readonly string[];
  readonly filled: number;
  readonly wordCells: number;
  readonly clockCells: number;
  /** clock cells that carry a date */
  readonly datedCells: number;
  readonly noReadingCells: number;
  readonly samples: readonly string[];
}

/** Where every line of a file went: `read` is the sum of the others. */
export interface LineCount {
  readonly read: number;
  readonly head: number;
  readonly blank: number;
  readonly repeatedHeader: number;
  readonly rejected: number;
  /** frames of a capture that carry none of the channels */
  readonly unused: number;
  readonly rows: number;
}

export interface Reject {
  readonly line: number;
  readonly reason: string;
}

export interface Table {
  /** undefined for a bus capture, which has none */
  readonly dialect: Dialect | undefined;
  /** wide: a column a channel; long: a line a reading; capture: frames of a bus */
  readonly layout: "wide" | "long" | "capture";
  readonly columns: readonly Column[];
  readonly rows: number;
  /** line of the file of each row, 1-based */
  readonly lineOfRow: Int32Array;
  readonly rejects: readonly Reject[];
  readonly rejectCount: number;
  readonly repeatedHeaderLines: readonly number[];
  readonly lines: LineCount;
  /** what was wrong with the archive it came in */
  readonly repair?: string | undefined;
}

export interface ReadOptions {
  /** told the share of the text read so far, 0…1 */
  readonly onProgress?: ((share: number) => void) | undefined;
}

const WITH_UNIT = /^([-+]?\d+(?:[.,]\d+)?)\s*([a-zA-Z°º%/·.-]+)$/;
const MAX_WORDS = 2000;
/** No scan tool records more; a file that claims to is something else. */
export const MAX_COLUMNS = 1000;
const MAX_LINE_CHARS = 1 << 20;
const MEGABYTE = 1 << 20;
const MAX_REJECTS_KEPT = 200;
/** Small pieces keep what the tokeniser leaves behind short-lived. */
const CHUNK_CHARS = 1 << 16;
/** First values are shown from these rows. */
const SAMPLE_ROWS = 200;

class ColumnBuilder {
  readonly index: number;
  readonly header: string;
  unitText: string | undefined;
  numbers: Float64Array;
  wordAt: Uint16Array;
  readonly words: string[] = [];
  private readonly wordIndex = new Map<string, number>();
  readonly cellUnits = new Map<string, number>();
  filled = 0;
  wordCells = 0;
  clockCells = 0;
  datedCells = 0;
  noReadingCells = 0;
  readonly samples: string[] = [];

  constructor(index: number, header: string, unitText: string | undefined, capacity: number) {
    this.index = index;
    this.header = header;
    this.unitText = unitText;
    this.numbers = new Float64Array(capacity);
    this.wordAt = new Uint16Array(capacity);
  }

  grow(capacity: number): void {
    const numbers = new Float64Array(capacity);
    numbers.set(this.numbers);
    this.numbers = numbers;
    const wordAt = new Uint16Array(capacity);
    wordAt.set(this.wordAt);
    this.wordAt = wordAt;
  }

  /**
   * Takes this column's cell of each row.
   * @param firstRow - row of the table that `rows[0]` becomes
   * @param lineOfRow - line of the file, by row of the table
   */
  put(rows: readonly (readonly string[])[], firstRow: number, lineOfRow: Int32Array, decimalComma: boolean): void {
    const { numbers, index } = this;
    const pointCode = (decimalComma ? "," : ".").charCodeAt(0);
    for (let r = 0; r < rows.length; r++) {
      const cell = (rows[r] as readonly string[])[index] as string;
      const plain = plainNumber(cell, pointCode);
      if (!Number.isNaN(plain)) {
        numbers[firstRow + r] = plain;
        this.filled++;
        continue;
      }
      numbers[firstRow + r] = Number.NaN;
      if (cell.length > 0) this.putOther(firstRow + r, cell, lineOfRow[firstRow + r] as number, decimalComma);
    }
    for (let r = 0; this.samples.length < 3 && firstRow + r < SAMPLE_ROWS && r < rows.length; r++) {
      const text = ((rows[r] as readonly string[])[index] as string).trim();
      if (text !== "") this.samples.push(text);
    }
  }

  /** A number written otherwise, a clock, a number with a unit, "no reading", or a word. */
  private putOther(row: number, cell: string, line: number, decimalComma: boolean): void {
    // a column of words holds few different ones: most cells end here
    const seen = this.wordIndex.get(cell);
    if (seen !== undefined) {
      this.wordAt[row] = seen;
      this.wordCells++;
      this.filled++;
      return;
    }
    const text = cell.trim();
    if (text === "") return;
    const value = Number(decimalComma ? text.replace(",", ".") : text);
    if (Number.isFinite(value)) {
      this.numbers[row] = value;
      this.filled++;
      return;
    }
    const clock = readClock(text);
    if (clock) {
      this.numbers[row] = clock.seconds;
      this.clockCells++;
      if (clock.dated) this.datedCells++;
      this.filled++;
      return;
    }
    if (NO_READING.has(text.toLowerCase())) {
      this.noReadingCells++;
      return;
    }
    const united = WITH_UNIT.exec(text);
    if (united) {
      this.numbers[row] = Number((united[1] ?? "").replace(",", "."));
      const unit = united[2] ?? "";
      if (!this.cellUnits.has(unit)) this.cellUnits.set(unit, line);
      this.filled++;
      return;
    }
    let at = this.wordIndex.get(text);
    if (at === undefined) {
      if (this.words.length >= MAX_WORDS) return;
      this.words.push(text);
      at = this.words.length;
      this.wordIndex.set(text, at);
      this.wordIndex.set(cell, at);
    }
    this.wordAt[row] = at;
    this.wordCells++;
    this.filled++;
  }
}

function splitHeader(header: string): { name: string; unit: string | undefined } {
  const m = /^(.*?)\s*[[(]([^\])]*)[\])]\s*$/.exec(header.trim());
  return m ? { name: (m[1] ?? "").trim(), unit: m[2]?.trim() || undefined } : { name: header.trim(), unit: undefined };
}

/** Papaparse's tokeniser, fed in pieces so that progress can be told and memory stays bounded. */
function* tokenise(text: string, delimiter: string): Generator<{ rows: string[][]; cursor: number }> {
  const head = text.slice(0, CHUNK_CHARS);
  const newline = head.includes("\r\n") ? "\r\n" : head.includes("\n") ? "\n" : "\r";
  let cursor = 0;
  let size = CHUNK_CHARS;
  while (cursor < text.length) {
    const end = Math.min(text.length, cursor + size);
    // a fresh parser each time: one that was asked to leave the last row is spent
    const result = new Papa.Parser({ delimiter, newline }).parse(
      text.slice(cursor, end),
      0,
      end < text.length,
    ) as Papa.ParseResult<string[]>;
    if (result.meta.cursor === 0) {
      if (end === text.length) return;
      if (size > MAX_LINE_CHARS)
        throw new InputError(
          "line-too-long",
          `A line has over ${MAX_LINE_CHARS / MEGABYTE} million characters after ${Math.round(cursor / MEGABYTE)} MB of the file: a quotation mark is left open, or this isn’t a log. Export the recording anew.`,
        );
      size *= 2;
      continue;
    }
    size = CHUNK_CHARS;
    cursor = end === text.length ? end : cursor + result.meta.cursor;
    yield { rows: result.data, cursor };
  }
}

/**
 * Reads the whole table. Tokenising is papaparse's; the judgement of cells and rows is ours. A row with too few or too
 * many cells is rejected with its line number, never padded.
 * @throws InputError `one-column`, `no-rows`, `too-wide`, `line-too-long`, `mixed-units`
 * Cost: O(characters); memory 10 bytes a cell.
 */
export function readTable(text: string, dialect: Dialect, options: ReadOptions = {}): Table {
  let builders: ColumnBuilder[] = [];
  let headerCells: string[] = [];
  let unitCells: string[] | undefined;
  let capacity = Math.max(1024, Math.ceil(text.length / 60));
  let lineOfRow = new Int32Array(capacity);
  let rows = 0;
  let line = 0;
  let blankLines = 0;
  let headLines = 0;
  let rejectCount = 0;
  const rejects: Reject[] = [];
  const repeatedHeaderLines: number[] = [];

  const reject = (at: number, reason: string) => {
    rejectCount++;
    if (rejects.length < MAX_REJECTS_KEPT) rejects.push({ line: at, reason });
  };
  const begin = () => {
    builders = headerCells.map((h, i) => {
      const { name, unit } = splitHeader(h);
      return new ColumnBuilder(
        i,
        name || `column ${i + 1}`,
        unit ?? unitCells?.[i]?.replace(/[[\]()]/g, "").trim() ?? undefined,
        capacity,
      );
    });
  };

  /** Is this line a row of values? Says why when it is not. */
  const isRow = (cells: readonly string[]): boolean => {
    if (line < dialect.firstDataLine) {
      if (line === dialect.headerLine) headerCells = [...cells];
      else if (line === dialect.unitLine) unitCells = [...cells];
      headLines++;
      return false;
    }
    if (builders.length === 0) {
      while (headerCells.length > 1 && headerCells.at(-1)?.trim() === "") headerCells.pop();
      if (headerCells.length > MAX_COLUMNS)
        throw new InputError(
          "too-wide",
          `The file has ${headerCells.length} columns; up to ${MAX_COLUMNS} are read. Export fewer channels.`,
          dialect.headerLine,
        );
      begin();
    }
    const width = builders.length;
    if (cells.length === 1 && (cells[0] ?? "").trim() === "") {
      blankLines++;
      return false;
    }
    if (cells.length < width) {
      reject(line, `has ${cells.length} of ${width} cells`);
      return false;
    }
    for (let c = width; c < cells.length; c++) {
      if ((cells[c] ?? "").trim() !== "") {
        reject(line, `has ${cells.length} cells, the header ${width}`);
        return false;
      }
    }
    if (cells[0] === headerCells[0] && cells[1] === headerCells[1]) {
      repeatedHeaderLines.push(line);
      return false;
    }
    return true;
  };

  const makeRoom = (needed: number) => {
    if (needed <= capacity) return;
    capacity = Math.max(needed, capacity * 2);
    const longer = new Int32Array(capacity);
    longer.set(lineOfRow);
    lineOfRow = longer;
    for (const b of builders) b.grow(capacity);
  };

  for (const result of tokenise(text, dialect.delimiter)) {
    const taken: string[][] = [];
    makeRoom(rows + result.rows.length);
    for (const cells of result.rows) {
      line++;
      if (!isRow(cells)) continue;
      lineOfRow[rows + taken.length] = line;
      taken.push(cells);
    }
    for (const b of builders) b.put(taken, rows, lineOfRow, dialect.decimalComma);
    rows += taken.length;
    options.onProgress?.(result.cursor / text.length);
  }

  // what stands after the last line break isn’t a line
  if (blankLines > 0 && /[\r\n]$/.test(text)) {
    blankLines--;
    line--;
  }
  if (builders.length === 0 || rows === 0) {
    throw new InputError(
      "no-rows",
      "The file has a header but no complete row of values below it. Check that the recording ran before it was exported.",
    );
  }
  if (builders.length === 1) {
    throw new InputError(
      "one-column",
      "The file has one column only. A log needs a time column and at least one channel; export all channels together.",
    );
  }
  for (const b of builders) {
    if (b.cellUnits.size > 1) {
      const parts = [...b.cellUnits].map(([unit, at]) => `"${unit}" from line ${at}`).join(", ");
      throw new InputError(
        "mixed-units",
        `Column "${b.header}" mixes units: ${parts}. Export it in one unit, or cut the log where the unit changes.`,
        [...b.cellUnits.values()][1],
      );
    }
    const [only] = b.cellUnits.keys();
    if (only && !b.unitText) b.unitText = only;
  }
  return {
    dialect,
    layout: "wide",
    columns: builders.map((b) => ({
      index: b.index,
      header: b.header,
      unitText: b.unitText,
      numbers: b.numbers.subarray(0, rows),
      rowOf: undefined,
      wordAt: b.wordAt.subarray(0, rows),
      words: b.words,
      filled: b.filled,
      wordCells: b.wordCells,
      clockCells: b.clockCells,
      datedCells: b.datedCells,
      noReadingCells: b.noReadingCells,
      samples: b.samples,
    })),
    rows,
    lineOfRow: lineOfRow.subarray(0, rows),
    rejects,
    rejectCount,
    repeatedHeaderLines,
    lines: {
      read: line,
      head: headLines,
      blank: blankLines,
      repeatedHeader: repeatedHeaderLines.length,
      rejected: rejectCount,
      unused: 0,
      rows,
    },
  };
}
