import type { RelearnMachine, RelearnResult, RelearnStage, Unit } from "../unit/index.ts";
import { judgeCondition } from "./conditions.ts";
import { atLimit } from "./learned.ts";
import { beginDrive, type DriveSoFar, driveFull, driveOn } from "./windows.ts";

/** What a routine tells of itself, as its status record holds it. */
export interface RoutineTold {
  readonly state: "running" | "done" | "stopped" | "failed";
  readonly code: number;
  /** element of the unit file, counted from 1; 0: none */
  readonly element: number;
}

/** How a procedure ended. */
export interface RelearnEnd {
  readonly outcome: "done" | "aborted" | "failed";
  /** what happened */
  readonly say: string;
  /** what is to be done now */
  readonly next: string;
  readonly ends: RelearnResult["ends"];
  readonly code: number | null;
  /** id of the element that it is about */
  readonly element: string | null;
}

/** A procedure while somebody goes through it. */
export interface RelearnState {
  /** index into the stages; the last one while it is over */
  readonly stage: number;
  readonly stageSinceS: number;
  /** since when the conditions of this stage have held, s; undefined: they do not */
  readonly heldSinceS: number | undefined;
  readonly drive: DriveSoFar;
  /** what this stage asks of the vehicle was asked */
  readonly asked: boolean;
  readonly timeS: number;
  readonly end: RelearnEnd | undefined;
}

export type RelearnEvent =
  /** newest readings, and what the routine tells where it was asked */
  | {
      readonly kind: "live";
      readonly timeS: number;
      readonly values: ReadonlyMap<string, number>;
      readonly routine?: RoutineTold | undefined;
    }
  /** what the stage asks of the vehicle was asked, and is under way */
  | { readonly kind: "asked" }
  /** it was asked and done: begun, ended, written */
  | { readonly kind: "granted" }
  | { readonly kind: "refused"; readonly why: string }
  /** learned values by the ids of the unit file */
  | { readonly kind: "learned"; readonly values: Readonly<Record<string, number>> }
  /** a person without a link says that the stage is done */
  | { readonly kind: "confirmed" }
  /** a person without a link says what the other tool told */
  | { readonly kind: "told"; readonly code: number }
  | { readonly kind: "given-up"; readonly why: string };

const stageOf = (m: RelearnMachine, s: RelearnState): RelearnStage => m.stages[s.stage] as RelearnStage;

/** @param timeS - now, on the clock of the readings */
export function beginRelearn(machine: RelearnMachine, timeS: number): RelearnState {
  return {
    stage: 0,
    stageSinceS: timeS,
    heldSinceS: undefined,
    drive: beginDrive(machine.stages[0]?.windows ?? []),
    asked: false,
    timeS,
    end: undefined,
  };
}

/** What the stage asks of the vehicle and was not asked yet. */
export function wantedOf(machine: RelearnMachine, s: RelearnState): "start" | "stop" | "read" | "write" | undefined {
  if (s.end || s.asked) return undefined;
  const { do: what } = stageOf(machine, s);
  return what === "start" || what === "stop" || what === "read" || what === "write" ? what : undefined;
}

const over = (s: RelearnState, end: RelearnEnd): RelearnState => ({ ...s, end });

function onward(machine: RelearnMachine, s: RelearnState): RelearnState {
  const stage = s.stage + 1;
  const next = machine.stages[stage];
  if (!next) {
    const done = machine.results.find((r) => r.ends === "done");
    return over(s, {
      outcome: "done",
      say: done?.say ?? "It went through",
      next: done?.next ?? "Drive it and prove the repair.",
      ends: "done",
      code: done?.code ?? null,
      element: null,
    });
  }
  return {
    ...s,
    stage,
    stageSinceS: s.timeS,
    heldSinceS: undefined,
    asked: false,
    drive: beginDrive(next.windows ?? []),
  };
}

