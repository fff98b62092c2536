import type { Quantity } from "../quantity/index.ts";
import type { Analysis } from "./analysis.ts";
import { type AskedFor, notDrivenOf } from "./asked.ts";
import type { ByEvent, ByOccasion, ByState, Comparer, Occasion } from "./comparer.ts";
import { speedsSpoilt } from "./comparer.ts";
import { distinct } from "./distinct.ts";
import type { Finding, FindingKind } from "./finding.ts";
import { MEASURES } from "./measures.ts";
import { FEWEST_STRETCHES, occasionsNeeded, secondsNeeded, shownShare } from "./proof.ts";
import { type Change, changeOf } from "./signal/bootstrap.ts";
import { loadBand, temperatureBand } from "./signal/conditions.ts";
import { median, quantile } from "./signal/stats.ts";

/** "not shown yet": driven without the fault, and not often enough to call it gone. */
export type Verdict = "gone" | "not shown yet" | "better" | "same" | "worse" | "not exercised";

export interface GroupComparison {
  /** "gear 4, hard load, hot" */
  readonly label: string;
  readonly before: number;
  /** undefined when the second log has no counterpart */
  readonly after: number | undefined;
  readonly secondsAfter: number;
  /** with its interval; undefined without a counterpart */
  readonly change?: Change | undefined;
}

export interface FindingComparison {
  readonly findingId: string;
  readonly title: string;
  readonly verdict: Verdict;
  readonly measure: string;
  readonly quantity: Quantity;
  readonly limit: number | undefined;
  readonly groups: readonly GroupComparison[];
  readonly reason: string;
  /** what to drive until it can be told; undefined when it can */
  readonly drive: string | undefined;
}

export interface Comparison {
  readonly findings: readonly FindingComparison[];
  /** findings of the drives after that those before did not have */
  readonly fresh: readonly Finding[];
  /** conditions of the complaint itself that the drives after did not meet, in words */
  readonly complaintNotDriven: readonly string[];
  readonly sentence: string;
}

/** A change smaller than this share of the first value is called the same. */
const SAME_SHARE = 0.2;

const COMPARERS: ReadonlyMap<FindingKind, Comparer> = new Map(
  MEASURES.flatMap((m) => Object.entries(m.compares ?? {}) as [FindingKind, Comparer][]),
);

/**
 * Compares the drives before a repair with those after it, finding by finding, inside equal gear, load, temperature and
 * speed. What the drives after did not exercise, or could not show for want of a channel or of readings, never counts as
 * cured; gone is only what would have shown with 95 % had it been as before.
 * @param drivesBefore - at least one; several are pooled, the same log twice counts once
 * @param drivesAfter - the same
 * @param asked - what the customer complains of: a proof has to have been driven there
 */
export function compareDrives(
  drivesBefore: readonly Analysis[],
  drivesAfter: readonly Analysis[],
  asked: readonly AskedFor[] = [],
): Comparison {
  const [before, after] = [drivesBefore, drivesAfter].map((list) => distinct(list, (a) => a)) as [
    Analysis[],
    Analysis[],
  ];
  const first = new Map<string, Finding>();
  // of several drives the one that shows it most stands for it
  for (const a of before)
    for (const f of a.findings) {
      const known = first.get(f.id);
      if (!known || f.occurrences.length > known.occurrences.length) first.set(f.id, f);
    }
  const findings = [...first.values()].map((f) => compareOne(f, before, after));
  const fresh = new Map(
    after.flatMap((a) => a.findings.filter((f) => !first.has(f.id)).map((f) => [f.id, f] as const)),
  );
  return {
    findings,
    fresh: [...fresh.values()],
    complaintNotDriven: notDrivenOf(asked, after),
    sentence: sentence(findings, [...fresh.values()]),
  };
}

function compareOne(f: Finding, before: readonly Analysis[], after: readonly Analysis[]): FindingComparison {
  const comparer = COMPARERS.get(f.kind) as Comparer;
  const [figure] = f.measures;
  const base = {
    findingId: f.id,
    title: f.title,
    measure: comparer.measure ?? figure.name,
    quantity: comparer.quantity ?? figure.quantity,
    limit: comparer.limit ? comparer.limit(f) : f.limit?.value,
  };
  const seenAt = Math.min(...before.map((a) => a.rateHz));
  const lacking = after.map((a) => lack(comparer, f, a, seenAt));
  const fit = after.filter((_, i) => lacking[i] === undefined);
  if (fit.length === 0) {
    const why = lacking[0] as string;
    return { ...base, groups: [], verdict: "not exercised", reason: why, drive: `Drive again: ${why}` };
  }
  const limit = base.limit ?? 0;
  switch (comparer.by) {
    case "occasion":
      return { ...base, ...byOccasion(comparer, f, limit, before, fit) };
    case "event":
      return { ...base, ...byEvent(comparer, f, before, fit) };
    case "state":
      return { ...base, ...byState(comparer, f, limit, before, fit) };
  }
}

