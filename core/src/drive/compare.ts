import type { Quantity } from "../quantity/index.ts";
import { sensorValidIn, type Unit } from "../unit/index.ts";
import type { Analysis } from "./analysis.ts";
import { missingSlipPct } from "./converter/converter.measure.ts";
import { missingPct } from "./converter/pull.ts";
import { offCommand } from "./dual-clutch/pressures.ts";
import type { Finding } from "./finding.ts";
import type { Shift } from "./shift/shifts.ts";
import { type Change, changeOf } from "./signal/bootstrap.ts";
import { type Group, groupKey, loadBand, temperatureBand } from "./signal/conditions.ts";
import { median, quantile } from "./signal/stats.ts";
import { heldPct } from "./standstill/neutral.ts";

export type Verdict = "gone" | "better" | "same" | "worse" | "not exercised";

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
}

export interface Comparison {
  readonly findings: readonly FindingComparison[];
  /** findings of the second log that the first did not have */
  readonly fresh: readonly Finding[];
  readonly sentence: string;
}

/** A change smaller than this share of the first value is called the same. */
const SAME_SHARE = 0.2;
const MIN_SECONDS = 1.5;
const MIN_DRIVE_S = 60;
const MEDIAN = 0.5;
/** Slip and swings are judged by what they reach, not by their middle. */
const REACHED = 0.9;

const loadText = (load: Group["load"]) => (load === "coast" || load === "unknown" ? load : `${load} load`);

const describe = (g: Group) => {
  const parts = [`gear ${g.gear}`];
  if (g.load !== "unknown") parts.push(loadText(g.load));
  if (g.temperature !== "unknown") parts.push(g.temperature);
  return parts.join(", ");
};

/** What one drive measured in one condition. */
interface Sample {
  readonly values: readonly number[];
  readonly seconds: number;
}

function group(label: string, before: readonly number[], after: Sample | undefined, share: number): GroupComparison {
  const driven = after && after.values.length > 0;
  return {
    label,
    before: quantile(before, share),
    after: driven ? quantile(after.values, share) : undefined,
    secondsAfter: after?.seconds ?? 0,
    change: driven ? changeOf(before, after.values, share) : undefined,
  };
}

/** Does the interval leave open whether anything changed at all? */
const unsure = (g: GroupComparison) => {
  const interval = g.change?.interval;
  return interval !== undefined && interval[0] <= 0 && interval[1] >= 0;
};

function judge(groups: readonly GroupComparison[], limit: number): { verdict: Verdict; reason: string } {
  const matched = groups.filter((g): g is GroupComparison & { after: number } => g.after !== undefined);
  const lacking = groups.length - matched.length;
  const few = matched.filter((g) => g.change?.interval === undefined).length;
  const tail =
    (lacking > 0 ? `; ${lacking} of ${groups.length} conditions have no counterpart` : "") +
    (few > 0 && few < matched.length ? `; ${few} with too few samples for an interval` : "");
  if (matched.length === 0)
    return { verdict: "not exercised", reason: "the second log has no driving under these conditions" };
  if (matched.every((g) => Math.abs(g.after) <= limit))
    return { verdict: "gone", reason: `at or under the limit in every condition compared${tail}` };
  const before = median(matched.map((g) => Math.abs(g.before)));
  const after = median(matched.map((g) => Math.abs(g.after)));
  const change = (after - before) / Math.max(before, 1e-9);
  const open = matched.every(unsure);
  if (open && Math.abs(change) > SAME_SHARE)
    return {
      verdict: "same",
      reason: `${change < 0 ? "lower" : "higher"} by ${Math.round(Math.abs(change) * 100)} %, which chance alone may do: drive more${tail}`,
    };
  if (change < -SAME_SHARE)
    return { verdict: "better", reason: `lower by ${Math.round(-change * 100)} %, still over the limit${tail}` };
  if (change > SAME_SHARE) return { verdict: "worse", reason: `higher by ${Math.round(change * 100)} %${tail}` };
  return { verdict: "same", reason: `within ${Math.round(SAME_SHARE * 100)} % of the first log${tail}` };
}

/**
 * Compares two drives finding by finding, inside groups of equal gear, load and temperature. A condition that the second
 * drive did not meet is named and never counts as cured; a change carries its interval.
 */
