import type { PlanOfJob, WaysView, WeekView } from "@gearsense/contract";
import { chosenParts } from "@gearsense/core/bench";
import { foldJob, type JobState } from "@gearsense/core/job";
import {
  type Conditions,
  choicesOf,
  criticalPath,
  extrasOf,
  type OwnMinutes,
  ownMinutes,
  type Plan,
  planOf,
  scaled,
  suggestedOrder,
  timeLost,
} from "@gearsense/core/procedure";
import { jobCard, type PartLine, partsList, type Report } from "@gearsense/core/report";
import {
  DAY_MIN,
  dayNumber,
  dayOf,
  minutesTo,
  oddsBy,
  openDaysBefore,
  openDaysLater,
  promiseAt,
  type ShopSetup,
  shopFrom,
  shopJob,
  standsApart,
  timeAt,
} from "@gearsense/core/schedule";
import type { Unit } from "@gearsense/core/unit";
import type { ShopScope } from "../db/shop-scope.ts";
import { HttpError } from "../http/errors.ts";
import { doneOf } from "../jobs/plan.ts";
import type { createJobService } from "../jobs/service.ts";
import { createJobStore, type JobRecord } from "../jobs/store.ts";
import type { Library } from "../library/load.ts";
import type { WaysTask, WeekFound, WeekTask } from "./plan-thread.ts";
import { createPlanningStore } from "./store.ts";

export type CompareWays = (task: WaysTask, signal?: AbortSignal) => Promise<WaysView>;
export type MakeWeek = (task: WeekTask, signal?: AbortSignal) => Promise<WeekFound>;

/** Of a vehicle of which nobody said how old it is. */
const USUAL_AGE_YEARS = 10;
/** Jobs that are planned together at most: the newest decisions beyond them wait. */
const MOST_JOBS = 60;
/** Time lost at a step is told from here on, min. */
const WORTH_TELLING_MIN = 5;
const ROUND_MIN = 5;
const TWENTIETHS = 20;
/** Odds at which the shop may promise. */
const SURE = 0.9;

/** The plan with the shop's own minutes, and how many jobs speak of each. */
function inOwnMinutes(
  plan: Plan,
  taken: ReadonlyMap<string, readonly number[]>,
): { plan: Plan; own: Map<string, OwnMinutes> } {
  const own = new Map<string, OwnMinutes>();
  const steps = plan.steps.map((s) => {
    const ratios = (taken.get(s.key) ?? []).map((m) => m / Math.max(1, s.minutes[1]));
    if (ratios.length === 0) return s;
    const o = ownMinutes(ratios);
    own.set(s.key, o);
    const [a, b, c] = scaled(s.minutes, o);
    return { ...s, minutes: [Math.round(a * 10) / 10, Math.round(b * 10) / 10, Math.round(c * 10) / 10] as const };
  });
  return { plan: { ...plan, steps }, own };
}

/** Parts that were chosen on the bench, for the parts list. */
const benchLines = (state: JobState): PartLine[] =>
  chosenParts(state).map((c) => ({
    kind: "part",
    name: c.name,
    quantity: c.quantity,
    unit: "piece",
    alwaysNew: false,
    each: c.costEach,
    steps: ["Bench"],
  }));

/** The minute that the shop's clock shows, "2026-11-30T08:00". */
export function clock(now: Date): string {
  const two = (n: number) => String(n).padStart(2, "0");
  return `${now.getFullYear()}-${two(now.getMonth() + 1)}-${two(now.getDate())}T${two(now.getHours())}:${two(now.getMinutes())}`;
}

/** The day on which the last missing part is there; undefined: all are; null: nobody knows. @param today "2026-11-30" */
export function partsDay(setup: ShopSetup, state: JobState, today: string): string | null | undefined {
  const missing = (state.supply?.body.parts ?? []).filter((p) => p.cameOn === null);
  let latest: string | undefined;
  for (const p of missing) {
    const day =
      p.dueOn ?? (p.leadDays === null ? null : openDaysLater(setup, p.orderedOn ?? today, Math.ceil(p.leadDays)));
    if (day === null) return null;
    // what should have been there is looked for tomorrow
    const known = day < today ? openDaysLater(setup, today, 1) : day;
    if (latest === undefined || known > latest) latest = known;
  }
  return latest;
}

