import { componentName, elementsIn, gearCode, type Unit, type Usual, type UsualTimes } from "../../unit/index.ts";
import type { AnalysedLog } from "../analysis.ts";
import { limitsOf } from "../limits.ts";
import type { DriveEvidence } from "../measure.ts";
import { gearOutcomes } from "../outcomes.ts";
import { median, quantile } from "../signal/stats.ts";
import type { Engagement } from "../standstill/standstill.ts";
import type { Shift } from "./shifts.ts";
import { bandTimeS, besideUsual, type FluidBand, fluidBand } from "./usual.ts";

const BANDS: readonly FluidBand[] = ["cold", "warm"];

/** Outcomes by how far a median lies from the usual one: each up to its limit, s; the last has none. */
type Steps = readonly (readonly [outcome: string, upToS: number])[];
/**
 * Sound units of a kind lie within 0.02 s of one another. A leaking circuit or a worn bore answers some hundredths later,
 * a spool that sticks by tenths.
 */
const DELAY: Steps = [
  ["early", -0.025],
  ["usual", 0.025],
  ["later", 0.1],
  ["late", 0.2],
  ["very-late", Number.POSITIVE_INFINITY],
];
/** Pressure too high ends it early; worn linings and wrong fluid draw it out, cold as well as warm. */
const INERTIA: Steps = [
  ["quick", -0.05],
  ["usual", 0.02],
  ["longer", 0.11],
  ["long", Number.POSITIVE_INFINITY],
];
const ENGAGE: Steps = [
  ["early", -0.04],
  ["usual", 0.03],
  ["later", 0.11],
  ["late", 0.5],
  ["very-late", Number.POSITIVE_INFINITY],
];
/** Outcomes that no sound unit shows. */
const ABNORMAL: ReadonlySet<string> = new Set(["late", "very-late", "long", "quick"]);

const WORDS: Readonly<Record<string, string>> = {
  early: "earlier than usual",
  usual: "as usual",
  later: "somewhat later than usual",
  late: "later than usual",
  "very-late": "far later than usual",
  quick: "quicker than usual",
  longer: "longer than usual",
  long: "far longer than usual",
};

/** Kinds of shift of one sound vehicle lie within so much of each other, s. */
const OWN_SPREAD_S = 0.07;
/** What is left of a difference beyond a spread that says nothing. */
const beyond = (x: number, spread: number): number => Math.sign(x) * Math.max(0, Math.abs(x) - spread);

/**
 * How far vehicles of one kind are set up differently, by the aim of their controllers, worn valves, fluid: all answer so
 * many seconds sooner or later; all inertia phases take such a share less or more.
 */
const SETTING = { delay: 0.03, inertia: 0.3 } as const;
const LEAST_KINDS = 3;
const within = (x: number, most: number): number => Math.max(-most, Math.min(most, x));

/** One shift tells little. */
const LEAST_SHIFTS = 2;
/** Times are read to a fraction of a sample where there are so many of them. */
const LEAST_RATE_HZ = 10;
/** An engagement that never came within the search is so late, s. */
const NEVER_S = 4;

const stepOf = (steps: Steps, excessS: number) => (steps.find(([, upTo]) => excessS < upTo) as Steps[number])[0];

/** A speed that is not to be believed gives times that are not. */
const believed = ({ analysis }: AnalysedLog) =>
  analysis.rateHz >= LEAST_RATE_HZ &&
  !analysis.findings.some((f) => f.kind === "sensor-ripple" || (f.kind === "drop-out" && f.severity === "fault"));

/** Power upshifts whose times mean something: out of a gear that holds, before limp mode. */
function timedShifts({ analysis }: AnalysedLog): (Shift & { readonly fluidC: number })[] {
  const outcomes = gearOutcomes(analysis);
  const untilS = analysis.limp?.startS ?? Number.POSITIVE_INFINITY;
  return analysis.shifts.filter(
    (s): s is Shift & { fluidC: number } =>
      s.measured &&
      s.completed &&
      s.underPower &&
      gearCode(s.to) > gearCode(s.from) &&
      s.fluidC !== undefined &&
      s.commandS < untilS &&
      outcomes[s.from] !== "bad",
  );
}

function timedEngagements({ analysis }: AnalysedLog): (Engagement & { readonly fluidC: number })[] {
  const untilS = analysis.limp?.startS ?? Number.POSITIVE_INFINITY;
  return analysis.engagements.filter(
    (e): e is Engagement & { fluidC: number } => e.fluidC !== undefined && e.commandS < untilS,
  );
}

