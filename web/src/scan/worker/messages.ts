import type { ColumnMapping, Dialect, ImportReport, MappingGuess, Pyramid } from "@gearsense/core/log";
import type { Unit } from "@gearsense/core/unit";

export interface Opened {
  readonly dialect: Dialect;
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
  readonly strips: readonly StripData[];
}

/** A refusal of the log, passed as a value: errors lose their class between threads. */
export type Answer<T> =
  | { readonly ok: true; readonly value: T }
  | { readonly ok: false; readonly code: string; readonly message: string };

export interface LogWorker {
  /** Decodes and reads the whole file. @param onProgress - share read, 0…1 */
  open(bytes: Uint8Array, onProgress: (share: number) => void): Answer<Opened>;
  /** Makes channels of the open file. */
  report(mapping: readonly ColumnMapping[]): Answer<ImportReport>;
  /** Pyramids of all channels of the open file, ready to be drawn. Buffers are transferred. */
  record(mapping: readonly ColumnMapping[], unit: Unit): Answer<Recorded>;
}