/** Plans of jobs, the ways to them, and the week of the shop. */
export function createPlanningService(
  jobs: ReturnType<typeof createJobService>,
  library: Library,
  compare: CompareWays,
  makeWeek: MakeWeek,
  now: () => Date,
) {
  const stateOf = async (scope: ShopScope, jobId: string) => foldJob(await jobs(scope).entries(jobId));
  const planned = (unit: Unit, state: JobState) => {
    const { decision, plan: chosen } = state;
    if (!decision)
      throw new HttpError(409, "nothing-decided", "Nothing is decided yet: the plan is made from the decision.");
    const repairs = decision.body.repairId.split("+");
    const { ways = [], extras = [] } = chosen?.body ?? {};
    return planOf(library.procedures, unit, repairs, ways, extras);
  };
  const conditionsOf = (record: JobRecord, state: JobState, setup: ShopSetup): Conditions => {
    const own = state.plan?.body;
    return {
      ageYears: own?.ageYears ?? USUAL_AGE_YEARS,
      odometerKm: record.odometerKm,
      rust: own?.rust ?? "light",
      helper: own?.helper ?? setup.people.length > 1,
      crane: own?.crane ?? setup.crane,
    };
  };

  return (scope: ShopScope) => {
    const store = createPlanningStore(scope);
    return {
      /** The plan of a job, with the unit as the job has it and the shop's own minutes. @throws HttpError 409 `nothing-decided` */
      async plan(jobId: string, ratePerH: number): Promise<PlanOfJob> {
        const record = await jobs(scope).record(jobId);
        const state = await stateOf(scope, jobId);
        const { plan: bare, without } = planned(record.unit, state);
        if (!bare)
          return { without: [...without], steps: [], order: [], totalMin: 0, ways: [], extras: [], criticalMin: 0 };
        const { setup } = await store.setup();
        const { plan, own } = inOwnMinutes(bare, await store.minutesTaken(jobId));
        const order = suggestedOrder(plan.steps);
        const path = criticalPath(plan.steps);
        const slack = new Map(path.bars.map((b) => [b.key, b.slackMin]));
        return {
          without: [...without],
          steps: plan.steps.map((s) => ({
            ...s,
            ...(own.has(s.key)
              ? { own: { jobs: own.get(s.key)?.jobs ?? 0, factor: own.get(s.key)?.factor ?? 1 } }
              : {}),
          })) as unknown as PlanOfJob["steps"],
          order: order.steps.map(({ liftTo, ...s }) => ({
            ...s,
            slackMin: slack.get(s.key) ?? 0,
            ...(liftTo ? { liftTo } : {}),
          })),
          totalMin: order.totalMin,
          criticalMin: path.totalMin,
          ways: choicesOf(library.procedures, record.unit, plan).map((c) => ({
            end: c.end,
            chosen: c.chosen.id,
            of: c.ways.map(({ id, title }) => ({ id, title })),
          })),
          extras: extrasOf(
            library.procedures,
            record.unit,
            plan,
            conditionsOf(record, state, setup),
            ratePerH,
            state.intake?.body.keepYears ?? null,
          ).map((e) => ({ ...e, parts: e.parts.map((p) => ({ ...p })) })),
        };
      },

      /** The ways to what was decided, on the same drawn jobs; computed in a thread. */
      async ways(jobId: string, ratePerH: number, signal?: AbortSignal): Promise<WaysView> {
        const record = await jobs(scope).record(jobId);
        const state = await stateOf(scope, jobId);
        const { plan } = planned(record.unit, state);
        const { setup } = await store.setup();
        return compare(
          {
            unit: record.unit,
            repairs: plan?.repairs ?? [],
            conditions: conditionsOf(record, state, setup),
            ratePerH,
          },
          signal,
        );
      },

      /** The plan on paper, and what has to be there for it. @throws HttpError 409 `no-plan` */
      async papers(
        jobId: string,
        system: "metric" | "imperial",
      ): Promise<{ card: Report; parts: PartLine[]; number: string }> {
        const record = await jobs(scope).record(jobId);
        const state = await stateOf(scope, jobId);
        const { plan } = planned(record.unit, state);
        if (!plan)
          throw new HttpError(409, "no-plan", "No procedure does what was decided: there is no plan to print.");
        const prices = new Map(library.procedures.flatMap((p) => (p.extra?.parts ?? []).map((x) => [x.name, x.cost])));
        return {
          number: record.number,
          parts: [...partsList(record.unit, plan, prices), ...benchLines(state)],
          card: jobCard({
            jobNumber: record.number,
            vehicle: record.vehicle,
            unit: record.unit,
            decided: state.decision?.body.title ?? "",
            plan,
            order: suggestedOrder(plan.steps).steps,
            done: doneOf(state),
            system,
            cautions: library.knowledge.cautions,
            standingCaution: library.knowledge.standingCaution,
          }),
        };
      },

      setup: store.setup,
      save: (setup: ShopSetup, baseSeq: number, author: string) => store.save(setup, baseSeq, author, now()),

      /** What the shop does from now on: who is where with which job, what is promised, what is late. */
      async week(signal?: AbortSignal): Promise<WeekView> {
        const { setup, seq } = await store.setup();
        const at = clock(now());
        const origin = at.slice(0, 10);
        // the same for some minutes, so that what one has asked is there for the next
        const nowMin = Math.floor(minutesTo(origin, at) / ROUND_MIN) * ROUND_MIN;
        const shop = shopFrom(setup, origin);
        const heads = (await createJobStore(scope).heads({ which: "open", find: "", limit: 500 })).filter(
          (h) => h.stage === "work",
        );
        const taken = await store.minutesTaken(undefined);
        const open = [];
        for (const head of heads.reverse().slice(0, MOST_JOBS)) {
          const record = await jobs(scope).record(head.id);
          const state = await stateOf(scope, head.id);
          if (!state.decision) continue;
          const { plan: bare } = planned(record.unit, state);
          if (!bare) continue;
          const { plan } = inOwnMinutes(bare, taken);
          const done = doneOf(state);
          if (plan.steps.every((s) => done.has(s.key))) continue;
          open.push({ head, record, state, plan, done, decidedAt: state.decision.at });
        }
        open.sort((a, b) => a.decidedAt.localeCompare(b.decidedAt));
        const free = [...shop.lifts];
        const list = open.map((o) => {
          const pin = setup.pins.find((p) => p.jobId === o.head.id);
          const parts = partsDay(setup, o.state, origin);
          const promised = o.state.promise?.body.at;
          const stands = standsApart(o.plan, o.done);
          const wanted = pin?.lift ?? undefined;
          const lift = stands ? (free.find((l) => l === wanted) ?? free[0]) : undefined;
          if (lift !== undefined) free.splice(free.indexOf(lift), 1);
          return {
            ...o,
            parts,
            job: shopJob({
              id: o.head.id,
              plan: o.plan,
              done: o.done,
              fromMin: nowMin,
              // a part comes in the course of the morning
              partsMin:
                parts === undefined
                  ? 0
                  : parts === null
                    ? Number.POSITIVE_INFINITY
                    : minutesTo(origin, `${parts}T10:00`),
              promisedMin: promised === undefined ? undefined : minutesTo(origin, promised),
              pinned: pin && {
                fromMin: Math.max(nowMin, minutesTo(origin, pin.fromAt)),
                ...(pin.lift === null ? {} : { lift: pin.lift }),
              },
              onLift: lift,
            }),
          };
        });
        const { schedule, ends } =
          list.length === 0
            ? { schedule: { slots: [], jobs: [] }, ends: [] }
            : await makeWeek({ shop, jobs: list.map((l) => l.job) }, signal);
        return {
          at,
          seq,
          setup: setup as WeekView["setup"],
          blocks: blocksOf(schedule.slots, origin),
          jobs: list.map((l, k) => {
            const found = schedule.jobs[k];
            const endMin = found?.endMin ?? Number.POSITIVE_INFINITY;
            const own = ends[k] ?? new Float64Array();
            const promised = l.state.promise?.body.at ?? null;
            const sureMin = own.length > 0 ? promiseAt(own, SURE) : Number.POSITIVE_INFINITY;
            const begins = schedule.slots.filter((s) => s.job === l.head.id).map((s) => s.startMin);
            const firstDay = begins.length > 0 ? timeAt(origin, Math.min(...begins)).slice(0, 10) : null;
            return {
              jobId: l.head.id,
              number: l.head.number,
              vehicle: l.head.vehicle.name,
              title: l.state.decision?.body.title ?? "",
              stepsDone: l.done.size,
              steps: l.plan.steps.length,
              readyAt: Number.isFinite(endMin) ? timeAt(origin, endMin) : null,
              sureAt: Number.isFinite(sureMin) ? timeAt(origin, sureMin) : null,
              ends: Array.from({ length: own.length > 0 ? TWENTIETHS - 1 : 0 }, (_, i) => {
                const min = promiseAt(own, (i + 1) / TWENTIETHS);
                return Number.isFinite(min) ? timeAt(origin, min) : null;
              }),
              promisedAt: promised,
              odds: promised === null || own.length === 0 ? null : oddsBy(own, minutesTo(origin, promised)),
              problem: found?.problem ?? null,
              partsOn: l.parts ?? null,
              waitsForParts: l.parts !== undefined,
              orders: (l.state.supply?.body.parts ?? [])
                .filter((p) => p.cameOn === null)
                .map((p) => ({
                  name: p.name,
                  orderedOn: p.orderedOn,
                  dueOn: p.dueOn,
                  orderBy:
                    p.orderedOn !== null || p.leadDays === null
                      ? null
                      : orderBy(setup, l.job.promisedMin, endMin, firstDay, origin, p.leadDays),
                })),
              lost: timeLost(
                l.plan.steps,
                l.state.steps.map((s) => s.body),
              )
                .lost.filter((t) => t.minutes - t.likelyMin >= WORTH_TELLING_MIN)
                .slice(0, 3)
                .map((t) => ({ title: t.title, minutes: t.minutes, likelyMin: t.likelyMin })),
            };
          }),
        };
      },
    };
  };
}