/** A log that is read more slowly than the first may miss what that one showed. */
const AS_FAST = 0.8;

function lack(comparer: Comparer, f: Finding, a: Analysis, seenAtHz: number): string | undefined {
  const needed = Math.max(comparer.rateHz, AS_FAST * Math.min(seenAtHz, 20));
  if (a.rateHz < needed)
    return `the log has ${a.rateHz.toFixed(0)} readings a second and ${Math.ceil(needed)} are needed; log fewer channels`;
  if (comparer.ofSpeeds && a.derived.length > 0)
    return `${a.derived.map((id) => id.replace("_rpm", " speed")).join(" and ")} was not recorded, and a calculated one proves nothing`;
  const spoilt = f.kind === "drop-out" || f.kind === "sensor-ripple" ? undefined : speedsSpoilt(a);
  if (spoilt) return `${spoilt}: nothing measured with it counts; fix that first`;
  return comparer.lacks?.(a, f);
}

type Judged = Pick<FindingComparison, "groups" | "verdict" | "reason" | "drive">;

/** Conditions this near are the same. */
const NEAR_LOAD = 0.12;
const NEAR_C = 12;
const NEAR_KMH = 12;
const NEAR_SHARE = 0.2;

/** Under the load at which it showed by no more than this: less proves nothing. */
const LESS_LOAD = 0.03;
const MORE_LOAD = 0.2;

/** @param a - with the fault, @param b - another: could it have shown there as well? */
function near(a: Occasion, b: Occasion, harder: boolean): boolean {
  const within = (x: number | undefined, y: number | undefined, by: number) =>
    x === undefined ? true : y !== undefined && Math.abs(x - y) <= by;
  return (
    a.at === b.at &&
    (harder && a.load !== undefined && b.load !== undefined
      ? b.load > a.load - LESS_LOAD && b.load < a.load + MORE_LOAD
      : within(a.load, b.load, NEAR_LOAD)) &&
    within(a.fluidC, b.fluidC, NEAR_C) &&
    within(a.vehicleKmh, b.vehicleKmh, Math.max(NEAR_KMH, NEAR_SHARE * (a.vehicleKmh ?? 0)))
  );
}

const loadText = (load: number | undefined) => {
  const band = loadBand(load);
  return band === "unknown" ? [] : [band === "coast" ? band : `${band} load`];
};
const labelOf = (o: Occasion): string => {
  const temperature = temperatureBand(o.fluidC);
  return [o.at, ...loadText(o.load), ...(temperature === "unknown" ? [] : [temperature])].join(", ");
};

function grouped(list: readonly Occasion[]): Map<string, number[]> {
  const out = new Map<string, number[]>();
  for (const o of list) {
    const own = out.get(labelOf(o)) ?? [];
    own.push(o.value);
    out.set(labelOf(o), own);
  }
  return out;
}

/** With so many occasions a single value over the limit is a bump of the road. */
const ROAD_BUMPS_OF = 20;
/** of a fault that came more often than not */
const MOSTLY = 0.6;

