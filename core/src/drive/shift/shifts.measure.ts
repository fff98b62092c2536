import type { Quantity } from "../../quantity/index.ts";
import { gearByName, type ShiftLimit } from "../../unit/index.ts";
import type { Analysis } from "../analysis.ts";
import type { ByOccasion } from "../comparer.ts";
import { confidence, type Finding, type FindingKind, range } from "../finding.ts";
import type { Limp } from "../gear/limp.ts";
import { type Limit, type LimitSource, limitsOf, TYPICAL } from "../limits.ts";
import type { Add, Drive, Measure } from "../measure.ts";
import { gearOutcomes } from "../outcomes.ts";
import { sensorMask } from "../sensors/mask.ts";
import { rippleReachRpm } from "../sensors/quality.ts";
import type { Frame } from "../signal/frame.ts";
import { median, within } from "../signal/stats.ts";
import { findShifts, type Shift } from "./shifts.ts";
import { timings } from "./timing.ts";
import { type BesideUsual, besideUsual, isTimed } from "./usual.ts";

/** Shafts vibrate for so long after a shift or a launch. */
export const AFTER_SHIFT_S = 0.6;
/** On the way into limp mode shifts say nothing. */
const BEFORE_LIMP_S = 3;
const MIN_SHIFTS = 2;
const HARSH_MANY = 3;
/** Of one kind of shift, before it is called harsh: the road jolts too. */
const MIN_JOLTS = 3;
/** A single shift over the limit is a fault when it is this much over; shifts that are too quick when this much under. */
const CLEARLY = 1.4;

export const shifts: Measure<"shifts"> = {
  id: "shifts",
  measure: (drive) => findShifts(drive.frame, sensorMask(drive)),
  findings: ({ shifts: found, limp, held, ripples }, { frame }) =>
    shiftFindings(
      frame,
      found,
      limp,
      new Set(held.gears.filter((g) => g.slipping.length > 0).map((g) => g.gear)),
      (gear) => rippleReachRpm(ripples, gearByName(frame.unit, gear)?.ratio ?? 1),
    ),
  compares: {
    flare: ofShifts(10, (s) => (s.measured && s.underPower ? s.flareRpm : undefined)),
    "slow-shift": ofShifts(8, (s) => (s.measured ? s.inertiaS : undefined)),
    "late-shift": ofShifts(8, (s) => (s.measured ? s.delayS : undefined)),
    "quick-shift": {
      ...ofShifts(10, (s, f) =>
        isTimed(s) && s.inertiaS !== undefined ? Math.max(0, (f.limit?.value ?? 0) - s.inertiaS) : undefined,
      ),
      measure: "inertia phase too short by",
      quantity: "duration",
      limit: () => 0,
    },
    "harsh-shift": ofShifts(10, (s) => (s.measured ? s.joltRpmPerS : undefined)),
    "failed-shift": ofShifts(4, (s) => (s.completed ? 0 : 1)),
  },
  evidence: (_unit, analysis, add) => shiftEvidence(analysis, add),
  together: timings,
};

/** Shifts of one kind, each by its load and the warmth of the fluid. */
function ofShifts(rateHz: number, of: (s: Shift, finding: Finding) => number | undefined): ByOccasion {
  return {
    by: "occasion",
    share: 0.5,
    ofSpeeds: true,
    rateHz,
    occasions: ({ shifts: list, limp: found }, finding) =>
      list.flatMap((s) => {
        const value = of(s, finding);
        if (
          s.name !== finding.subject.shift ||
          value === undefined ||
          (found && s.commandS >= found.startS - BEFORE_LIMP_S)
        )
          return [];
        return [{ at: `shift ${s.name}`, value, load: s.load, fluidC: s.fluidC }];
      }),
  };
}

/** 1 while a gear changes and the shafts still vibrate from it; length of the frame. */
export const shifting = (drive: Drive): Uint8Array =>
  drive.once(shifting, () =>
    within(
      drive.frame.timeS,
      drive.of(shifts).map((s) => [s.commandS - 0.1, s.endS + AFTER_SHIFT_S]),
    ),
  );

/** Beyond what is usual, s: later or longer than this is told by the foot. */
const LATE_S = 0.15;
const LONG_S = { "unit file": 0.25, "this drive": 0.32 } as const;
/** Shorter than this share of what is usual the clutch grabs. */
const SHORT_SHARE = 0.5;
/** Below it an inertia phase is read off too few samples. */
const QUICK_RATE_HZ = 10;
/** the other shifts of a drive say little of one with a larger step: more room */
const LONG_FACTOR = { "unit file": 1.8, "this drive": 2.1 } as const;

/**
 * From when on a shift is late or long: what the unit file allows, or less where it is known what is usual for the unit, or
 * what the drive's other shifts do. From when on it is over too quickly: half of what is usual for the unit, else the lower
 * limit.
 */
