import type { Unit } from "../unit/index.ts";
import { EXPANSION_PER_C, expandedL, readRunning } from "./level.ts";
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
const POURED_SHARE = 0.03;
const POURED_L = 0.03;
/** A drain that was measured leaves this much unknown, l; one that was not, this share of what the unit file drains. */
const MEASURED_L = 0.15;
const UNMEASURED_SHARE = 0.2;
/** Standing fluid of converter, lines and corners that nobody can know after a change of the unit, l. */
const DRY_L = 0.5;
/** First fill of what is missing: what was measured, and what was not. A stick tells too much at once: it is come up to from below. */
const FIRST_KNOWN = 0.8;
const FIRST_UNKNOWN = 0.65;
/** Less than this share of the pan in it, and the pump may draw air: never started. */
export const START_SHARE = 0.55;
/** More than this share of the pan still to be drawn by converter and lines: started for seconds only, and filled again. */
export const BURST_SHARE = 0.35;
const BURST_S = 15;
/** Waiting for the tube to dry with the engine idling warms the fluid: a stick is read from the lower part of its window, °C. */
const STICK_AIM_C = 6;
/** Drops at the plug stand for the level to this much, l; one side of a stick read with a dry tube. */
const DROPS_L = 0.04;
const STICK_L = 0.12;
/** Outside the window converter and case are not at rest yet: a reading says less by this, l. */
const OUTSIDE_L = 0.15;
/** What a drive may still take out of the pan, l. */
const SETTLES_L = 0.1;
/** Poured at a time while it is not known how much is missing, l. */
export const STAGE_L = 0.5;
/** The level is right at a stick when it is this share of the tolerance from full. */
const STICK_RIGHT = 0.6;
/** More poured than expected by this share of it, and it is told. */
const MORE_THAN_EXPECTED = 0.1;
const LEAST_L = 0.1;
/** A pan that runs over before this share of what is missing is in was not empty, or does not stand level. */
export const EARLY_SHARE = 0.6;
/** Read twice: a level by the stick is known when it is known to this, l. */
const STICK_KNOWN_L = 0.1;
/** What is poured at once is a slip of the pen above this share of the whole fill: some of it may have run over. */
export const MOST_AT_ONCE = 1.5;

const round = (litres: number) => Math.max(LEAST_L, Math.round(litres * 20) / 20);

/** A unit's pump takes its fluid from the pan: it must not run before so much is in, l. */
export const startsWithL = (unit: Unit): number => START_SHARE * unit.fluid.panDrainL;