export function compareDrives(unit: Unit, before: Analysis, after: Analysis): Comparison {
  const findings = before.findings.map((f): FindingComparison => {
    const { measure, quantity, groups, limit } = groupsOf(unit, f, before, after);
    return {
      findingId: f.id,
      title: f.title,
      measure,
      quantity,
      limit: f.limit?.value,
      groups,
      ...judge(groups, limit),
    };
  });
  const known = new Set(before.findings.map((f) => f.id));
  const fresh = after.findings.filter((f) => !known.has(f.id));
  return { findings, fresh, sentence: sentence(findings, fresh) };
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
    say("better", "better");
    say("same", "unchanged");
    say("worse", "worse");
    say("not exercised", "not exercised: drive it before signing off");
  }
  if (fresh.length > 0) parts.push(`${fresh.length} new: ${fresh.map((f) => f.title).join(", ")}`);
  return `${parts.join("; ")}.`;
}

interface Compared {
  readonly measure: string;
  readonly quantity: Quantity;
  readonly groups: GroupComparison[];
  /** at or under it the finding is gone */
  readonly limit: number;
}

const drivenSeconds = (a: Analysis) => a.held.gears.reduce((s, g) => s + g.seconds, 0);

/** A count or state over the whole drive; it needs a minute of driving to say anything. */
function whole(label: string, before: number, after: number | undefined, seconds: number): GroupComparison {
  const driven = after !== undefined && seconds >= MIN_DRIVE_S;
  return group(label, [before], driven ? { values: [after], seconds } : { values: [], seconds }, MEDIAN);
}