function limitsBeside(limit: ShiftLimit, source: LimitSource, beside: readonly BesideUsual[]) {
  const usual = (of: "delay" | "inertia") => beside.find((b) => b[of])?.[of];
  const stricter = (value: number, own: number | undefined, from: LimitSource | undefined): Limit =>
    own !== undefined && from && own < value ? { value: own, source: from } : { value, source };
  const [delay, inertia] = [usual("delay"), usual("inertia")];
  return {
    latest: stricter(limit.delayS, delay && delay.usualS + LATE_S, delay?.from),
    longest: stricter(
      limit.inertiaS[1],
      inertia && Math.max(inertia.usualS + LONG_S[inertia.from], LONG_FACTOR[inertia.from] * inertia.usualS),
      inertia?.from,
    ),
    shortest:
      inertia?.from === "unit file"
        ? ({ value: SHORT_SHARE * inertia.usualS, source: "unit file" } satisfies Limit)
        : { value: limit.inertiaS[0], source },
  };
}

/**
 * @param slipping - gears that slip: a shift into one of them says little of its own
 * @param reachRpm - how far a sensor that ripples takes a speed off the line of a gear: so much isn’t a flare
 */
function shiftFindings(
  frame: Frame,
  shifts: readonly Shift[],
  limp: Limp | undefined,
  slipping: ReadonlySet<string>,
  reachRpm: (gear: string) => number,
): Finding[] {
  const limits = limitsOf(frame.unit);
  const byName = new Map<string, Shift[]>();
  const normal = shifts.filter((s) => !limp || s.commandS < limp.startS - BEFORE_LIMP_S);
  for (const s of normal) byName.set(s.name, [...(byName.get(s.name) ?? []), s]);
  const out: Finding[] = [];
  const usualOf = besideUsual(frame.unit, normal);
  for (const [name, list] of byName) {
    const { limit, source } = limits.shift(name);
    const judged = limitsBeside(limit, source, list.map(usualOf));
    const subject = { shift: name };
    const failed = list.filter((s) => !s.completed);
    const add = (
      kind: FindingKind,
      title: string,
      hits: readonly Shift[],
      of: (s: Shift) => number,
      measure: string,
      quantity: Quantity,
      value: number,
      from = source,
    ) => {
      if (hits.length === 0) return;
      const isFault = () => {
        if (slipping.has(list[0]?.to ?? "")) return false;
        if (kind === "quick-shift") return median(hits.map(of)) * CLEARLY < value;
        if (hits.length * 2 <= list.length) return false;
        return hits.length > 1
          ? median(list.filter((s) => s.measured).map(of)) > value
          : of(hits[0] as Shift) > CLEARLY * value;
      };
      const rate = kind === "flare" ? 10 : 8;
      out.push({
        id: `${kind}:${name}`,
        kind,
        title,
        subject,
        severity: kind !== "harsh-shift" && isFault() ? "fault" : "notice",
        startS: hits[0]?.commandS ?? 0,
        endS: hits.at(-1)?.endS ?? 0,
        occurrences: hits.map((s) => ({ startS: s.commandS, endS: s.endS, value: of(s) })),
        conditions: {
          gears: [list[0]?.to ?? ""],
          torqueNm: range(hits.map((s) => s.torqueNm)),
          fluidC: range(hits.map((s) => s.fluidC)),
        },
        measures: [
          { name: measure, value: median(hits.map(of)), quantity },
          { name: "shifts over the limit", value: hits.length, quantity: "count" },
          { name: "shifts made", value: list.length, quantity: "count" },
        ],
        limit: { value, quantity, source: from },
        confidence: confidence(frame, hits.length, hits.length * 2, rate),
      });
    };
    if (failed.length > 0) {
      const got = failed.find((s) => s.obtained)?.obtained;
      out.push({
        id: `failed-shift:${name}`,
        kind: "failed-shift",
        title: `Shift ${name} is commanded and not made${got ? `; gear ${got} stays` : ""}`,
        subject,
        severity: "fault",
        startS: failed[0]?.commandS ?? 0,
        endS: failed.at(-1)?.endS ?? 0,
        occurrences: failed.map((s) => ({ startS: s.commandS, endS: s.endS, value: 1 })),
        conditions: {
          gears: [list[0]?.to ?? ""],
          torqueNm: range(failed.map((s) => s.torqueNm)),
          fluidC: range(failed.map((s) => s.fluidC)),
        },
        measures: [{ name: "failed", value: failed.length, quantity: "count" }],
        limit: { value: 0, quantity: "count", source },
        confidence: confidence(frame, failed.length, failed.length * 2, 4),
      });
    }
    const measured = list.filter((s) => s.measured);
    const flareRpm = limit.flareRpm + Math.max(reachRpm(list[0]?.from ?? ""), reachRpm(list[0]?.to ?? ""));
    add(
      "flare",
      `Flare in shift ${name}`,
      measured.filter((s) => s.underPower && (s.flareRpm ?? 0) > flareRpm),
      (s) => s.flareRpm ?? 0,
      "flare",
      "speed-rpm",
      flareRpm,
    );
    const jolts = measured.filter((s) => s.joltRpmPerS !== undefined);
    const jolt = median(jolts.map((s) => s.joltRpmPerS ?? 0));
    if (jolts.length >= MIN_JOLTS && jolt > TYPICAL.joltRpmPerS)
      add(
        "harsh-shift",
        `Shift ${name} is harsh`,
        jolts.filter((s) => (s.joltRpmPerS ?? 0) > TYPICAL.joltRpmPerS),
        (s) => s.joltRpmPerS ?? 0,
        "change of the output's acceleration",
        "speed-rate",
        TYPICAL.joltRpmPerS,
        "typical",
      );
    const timed = frame.rateHz >= QUICK_RATE_HZ ? measured.filter(isTimed) : [];
    const quick = timed.filter((s) => (s.inertiaS ?? Infinity) < judged.shortest.value);
    // the road jolts too: now and then one is short by chance
    if (timed.length >= MIN_JOLTS && quick.length * 2 > timed.length)
      add(
        "quick-shift",
        `Shift ${name} is harsh: over too quickly`,
        quick,
        (s) => s.inertiaS ?? 0,
        "inertia phase",
        "duration",
        judged.shortest.value,
        judged.shortest.source,
      );
    add(
      "slow-shift",
      `Shift ${name} takes long`,
      measured.filter((s) => (s.inertiaS ?? 0) > judged.longest.value),
      (s) => s.inertiaS ?? 0,
      "inertia phase",
      "duration",
      judged.longest.value,
      judged.longest.source,
    );
    add(
      "late-shift",
      `Shift ${name} answers late`,
      measured.filter((s) => (s.delayS ?? 0) > judged.latest.value),
      (s) => s.delayS ?? 0,
      "delay",
      "duration",
      judged.latest.value,
      judged.latest.source,
    );
  }
  return out;
}