function byOccasion(
  comparer: ByOccasion,
  f: Finding,
  limit: number,
  before: readonly Analysis[],
  after: readonly Analysis[],
): Judged {
  const together = comparer.together ?? 1;
  const first = before.flatMap((a) => comparer.occasions(a, f));
  const bad = first.filter((o) => Math.abs(o.value) > limit);
  const around = (o: Occasion) => bad.some((b) => near(b, o, comparer.harder === true));
  const alike = first.filter(around);
  const matched = after.flatMap((a) => comparer.occasions(a, f)).filter(around);
  const worse = matched.filter((o) => Math.abs(o.value) > limit);
  const values = grouped(matched);
  const groups = [...grouped(alike)].map(([label, own]): GroupComparison => {
    const twin = values.get(label);
    return {
      label,
      before: quantile(own, comparer.share),
      after: twin && quantile(twin, comparer.share),
      secondsAfter: twin?.length ?? 0,
      change: twin && changeOf(own, twin, comparer.share),
    };
  });
  const share = shownShare(bad.length, alike.length);
  const needed = occasionsNeeded(share, together > 1 ? FEWEST_STRETCHES : undefined) * together;
  const where = [...new Set(bad.map(labelOf))].slice(0, 3).join("; ");
  const unit = together > 1 ? "s" : "times";
  if (matched.length === 0)
    return {
      groups,
      verdict: "not exercised",
      reason: "not driven under these conditions",
      drive: `Drive ${where}, ${needed} ${unit} or more`,
    };
  const cured =
    worse.length === 0 ||
    (share > MOSTLY && matched.length >= ROAD_BUMPS_OF && worse.length <= matched.length / ROAD_BUMPS_OF);
  if (cured && matched.length < needed) {
    const more = needed - matched.length;
    return {
      groups,
      verdict: "not shown yet",
      reason: `not seen in ${matched.length} ${together > 1 ? "s" : matched.length === 1 ? "time" : "times"} under the same conditions; it showed in ${bad.length} of ${alike.length} before`,
      drive: `Drive ${where}, ${more} ${together > 1 ? "s" : more === 1 ? "time" : "times"} more`,
    };
  }
  if (cured)
    return {
      groups,
      verdict: "gone",
      reason: `at or under the limit in ${matched.length - worse.length} of ${matched.length} under the same conditions; it was over it in ${bad.length} of ${alike.length}`,
      drive: undefined,
    };
  const size = (list: readonly Occasion[]) =>
    quantile(
      list.map((o) => Math.abs(o.value)),
      comparer.share,
    );
  const often = worse.length / matched.length / (bad.length / alike.length);
  const change = size(matched) / Math.max(size(alike), 1e-9) - 1;
  const told = changeOf(
    alike.map((o) => Math.abs(o.value)),
    matched.map((o) => Math.abs(o.value)),
    comparer.share,
  );
  const chance = told.interval !== undefined && told.interval[0] <= 0 && told.interval[1] >= 0;
  return { groups, drive: undefined, ...bySize(change, chance, often) };
}

/** How seldom it must have become to be better, though it is as large when it comes. */
const SELDOM = 0.4;

function bySize(change: number, chance: boolean, often = 1): Pick<Judged, "verdict" | "reason"> {
  const percent = Math.round(Math.abs(change) * 100);
  if (often < SELDOM) return { verdict: "better", reason: "comes less often, still over the limit when it does" };
  if (chance && Math.abs(change) > SAME_SHARE)
    return {
      verdict: "same",
      reason: `${change < 0 ? "lower" : "higher"} by ${percent} %, which may be chance: drive more`,
    };
  if (change < -SAME_SHARE) return { verdict: "better", reason: `lower by ${percent} %, still over the limit` };
  if (change > SAME_SHARE) return { verdict: "worse", reason: `higher by ${percent} %` };
  return { verdict: "same", reason: `within ${Math.round(SAME_SHARE * 100)} % of the drive before` };
}

/** Less driving tells nothing, whatever the rate. */
const LEAST_DRIVEN_S = 60;
const minutes = (s: number) => `${Math.max(1, Math.ceil(s / 60))} min`;

/** So many kinds of driving are named at once. */
const NAMED = 3;

/** Driving of a kind that was hardly done before need not be done again. */
const WORTH_DRIVING_S = 2;

function byEvent(comparer: ByEvent, f: Finding, before: readonly Analysis[], after: readonly Analysis[]): Judged {
  const events = (list: readonly Analysis[]) => list.reduce((s, a) => s + comparer.events(a, f), 0);
  const exposure = (list: readonly Analysis[]) => {
    const out = new Map<string, number>();
    for (const a of list)
      for (const [kind, s] of Object.entries(comparer.exposureS(a, f))) out.set(kind, (out.get(kind) ?? 0) + s);
    return out;
  };
  const [was, is] = [events(before), events(after)];
  const [wasS, isS] = [exposure(before), exposure(after)];
  const all = (m: ReadonlyMap<string, number>) => [...m.values()].reduce((s, x) => s + x, 0);
  const groups: GroupComparison[] = [
    { label: comparer.driving, before: was, after: all(isS) > 0 || is > 0 ? is : undefined, secondsAfter: all(isS) },
  ];
  if (is > 0) {
    const often = is / Math.max(all(isS), 1) / (Math.max(1, was) / Math.max(all(wasS), 1));
    return { groups, drive: undefined, ...byRate(often) };
  }
  // any of the kinds of driving may have brought it: each is to be driven as much longer
  const lacking = [...wasS]
    .filter(([, s]) => s >= WORTH_DRIVING_S)
    .map(([kind, s]) => ({ kind, s: secondsNeeded(Math.max(1, was), s) - (isS.get(kind) ?? 0) }))
    .filter(({ s }) => s > 0);
  const least = (comparer.leastS ?? LEAST_DRIVEN_S) - all(isS);
  const came = `before it came ${was === 1 ? "once" : `${was} times`} in ${minutes(all(wasS))}`;
  const more = lacking
    .sort((a, b) => b.s - a.s)
    .slice(0, NAMED)
    .map(({ kind, s }) => `${kind} for ${minutes(s)}`)
    .join("; ");
  if (!(all(isS) > 0))
    return {
      groups,
      verdict: "not exercised",
      reason: "not driven under these conditions",
      drive: `Drive ${comparer.driving}${more ? `: ${more}` : ""}`,
    };
  if (lacking.length > 0 || least > 0)
    return {
      groups,
      verdict: "not shown yet",
      reason: `not seen in ${minutes(all(isS))}; ${came}`,
      drive: `Drive ${comparer.driving}, ${more || `for ${minutes(least)}`} more`,
    };
  return { groups, verdict: "gone", reason: `not seen in ${minutes(all(isS))}; ${came}`, drive: undefined };
}

