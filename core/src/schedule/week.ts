import type { Plan, PlanStep } from "../procedure/index.ts";
import { liftOf } from "../procedure/index.ts";
import { type Spans, without } from "./calendar.ts";
import type { Person, Shop, ShopJob, Task } from "./schedule.ts";

/** Who works in a shop, when, and on what: what its schedule is made from. Days are "2026-11-30", times minutes of the day. */
export interface ShopSetup {
  readonly lifts: readonly { readonly id: string; readonly name: string }[];
  readonly people: readonly {
    readonly id: string;
    readonly name: string;
    readonly skills: readonly string[];
    /** Monday to Sunday, from and to; null: off */
    readonly week: readonly (readonly [number, number] | null)[];
    readonly away: readonly { readonly from: string; readonly to: string; readonly why: string }[];
  }[];
  readonly holidays: readonly { readonly day: string; readonly name: string }[];
  readonly pins: readonly {
    readonly jobId: string;
    /** day and time on the shop's clock, "2026-11-30T08:00" */
    readonly fromAt: string;
    readonly lift: string | null;
  }[];
  /** an engine bar or crane is in the house */
  readonly crane: boolean;
}

export const DAY_MIN = 1440;
/** So many days are looked ahead. */
export const HORIZON_DAYS = 56;

/** Days since 1970 of "2026-11-30". @throws RangeError for what is no day */
export function dayNumber(day: string): number {
  const ms = Date.parse(`${day}T00:00:00Z`);
  if (Number.isNaN(ms)) throw new RangeError(`“${day}” isn’t a day`);
  return ms / 86_400_000;
}
export const dayOf = (number: number): string => new Date(number * 86_400_000).toISOString().slice(0, 10);
/** Monday is 0. 1970 began on a Thursday. */
export const weekday = (number: number): number => (((number + 3) % 7) + 7) % 7;

/** Minutes from the beginning of a day to a time on the shop's clock. @param at "2026-11-30T08:00" */
export function minutesTo(origin: string, at: string): number {
  const [day, time = "00:00"] = at.split("T");
  const [h, m] = time.split(":").map(Number);
  return (dayNumber(day as string) - dayNumber(origin)) * DAY_MIN + (h as number) * 60 + (m as number);
}
/** The other way round, to the full minute. */
export function timeAt(origin: string, min: number): string {
  const whole = Math.round(min);
  const day = Math.floor(whole / DAY_MIN);
  const rest = whole - day * DAY_MIN;
  const two = (n: number) => String(n).padStart(2, "0");
  return `${dayOf(dayNumber(origin) + day)}T${two(Math.floor(rest / 60))}:${two(rest % 60)}`;
}

/** Days on which the shop is open: somebody works, and it is no holiday. */
export const openDay = (setup: ShopSetup, number: number): boolean =>
  !setup.holidays.some((h) => h.day === dayOf(number)) &&
  setup.people.some(
    (p) => p.week[weekday(number)] && !p.away.some((a) => a.from <= dayOf(number) && dayOf(number) <= a.to),
  );

/** So many open days of the shop after a day. @returns the day */
export function openDaysLater(setup: ShopSetup, day: string, days: number): string {
  let n = dayNumber(day);
  for (let left = days, looked = 0; left > 0 && looked < 3 * HORIZON_DAYS + 7 * days; looked++) {
    n++;
    if (openDay(setup, n)) left--;
  }
  return dayOf(n);
}
/** So many open days before a day. */
export function openDaysBefore(setup: ShopSetup, day: string, days: number): string {
  let n = dayNumber(day);
  for (let left = days, looked = 0; left > 0 && looked < 3 * HORIZON_DAYS + 7 * days; looked++) {
    n--;
    if (openDay(setup, n)) left--;
  }
  return dayOf(n);
}

/** Working time of everybody from the beginning of a day on, in minutes from it. */
export function shopFrom(setup: ShopSetup, origin: string): Shop {
  const first = dayNumber(origin);
  const days = Array.from({ length: HORIZON_DAYS }, (_, d) => d);
  const off: Spans = days.flatMap((d): [number, number][] =>
    setup.holidays.some((h) => h.day === dayOf(first + d)) ? [[d * DAY_MIN, (d + 1) * DAY_MIN]] : [],
  );
  return {
    lifts: setup.lifts.map((l) => l.id),
    people: setup.people.map((p): Person => {
      const own: Spans = days.flatMap((d): [number, number][] => {
        const hours = p.week[weekday(first + d)];
        return hours ? [[d * DAY_MIN + hours[0], d * DAY_MIN + hours[1]]] : [];
      });
      const away: Spans = p.away
        .map((a): [number, number] => [(dayNumber(a.from) - first) * DAY_MIN, (dayNumber(a.to) - first + 1) * DAY_MIN])
        .filter(([s, e]) => e > s);
      return { id: p.id, skills: p.skills, working: without(without(own, off), away) };
    }),
  };
}

/** What only licensed people may do. */
export const LICENCE = "licence";

const onLift = (s: PlanStep): boolean => liftOf(s) === "up";

/** A job as the schedule sees it: what is left of its plan. */
export interface JobToPlan {
  readonly id: string;
  readonly plan: Pick<Plan, "steps">;
  readonly done: ReadonlySet<string>;
  readonly fromMin: number;
  /** parts are there; Infinity: nobody knows when */
  readonly partsMin: number;
  readonly promisedMin: number | undefined;
  readonly pinned: ShopJob["pinned"];
  /** it stands there, taken apart */
  readonly onLift: string | undefined;
}

/** Has a vehicle been taken apart, and must it stay where it is? Some step on the lift is done and some is left. */
export const standsApart = (plan: Pick<Plan, "steps">, done: ReadonlySet<string>): boolean =>
  plan.steps.some((s) => done.has(s.key) && s.removes && onLift(s)) &&
  plan.steps.some((s) => !done.has(s.key) && onLift(s));

/** What is left of a plan, as tasks. */
export function shopJob(j: JobToPlan): ShopJob {
  const left = j.plan.steps.filter((s) => !j.done.has(s.key));
  const keys = new Set(left.map((s) => s.key));
  const apart = standsApart(j.plan, j.done);
  // a vehicle is not taken apart, and takes up no lift, while a part is missing; one that is waits with what puts it together
  const held = (s: PlanStep) => !apart || s.undoneKey !== undefined;
  return {
    id: j.id,
    fromMin: j.fromMin,
    promisedMin: j.promisedMin,
    pinned: j.pinned,
    onLift: j.onLift,
    tasks: left.map(
      (s): Task => ({
        id: s.key,
        minutes: s.minutes,
        people: s.people ?? 1,
        lift: onLift(s),
        before: s.before.filter((b) => keys.has(b)),
        ...(s.hazards?.includes("licensed") ? { skill: LICENCE } : {}),
        ...(s.wait ? { wait: s.wait.minutes } : {}),
        ...(held(s) && j.partsMin > j.fromMin ? { notBeforeMin: j.partsMin } : {}),
      }),
    ),
  };
}
