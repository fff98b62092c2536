import type { Frame } from "../signal/frame.ts";
import { median, settled } from "../signal/stats.ts";

/** Turbine against engine at rest in P or N, where nothing should hold it. */
export interface NeutralPull {
  /** turbine over engine, median */
  readonly speedRatio: number;
  readonly seconds: number;
}

/** Sound converters carry their turbine along to 0.98 and more; packs that drag in thick fluid hold it back by a few per cent. */
export const DRAWN_DOWN_RATIO = 0.92;

const STANDS_RPM = 30;
const ENGINE_RPM = 400;
/** The turbine has run up by then. */
const AFTER_S = 0.8;
const LEAST_S = 1.5;
const JOIN_S = 0.1;

/** @returns undefined for a dual clutch, with hardly any rest in P or N, or where engine or turbine was not recorded */
export function analyseNeutral({
  unit,
  timeS,
  gear,
  engineRpm,
  inputRpm,
  outputRpm,
  derived,
  stepS,
}: Frame): NeutralPull | undefined {
  if (unit.kind !== "planetary" || !engineRpm || derived.length > 0) return undefined;
  const rest = settled(
    timeS,
    (i) => gear[i] === 0 && (outputRpm[i] as number) < STANDS_RPM && (engineRpm[i] as number) > ENGINE_RPM,
    JOIN_S,
    AFTER_S,
  );
  const read = rest.filter((i) => !Number.isNaN(inputRpm[i] as number));
  const seconds = read.reduce((sum, i) => sum + (stepS[i] as number), 0);
  if (seconds < LEAST_S) return undefined;
  return { speedRatio: median(read.map((i) => (inputRpm[i] as number) / (engineRpm[i] as number))), seconds };
}

/** How far the turbine stays behind the engine, %. */
export const heldPct = (n: NeutralPull): number => (1 - n.speedRatio) * 100;