/** The last day to order a part so that what was promised can still be kept: as long before the promise as the work takes. */
function orderBy(
  setup: ShopSetup,
  promisedMin: number | undefined,
  endMin: number,
  firstDay: string | null,
  origin: string,
  leadDays: number,
): string | null {
  if (promisedMin === undefined || firstDay === null || !Number.isFinite(endMin)) return null;
  const workDays = Math.max(0, Math.ceil((endMin - minutesTo(origin, `${firstDay}T00:00`)) / DAY_MIN) - 1);
  const begin = openDaysBefore(setup, dayOf(dayNumber(origin) + Math.floor(promisedMin / DAY_MIN)), workDays);
  return openDaysBefore(setup, begin, Math.ceil(leadDays));
}

/** What somebody does on one job without a break, as one block. */
function blocksOf(slots: WeekFound["schedule"]["slots"], origin: string): WeekView["blocks"] {
  const GAP_MIN = 20;
  const blocks: {
    jobId: string;
    people: string[];
    lift: string | null;
    startMin: number;
    endMin: number;
    steps: string[];
  }[] = [];
  for (const s of [...slots].sort((a, b) => a.startMin - b.startMin)) {
    const people = [...s.people].sort();
    const last = blocks.findLast((b) => b.people.some((p) => people.includes(p)));
    if (
      last &&
      last.jobId === s.job &&
      last.people.join() === people.join() &&
      s.startMin - last.endMin <= GAP_MIN &&
      (last.lift === (s.lift ?? null) || s.lift === undefined)
    ) {
      last.endMin = s.endMin;
      last.steps.push(s.task);
    } else
      blocks.push({
        jobId: s.job,
        people,
        lift: s.lift ?? null,
        startMin: s.startMin,
        endMin: s.endMin,
        steps: [s.task],
      });
  }
  return blocks.map(({ startMin, endMin, ...b }) => ({
    ...b,
    startAt: timeAt(origin, startMin),
    endAt: timeAt(origin, endMin),
  }));
}
