import Papa from "papaparse";
import { measureUnit } from "./channels.ts";
import { InputError } from "./input-error.ts";

/** How a file writes its table. Lines are 1-based. */
export interface Dialect {
  readonly delimiter: "," | ";" | "\t" | "|";
  readonly decimalComma: boolean;
  readonly headerLine: number;
  /** a row of units below the header */
  readonly unitLine: number | undefined;
  readonly firstDataLine: number;
  readonly confidence: number;
}

/** What a person has set in place of the guess. */
export interface DialectChoice {
  readonly delimiter?: Dialect["delimiter"] | undefined;
  readonly decimalComma?: boolean | undefined;
  readonly headerLine?: number | undefined;
}

/** The dialect is judged from the head of the file. */
const HEAD_CHARS = 24 * 1024;
const DELIMITERS = [",", ";", "\t", "|"] as const;
const NUMBER_POINT = /^\s*[-+]?(\d+\.?\d*|\.\d+)(e[-+]?\d+)?\s*$/i;
const NUMBER_COMMA = /^\s*[-+]?\d+(,\d+)?\s*$/;
const CLOCK = /\d{1,2}:\d{2}/;
/** Texts that stand for "no reading". */
export const NO_READING: ReadonlySet<string> = new Set([
  "n/a",
  "na",
  "nan",
  "-",
  "--",
  "---",
  "null",
  "none",
  "#n/a",
  "?",
  "invalid",
  "n.a.",
  "nd",
  "no data",
  "error",
  "inf",
  "-inf",
  "infinity",
  "-infinity",
  "#value!",
  "#div/0!",
]);

const NUMBER_WITH_UNIT = /^\s*[-+]?\d+([.,]\d+)?\s*[a-zA-Z°º%/·.-]{1,8}\s*$/;

const looksLikeData = (cell: string) =>
  NUMBER_POINT.test(cell) || NUMBER_COMMA.test(cell) || CLOCK.test(cell) || NUMBER_WITH_UNIT.test(cell);

/** A row of values may hold many words (gear, brake, range); a header holds hardly a number. */
const DATA_SHARE = 1 / 3;

/** Share of cells that read like values, cells that say nothing left aside. */
function dataShare(row: readonly string[]): number {
  const filled = row.filter((c) => c.trim() !== "" && !NO_READING.has(c.trim().toLowerCase()));
  if (filled.length === 0) return 0;
  return filled.filter(looksLikeData).length / filled.length;
}

const CLOCK_FORMAT = /^[hms:.,]{4,}$/i;

/** A row of units of measure: "1/min" begins like a number and isn't one. */
function isUnits(row: readonly string[] | undefined): boolean {
  const cells = (row ?? []).map((c) => c.replace(/[[\]()]/g, "").trim()).filter((c) => c !== "");
  const units = cells.filter((c) => measureUnit(c) || c === "-" || CLOCK_FORMAT.test(c));
  return cells.length > 0 && units.length > cells.length * 0.6;
}

const noTable = () =>
  new InputError(
    "no-table",
    "No table was found: no delimiter (comma, semicolon, tab or bar) cuts the lines into equal rows of values. Export the recording as CSV.",
  );

/**
 * Guesses delimiter, decimal mark, header row and unit row from the head of a file.
 * The delimiter is the one that cuts most lines into the same number (over one) of cells.
 * @param fixed - what a person knows better
 * @throws InputError `no-table`, `one-column`, `no-rows`, `line-too-long`
 */
export function sniffDialect(text: string, fixed: DialectChoice = {}): Dialect {
  const head = text.slice(0, HEAD_CHARS);
  const lines = head.split(/\r\n|\n|\r/);
  if (text.length > head.length) {
    if (lines.length === 1)
      throw new InputError(
        "line-too-long",
        `The first line alone has over ${HEAD_CHARS / 1024} KB: this isn’t a table of a log. Export the recording as CSV.`,
        1,
      );
    lines.pop();
  }
  let best: { delimiter: Dialect["delimiter"]; width: number; score: number; rows: string[][] } | undefined;
  for (const delimiter of fixed.delimiter ? [fixed.delimiter] : DELIMITERS) {
    const rows = Papa.parse<string[]>(lines.join("\n"), { delimiter }).data;
    const widths = new Map<number, number>();
    for (const row of rows) if (row.length > 1) widths.set(row.length, (widths.get(row.length) ?? 0) + 1);
    for (const [width, count] of widths) {
      // a wide, regular table beats a narrow one that happens to be regular too
      const score = (count / rows.length) * Math.log2(width + 1);
      if (!best || score > best.score) best = { delimiter, width, score, rows };
    }
  }
  if (!best || best.score < 0.2) {
    const numeric = lines.filter((l) => l.trim() !== "" && looksLikeData(l)).length;
    if (numeric > 3) {
      throw new InputError(
        "one-column",
        "The file has one column only. A log needs a time column and at least one channel; export all channels together.",
      );
    }
    throw noTable();
  }
  const { rows, width, delimiter } = best;
  const firstData = rows.findIndex(
    (row, i) =>
      (fixed.headerLine === undefined || i >= fixed.headerLine) &&
      row.length >= width - 1 &&
      dataShare(row) >= DATA_SHARE &&
      !isUnits(row) &&
      i > 0 &&
      rows.slice(i, i + 3).some((r) => dataShare(r) >= DATA_SHARE),
  );
  if (firstData < 0) {
    const written = lines.filter((l) => l.trim() !== "").length;
    if (written > 2) throw noTable();
    throw new InputError(
      "no-rows",
      "The file has a header but no rows of values below it. Check that the recording ran before it was exported.",
    );
  }
  let headerIndex = firstData - 1;
  while (headerIndex > 0 && rows[headerIndex]?.every((c) => c.trim() === "")) headerIndex--;
  let unitIndex: number | undefined;
  if (headerIndex > 0 && isUnits(rows[headerIndex]) && (rows[headerIndex - 1]?.length ?? 0) >= width - 1) {
    unitIndex = headerIndex;
    headerIndex -= 1;
  }
  if (fixed.headerLine !== undefined) {
    headerIndex = fixed.headerLine - 1;
    unitIndex = isUnits(rows[headerIndex + 1]) && headerIndex + 1 < firstData ? headerIndex + 1 : undefined;
  }
  const sample = rows.slice(firstData, firstData + 50).flat();
  const commas = sample.filter((c) => /^\s*[-+]?\d+,\d+\s*$/.test(c)).length;
  const points = sample.filter((c) => /^\s*[-+]?\d+\.\d+\s*$/.test(c)).length;
  return {
    delimiter,
    decimalComma: fixed.decimalComma ?? commas > points,
    headerLine: headerIndex + 1,
    unitLine: unitIndex === undefined ? undefined : unitIndex + 1,
    firstDataLine: firstData + 1,
    confidence: Math.min(1, best.score / Math.log2(width + 1)),
  };
}