const MORE_SELDOM = 0.5;
const MORE_OFTEN = 2;

function byRate(often: number): Pick<Judged, "verdict" | "reason"> {
  if (often < MORE_SELDOM) return { verdict: "better", reason: "comes less often, but still comes" };
  if (often > MORE_OFTEN) return { verdict: "worse", reason: "comes more often" };
  return { verdict: "same", reason: "comes about as often as before" };
}

/** A figure just under its limit may be over it on the next drive. */
const CLEARLY_UNDER = 0.95;

function byState(
  comparer: ByState,
  f: Finding,
  limit: number,
  before: readonly Analysis[],
  after: readonly Analysis[],
): Judged {
  const states = (list: readonly Analysis[]) => list.flatMap((a) => comparer.state(a, f) ?? []);
  const [was, is] = [states(before), states(after)];
  const first = median(was.map((s) => s.value));
  const seconds = is.reduce((s, x) => s + x.seconds, 0);
  const second = is.length > 0 ? median(is.map((s) => s.value)) : undefined;
  const groups: GroupComparison[] = [
    {
      label: comparer.label,
      before: first,
      after: second,
      secondsAfter: seconds,
      change:
        second === undefined
          ? undefined
          : changeOf(
              was.map((s) => s.value),
              is.map((s) => s.value),
              0.5,
            ),
    },
  ];
  if (second === undefined)
    return {
      groups,
      verdict: "not exercised",
      reason: "not driven under these conditions",
      drive: `Drive ${comparer.label} again`,
    };
  if (second <= limit && (seconds < comparer.leastS || second > CLEARLY_UNDER * limit))
    return {
      groups,
      verdict: "not shown yet",
      reason:
        second > CLEARLY_UNDER * limit
          ? "just under its limit"
          : `${seconds.toFixed(0)} s of it, ${comparer.leastS} are needed`,
      drive: `Drive ${comparer.label} once more`,
    };
  if (second <= limit && comparer.fallsTo !== undefined && second > comparer.fallsTo * first)
    return {
      groups,
      verdict: "not shown yet",
      reason: "under its limit, and not far enough under what it was: it differs that much from road to road",
      drive: `Drive ${comparer.label} once more, on the same road`,
    };
  if (second <= limit) return { groups, verdict: "gone", reason: "under its limit", drive: undefined };
  return { groups, drive: undefined, ...bySize(second / Math.max(first, 1e-9) - 1, false) };
}

/** One sentence for the owner of the vehicle. */
function sentence(list: readonly FindingComparison[], fresh: readonly Finding[]): string {
  const count = (v: Verdict) => list.filter((f) => f.verdict === v).length;
  const parts: string[] = [];
  const total = list.length;
  if (total === 0) parts.push("The first log had no finding to compare");
  else if (count("gone") === total)
    parts.push(
      total === 1
        ? "The fault found before the repair is gone under the same conditions"
        : `All ${total} findings from before the repair are gone under the same conditions`,
    );
  else {
    const say = (v: Verdict, words: string) => count(v) > 0 && parts.push(`${count(v)} of ${total} ${words}`);
    say("gone", "gone");
    say("not shown yet", "not shown again yet: drive on before signing off");
    say("better", "better");
    say("same", "unchanged");
    say("worse", "worse");
    say("not exercised", "not exercised: drive it before signing off");
  }
  if (fresh.length > 0) parts.push(`${fresh.length} new: ${fresh.map((f) => f.title).join(", ")}`);
  return `${parts.join("; ")}.`;
}