function groupsOf(unit: Unit, f: Finding, before: Analysis, after: Analysis): Compared {
  const [measure] = f.measures;
  const limit = f.limit?.value ?? 0;
  const base = { measure: measure.name, quantity: measure.quantity, limit };
  switch (f.kind) {
    case "slip":
      return {
        ...base,
        measure: "slip reached each second, 90th percentile",
        groups: before.held.groups
          .filter((g) => g.gear === f.subject.gear && g.slipP95Rpm > limit)
          .map((g) => {
            const twin = after.held.groups.find((h) => groupKey(h) === groupKey(g) && h.seconds >= MIN_SECONDS);
            return group(
              describe(g),
              g.eachSecondRpm,
              twin && { values: twin.eachSecondRpm, seconds: twin.seconds },
              REACHED,
            );
          }),
      };
    case "wrong-gear": {
      const twin = after.held.gears.find((g) => g.gear === f.subject.gear);
      const values = twin && twin.seconds >= MIN_SECONDS ? [twin.wrongSeconds] : [];
      return {
        ...base,
        limit: 0.5,
        groups: [group(`gear ${f.subject.gear}`, [measure.value], { values, seconds: twin?.seconds ?? 0 }, MEDIAN)],
      };
    }
    case "flare":
    case "slow-shift":
    case "late-shift":
    case "harsh-shift":
    case "failed-shift":
      return { ...base, groups: shiftGroups(f, before, after, limit) };
    case "shudder":
      return {
        ...base,
        groups: before.oscillation.clutchWorking
          .filter((g) => g.peakToPeakRpm > limit)
          .map((g) => {
            const twin = after.oscillation.clutchWorking.find(
              (h) => groupKey(h) === groupKey(g) && h.seconds >= MIN_SECONDS,
            );
            return group(
              describe(g),
              g.eachWindowRpm,
              twin && { values: twin.eachWindowRpm, seconds: twin.seconds },
              0.75,
            );
          }),
      };
    case "oscillation": {
      const same = after.findings.find((g) => g.id === f.id);
      return {
        ...base,
        groups: [whole("whole drive", measure.value, same?.measures[0].value ?? 0, drivenSeconds(after))],
      };
    }
    case "converter-slip":
      return {
        ...base,
        groups: f.conditions.gears.map((gear) => {
          const residuals = (a: Analysis) =>
            (a.converter?.episodes ?? []).filter((e) => e.gears.includes(gear)).map((e) => e.residualSlipRpm);
          return group(
            `converter clutch, gear ${gear}`,
            residuals(before),
            { values: residuals(after), seconds: after.converter?.byGear[gear] ?? 0 },
            MEDIAN,
          );
        }),
      };
    case "converter-stays-on": {
      const missing = (a: Analysis) => (a.converter?.letGo ? [missingSlipPct(a.converter.letGo.share)] : []);
      const values = missing(after);
      return {
        ...base,
        groups: [group("let go and pulling", [measure.value], { values, seconds: values.length }, MEDIAN)],
      };
    }
    case "hunting": {
      const cycles = (a: Analysis) => (a.converter?.hunting ?? []).reduce((sum, h) => sum + h.cycles, 0);
      return {
        ...base,
        groups: [
          whole("gears with the converter clutch applied", measure.value, cycles(after), appliedSeconds(after, f)),
        ],
      };
    }
    case "late-engagement": {
      const into = f.subject.gear === "R" ? "R" : "D";
      const delays = (a: Analysis) =>
        a.engagements.filter((e) => e.range === into).map((e) => e.delayS ?? e.endS - e.commandS);
      const values = delays(after);
      return {
        ...base,
        groups: [group(`from rest into ${into}`, delays(before), { values, seconds: values.length }, MEDIAN)],
      };
    }
    case "judder": {
      const { gear } = f.subject;
      const own = (a: Analysis) => a.launches.filter((l) => gear === undefined || l.gear === gear);
      const swings = (a: Analysis) => own(a).flatMap((l) => (l.judder ? [l.judder.peakToPeak] : []));
      const values = swings(after);
      const seconds = own(after).reduce((s, l) => s + l.endS - l.startS, 0);
      const name = gear === undefined ? "launches" : `launches in ${gear}`;
      return {
        ...base,
        groups: [group(name, swings(before), { values: values.length >= 2 ? values : [], seconds }, REACHED)],
      };
    }
    case "stall": {
      const off = (a: Analysis) =>
        a.stallTests.flatMap((t) =>
          t.expectedRpm === undefined ? [] : [Math.abs(t.engineRpm / t.expectedRpm - 1) * 100],
        );
      const values = off(after);
      return {
        measure: "stall speed off by",
        quantity: "percent",
        limit: 12,
        groups: [group("stall test", off(before), { values, seconds: values.length }, MEDIAN)],
      };
    }
    case "heat":
      return {
        ...base,
        groups: [
          whole(
            "whole drive",
            measure.value,
            // a gentle drive stays cool whatever the cooler does
            hardAs(before, after) ? after.heat?.highestC : undefined,
            drivenSeconds(after),
          ),
        ],
      };
    case "sensor-ripple": {
      const twin = after.ripples.find((r) => r.sensor === f.subject.component);
      return {
        ...base,
        groups: [whole("steady gears", measure.value, twin?.roughnessRpm ?? 0, drivenSeconds(after))],
      };
    }
    case "adaptation": {
      const id = f.id.slice("adaptation:".length);
      const used = (a: Analysis) => a.adaptations.filter((v) => v.id === id).map((v) => v.used * 100);
      const values = used(after);
      return {
        measure: "of the way to its limit",
        quantity: "percent",
        limit: 90,
        groups: [group("learned value", used(before), { values, seconds: values.length }, MEDIAN)],
      };
    }
    case "drop-out": {
      const sensor = unit.sensors.find((s) => s.id === f.subject.component);
      const seconds = after.held.gears
        .filter((g) => !sensor || sensorValidIn(sensor, g.gear))
        .reduce((s, g) => s + g.seconds, 0);
      const count = after.dropouts.filter((d) => d.sensor === f.subject.component).length;
      return {
        ...base,
        limit: 0,
        groups: [whole("gears in which the sensor reads", measure.value, count, count > 0 ? MIN_DRIVE_S : seconds)],
      };
    }
    case "no-drive": {
      const stood = (a: Analysis) =>
        a.immobile.filter((s) => s.gear === f.subject.gear).reduce((sum, s) => sum + s.endS - s.startS, 0);
      return { ...base, groups: [whole("whole drive", measure.value, stood(after), drivenSeconds(after))] };
    }
    case "idle": {
      const values = after.idle ? [after.idle.dipRpm] : [];
      return {
        ...base,
        groups: [group("at rest", [measure.value], { values, seconds: after.idle?.seconds ?? 0 }, MEDIAN)],
      };
    }
    case "neutral-pull": {
      const values = after.neutral ? [heldPct(after.neutral)] : [];
      return {
        ...base,
        groups: [
          group("at rest in P and N", [measure.value], { values, seconds: after.neutral?.seconds ?? 0 }, MEDIAN),
        ],
      };
    }
    case "pressure": {
      const twin = after.pressures.find((p) => `pressure:${p.id}` === f.id);
      const off = twin && offCommand(twin);
      const values = off ? [measure.name.startsWith("short") ? off.shortPct : off.overPct] : [];
      return {
        ...base,
        groups: [group("steady commands", [measure.value], { values, seconds: twin?.seconds ?? 0 }, MEDIAN)],
      };
    }
    case "cool-down": {
      const values = after.coolDown ? [after.coolDown.decayS] : [];
      return {
        ...base,
        groups: [group("after launches", [measure.value], { values, seconds: after.coolDown?.windows ?? 0 }, MEDIAN)],
      };
    }
    case "engine-pull":
      return {
        ...base,
        groups: [
          group(
            "steady pulls with the converter open",
            [measure.value],
            { values: after.pull ? [missingPct(after.pull)] : [], seconds: after.pull?.seconds ?? 0 },
            MEDIAN,
          ),
        ],
      };
    case "lapse":
      return { ...base, groups: [whole("whole drive", measure.value, after.lapses?.length, drivenSeconds(after))] };
    case "gear-hunting":
      return { ...base, groups: [whole("whole drive", measure.value, after.gearHunting.length, drivenSeconds(after))] };
    case "load-reversal": {
      const swings = (a: Analysis) => a.loadReversals.map((r) => r.swingRpm);
      const values = swings(after);
      return {
        ...base,
        groups: [group("foot on and off in gear", swings(before), { values, seconds: values.length }, MEDIAN)],
      };
    }
    case "limp":
      return {
        measure: "limp mode",
        quantity: "count",
        limit: 0,
        groups: [whole("whole drive", 1, after.limp ? 1 : 0, drivenSeconds(after))],
      };
  }
}

