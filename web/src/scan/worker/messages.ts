import type { Spectrum } from "@gearsense/core/drive";
import type { ColumnMapping, Dialect, ImportReport, MappingGuess, Pyramid, ReadingChoice } from "@gearsense/core/log";
import type { Unit } from "@gearsense/core/unit";

export interface Opened {
  readonly dialect: Dialect | undefined;
  readonly layout: "wide" | "long" | "capture";
  readonly container: "none" | "gzip" | "zip";
  readonly entry: string | undefined;
  readonly encoding: string;
  readonly rows: number;
  readonly guesses: readonly MappingGuess[];
}

export interface StripData {
  readonly id: string;
  readonly rateHz: number;
  readonly pyramid: Pyramid;
}

export interface Recorded {
  readonly report: ImportReport;
  readonly durationS: number;
  readonly strips: readonly StripData[];
}

/** Both views of the vibrations in a span of one channel. */
export interface SpanSpectra {
  readonly channel: string;
  readonly rateHz: number;
  readonly spectrum: Spectrum | undefined;
  readonly orders: readonly { readonly of: string; readonly spectrum: Spectrum }[];
}

/** One log of a recording that may be joined of several. */
export interface PartInput {
  /** where the stored file is: fetched by the worker, so that the page never holds its megabytes */
  readonly url: string;
  readonly choice: ReadingChoice;
  readonly mapping: readonly ColumnMapping[];
}

/** A refusal of the log, passed as a value: errors lose their class between threads. */
export type Answer<T> =
  | { readonly ok: true; readonly value: T }
  | { readonly ok: false; readonly code: string; readonly message: string };

export interface LogWorker {
  /** Decodes and reads the whole file. @param onProgress - share read, 0…1 */
  open(bytes: Uint8Array, choice: ReadingChoice, unit: Unit, onProgress: (share: number) => void): Answer<Opened>;
  /** Reads the same file once more in another way. */
  reopen(choice: ReadingChoice, unit: Unit): Answer<Opened>;
  /** Makes channels of the open file. */
  report(mapping: readonly ColumnMapping[]): Answer<ImportReport>;
  /** Reads the parts, joins and cuts them; pyramids of all channels, ready to be drawn. Buffers are transferred. */
  record(
    parts: readonly PartInput[],
    spanS: readonly [number, number] | undefined,
    unit: Unit,
    onProgress: (share: number) => void,
  ): Promise<Answer<Recorded>>;
  /** Spectrum and order spectra of a span of what was recorded. */
  spectra(channel: string, startS: number, endS: number): Answer<SpanSpectra>;
  /** A span of all channels as CSV. */
  csv(startS: number, endS: number): Answer<string>;
}
