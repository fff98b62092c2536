import { type DriveWindow, gearName } from "../unit/index.ts";

/** What of a drive is kept between two readings. */
export interface DriveSoFar {
  readonly filled: readonly number[];
  readonly gear: number | undefined;
  /** speed from which it has been rolling with the foot off, km/h; 0: it is not */
  readonly rolledFromKmh: number;
}

const STANDS_KMH = 1;

export const beginDrive = (windows: readonly DriveWindow[]): DriveSoFar => ({
  filled: windows.map(() => 0),
  gear: undefined,
  rolledFromKmh: 0,
});

const inside = (v: number | undefined, span: readonly [number, number] | undefined): boolean =>
  span === undefined || (v !== undefined && v >= span[0] && v <= span[1]);

/**
 * The drive with one more row of readings: a shift counts in every window that its pedal, speed and temperature lie in when it is
 * commanded; a stop when it was rolled to with the foot off from a speed in its window.
 */
export function driveOn(
  so: DriveSoFar,
  windows: readonly DriveWindow[],
  values: ReadonlyMap<string, number>,
): DriveSoFar {
  const read = (c: string) => {
    const v = values.get(c);
    return v === undefined || Number.isNaN(v) ? undefined : v;
  };
  const gear = read("gear_commanded") ?? read("gear_reported");
  const pedal = read("pedal_pct");
  const kmh = read("vehicle_kmh");
  const fluid = read("fluid_c");
  const foot = pedal ?? 100;
  const off = windows.find((w) => w.shift === "stop")?.pedalPct[1] ?? 0;
  const rolls = foot <= off && kmh !== undefined;
  const rolledFromKmh = !rolls ? 0 : Math.max(so.rolledFromKmh, kmh);
  const stood = rolls && kmh < STANDS_KMH && so.rolledFromKmh >= STANDS_KMH;
  const changed = gear !== undefined && so.gear !== undefined && gear !== so.gear && gear > 0 && so.gear > 0;
  const name = changed ? `${gearName(so.gear)}-${gearName(gear)}` : undefined;
  const filled = so.filled.map((n, i) => {
    const w = windows[i] as DriveWindow;
    const met =
      w.shift === "stop"
        ? stood && inside(so.rolledFromKmh, w.kmh) && inside(fluid, w.fluidC)
        : w.shift === name && inside(pedal, w.pedalPct) && inside(kmh, w.kmh) && inside(fluid, w.fluidC);
    return met ? n + 1 : n;
  });
  return {
    filled,
    gear: gear ?? so.gear,
    rolledFromKmh: stood ? 0 : rolledFromKmh,
  };
}

export const driveFull = (so: DriveSoFar, windows: readonly DriveWindow[]): boolean =>
  windows.every((w, i) => (so.filled[i] ?? 0) >= w.times);

/** What is still missing, in words, the most missing first: "3-4 at light foot, 2 more". */
export function driveMissing(so: DriveSoFar, windows: readonly DriveWindow[]): string[] {
  return windows
    .map((w, i) => ({ w, more: w.times - (so.filled[i] ?? 0) }))
    .filter(({ more }) => more > 0)
    .sort((a, b) => b.more / b.w.times - a.more / a.w.times)
    .map(({ w, more }) => `${w.shift === "stop" ? "roll to rest" : w.shift} ${w.foot}, ${more} more`);
}
