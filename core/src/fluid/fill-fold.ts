import type { Unit } from "../unit/index.ts";
import { EXPANSION_PER_C, expandedL } from "./level.ts";
import { type Lost, refillOf } from "./refill.ts";

/** What left the unit before it is filled; litres that nobody measured are null. */
export interface Emptied extends Omit<Lost, "drainedL"> {
  readonly drainedL: number | null;
  /** a unit that comes dry: from the bench, or another one */
  readonly dry: boolean;
  /** poured into a standing converter before it went in, l */
  readonly prefilledL: number;
}

export const FILL_DEEDS = [
  "poured",
  "let-out",
  "started",
  "temperature",
  "overflow",
  "stick",
  "sight",
  "drove",
  "leaks",
] as const;
export type FillDeed = (typeof FILL_DEEDS)[number];
export const FILL_SAW = {
  poured: ["all-in", "ran-over"],
  "let-out": [""],
  started: ["quiet", "whine"],
  temperature: [""],
  overflow: ["nothing", "drops", "stream-then-drops"],
  stick: [""],
  sight: ["below", "at-the-edge"],
  drove: [""],
  leaks: ["dry", "weeps", "drips"],
} as const satisfies Readonly<Record<FillDeed, readonly string[]>>;

/** One thing that was done or seen while filling. */
export interface FillDone {
  readonly deed: FillDeed;
  /** poured or let out, l; of a stick how far from full its lower side reads, − is low */
  readonly litres: number | null;
  readonly fluidC: number | null;
  /** one of {@link FILL_SAW} of the deed */
  readonly saw: string;
}

export interface FillAsk {
  readonly deed: FillDeed | "done" | "mend";
  /** l to pour or to let out */
  readonly litres?: number | undefined;
  readonly engine: "off" | "idle";
  /** of a start that is ended at once: the pan would be drawn empty */
  readonly seconds?: number | undefined;
  /** of a temperature that is waited for */
  readonly aimC?: readonly [number, number] | undefined;
  readonly text: string;
  readonly why: string;
}

export const FILL_PHASES = ["first", "start", "full", "level", "after", "done"] as const;
export type FillPhase = (typeof FILL_PHASES)[number];

export interface FillState {
  readonly ask: FillAsk;
  /** how far the fill is: what is asked for now belongs to it */
  readonly phase: FillPhase;
  /** missing at the reference temperature, l; negative: too much */
  readonly missingL: number;
  /** one standard deviation, l */
  readonly unsureL: number;
  readonly pouredL: number;
  /** it is running idle, as far as was told */
  readonly running: boolean;
  /** before the first start: what stands in the pan, l */
  readonly inPanL: number;
  /** what was to be poured by what came out; undefined: nobody measured it */
  readonly expectedL: number | undefined;
  /** the level stands right and nothing was poured since */
  readonly levelRight: boolean;
  readonly told: readonly string[];
}

/** New fluid stands in the workshop, °C. */
export const CAN_C = 20;
/** A can is read to this share of what is poured, and to this much at least, l. Source: marks on the trade's measuring cans. */
export const POURED_SHARE = 0.03;
export const POURED_L = 0.03;
/** A drain that was measured leaves this much unknown, l; one that was not, this share of what the unit file drains. */
export const MEASURED_L = 0.15;
export const UNMEASURED_SHARE = 0.2;
/** Standing fluid of converter, lines and corners that nobody can know after a change of the unit, l. */
export const DRY_L = 0.5;
/** First fill of what is missing: what was measured, and what was not. A stick tells too much at once: it is come up to from below. */
export const FIRST_KNOWN = 0.8;
export const FIRST_UNKNOWN = 0.65;
/** Less than this share of the pan in it, and the pump may draw air: never started. */
export const START_SHARE = 0.55;
/** More than this share of the pan still to be drawn by converter and lines: started for seconds only, and filled again. */
export const BURST_SHARE = 0.35;
export const BURST_S = 15;
/** Waiting for the tube to dry with the engine idling warms the fluid: a stick is read from the lower part of its window, °C. */
export const STICK_AIM_C = 6;
/** Drops at the plug stand for the level to this much, l; one side of a stick read with a dry tube. */
export const DROPS_L = 0.04;
export const STICK_L = 0.12;
/** Outside the window converter and case are not at rest yet: a reading says less by this, l. */
export const OUTSIDE_L = 0.15;
/** What a drive may still take out of the pan, l. */
export const SETTLES_L = 0.1;
/** Poured at a time while it is not known how much is missing, l. */
export const STAGE_L = 0.5;
/** The level is right at a stick when it is this share of the tolerance from full. */
export const STICK_RIGHT = 0.6;
/** More poured than expected by this share of it, and it is told. */
export const MORE_THAN_EXPECTED = 0.1;
export const LEAST_L = 0.1;
/** A pan that runs over before this share of what is missing is in was not empty, or does not stand level. */
export const EARLY_SHARE = 0.6;
/** Read twice: a level by the stick is known when it is known to this, l. */
export const STICK_KNOWN_L = 0.1;
/** What is poured at once is a slip of the pen above this share of the whole fill: some of it may have run over. */
export const MOST_AT_ONCE = 1.5;

/** A unit's pump takes its fluid from the pan: it must not run before so much is in, l. */
export const startsWithL = (unit: Unit): number => START_SHARE * unit.fluid.panDrainL;

export interface Fold {
  missingL: number;
  varL2: number;
  pouredL: number;
  started: boolean;
  /** starts of seconds, and what was poured since the last, l */
  bursts: number;
  sinceBurstL: number;
  /** idling since the ranges were cycled: converter and lines are full */
  running: boolean;
  runningOver: boolean;
  whine: boolean;
  fluidC: number | null;
  right: boolean;
  /** read since something was poured or let out */
  readSince: boolean;
  leaks: string | undefined;
  drove: boolean;
  /** stands in the pan before the first start, l */
  inPanL: number;
  ranOverOff: boolean;
}

