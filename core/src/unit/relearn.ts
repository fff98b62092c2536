/** What a live value has to be. With `between` a window, both ends allowed; with `is` one of some words: ranges of the lever. */
export interface LiveCondition {
  /** as it is said: "Fluid at 70 to 100 °C" */
  readonly say: string;
  /**
   * a channel of the vehicle, `codes` (stored codes, counted), or what a routine tells of itself: `routine_state`,
   * `routine_lever`, `routine_progress_pct`
   */
  readonly channel: string;
  readonly between?: readonly [number, number] | undefined;
  readonly is?: readonly string[] | undefined;
}

/** What ends a stage badly, and what is to be done then. */
export interface RelearnGuard extends LiveCondition {
  /** what has happened when it does not hold any more, and what follows */
  readonly broken: string;
}

/** Shifts of one kind that a drive-cycle has to bring. */
export interface DriveWindow {
  /** "3-4", or "stop" for rolling to rest */
  readonly shift: string;
  readonly foot: string;
  readonly pedalPct: readonly [number, number];
  readonly kmh?: readonly [number, number] | undefined;
  readonly fluidC?: readonly [number, number] | undefined;
  readonly times: number;
}

/**
 * One stage of a procedure.
 * start: the routine is begun; shift, hold, wait: until its conditions hold; drive: until its windows are full; stop: the routine
 * is ended; read: the learned values are read and lie within their limits; write: noted values go back.
 */
export interface RelearnStage {
  readonly id: string;
  readonly do: "start" | "shift" | "hold" | "wait" | "drive" | "stop" | "read" | "write";
  readonly say: string;
  readonly until?: readonly LiveCondition[] | undefined;
  /** they hold for so long without a break, s; 0 where left out */
  readonly forS?: number | undefined;
  /** after so long it has failed, s */
  readonly withinS?: number | undefined;
  readonly windows?: readonly DriveWindow[] | undefined;
}

/** What a code that a routine ends with says. */
export interface RelearnResult {
  /** second byte of the routine's status */
  readonly code: number;
  readonly say: string;
  readonly next: string;
  /** done; again: the conditions are put right and it is begun anew; repair: something is broken */
  readonly ends: "done" | "again" | "repair";
}

export const RELEARN_KINDS = ["stationary", "drive-cycle", "basic-setting", "write-back"] as const;
export const RELEARN_POLICIES = ["required", "after-repairs", "drive-first"] as const;

/** A procedure as a control unit goes through it; absent: only its words are known, it is done with the maker's tool. */
export interface RelearnMachine {
  readonly kind: (typeof RELEARN_KINDS)[number];
  /** required: after every repair of the inside; after-repairs: after those of `afterRepairs`; drive-first: only when shifts stay off */
  readonly policy: (typeof RELEARN_POLICIES)[number];
  /** ids of repairs, or their options, see the library of repairs */
  readonly afterRepairs: readonly string[];
  /** why do it, and why leave it */
  readonly why: string;
  readonly whyNot: string;
  /** what was learned before is forgotten */
  readonly resets: boolean;
  /** identifier of the routine, "0x0301"; write-back has none */
  readonly routine?: string | undefined;
  readonly preconditions: readonly LiveCondition[];
  /** hold from the first stage to the last */
  readonly guards: readonly RelearnGuard[];
  readonly stages: readonly RelearnStage[];
  readonly results: readonly RelearnResult[];
  /** how often it is begun on one day before it is looked into */
  readonly repeats: number;
}

export interface RelearnProcedure {
  readonly id: string;
  readonly name: string;
  readonly after: readonly string[];
  /** what must hold before it is begun */
  readonly needs: readonly string[];
  readonly steps: readonly string[];
  readonly machine?: RelearnMachine | undefined;
}

/** One that can be gone through. */
export type DrivenProcedure = RelearnProcedure & { readonly machine: RelearnMachine };
