import type { Quantity } from "../quantity/index.ts";
import { componentName } from "../unit/index.ts";
import type { ConverterAnalysis } from "./converter.ts";
import type { Dropout } from "./dropouts.ts";
import type { Frame } from "./frame.ts";
import type { HeldAnalysis } from "./held.ts";
import { type LimitSource, limitsOf } from "./limits.ts";
import type { Limp } from "./limp.ts";
import type { OscillationAnalysis, OscillationWindow } from "./oscillation.ts";
import type { Shift } from "./shifts.ts";
import { extent, median } from "./stats.ts";

export type FindingKind =
  | "slip"
  | "wrong-gear"
  | "flare"
  | "slow-shift"
  | "late-shift"
  | "failed-shift"
  | "converter-slip"
  | "shudder"
  | "oscillation"
  | "drop-out"
  | "limp";

export interface Occurrence {
  readonly startS: number;
  readonly endS: number;
  readonly value: number;
}

export interface Measure {
  readonly name: string;
  readonly value: number;
  readonly quantity: Quantity;
}

export interface Conditions {
  readonly gears: readonly string[];
  readonly torqueNm?: readonly [number, number] | undefined;
  readonly fluidC?: readonly [number, number] | undefined;
  readonly vehicleKmh?: readonly [number, number] | undefined;
}

export interface Finding {
  /** stable from log to log: kind and place, "slip:4", "flare:2-3", "drop-out:sen_output" */
  readonly id: string;
  readonly kind: FindingKind;
  readonly title: string;
  /** gear, shift or component it speaks of */
  readonly subject: { readonly gear?: string; readonly shift?: string; readonly component?: string };
  readonly severity: "fault" | "notice";
  readonly startS: number;
  readonly endS: number;
  readonly occurrences: readonly Occurrence[];
  readonly conditions: Conditions;
  /** the first is the one that is judged against the limit */
  readonly measures: readonly [Measure, ...Measure[]];
  readonly limit: { readonly value: number; readonly quantity: Quantity; readonly source: LimitSource } | undefined;
  readonly confidence: {
    readonly level: "high" | "medium" | "low";
    readonly reason: string;
    readonly raise: string | undefined;
  };
}

const range = (values: readonly (number | undefined)[]) =>
  extent(values.filter((v): v is number => v !== undefined && Number.isFinite(v)));

function confidence(frame: Frame, times: number, seconds: number, needsRateHz: number): Finding["confidence"] {
  if (frame.derived.length > 0) {
    return {
      level: "low",
      reason: `rests on a derived channel (${frame.derived.join(", ")}), which never proves slip`,
      raise: "record the channel itself",
    };
  }
  if (frame.rateHz < needsRateHz) {
    return {
      level: "low",
      reason: `${frame.rateHz.toFixed(0)} readings a second, ${needsRateHz} are needed`,
      raise: "log fewer channels to get a higher rate",
    };
  }
  if (times >= 3 || seconds >= 6)
    return { level: "high", reason: `seen ${times} times, ${seconds.toFixed(0)} s in all`, raise: undefined };
  return {
    level: "medium",
    reason: `seen ${times === 1 ? "once" : `${times} times`}, ${seconds.toFixed(1)} s in all`,
    raise: "repeat the drive in the same gear, load and temperature",
  };
}

export interface Parts {
  readonly held: HeldAnalysis;
  readonly shifts: readonly Shift[];
  readonly converter: ConverterAnalysis | undefined;
  readonly oscillation: OscillationAnalysis;
  readonly dropouts: readonly Dropout[];
  readonly limp: Limp | undefined;
}

/** Turns measures over their limits into findings, worst first. */
export function makeFindings(frame: Frame, parts: Parts): Finding[] {
  return [
    ...limpFinding(frame, parts.limp),
    ...dropoutFindings(frame, parts.dropouts),
    ...gearFindings(frame, parts.held, parts.limp),
    ...shiftFindings(
      frame,
      parts.shifts,
      parts.limp,
      new Set(parts.held.gears.filter((g) => g.slipping.length > 0).map((g) => g.gear)),
    ),
    ...oscillationFindings(frame, parts.oscillation),
    ...converterFindings(frame, parts.converter, parts.limp),
  ];
}