/** Missing and how unsure, before anything is poured. Source: what came out, or what the unit file says of it. */
export function atFirst(unit: Unit, e: Emptied): { missingL: number; sd: number; expectedL: number | undefined } {
  const { fluid } = unit;
  if (e.dry) {
    const missingL = fluid.totalL - e.prefilledL;
    return { missingL, sd: DRY_L, expectedL: missingL };
  }
  const drainedL = e.drainedL ?? fluid.panDrainL;
  const litres = refillOf(unit, { ...e, drainedL }).litres - e.prefilledL;
  return e.drainedL === null
    ? { missingL: litres, sd: Math.hypot(UNMEASURED_SHARE * fluid.panDrainL, MEASURED_L), expectedL: undefined }
    : { missingL: litres, sd: MEASURED_L + (e.converterDrained ? MEASURED_L : 0), expectedL: litres };
}

/** Brings a reading and what was known together, each by its certainty. Inverse-variance weighting. */
export function learn(f: Fold, missingL: number, sd: number): void {
  const v = sd * sd;
  const share = f.varL2 / (f.varL2 + v);
  f.missingL += share * (missingL - f.missingL);
  f.varL2 = (f.varL2 * v) / (f.varL2 + v);
}

/** Missing at the reference temperature when the fluid stands just at the mark at another: V(T) = V₂₀·(1 + β·(T − 20 °C)). */
export const missingAtMark = ({ fluid }: Unit, fluidC: number): number =>
  fluid.totalL - expandedL(fluid.totalL, fluidC, fluid.level.referenceC);

export const nearFull = (unit: Unit, f: Fold): boolean =>
  Math.abs(f.missingL) <= STICK_RIGHT * unit.fluid.level.toleranceL;

/** Converter and lines would draw the pan too low in one go. */
export const inBursts = (unit: Unit, missingL: number): boolean => missingL > BURST_SHARE * unit.fluid.panDrainL;

export function take(unit: Unit, f: Fold, d: FillDone): void {
  const { referenceC, windowC } = unit.fluid.level;
  const wasHot = f.fluidC !== null && f.fluidC > windowC[1];
  if (d.fluidC !== null) f.fluidC = d.fluidC;
  const inWindow = f.fluidC !== null && f.fluidC >= windowC[0] && f.fluidC <= windowC[1];
  const move = (litres: number, fromC: number) => {
    f.missingL -= expandedL(litres, fromC, referenceC);
    f.varL2 += Math.max(POURED_L, POURED_SHARE * Math.abs(litres)) ** 2;
    f.right = false;
    f.readSince = false;
    f.runningOver = false;
  };
  switch (d.deed) {
    case "poured":
      move(d.litres ?? 0, CAN_C);
      f.pouredL += d.litres ?? 0;
      f.inPanL += d.litres ?? 0;
      f.sinceBurstL += d.litres ?? 0;
      f.whine = false;
      if (d.saw !== "ran-over" || unit.fluid.level.method === "dipstick") break;
      if (!f.started) {
        f.ranOverOff = true;
        // full to the mark is enough for a start, however much was poured
        f.inPanL = Math.max(f.inPanL, unit.fluid.panDrainL);
        // converter and lines still draw theirs: standing at the mark with the engine off says that at least that is missing
        f.missingL = Math.max(f.missingL, 0);
      } else {
        f.runningOver = true;
        learn(f, missingAtMark(unit, f.fluidC ?? CAN_C), OUTSIDE_L);
      }
      break;
    case "let-out":
      move(-(d.litres ?? 0), f.fluidC ?? referenceC);
      f.running = false;
      break;
    case "started":
      f.whine = d.saw === "whine";
      if (!f.started && inBursts(unit, f.missingL)) {
        f.ranOverOff = false;
        f.bursts++;
        f.sinceBurstL = 0;
      } else {
        f.started = true;
        f.running = d.saw !== "whine";
      }
      break;
    case "overflow":
    case "sight": {
      f.readSince = true;
      const atMark = d.saw !== "nothing" && d.saw !== "below";
      f.right = atMark && inWindow;
      const c = f.fluidC ?? referenceC;
      if (atMark) learn(f, missingAtMark(unit, c), inWindow ? DROPS_L : OUTSIDE_L);
      // it stands below the mark, by more than what drops would hide
      else f.missingL = Math.max(f.missingL, missingAtMark(unit, c) + 2 * DROPS_L);
      break;
    }
    case "stick": {
      f.readSince = true;
      const c = f.fluidC ?? referenceC;
      const from = d.litres ?? 0;
      const missingL = unit.fluid.totalL - expandedL(unit.fluid.totalL + from, c, referenceC);
      const sd = inWindow ? STICK_L : Math.hypot(STICK_L, OUTSIDE_L, Math.abs(missingL) * EXPANSION_PER_C * 100);
      learn(f, missingL, sd);
      f.right = inWindow && nearFull(unit, f) && Math.sqrt(f.varL2) <= STICK_KNOWN_L;
      break;
    }
    case "drove":
      f.drove = true;
      f.leaks = undefined;
      f.fluidC = d.fluidC;
      // circuits and cooler have taken theirs: the level is read again
      f.right = false;
      f.readSince = false;
      f.runningOver = true;
      f.running = true;
      f.varL2 += SETTLES_L ** 2;
      break;
    case "leaks":
      f.leaks = d.saw;
      break;
    case "temperature":
      // it stood to cool, and the converter ran back into the pan
      if (wasHot) f.running = false;
      break;
  }
}
