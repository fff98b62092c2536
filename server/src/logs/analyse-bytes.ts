import { type Analysis, analyseDrive } from "@gearsense/core/drive";
import {
  buildRecording,
  type ColumnMapping,
  decodeLog,
  type ImportReport,
  InputError,
  type InputErrorCode,
  readTable,
  sniffDialect,
} from "@gearsense/core/log";
import type { Unit } from "@gearsense/core/unit";

export interface AnalysisInput {
  readonly bytes: Uint8Array;
  readonly mapping: readonly ColumnMapping[];
  readonly unit: Unit;
  readonly library: readonly Unit[];
}

export type AnalysisOutput =
  | { readonly ok: true; readonly report: ImportReport; readonly analysis: Analysis }
  | { readonly ok: false; readonly code: InputErrorCode; readonly message: string };

/** From stored bytes to findings. A refusal comes back as a value: errors lose their class between threads. */
export function analyseBytes({ bytes, mapping, unit, library }: AnalysisInput): AnalysisOutput {
  try {
    const { text } = decodeLog(bytes);
    const recording = buildRecording(readTable(text, sniffDialect(text)), mapping);
    return { ok: true, report: recording.report, analysis: analyseDrive(recording, unit, library) };
  } catch (error) {
    if (error instanceof InputError) return { ok: false, code: error.code, message: error.message };
    throw error;
  }
}

/** How analysis is run: in a pool of threads by the server, directly by tests. */
export type Analyser = (input: AnalysisInput) => Promise<AnalysisOutput>;