function limpFinding(frame: Frame, limp: Limp | undefined): Finding[] {
  if (!limp) return [];
  const before = limp.preceded
    ? `, after ${componentName(frame.unit, limp.preceded.sensor).toLowerCase()} lost its signal`
    : "";
  return [
    {
      id: "limp",
      kind: "limp",
      title: `Limp mode in gear ${limp.gear}${before}`,
      subject: { gear: limp.gear, ...(limp.preceded ? { component: limp.preceded.sensor } : {}) },
      severity: "fault",
      startS: limp.startS,
      endS: limp.endS,
      occurrences: [{ startS: limp.startS, endS: limp.endS, value: limp.endS - limp.startS }],
      conditions: { gears: [limp.gear], fluidC: range([limp.fluidC]), vehicleKmh: range([limp.vehicleKmh]) },
      measures: [{ name: "begins at", value: limp.startS, quantity: "duration" }],
      limit: undefined,
      confidence: {
        level: limp.signs.length > 1 ? "high" : "medium",
        reason: limp.signs.join("; "),
        raise: limp.signs.length > 1 ? undefined : "record line pressure and commanded gear",
      },
    },
  ];
}

function dropoutFindings(frame: Frame, dropouts: readonly Dropout[]): Finding[] {
  const bySensor = groupBySensor(dropouts);
  return [...bySensor].map(([sensor, list]): Finding => {
    const lost = list.reduce((sum, d) => sum + d.endS - d.startS, 0);
    const gears = [...new Set(list.map((d) => d.gear))].filter((g) => g !== "?");
    return {
      id: `drop-out:${sensor}`,
      kind: "drop-out",
      title: `${componentName(frame.unit, sensor)} drops out`,
      subject: { component: sensor },
      severity: list.some((d) => d.kind === "zero while moving") ? "fault" : "notice",
      startS: list[0]?.startS ?? 0,
      endS: list.at(-1)?.endS ?? 0,
      occurrences: list.map((d) => ({ startS: d.startS, endS: d.endS, value: d.endS - d.startS })),
      conditions: { gears, fluidC: range(list.map((d) => d.fluidC)) },
      measures: [
        { name: "drop-outs", value: list.length, quantity: "count" },
        { name: "time lost", value: lost, quantity: "duration" },
      ],
      limit: { value: 0, quantity: "count", source: "typical" },
      confidence: confidence(frame, list.length, lost, 2),
    };
  });
}

function groupBySensor(dropouts: readonly Dropout[]): Map<string, Dropout[]> {
  const map = new Map<string, Dropout[]>();
  for (const d of dropouts) map.set(d.sensor, [...(map.get(d.sensor) ?? []), d]);
  return map;
}

