import type { Channel, Recording } from "../log/index.ts";

/** A recording made of plain arrays on one time base, for tests with known closed forms. */
export function recordingOf(timeS: Float64Array, channels: Readonly<Record<string, Float64Array>>): Recording {
  const rateHz = 1 / ((timeS[1] as number) - (timeS[0] as number));
  const made = new Map<string, Channel>();
  for (const [id, values] of Object.entries(channels))
    made.set(id, { id, timeS, values, column: id, rateHz, invalidCount: 0 });
  const durationS = (timeS.at(-1) as number) - (timeS[0] as number);
  return {
    channels: made,
    originS: 0,
    durationS,
    report: {
      rows: timeS.length,
      rowsUsed: timeS.length,
      columns: made.size,
      durationS,
      rateHz,
      gaps: [],
      repairs: [],
      rejects: [],
      rejectCount: 0,
      emptyCells: 0,
      invalidCells: 0,
    },
  };
}

/** Evenly spaced times. */
export const timesOf = (durationS: number, rateHz: number): Float64Array =>
  Float64Array.from({ length: Math.round(durationS * rateHz) + 1 }, (_, i) => i / rateHz);