/** Seconds with the converter clutch applied in the gears of a finding. */
const appliedSeconds = (a: Analysis, f: Finding): number =>
  f.conditions.gears.reduce((sum, g) => sum + (a.converter?.byGear[g] ?? 0), 0);

/** Did the second drive make about as much heat? Without torque in both nothing can be said against it. */
function hardAs(before: Analysis, after: Analysis): boolean {
  const [a, b] = [before.heat?.highestSlipPowerKw, after.heat?.highestSlipPowerKw];
  return a === undefined || b === undefined || b > 0.6 * a;
}

const measureOf = (kind: Finding["kind"], s: Shift): number => {
  switch (kind) {
    case "flare":
      return s.flareRpm ?? 0;
    case "slow-shift":
      return s.inertiaS ?? 0;
    case "late-shift":
      return s.delayS ?? 0;
    case "harsh-shift":
      return s.joltRpmPerS ?? 0;
    default:
      return s.completed ? 0 : 1;
  }
};

function shiftGroups(f: Finding, before: Analysis, after: Analysis, limit: number): GroupComparison[] {
  const bands = (a: Analysis) => {
    const map = new Map<string, { group: Group; values: number[] }>();
    for (const s of a.shifts) {
      if (s.name !== f.subject.shift || (f.kind !== "failed-shift" && !s.measured)) continue;
      const g: Group = { gear: s.to, load: loadBand(s.load), temperature: temperatureBand(s.fluidC) };
      const entry = map.get(groupKey(g)) ?? { group: g, values: [] };
      entry.values.push(measureOf(f.kind, s));
      map.set(groupKey(g), entry);
    }
    return map;
  };
  const second = bands(after);
  return [...bands(before)]
    .filter(([, { values }]) => median(values) > limit)
    .map(([key, { group: g, values }]) => {
      const twin = second.get(key);
      return group(
        `shift ${f.subject.shift}, ${loadText(g.load)}, ${g.temperature}`,
        values,
        twin && { values: twin.values, seconds: twin.values.length },
        MEDIAN,
      );
    });
}