const round = (s: number) => Math.round(s * 1000) / 1000;
/** Middle half over median: times that scatter more are of two kinds, and what lies between them is usual for none. */
const MOST_SCATTER = 1;
const agree = (times: readonly number[], least: number) =>
  times.length >= least && quantile(times, 0.75) - quantile(times, 0.25) <= MOST_SCATTER * median(times);
const medians = (cold: readonly number[], warm: readonly number[], least: number): UsualTimes => ({
  ...(agree(cold, least) ? { coldS: round(median(cold)) } : {}),
  ...(agree(warm, least) ? { warmS: round(median(warm)) } : {}),
});
const told = (t: UsualTimes) => t.coldS !== undefined || t.warmS !== undefined;

/** Usual times of a kind of unit: medians over the logs of sound ones, where they agree. @param least - readings below which none is stated */
export function usualTimes(logs: readonly AnalysedLog[], least = 5): Usual {
  const shifts = logs.flatMap(timedShifts);
  const names = [...new Set(shifts.map((s) => s.name))].sort((a, b) => Number.parseInt(a, 10) - Number.parseInt(b, 10));
  const of = <T extends { readonly fluidC: number }>(list: readonly T[], time: (x: T) => number | undefined) =>
    medians(
      ...(BANDS.map((b) => list.filter((x) => fluidBand(x.fluidC) === b).flatMap((x) => time(x) ?? [])) as [
        number[],
        number[],
      ]),
      least,
    );
  const timed = names.flatMap((name) => {
    const own = shifts.filter((s) => s.name === name);
    const [delay, inertia] = [of(own, (s) => s.delayS), of(own, (s) => s.inertiaS)];
    return told(delay) || told(inertia) ? [[name, { delay, inertia }] as const] : [];
  });
  const engagements = logs.flatMap(timedEngagements);
  const into = (["D", "R"] as const).flatMap((range) => {
    const own = of(
      engagements.filter((e) => e.range === range),
      (e) => e.delayS,
    );
    return told(own) ? [[range, own] as const] : [];
  });
  return { shifts: Object.fromEntries(timed), engagements: Object.fromEntries(into) };
}

/**
 * How soon each element answers, cold and warm, against what is usual for the unit: the median of (time − usual time) over
 * the power upshifts that apply it, or that release it, and over the engagements of D and R. Shifts out of a gear that slips
 * are left out: they have begun already. Where the unit file states no usual times shifts say nothing, and an engagement is
 * held against the limit.
 * @returns pieces of `delay-` and `inertia-` `cold`, `warm` and `release` by element, of `engage-cold` and `engage-warm` by
 * gear
 */