/** What a code of a routine means. A code that the unit file does not know is told as it is. */
function byCode(machine: RelearnMachine, unit: Unit, told: RoutineTold): RelearnEnd {
  const known = machine.results.find((r) => r.code === told.code);
  const element = told.element > 0 ? (unit.elements[told.element - 1]?.id ?? null) : null;
  const name = `0x${told.code.toString(16).toUpperCase().padStart(2, "0")}`;
  const about = element === null ? "" : ` (${element})`;
  return {
    outcome: told.state === "failed" ? "failed" : "aborted",
    say: known
      ? `${known.say}${about}`
      : `The routine ended with ${name}, which the unit file does not explain${about}`,
    next: known?.next ?? "Look the code up in the maker’s instructions.",
    ends: known?.ends ?? "repair",
    code: told.code,
    element,
  };
}

/** A procedure with one more event. What comes after its end changes nothing. */
export function advanceRelearn(
  machine: RelearnMachine,
  unit: Unit,
  s: RelearnState,
  event: RelearnEvent,
): RelearnState {
  if (s.end) return s;
  const stage = stageOf(machine, s);
  switch (event.kind) {
    case "asked":
      return { ...s, asked: true };
    case "granted":
    case "confirmed":
      return onward(machine, s);
    case "refused":
      return over(s, {
        outcome: "failed",
        say: event.why,
        next: "Put the conditions right and start again.",
        ends: "again",
        code: null,
        element: null,
      });
    case "given-up":
      return over(s, {
        outcome: "aborted",
        say: event.why,
        next: "Start again.",
        ends: "again",
        code: null,
        element: null,
      });
    case "told": {
      const known = machine.results.find((r) => r.code === event.code);
      if (known?.ends === "done") return onward(machine, { ...s, stage: machine.stages.length - 1 });
      return over(s, byCode(machine, unit, { state: "failed", code: event.code, element: 0 }));
    }
    case "learned": {
      const at = (unit.adaptations ?? []).find((a) => {
        const v = event.values[a.id];
        return v !== undefined && atLimit(a, v);
      });
      if (!at) return onward(machine, s);
      return over(s, {
        outcome: "failed",
        say: `${at.name} stands at its limit: ${event.values[at.id]} ${at.unit} of ${at.limits[0]} to ${at.limits[1]}`,
        next: `It can’t learn any further. Check ${at.component}: clearance, leaks, pressure.`,
        ends: "repair",
        code: null,
        element: at.component,
      });
    }
    case "live":
      return live(machine, unit, { ...s, timeS: event.timeS }, stage, event);
  }
}

function live(
  machine: RelearnMachine,
  unit: Unit,
  s: RelearnState,
  stage: RelearnStage,
  { timeS, values, routine }: Extract<RelearnEvent, { kind: "live" }>,
): RelearnState {
  if (routine && (routine.state === "stopped" || routine.state === "failed") && stage.do !== "stop")
    return over(s, byCode(machine, unit, routine));
  const broken = machine.guards.find((g) => judgeCondition(g, values).holds === false);
  if (broken)
    return over(s, {
      outcome: "aborted",
      say: broken.broken,
      next: "Put it right and start again.",
      ends: "again",
      code: null,
      element: null,
    });
  if (stage.withinS !== undefined && timeS - s.stageSinceS > stage.withinS)
    return over(s, {
      outcome: "aborted",
      say: `“${stage.say}” took longer than ${stage.withinS} s`,
      next: "Start again.",
      ends: "again",
      code: null,
      element: null,
    });
  if (stage.do === "drive") {
    const windows = stage.windows ?? [];
    const drive = driveOn(s.drive, windows, values);
    return driveFull(drive, windows) ? onward(machine, { ...s, drive }) : { ...s, drive };
  }
  if (stage.do === "start" || stage.do === "stop" || stage.do === "read" || stage.do === "write") return s;
  const holds = (stage.until ?? []).every((c) => judgeCondition(c, values).holds === true);
  if (!holds) return { ...s, heldSinceS: undefined };
  const heldSinceS = s.heldSinceS ?? timeS;
  return timeS - heldSinceS >= (stage.forS ?? 0) ? onward(machine, { ...s, heldSinceS }) : { ...s, heldSinceS };
}
