import type { WeekView } from "@gearsense/contract";
import { addDays, formatISO, parseISO } from "date-fns";

type Setup = WeekView["setup"];

/** Days of the week that is shown, "2026-11-30", Monday first. @param offset - weeks from the one of `at` */
export function daysShown(at: string, offset: number, setup: Setup): string[] {
  const today = parseISO(at.slice(0, 10));
  const monday = addDays(today, -((today.getDay() + 6) % 7) + 7 * offset);
  const days = Array.from({ length: 7 }, (_, d) => formatISO(addDays(monday, d), { representation: "date" }));
  // a weekend on which nobody ever works is not drawn
  return days.filter((_, d) => d < 5 || setup.people.some((p) => p.week[d] !== null));
}

/** Hours of the day that are drawn: from the first who comes to the last who goes, minutes. */
export function hoursShown(setup: Setup): readonly [number, number] {
  const spans = setup.people.flatMap((p) => p.week.filter((h) => h !== null));
  return spans.length === 0 ? [480, 1020] : [Math.min(...spans.map((h) => h[0])), Math.max(...spans.map((h) => h[1]))];
}

export const minuteOf = (at: string): number => Number(at.slice(11, 13)) * 60 + Number(at.slice(14, 16));

export interface Segment {
  readonly day: string;
  /** shares of the drawn day, 0…1 */
  readonly from: number;
  readonly to: number;
}

/** A stretch of time as pieces of the days that are drawn. */
export function segmentsOf(
  startAt: string,
  endAt: string,
  days: readonly string[],
  [open, close]: readonly [number, number],
): Segment[] {
  const share = (min: number) => Math.min(1, Math.max(0, (min - open) / (close - open)));
  return days.flatMap((day) => {
    if (day < startAt.slice(0, 10) || day > endAt.slice(0, 10)) return [];
    const from = day === startAt.slice(0, 10) ? share(minuteOf(startAt)) : 0;
    const to = day === endAt.slice(0, 10) ? share(minuteOf(endAt)) : 1;
    return to > from ? [{ day, from, to }] : [];
  });
}

/** From when to when each job keeps its lift. */
export function liftHolds(
  blocks: WeekView["blocks"],
): { jobId: string; lift: string; startAt: string; endAt: string }[] {
  const holds = new Map<string, { jobId: string; lift: string; startAt: string; endAt: string }>();
  for (const b of blocks) {
    if (b.lift === null) continue;
    const known = holds.get(b.jobId);
    holds.set(b.jobId, {
      jobId: b.jobId,
      lift: b.lift,
      startAt: known && known.startAt < b.startAt ? known.startAt : b.startAt,
      endAt: known && known.endAt > b.endAt ? known.endAt : b.endAt,
    });
  }
  return [...holds.values()];
}

/** Minutes between two moments of the same shop. */
const between = (from: string, to: string): number => (Date.parse(`${to}:00Z`) - Date.parse(`${from}:00Z`)) / 60_000;

/** Work on the same job one after another, as one bar: short pauses with nothing else in them are not drawn. */
export function joined(blocks: WeekView["blocks"], gapMin = 40): WeekView["blocks"] {
  const out: WeekView["blocks"] = [];
  for (const b of [...blocks].sort((x, y) => x.startAt.localeCompare(y.startAt))) {
    const last = out.at(-1);
    if (last && last.jobId === b.jobId && between(last.endAt, b.startAt) <= gapMin) {
      if (last.endAt < b.endAt) last.endAt = b.endAt;
      last.people = [...new Set([...last.people, ...b.people])];
      last.steps = [...last.steps, ...b.steps];
    } else out.push({ ...b });
  }
  return out;
}
