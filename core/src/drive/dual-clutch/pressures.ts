import type { Recording } from "../../log/index.ts";
import { WARM_C } from "../../unit/index.ts";
import { type Frame, sampleAt } from "../signal/frame.ts";
import { median } from "../signal/stats.ts";

/** What stands against what was asked for: 1 = all of it. Undefined where too little of it was driven. */
export interface PressureFollows {
  /** `line`, or a dual clutch */
  readonly id: string;
  readonly seconds: number;
  readonly coldShare?: number | undefined;
  readonly warmShare?: number | undefined;
  /** at the lower and at the upper half of what was asked for */
  readonly lowShare?: number | undefined;
  readonly highShare?: number | undefined;
}

/** Sensors and touch points spread by some hundredths: less is short of the command, more over it. */
export const SHORT_SHARE = 0.93;
export const OVER_SHARE = 1.12;

/** Less is not told from the touch point and its spread. */
const LEAST_KPA = 250;
/** A command that has kept within this for so long has been answered. */
const STEADY_SHARE = 0.06;
const STEADY_S = 0.25;
const MIN_S = 1.5;

/**
 * Measured pressures of a dual clutch unit against their commands, where a command has stood still. The command of a clutch
 * is its solenoid's duty × the line pressure asked for; a clutch cannot have more than the line, so it is held against the
 * lesser of both.
 * @param untilS - limp mode begins: from then on commands mean nothing
 * @returns nothing for pressures that were not recorded, or too little
 */
export function followPressures(
  recording: Recording,
  frame: Frame,
  untilS = Number.POSITIVE_INFINITY,
): PressureFollows[] {
  const { unit, timeS, fluidC, stepS } = frame;
  const at = (id: string) => {
    const channel = recording.channels.get(id);
    return channel && sampleAt(channel, timeS, false, 1);
  };
  const lineAsked = at("line_pressure_kpa");
  const lineIs = at("line_pressure_measured_kpa");
  if (!lineAsked || !lineIs) return [];
  const follows = (id: string, asked: Float64Array, is: Float64Array): PressureFollows[] => {
    const seen: {
      readonly share: number;
      readonly askedKpa: number;
      readonly warm: boolean;
      readonly stepS: number;
    }[] = [];
    let since = 0;
    for (let i = 0; i < timeS.length && (timeS[i] as number) < untilS; i++) {
      const kpa = asked[i] as number;
      // begins anew with every command that leaves the last one
      if (!(Math.abs(kpa - (asked[since] as number)) <= STEADY_SHARE * kpa)) since = i;
      const share = (is[i] as number) / kpa;
      if (kpa < LEAST_KPA || Number.isNaN(share) || (timeS[i] as number) - (timeS[since] as number) < STEADY_S)
        continue;
      const warm = !((fluidC?.[i] as number) < WARM_C);
      seen.push({ share, askedKpa: kpa, warm, stepS: stepS[i] as number });
    }
    const shareOf = (list: typeof seen) =>
      list.reduce((s, x) => s + x.stepS, 0) < MIN_S ? undefined : median(list.map((x) => x.share));
    if (shareOf(seen) === undefined) return [];
    const highest = Math.max(...seen.map((x) => x.askedKpa));
    const lowest = Math.min(...seen.map((x) => x.askedKpa));
    const half = (lowest + highest) / 2;
    return [
      {
        id,
        seconds: seen.reduce((s, x) => s + x.stepS, 0),
        coldShare: shareOf(seen.filter((x) => !x.warm)),
        warmShare: shareOf(seen.filter((x) => x.warm)),
        lowShare: shareOf(seen.filter((x) => x.askedKpa < half)),
        highShare: shareOf(seen.filter((x) => x.askedKpa >= half)),
      },
    ];
  };
  const clutches = unit.elements.filter((e) => e.kind === "dual-clutch");
  return [
    ...follows("line", lineAsked, lineIs),
    ...clutches.flatMap(({ id }) => {
      const solenoid = unit.solenoids.find((s) => s.feeds === id);
      const duty = solenoid && at(solenoid.id);
      const is = at(`${id.toLowerCase()}_kpa`);
      if (!duty || !is) return [];
      const asked = lineAsked.map((kpa, i) => {
        const share = (duty[i] as number) / 100;
        return Math.min(kpa * (solenoid.unpoweredState === "applied" ? 1 - share : share), lineIs[i] as number);
      });
      return follows(id, asked, is);
    }),
  ];
}

/** Furthest below and above the command, %. */
export function offCommand({ coldShare, warmShare, lowShare, highShare }: Omit<PressureFollows, "id" | "seconds">): {
  readonly shortPct: number;
  readonly overPct: number;
} {
  const shares = [coldShare, warmShare, lowShare, highShare].filter((s) => s !== undefined);
  return { shortPct: (1 - Math.min(1, ...shares)) * 100, overPct: (Math.max(1, ...shares) - 1) * 100 };
}
