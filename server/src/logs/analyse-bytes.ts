import { type Analysis, analyseDrive } from "@gearsense/core/drive";
import {
  buildRecording,
  type ColumnMapping,
  cutRecording,
  type ImportReport,
  InputError,
  type InputErrorCode,
  joinRecordings,
  openLog,
  type ReadingChoice,
} from "@gearsense/core/log";
import type { Unit } from "@gearsense/core/unit";

/** One log and how it is read. */
export interface LogPart {
  readonly bytes: Uint8Array;
  readonly mapping: readonly ColumnMapping[];
  readonly choice: ReadingChoice;
}

export interface AnalysisInput {
  /** joined in this order; at least one */
  readonly parts: readonly LogPart[];
  /** only this span is judged, s */
  readonly spanS: readonly [number, number] | undefined;
  readonly unit: Unit;
  readonly library: readonly Unit[];
}

export type AnalysisOutput =
  | { readonly ok: true; readonly report: ImportReport; readonly analysis: Analysis }
  | { readonly ok: false; readonly code: InputErrorCode; readonly message: string };

/**
 * From stored bytes to findings. A refusal comes back as a value: errors lose their class between threads.
 * @param stage - told what is being done, in words
 */
export function analyseBytes(
  { parts, spanS, unit, library }: AnalysisInput,
  stage: (words: string) => void = () => undefined,
): AnalysisOutput {
  try {
    const whole = joinRecordings(
      parts.map((p, i) => {
        stage(parts.length > 1 ? `reading log ${i + 1} of ${parts.length}` : "reading the log");
        return buildRecording(openLog(p.bytes, p.choice).table, p.mapping);
      }),
    );
    const recording = spanS ? cutRecording(whole, spanS) : whole;
    stage("looking at the drive");
    return { ok: true, report: recording.report, analysis: analyseDrive(recording, unit, library) };
  } catch (error) {
    if (error instanceof InputError) return { ok: false, code: error.code, message: error.message };
    throw error;
  }
}

/** How analysis is run: in a pool of threads by the server, directly by tests. */
export type Analyser = (
  input: AnalysisInput,
  attempt?: { readonly signal: AbortSignal; readonly stage: (words: string) => void },
) => Promise<AnalysisOutput>;
