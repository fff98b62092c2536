import type { Quantity } from "../quantity/index.ts";
import { sensorValidIn, type Unit } from "../unit/index.ts";
import type { Analysis } from "./analyse.ts";
import { type Group, groupKey, loadBand, temperatureBand } from "./conditions.ts";
import type { Finding } from "./findings.ts";
import { median } from "./stats.ts";

export type Verdict = "gone" | "better" | "same" | "worse" | "not exercised";

export interface GroupComparison {
  /** "gear 4, hard load, hot" */
  readonly label: string;
  readonly before: number;
  /** undefined when the second log has no counterpart */
  readonly after: number | undefined;
  readonly secondsAfter: number;
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

const describe = (g: Group) => {
  const parts = [`gear ${g.gear}`];
  if (g.load !== "unknown") parts.push(g.load === "coast" ? "coast" : `${g.load} load`);
  if (g.temperature !== "unknown") parts.push(g.temperature);
  return parts.join(", ");
};

function judge(groups: readonly GroupComparison[], limit: number): { verdict: Verdict; reason: string } {
  const matched = groups.filter((g): g is GroupComparison & { after: number } => g.after !== undefined);
  const lacking = groups.length - matched.length;
  const tail = lacking > 0 ? `; ${lacking} of ${groups.length} conditions have no counterpart` : "";
  if (matched.length === 0)
    return { verdict: "not exercised", reason: "the second log has no driving under these conditions" };
  if (matched.every((g) => Math.abs(g.after) <= limit))
    return { verdict: "gone", reason: `at or under the limit in every condition compared${tail}` };
  const before = median(matched.map((g) => Math.abs(g.before)));
  const after = median(matched.map((g) => Math.abs(g.after)));
  const change = (after - before) / Math.max(before, 1e-9);
  if (change < -SAME_SHARE)
    return { verdict: "better", reason: `lower by ${Math.round(-change * 100)} %, still over the limit${tail}` };
  if (change > SAME_SHARE) return { verdict: "worse", reason: `higher by ${Math.round(change * 100)} %${tail}` };
  return { verdict: "same", reason: `within ${Math.round(SAME_SHARE * 100)} % of the first log${tail}` };
}

/**
 * Compares two drives finding by finding, inside groups of equal gear, load and temperature. A condition that the second
 * drive did not meet is named and never counts as cured.
 */
export function compareDrives(unit: Unit, before: Analysis, after: Analysis): Comparison {
  const findings = before.findings.map((f) => compareFinding(unit, f, before, after));
  const known = new Set(before.findings.map((f) => f.id));
  const fresh = after.findings.filter((f) => !known.has(f.id));
  return { findings, fresh, sentence: sentence(findings, fresh) };
}

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

function compareFinding(unit: Unit, f: Finding, before: Analysis, after: Analysis): FindingComparison {
  const [measure] = f.measures;
  const base = {
    findingId: f.id,
    title: f.title,
    measure: measure.name,
    quantity: measure.quantity,
    limit: f.limit?.value,
  };
  switch (f.kind) {
    case "slip": {
      const limit = f.limit?.value ?? 0;
      const groups = before.held.groups
        .filter((g) => g.gear === f.subject.gear && g.slipP95Rpm > limit)
        .map((g): GroupComparison => {
          const twin = after.held.groups.find((h) => groupKey(h) === groupKey(g) && h.seconds >= MIN_SECONDS);
          return {
            label: describe(g),
            before: g.slipP95Rpm,
            after: twin?.slipP95Rpm,
            secondsAfter: twin?.seconds ?? 0,
          };
        });
      return { ...base, measure: "slip, 95th percentile", groups, ...judge(groups, limit) };
    }
    case "wrong-gear": {
      const twin = after.held.gears.find((g) => g.gear === f.subject.gear);
      const driven = twin !== undefined && twin.seconds >= MIN_SECONDS;
      const groups = [
        {
          label: `gear ${f.subject.gear}`,
          before: measure.value,
          after: driven ? twin.wrongSeconds : undefined,
          secondsAfter: twin?.seconds ?? 0,
        },
      ];
      return { ...base, groups, ...judge(groups, 0.5) };
    }
    case "flare":
    case "slow-shift":
    case "late-shift":
    case "failed-shift": {
      const of = (s: Analysis["shifts"][number]) =>
        (f.kind === "flare"
          ? s.flareRpm
          : f.kind === "slow-shift"
            ? s.inertiaS
            : f.kind === "late-shift"
              ? s.delayS
              : s.completed
                ? 0
                : 1) ?? 0;
      const bands = (a: Analysis) => {
        const map = new Map<string, { group: Group; values: number[] }>();
        for (const s of a.shifts) {
          if (s.name !== f.subject.shift || (f.kind !== "failed-shift" && !s.measured)) continue;
          const group: Group = { gear: s.to, load: loadBand(s.load), temperature: temperatureBand(s.fluidC) };
          const entry = map.get(groupKey(group)) ?? { group, values: [] };
          entry.values.push(of(s));
          map.set(groupKey(group), entry);
        }
        return map;
      };
      const limit = f.limit?.value ?? 0;
      const second = bands(after);
      const groups = [...bands(before)]
        .map(([key, { group, values }]) => ({ key, group, value: median(values) }))
        .filter((g) => g.value > limit)
        .map(({ key, group, value }): GroupComparison => {
          const twin = second.get(key);
          const load = group.load === "unknown" || group.load === "coast" ? group.load : `${group.load} load`;
          return {
            label: `shift ${f.subject.shift}, ${load}, ${group.temperature}`,
            before: value,
            after: twin && median(twin.values),
            secondsAfter: twin?.values.length ?? 0,
          };
        });
      return { ...base, groups, ...judge(groups, limit) };
    }
    case "shudder":
    case "oscillation": {
      const limit = f.limit?.value ?? 0;
      const groups = before.oscillation.clutchWorking
        .filter((g) => g.peakToPeakRpm > limit)
        .map((g): GroupComparison => {
          const twin = after.oscillation.clutchWorking.find(
            (h) => groupKey(h) === groupKey(g) && h.seconds >= MIN_SECONDS,
          );
          return {
            label: describe(g),
            before: g.peakToPeakRpm,
            after: twin?.peakToPeakRpm,
            secondsAfter: twin?.seconds ?? 0,
          };
        });
      return { ...base, groups, ...judge(groups, limit) };
    }
    case "converter-slip": {
      const limit = f.limit?.value ?? 0;
      const groups = f.conditions.gears.map((gear): GroupComparison => {
        const residual = (a: Analysis) =>
          median((a.converter?.episodes ?? []).filter((e) => e.gears.includes(gear)).map((e) => e.residualSlipRpm));
        const value = residual(after);
        return {
          label: `converter clutch, gear ${gear}`,
          before: residual(before),
          after: Number.isNaN(value) ? undefined : value,
          secondsAfter: after.converter?.byGear[gear] ?? 0,
        };
      });
      return { ...base, groups, ...judge(groups, limit) };
    }
    case "drop-out": {
      const sensor = unit.sensors.find((s) => s.id === f.subject.component);
      const seconds = after.held.gears
        .filter((g) => !sensor || sensorValidIn(sensor, g.gear))
        .reduce((s, g) => s + g.seconds, 0);
      const value = after.dropouts.filter((d) => d.sensor === f.subject.component).length;
      const groups = [
        {
          label: "gears in which the sensor reads",
          before: measure.value,
          after: seconds >= MIN_DRIVE_S || value > 0 ? value : undefined,
          secondsAfter: seconds,
        },
      ];
      return { ...base, groups, ...judge(groups, 0) };
    }
    case "limp": {
      const seconds = after.held.gears.reduce((s, g) => s + g.seconds, 0);
      const groups = [
        {
          label: "whole drive",
          before: 1,
          after: seconds >= MIN_DRIVE_S ? (after.limp ? 1 : 0) : undefined,
          secondsAfter: seconds,
        },
      ];
      return { ...base, measure: "limp mode", quantity: "count", groups, ...judge(groups, 0) };
    }
  }
}