export function timings(unit: Unit, logs: readonly AnalysedLog[]): DriveEvidence[] {
  const [first] = logs;
  if (!first) return [];
  const { usual } = unit;
  const latestS = limitsOf(unit).engagementDelayS.value;
  const out: DriveEvidence[] = [];
  const add = (
    table: string,
    subject: DriveEvidence["subject"],
    steps: Steps,
    excessS: readonly number[],
    what: string,
  ) => {
    const outcome = stepOf(steps, median(excessS));
    out.push({
      id: `${first.logId}:${table}:${subject.component ?? subject.gear}`,
      table,
      subject,
      outcome,
      label: `${what} ${WORDS[outcome]}`,
      entryId: first.entryId,
      abnormal: ABNORMAL.has(outcome),
    });
  };
  const shifts = logs.filter(believed).flatMap(timedShifts);
  const engagements = logs.filter(believed).flatMap(timedEngagements);
  const moves = (from: string, to: string, id: string) =>
    elementsIn(unit, to).includes(id) && !elementsIn(unit, from).includes(id);
  const usualOf = new Map(
    logs.filter(believed).flatMap((log) => {
      const { shifts: all, limp } = log.analysis;
      const of = besideUsual(
        unit,
        all.filter((s) => !limp || s.commandS < limp.startS),
      );
      return timedShifts(log).map((s) => [s, of(s)] as const);
    }),
  );
  /**
   * What all kinds of shift of this vehicle have in common beyond the unit's usual times, as far as vehicles are set up
   * differently: of that no element is to blame. What goes beyond it stays (pressure, fluid).
   */
  const settings = new Map<string, number>();
  const per = (of: "delay" | "inertia", usualS: number) => (of === "inertia" ? usualS : 1);
  const ofSetting = (of: "delay" | "inertia", band: FluidBand): number => {
    const key = `${of} ${band}`;
    let found = settings.get(key);
    if (found === undefined) {
      const byName = new Map<string, number[]>();
      for (const [s, beside] of usualOf) {
        const found = beside[of];
        if (found?.from !== "unit file" || fluidBand(s.fluidC) !== band) continue;
        byName.set(s.name, [...(byName.get(s.name) ?? []), found.excessS / per(of, found.usualS)]);
      }
      const kinds = [...byName.values()].filter((own) => own.length >= LEAST_SHIFTS);
      found = kinds.length < LEAST_KINDS ? 0 : within(median(kinds.map(median)), SETTING[of]);
      settings.set(key, found);
    }
    return found;
  };
  /**
   * Each shift's time beyond what is usual for it. An element that answers as usual in one of its shifts is not late by
   * itself: what is usual somewhere counts.
   */
  const excess = (list: readonly (Shift & { readonly fluidC: number })[], of: "delay" | "inertia"): number[] => {
    const byName = new Map<string, number[]>();
    for (const s of list) {
      const found = usualOf.get(s)?.[of];
      if (!found) continue;
      const own = byName.get(s.name) ?? [];
      own.push(
        found.from === "unit file"
          ? found.excessS - ofSetting(of, fluidBand(s.fluidC)) * per(of, found.usualS)
          : beyond(found.excessS, OWN_SPREAD_S),
      );
      byName.set(s.name, own);
    }
    const kinds = [...byName.values()].filter((own) => own.length >= LEAST_SHIFTS);
    if (kinds.length < 2 || unit.usual) return [...byName.values()].flat();
    const mildest = Math.min(...kinds.map((own) => Math.abs(median(own))));
    return kinds.find((own) => Math.abs(median(own)) === mildest) as number[];
  };
  const tell = (of: "delay" | "inertia", excessS: readonly number[], end: string, id: string, name: string) => {
    if (excessS.length < LEAST_SHIFTS) return;
    if (of === "delay") add(`delay-${end}`, { component: id }, DELAY, excessS, `${name} answer`);
    else add(`inertia-${end}`, { component: id }, INERTIA, excessS, `${name} take`);
  };
  const both = (list: readonly (Shift & { readonly fluidC: number })[], end: string, id: string, name: string) => {
    tell("delay", excess(list, "delay"), end, id, name);
    tell("inertia", excess(list, "inertia"), end, id, name);
  };
  /**
   * Shifts out of an element, without those whose on-coming element is off in its other shifts as well, or has no others:
   * that one says so itself, and the same shift is not to count twice.
   */
  const outOf = (id: string, of: "delay" | "inertia", steps: Steps) => {
    const all = shifts.filter((s) => moves(s.to, s.from, id));
    const known = new Map<string, boolean>();
    const isOff = (other: string): boolean => {
      let off = known.get(other);
      if (off === undefined) {
        const into = shifts.filter((s) => moves(s.from, s.to, other));
        const others = excess(
          into.filter((s) => !moves(s.to, s.from, id)),
          of,
        );
        const own = others.length >= LEAST_SHIFTS ? others : excess(into, of);
        off = own.length >= LEAST_SHIFTS && stepOf(steps, median(own)) !== "usual";
        known.set(other, off);
      }
      return off;
    };
    return all.filter((s) => !unit.elements.some((e) => moves(s.from, s.to, e.id) && isOff(e.id)));
  };
  // a fork moves long before its clutch takes over
  for (const { id } of unit.elements.filter((e) => e.kind !== "fork")) {
    const name = componentName(unit, id);
    const into = shifts.filter((s) => moves(s.from, s.to, id));
    for (const band of BANDS)
      both(
        into.filter((s) => fluidBand(s.fluidC) === band),
        band,
        id,
        `Shifts into ${name}, ${band}:`,
      );
    const released = `Shifts out of ${name}:`;
    tell("delay", excess(outOf(id, "delay", DELAY), "delay"), "release", id, released);
    tell("inertia", excess(outOf(id, "inertia", INERTIA), "inertia"), "release", id, released);
  }
  for (const band of BANDS) {
    for (const range of ["D", "R"] as const) {
      const own = engagements.filter((e) => e.range === range && fluidBand(e.fluidC) === band);
      const expected = bandTimeS(usual?.engagements?.[range], band);
      const delays = own.map((e) => e.delayS ?? NEVER_S);
      const excess =
        expected === undefined ? delays.map((d) => (d > latestS ? d : 0)) : delays.map((d) => d - expected);
      if (own.length > 0)
        add(`engage-${band}`, { gear: range === "R" ? "R" : "1" }, ENGAGE, excess, `Engages ${range}, ${band}:`);
    }
  }
  return out;
}