interface Fold {
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
function atFirst(unit: Unit, e: Emptied): { missingL: number; sd: number; expectedL: number | undefined } {
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
function learn(f: Fold, missingL: number, sd: number): void {
  const v = sd * sd;
  const share = f.varL2 / (f.varL2 + v);
  f.missingL += share * (missingL - f.missingL);
  f.varL2 = (f.varL2 * v) / (f.varL2 + v);
}

/** Missing at the reference temperature when the fluid stands just at the mark at another: V(T) = V₂₀·(1 + β·(T − 20 °C)). */
const missingAtMark = ({ fluid }: Unit, fluidC: number): number =>
  fluid.totalL - expandedL(fluid.totalL, fluidC, fluid.level.referenceC);

const nearFull = (unit: Unit, f: Fold): boolean => Math.abs(f.missingL) <= STICK_RIGHT * unit.fluid.level.toleranceL;

/** Converter and lines would draw the pan too low in one go. */
const inBursts = (unit: Unit, missingL: number): boolean => missingL > BURST_SHARE * unit.fluid.panDrainL;

function take(unit: Unit, f: Fold, d: FillDone): void {
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

/**
 * How a unit is filled, as a state machine over what was done and seen so far: what to do next, how many litres, and why.
 * First fill with the engine off; start, ranges cycled; full with the engine running; level inside the window; leaks; drive;
 * leaks and level again. By overflow the level is come to from above at the plug; by the stick from below, in parts.
 * Source of the volumes: the unit file; of the arithmetic: V(T) = V₂₀·(1 + β·(T − 20 °C)) and inverse-variance weighting.
 */
export function fillState(unit: Unit, emptied: Emptied, done: readonly FillDone[]): FillState {
  const first = atFirst(unit, emptied);
  const f: Fold = {
    missingL: first.missingL,
    varL2: first.sd ** 2,
    pouredL: 0,
    started: false,
    bursts: 0,
    sinceBurstL: 0,
    running: false,
    runningOver: false,
    whine: false,
    fluidC: null,
    right: false,
    readSince: false,
    leaks: undefined,
    drove: false,
    inPanL: Math.max(0, unit.fluid.panDrainL - first.missingL),
    ranOverOff: false,
  };
  for (const d of done) take(unit, f, d);
  const told: string[] = [];
  if (first.expectedL !== undefined && f.pouredL > first.expectedL * (1 + MORE_THAN_EXPECTED) + LEAST_L)
    told.push(
      `${f.pouredL.toFixed(1)} l are in, ${first.expectedL.toFixed(1)} l were expected: over a tenth more. Look for a leak, a converter that was not full before, or another unit than the file’s.`,
    );
  if (f.ranOverOff && !f.started && f.pouredL < EARLY_SHARE * Math.min(first.missingL, unit.fluid.panDrainL))
    told.push(
      `It ran over after ${f.pouredL.toFixed(1)} l where about ${first.missingL.toFixed(1)} l are missing: does the vehicle stand level, is it the right plug, was it drained?`,
    );
  if (emptied.drainedL === null && !emptied.dry)
    told.push("Nobody measured what came out: it is filled in parts and read after each.");
  const ask = askOf(unit, emptied, f, first.missingL);
  return {
    ask,
    phase: phaseOf(unit, f, ask),
    missingL: f.missingL,
    unsureL: Math.sqrt(f.varL2),
    pouredL: f.pouredL,
    inPanL: f.inPanL,
    running: f.running,
    expectedL: first.expectedL,
    levelRight: f.right,
    told,
  };
}

function phaseOf(unit: Unit, f: Fold, ask: FillAsk): FillPhase {
  if (ask.deed === "done") return "done";
  if (f.right || f.drove) return "after";
  if (!readRunning(unit)) return f.pouredL > 0 || f.readSince ? "level" : "first";
  if (!f.started) return ask.deed === "started" ? "start" : "first";
  return unit.fluid.level.method === "overflow" && !f.runningOver && !f.readSince ? "full" : "level";
}

/** The phase that is over once a step of the shipped fill is done; undefined: the step is none of it. */
export function phaseBehind(stepId: string): FillPhase | undefined {
  if (/^first-(overflow|dipstick)$/.test(stepId)) return "first";
  if (stepId === "start") return "start";
  if (stepId === "top-up") return "full";
  if (/^(set-|first-sight$)/.test(stepId)) return "level";
  return undefined;
}

/** Whether a phase of a fill is behind it. */
export const isBehind = (phase: FillPhase, now: FillPhase): boolean =>
  FILL_PHASES.indexOf(now) > FILL_PHASES.indexOf(phase);

function askOf(unit: Unit, emptied: Emptied, f: Fold, firstL: number): FillAsk {
  const { method, windowC, referenceC } = unit.fluid.level;
  const window = `${windowC[0]}–${windowC[1]} °C`;
  const running = readRunning(unit);
  const engine = running && f.started ? "idle" : "off";
  const litres = `${Math.abs(f.missingL).toFixed(1)} l`;
  if (f.leaks === "drips")
    return {
      deed: "mend",
      engine: "off",
      text: "Find the leak and close it",
      why: "It drips: no level holds. Look again when it is closed.",
    };
  if (f.whine)
    return {
      deed: "poured",
      litres: STAGE_L,
      engine: "off",
      text: `Engine off. Pour ${STAGE_L} l`,
      why: "A whine is a pump that draws air: it dies of it in seconds.",
    };
  if (running && !f.started) {
    const enough = startsWithL(unit);
    const share = emptied.drainedL === null && !emptied.dry ? FIRST_UNKNOWN : FIRST_KNOWN;
    const { panDrainL } = unit.fluid;
    // a plug shows by itself when the pan is full; a stick does not
    const want = method === "overflow" ? firstL : Math.min(share * firstL, panDrainL);
    const again = method === "overflow" ? f.missingL : Math.min(f.missingL, BURST_SHARE * panDrainL);
    const left =
      f.bursts > 0 ? again - f.sinceBurstL : Math.max(want - f.pouredL, firstL > LEAST_L ? enough - f.inPanL : 0);
    // it is full with the engine off, or as much is in as may be
    if (!f.ranOverOff && left >= LEAST_L)
      return {
        deed: "poured",
        litres: round(left),
        engine: "off",
        text:
          method === "overflow"
            ? `Plug out, engine off. Pour until it runs over, ${round(left).toFixed(2)} l at most`
            : `Engine off. Pour ${round(left).toFixed(2)} l`,
        why:
          method === "overflow"
            ? "The pan is filled before the first start: a pump that starts in air is lost in seconds. Converter and lines take theirs later."
            : emptied.drainedL === null
              ? "What came out is not known: two thirds of what the pan holds, then it is read."
              : "Four fifths of what is missing: the rest is set by the stick, from below.",
      };
    if (inBursts(unit, f.missingL))
      return {
        deed: "started",
        engine: "off",
        seconds: BURST_S,
        text: `Plug in. Start, ${BURST_S} s in P, off again`,
        why: `Converter and lines still take about ${f.missingL.toFixed(1)} l: in one go they would draw the pan empty. It is filled again in between.`,
      };
    return {
      deed: "started",
      engine: "idle",
      text: "Plug in. Start, brake held, 5 s in each range, back to P",
      why: "The pump fills converter, lines and clutches from the pan now. Listen: a whine means engine off at once.",
    };
  }
  // hot from the drive it is looked at before it cools
  const leaks: FillAsk = {
    deed: "leaks",
    engine,
    text: f.drove ? "Look for leaks again: pan, plugs, lines, sleeves" : "Look for leaks: pan, plugs, lines, sleeves",
    why: f.drove ? "Hot and under pressure, what held cold may weep." : "Before it goes on the road.",
  };
  if (f.drove && f.leaks === undefined) return leaks;
  if (!f.right) {
    if (method === "overflow" && !f.runningOver && !f.readSince)
      return {
        deed: "poured",
        litres: round(Math.max(f.missingL, 0) + 2 * Math.sqrt(f.varL2)),
        engine,
        text: `Engine idling, plug out. Pour until it runs over; about ${Math.max(0, f.missingL).toFixed(1)} l are missing`,
        why: "With converter and lines full the pan has fallen: it is filled again while the engine runs.",
      };
    const { fluidC } = f;
    const temperature = fluidC === null || fluidC < windowC[0] ? "low" : fluidC > windowC[1] ? "high" : "right";
    const reading = method === "overflow" ? "overflow" : method === "dipstick" ? "stick" : "sight";
    const aimC: readonly [number, number] = [windowC[0], method === "dipstick" ? windowC[0] + STICK_AIM_C : windowC[1]];
    // a stick tells roughly while it is cold: worth pouring by before the engine warms the fluid
    const rough = reading === "stick" && !f.readSince && temperature === "low" && Math.sqrt(f.varL2) > STICK_L;
    const pourFirst = f.readSince && Math.abs(f.missingL) > STAGE_L / 2;
    if (!f.readSince || (temperature !== "right" && !pourFirst)) {
      if (temperature === "high")
        return {
          deed: "temperature",
          engine: "off",
          aimC,
          text: `Engine off. Let it cool to ${aimC[0]}–${aimC[1]} °C`,
          why: "Never add hot and guess: hot fluid stands higher and would be short when it is cool.",
        };
      if (running && !f.running)
        return {
          deed: "started",
          engine: "idle",
          text: "Start, brake held, 5 s in each range, back to P",
          why: "While it stood, the converter ran back into the pan: it would show too much.",
        };
      if (temperature === "low" && !rough)
        return {
          deed: "temperature",
          engine,
          aimC,
          text: running ? `Let it idle until the fluid has ${aimC[0]}–${aimC[1]} °C` : `Bring the oil to ${window}`,
          why: `The level stands for ${referenceC} °C: colder fluid stands lower, by ${expandedGap(unit, windowC[0] - 15)} l at ${windowC[0] - 15} °C.`,
        };
      return {
        deed: reading,
        engine,
        text:
          reading === "overflow"
            ? "Plug out inside the window. What comes?"
            : reading === "stick"
              ? "Wait 10 min for the tube to run dry. Wipe, read both sides, the lower counts"
              : "Plug out, vehicle level. Where does the oil stand?",
        why:
          reading === "overflow"
            ? "A thin stream that turns to drops is full. Close it then."
            : rough
              ? `How much is missing is known to ${Math.sqrt(f.varL2).toFixed(1)} l: a first reading, converted to ${referenceC} °C, says more.`
              : `Inside ${window}.`,
      };
    }
    if (reading === "stick" && nearFull(unit, f))
      return {
        deed: "stick",
        engine,
        text: "Wipe, read both sides once more, the lower counts",
        why: "One reading is off by a tenth of a litre in three times: two tell.",
      };
    if (f.missingL < 0 && method === "dipstick")
      return {
        deed: "let-out",
        litres: round(-f.missingL),
        engine: "off",
        text: `Engine off. Let ${round(-f.missingL).toFixed(2)} l out`,
        why: `It is too full by ${litres} at ${referenceC} °C: it would foam and run out of the breather.`,
      };
    const known = Math.sqrt(f.varL2) <= STICK_L + POURED_L;
    const pour = known || method !== "dipstick" ? f.missingL : Math.min(STAGE_L, f.missingL);
    return {
      deed: "poured",
      litres: round(pour),
      engine,
      text:
        method === "dipstick"
          ? `Pour ${round(pour).toFixed(2)} l, engine idling`
          : `Pour ${round(pour).toFixed(2)} l, until it runs over`,
      why: `${litres} are missing at ${referenceC} °C, to ${Math.sqrt(f.varL2).toFixed(1)} l${known || method !== "dipstick" ? "" : ": half a litre at a time"}.`,
    };
  }
  if (f.leaks === undefined) return leaks;
  if (!f.drove)
    return {
      deed: "drove",
      engine: "off",
      text: "Short drive: every gear, lock-up once, reverse",
      why: "Air leaves the circuits, the cooler fills, the thermostat opens: the level may fall after it.",
    };
  return {
    deed: "done",
    engine: "off",
    text: "Filled, level right, leaks looked for before and after the drive",
    why: "Look again when it is cold next day, and in a month.",
  };
}

const expandedGap = (unit: Unit, atC: number): string =>
  (unit.fluid.totalL - expandedL(unit.fluid.totalL, unit.fluid.level.referenceC, atC)).toFixed(1);

/** Why something done cannot be taken as it is; undefined: it can. */
export function fillProblem(unit: Unit, state: FillState, d: FillDone): string | undefined {
  const saw: readonly string[] = FILL_SAW[d.deed];
  if (!saw.includes(d.saw)) return `what was seen is one of: ${saw.join(", ")}`;
  if ((d.deed === "poured" || d.deed === "let-out") && !(d.litres !== null && d.litres >= 0))
    return "how many litres? A number from 0";
  if (d.deed === "poured" && (d.litres ?? 0) > MOST_AT_ONCE * unit.fluid.totalL)
    return `${d.litres} l at once is far more than the whole fill of ${unit.fluid.totalL} l`;
  if (d.deed === "stick" && d.litres === null) return "how far from full does it read, in litres?";
  if (d.deed === "temperature" && d.fluidC === null) return "what temperature does the fluid have?";
  if ((d.deed === "overflow" || d.deed === "stick" || d.deed === "sight") && d.fluidC === null)
    return "what temperature does the fluid have? A level says nothing without it";
  if (d.fluidC !== null && !(d.fluidC > -50 && d.fluidC < 180)) return `${d.fluidC} °C cannot be`;
  if (d.deed === "started" && state.inPanL < startsWithL(unit) - LEAST_L)
    return `only ${state.inPanL.toFixed(1)} l are in the pan: never started before ${startsWithL(unit).toFixed(1)} l are, the pump would run in air`;
  return undefined;
}
