import type { Unit } from "../unit/index.ts";
import {
  BURST_S,
  BURST_SHARE,
  type Emptied,
  FILL_PHASES,
  FIRST_KNOWN,
  FIRST_UNKNOWN,
  type FillAsk,
  type FillPhase,
  type Fold,
  inBursts,
  LEAST_L,
  nearFull,
  POURED_L,
  STAGE_L,
  STICK_AIM_C,
  STICK_L,
  startsWithL,
} from "./fill-fold.ts";
import { expandedL, readRunning } from "./level.ts";

const round = (litres: number) => Math.max(LEAST_L, Math.round(litres * 20) / 20);

/** How far a fill is. */
export function phaseOf(unit: Unit, f: Fold, ask: FillAsk): FillPhase {
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

/** What is to be done next, how many litres, and why. */
export function askOf(unit: Unit, emptied: Emptied, f: Fold, firstL: number): FillAsk {
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
              ? "The drain wasn’t measured: two thirds of what the pan holds, then read the level."
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
