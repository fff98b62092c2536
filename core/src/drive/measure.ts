import type { Recording } from "../log/index.ts";
import type { Unit } from "../unit/index.ts";
import type { AnalysedLog, Analysis, Measured } from "./analysis.ts";
import type { Comparer } from "./comparer.ts";
import type { Finding, FindingKind } from "./finding.ts";
import { limitsOf } from "./limits.ts";
import type { Frame } from "./signal/frame.ts";

/** What an observation of a drive speaks of. */
export interface DriveSubject {
  readonly gear?: string | undefined;
  readonly shift?: string | undefined;
  readonly component?: string | undefined;
  readonly components?: readonly string[] | undefined;
}

/** One thing that one log says; `key` tells it from others of the same table. */
export type Add = (
  table: string,
  key: string,
  subject: DriveSubject,
  outcome: string,
  label: string,
  abnormal: boolean,
) => void;

/** A piece of evidence from one or several logs of a vehicle. */
export interface DriveEvidence {
  readonly id: string;
  /** name of a likelihood table */
  readonly table: string;
  readonly subject: DriveSubject;
  readonly outcome: string;
  readonly label: string;
  /** timeline entry it came from */
  readonly entryId: string;
  /** an outcome that speaks of a fault rather than of health */
  readonly abnormal: boolean;
  /** 0…1: exponent of its likelihoods; below one for things that come and go together. Absent: one */
  readonly power?: number | undefined;
}

/**
 * All that is known of one measure of a drive. `analyse`, `compare` and the collector of evidence go through the list of
 * them (`measures.ts`) and know none by its name.
 */
export interface Measure<K extends keyof Measured = keyof Measured> {
  readonly id: K;
  measure(drive: Drive): Measured[K];
  /** what lies over its limit */
  findings?(measured: Measured, drive: Drive): readonly Finding[];
  /** how two drives compare, by kind of finding */
  readonly compares?: Partial<Readonly<Record<FindingKind, Comparer>>>;
  /** what one log says, absence included where it could have shown it */
  evidence?(unit: Unit, analysis: Analysis, add: Add): void;
  /** what only all logs of a vehicle together say */
  together?(unit: Unit, logs: readonly AnalysedLog[]): readonly DriveEvidence[];
}

/** A log on the way to its analysis: what one measure or mark needs of another is made once. */
export class Drive {
  readonly recording: Recording;
  readonly frame: Frame;
  readonly limits: ReturnType<typeof limitsOf>;
  private readonly made = new Map<unknown, unknown>();

  constructor(recording: Recording, frame: Frame) {
    this.recording = recording;
    this.frame = frame;
    this.limits = limitsOf(frame.unit);
  }

  get unit(): Unit {
    return this.frame.unit;
  }

  of<K extends keyof Measured>(measure: Measure<K>): Measured[K] {
    return this.once(measure, () => measure.measure(this));
  }

  once<T>(key: unknown, make: (drive: this) => T): T {
    if (!this.made.has(key)) this.made.set(key, make(this));
    return this.made.get(key) as T;
  }
}

/** One of two outcomes for the whole drive, each with its label: the abnormal one when it is so, the usual one otherwise. */
export function either(
  add: Add,
  table: string,
  isSo: boolean,
  abnormal: readonly [outcome: string, label: string],
  usual: readonly [outcome: string, label: string],
): void {
  const [outcome, label] = isSo ? abnormal : usual;
  add(table, "all", {}, outcome, label, isSo);
}

export const hasFinding = (analysis: Analysis, kind: Finding["kind"]): boolean =>
  analysis.findings.some((f) => f.kind === kind);
