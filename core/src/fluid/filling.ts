import type { Unit } from "../unit/index.ts";
import { askOf, phaseOf } from "./fill-ask.ts";
import {
  atFirst,
  EARLY_SHARE,
  type Emptied,
  FILL_SAW,
  type FillDone,
  type FillState,
  type Fold,
  LEAST_L,
  MORE_THAN_EXPECTED,
  MOST_AT_ONCE,
  startsWithL,
  take,
} from "./fill-fold.ts";

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
    told.push("The drain wasn’t measured: fill in stages and read after each.");
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