const HARSH: ReadonlySet<FindingKind> = new Set(["harsh-shift", "quick-shift"]);
const WORSE = ["clean", "late", "flares", "fails"] as const;
const SHIFT_WORDS = { clean: "clean", late: "comes late", flares: "flares or takes long", fails: "fails" } as const;

function shiftEvidence(analysis: Analysis, add: Add): void {
  const outcomes = gearOutcomes(analysis);
  const byShift = new Map<string, { counts: Record<(typeof WORSE)[number], number>; measured: number }>();
  for (const s of analysis.shifts) {
    if (!s.measured || !s.underPower || Number(s.to) < Number(s.from)) continue;
    const entry = byShift.get(s.name) ?? { counts: { clean: 0, late: 0, flares: 0, fails: 0 }, measured: 0 };
    entry.measured++;
    byShift.set(s.name, entry);
  }
  for (const f of analysis.findings) {
    const entry = f.subject.shift ? byShift.get(f.subject.shift) : undefined;
    if (!entry) continue;
    const { counts } = entry;
    if (f.kind === "flare" || f.kind === "slow-shift") counts.flares += f.occurrences.length;
    if (f.kind === "failed-shift") counts.fails += f.occurrences.length;
    if (f.kind === "late-shift") counts.late += f.occurrences.length;
  }
  // a shift into a gear that slips anyway says nothing new about it
  for (const [name, { counts, measured }] of byShift) {
    const bad = counts.late + counts.flares + counts.fails;
    if (measured + counts.fails < MIN_SHIFTS || outcomes[name.split("-")[1] ?? ""] === "bad") continue;
    // sometimes so, sometimes so: it tells neither way
    if (bad > 0 && bad * 2 < measured) continue;
    const outcome =
      bad === 0
        ? "clean"
        : WORSE.reduce((a, b) => (counts[b] * 2 >= bad && counts[b] > 0 ? b : a), "late" as (typeof WORSE)[number]);
    add("shift", name, { shift: name }, outcome, `Shift ${name} ${SHIFT_WORDS[outcome]}`, outcome !== "clean");
  }
  if (byShift.size > 0) {
    const harsh = new Set(analysis.findings.filter((f) => HARSH.has(f.kind)).map((f) => f.subject.shift));
    const outcome = harsh.size === 0 ? "none" : harsh.size < HARSH_MANY ? "some" : "many";
    add(
      "harsh",
      "all",
      {},
      outcome,
      harsh.size === 0 ? "No harsh shift" : `Harsh: ${[...harsh].join(", ")}`,
      outcome !== "none",
    );
  }
}