function gearFindings(frame: Frame, held: HeldAnalysis, limp: Limp | undefined): Finding[] {
  const limit = limitsOf(frame.unit).slipRpm;
  const out: Finding[] = [];
  for (const g of held.gears) {
    if (g.wrongSeconds > 1.5 && g.obtained !== undefined && !(limp && g.obtained === limp.gear)) {
      out.push({
        id: `wrong-gear:${g.gear}`,
        kind: "wrong-gear",
        title: `Gear ${g.gear} commanded, gear ${g.obtained} obtained`,
        subject: { gear: g.gear },
        severity: "fault",
        startS: 0,
        endS: frame.timeS.at(-1) ?? 0,
        occurrences: [],
        conditions: { gears: [g.gear] },
        measures: [{ name: "time in the wrong gear", value: g.wrongSeconds, quantity: "duration" }],
        limit: undefined,
        confidence: confidence(frame, 1, g.wrongSeconds, 3),
      });
    }
    if (g.slipping.length === 0) continue;
    const seconds = g.slipping.reduce((s, e) => s + e.endS - e.startS, 0);
    const worst = g.slipping.reduce((a, b) => (Math.abs(b.peakRpm) > Math.abs(a.peakRpm) ? b : a));
    const measures: [Measure, ...Measure[]] = [{ name: "highest slip", value: worst.peakRpm, quantity: "speed-rpm" }];
    if (g.onsetTorqueNm !== undefined && g.onsetTorqueNm > 0)
      measures.push({ name: "begins at", value: g.onsetTorqueNm, quantity: "torque" });
    if (g.rpmPerNm !== undefined && g.rpmPerNm > 0)
      measures.push({ name: "grows by", value: g.rpmPerNm, quantity: "slip-per-torque" });
    if (g.cleanTorqueNm !== undefined)
      measures.push({ name: "held clean up to", value: g.cleanTorqueNm, quantity: "torque" });
    out.push({
      id: `slip:${g.gear}`,
      kind: "slip",
      title: `Slip in gear ${g.gear}`,
      subject: { gear: g.gear },
      severity: "fault",
      startS: g.slipping[0]?.startS ?? 0,
      endS: g.slipping.at(-1)?.endS ?? 0,
      occurrences: g.slipping.map((e) => ({ startS: e.startS, endS: e.endS, value: e.peakRpm })),
      conditions: {
        gears: [g.gear],
        torqueNm: range(g.slipping.map((e) => e.torqueNm)),
        fluidC: range(g.slipping.map((e) => e.fluidC)),
        vehicleKmh: range(g.slipping.map((e) => e.vehicleKmh)),
      },
      measures,
      limit: { value: limit.value, quantity: "speed-rpm", source: limit.source },
      confidence: confidence(frame, g.slipping.length, seconds, 5),
    });
  }
  return out;
}

/** @param slipping - gears that slip: a shift into one of them says little of its own */
function shiftFindings(
  frame: Frame,
  shifts: readonly Shift[],
  limp: Limp | undefined,
  slipping: ReadonlySet<string>,
): Finding[] {
  const limits = limitsOf(frame.unit);
  const byName = new Map<string, Shift[]>();
  for (const s of shifts) {
    if (limp && s.commandS >= limp.startS - 3) continue;
    byName.set(s.name, [...(byName.get(s.name) ?? []), s]);
  }
  const out: Finding[] = [];
  for (const [name, list] of byName) {
    const { limit, source } = limits.shift(name);
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
    ) => {
      if (hits.length === 0) return;
      const rate = kind === "flare" ? 10 : 8;
      out.push({
        id: `${kind}:${name}`,
        kind,
        title,
        subject,
        severity: !slipping.has(list[0]?.to ?? "") && hits.length * 2 >= list.length ? "fault" : "notice",
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
          { name: "shifts concerned", value: hits.length, quantity: "count" },
          { name: "made in all", value: list.length, quantity: "count" },
        ],
        limit: { value, quantity, source },
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
    add(
      "flare",
      `Flare in shift ${name}`,
      measured.filter((s) => s.underPower && (s.flareRpm ?? 0) > limit.flareRpm),
      (s) => s.flareRpm ?? 0,
      "flare",
      "speed-rpm",
      limit.flareRpm,
    );
    add(
      "slow-shift",
      `Shift ${name} takes long`,
      measured.filter((s) => (s.inertiaS ?? 0) > limit.inertiaS[1]),
      (s) => s.inertiaS ?? 0,
      "inertia phase",
      "duration",
      limit.inertiaS[1],
    );
    add(
      "late-shift",
      `Shift ${name} answers late`,
      measured.filter((s) => (s.delayS ?? 0) > limit.delayS),
      (s) => s.delayS ?? 0,
      "delay",
      "duration",
      limit.delayS,
    );
  }
  return out;
}

function oscillationFindings(frame: Frame, oscillation: OscillationAnalysis): Finding[] {
  const limit = limitsOf(frame.unit).shudderPeakToPeakRpm;
  const over = oscillation.windows.filter((w) => w.peak.peakToPeak > limit.value);
  // one frequency, in at least two windows that overlap: a single window may be a step in slip
  const spans: OscillationWindow[][] = [];
  for (const w of over) {
    const last = spans.at(-1);
    const previous = last?.at(-1);
    if (last && previous && w.startS <= previous.endS && Math.abs(w.peak.frequencyHz - previous.peak.frequencyHz) < 1.2)
      last.push(w);
    else spans.push([w]);
  }
  const kept = spans.filter((s) => s.length >= 2);
  if (kept.length === 0) return [];
  const all = kept.flat();
  const peakToPeak = median(all.map((w) => w.peak.peakToPeak));
  const elsewhere = (oscillation.openPeakToPeakRpm ?? 0) > 0.5 * peakToPeak;
  const seconds = kept.reduce((sum, s) => sum + (s.at(-1)?.endS ?? 0) - (s[0]?.startS ?? 0), 0);
  const gears = [...new Set(all.map((w) => w.group.gear))].sort();
  const aliased = oscillation.rateHz < 40;
  const base = confidence(frame, kept.length, seconds, 12);
  return [
    {
      id: elsewhere ? "oscillation" : "shudder",
      kind: elsewhere ? "oscillation" : "shudder",
      title: elsewhere
        ? "Oscillation with the converter clutch open too: no shudder"
        : "Shudder while the converter clutch works",
      subject: { component: "converter-clutch" },
      severity: "fault",
      startS: kept[0]?.[0]?.startS ?? 0,
      endS: kept.at(-1)?.at(-1)?.endS ?? 0,
      occurrences: kept.map((s) => ({
        startS: s[0]?.startS ?? 0,
        endS: s.at(-1)?.endS ?? 0,
        value: median(s.map((w) => w.peak.peakToPeak)),
      })),
      conditions: {
        gears,
        torqueNm: range(all.map((w) => w.torqueNm)),
        fluidC: range(all.map((w) => w.fluidC)),
        vehicleKmh: range(all.map((w) => w.vehicleKmh)),
      },
      measures: [
        { name: "peak to peak", value: peakToPeak, quantity: "speed-rpm" },
        { name: "frequency", value: median(all.map((w) => w.peak.frequencyHz)), quantity: "frequency" },
      ],
      limit: { value: limit.value, quantity: "speed-rpm", source: limit.source },
      confidence: aliased
        ? {
            ...base,
            reason: `${base.reason}; at ${oscillation.rateHz.toFixed(0)} readings a second frequencies over ${(oscillation.rateHz / 2).toFixed(0)} Hz fold down, so the true one may be higher`,
            raise: "log fewer channels, 40 readings a second or more",
          }
        : base,
    },
  ];
}

function converterFindings(frame: Frame, converter: ConverterAnalysis | undefined, limp: Limp | undefined): Finding[] {
  if (!converter) return [];
  const limit = limitsOf(frame.unit).residualSlipRpm;
  const bad = converter.episodes.filter((e) => e.residualSlipRpm > limit.value && !(limp && e.startS > limp.startS));
  if (bad.length === 0) return [];
  const seconds = bad.reduce((s, e) => s + e.endS - e.startS, 0);
  const opens = bad.flatMap((e) => (e.openSlipRpm === undefined ? [] : [e.openSlipRpm]));
  return [
    {
      id: "converter-slip",
      kind: "converter-slip",
      title: "Converter clutch slips while commanded to hold",
      subject: { component: "converter-clutch" },
      severity: "fault",
      startS: bad[0]?.startS ?? 0,
      endS: bad.at(-1)?.endS ?? 0,
      occurrences: bad.map((e) => ({ startS: e.startS, endS: e.endS, value: e.residualSlipRpm })),
      conditions: {
        gears: [...new Set(bad.flatMap((e) => e.gears))].sort(),
        torqueNm: range(bad.map((e) => e.torqueNm)),
        fluidC: range(bad.map((e) => e.fluidC)),
        vehicleKmh: range(bad.map((e) => e.vehicleKmh)),
      },
      measures: [
        { name: "residual slip", value: median(bad.map((e) => e.residualSlipRpm)), quantity: "speed-rpm" },
        ...(opens.length > 0
          ? [{ name: "with the clutch open it would be", value: median(opens), quantity: "speed-rpm" } as const]
          : []),
        { name: "of applications", value: converter.episodes.length, quantity: "count" },
      ],
      limit: { value: limit.value, quantity: "speed-rpm", source: limit.source },
      confidence: confidence(frame, bad.length, seconds, 2),
    },
  ];
}
