import type { Quantity } from "../quantity/index.ts";
import { componentName } from "../unit/index.ts";
import type { AdaptationValue } from "./adaptations.ts";
import { type ConverterAnalysis, HUNTING_CYCLES } from "./converter.ts";
import { type CoolDown, SLOW_DECAY_S } from "./cool-down.ts";
import type { Dropout } from "./dropouts.ts";
import type { Frame } from "./frame.ts";
import type { GearHunting } from "./gear-hunting.ts";
import type { HeatAnalysis } from "./heat.ts";
import type { HeldAnalysis } from "./held.ts";
import { IDLE_DIP_RPM, type Idle } from "./idle.ts";
import type { Immobile } from "./immobile.ts";
import type { Lapse } from "./lapses.ts";
import type { Launch } from "./launches.ts";
import { type LimitSource, limitsOf, TYPICAL } from "./limits.ts";
import type { Limp } from "./limp.ts";
import { KNOCKS_RPM, type LoadReversal, SWINGS_RPM, usualSwingRpm } from "./load-reversal.ts";
import { DRAWN_DOWN_RATIO, heldPct, type NeutralPull } from "./neutral.ts";
import type { OscillationAnalysis, OscillationWindow, SwingCause } from "./oscillation.ts";
import { OVER_SHARE, offCommand, type PressureFollows, SHORT_SHARE } from "./pressures.ts";
import { type EnginePull, missingPct, PULL_LOW } from "./pull.ts";
import type { Ripple } from "./quality.ts";
import type { Shift } from "./shifts.ts";
import type { Engagement, StallTest } from "./standstill.ts";
import { extent, median } from "./stats.ts";

export type FindingKind =
  | "slip"
  | "wrong-gear"
  | "flare"
  | "slow-shift"
  | "late-shift"
  | "failed-shift"
  | "converter-slip"
  | "hunting"
  | "shudder"
  | "oscillation"
  | "judder"
  | "sensor-ripple"
  | "late-engagement"
  | "no-drive"
  | "engine-pull"
  | "idle"
  | "neutral-pull"
  | "pressure"
  | "cool-down"
  | "lapse"
  | "gear-hunting"
  | "load-reversal"
  | "harsh-shift"
  | "stall"
  | "heat"
  | "adaptation"
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
  readonly engagements: readonly Engagement[];
  readonly stallTests: readonly StallTest[];
  readonly immobile: readonly Immobile[];
  readonly pull: EnginePull | undefined;
  readonly idle: Idle | undefined;
  readonly neutral: NeutralPull | undefined;
  readonly coolDown: CoolDown | undefined;
  readonly pressures: readonly PressureFollows[];
  readonly lapses: readonly Lapse[] | undefined;
  readonly gearHunting: readonly GearHunting[];
  readonly loadReversals: readonly LoadReversal[];
  readonly launches: readonly Launch[];
  readonly heat: HeatAnalysis | undefined;
  readonly adaptations: readonly AdaptationValue[];
  readonly ripples: readonly Ripple[];
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
    ...huntingFindings(parts.converter),
    ...rippleFindings(frame, parts.ripples),
    ...engagementFindings(frame, parts.engagements),
    ...immobileFindings(frame, parts.immobile),
    ...pullFindings(frame, parts.pull),
    ...idleFindings(frame, parts.idle),
    ...neutralFindings(frame, parts.neutral),
    ...pressureFindings(frame, parts.pressures),
    ...coolDownFindings(frame, parts.coolDown),
    ...lapseFindings(frame, parts.lapses),
    ...gearHuntingFindings(frame, parts.gearHunting),
    ...loadReversalFindings(frame, parts.loadReversals),
    ...launchFindings(frame, parts.launches),
    ...stallFindings(frame, parts.stallTests),
    ...heatFindings(parts.heat),
    ...adaptationFindings(frame, parts.adaptations),
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
        level: limp.signs.length > 1 && limp.certain ? "high" : "medium",
        reason: [
          ...limp.signs,
          ...(limp.certain ? [] : ["it was in that gear already, so limp mode may have begun later than it seems"]),
        ].join("; "),
        raise: limp.signs.length > 1 && limp.certain ? undefined : "record line pressure and commanded gear",
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
      title: `${componentName(frame.unit, sensor)} ${list.some((d) => d.kind === "not D while driving") ? "falls out of D while driving" : "drops out"}`,
      subject: { component: sensor },
      severity: list.some((d) => d.kind !== "no valid reading") ? "fault" : "notice",
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
        ...wholeDrive(frame, [g.gear]),
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

/** Of one kind of shift, before it is called harsh: the road jolts too. */
const MIN_JOLTS = 3;
/** A single shift over the limit is a fault when it is this much over. */
const CLEARLY = 1.4;

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
      from = source,
    ) => {
      if (hits.length === 0) return;
      const rate = kind === "flare" ? 10 : 8;
      out.push({
        id: `${kind}:${name}`,
        kind,
        title,
        subject,
        severity:
          kind !== "harsh-shift" &&
          !slipping.has(list[0]?.to ?? "") &&
          hits.length * 2 > list.length &&
          (hits.length > 1
            ? median(list.filter((s) => s.measured).map(of)) > value
            : of(hits[0] as Shift) > CLEARLY * value)
            ? "fault"
            : "notice",
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
    add(
      "flare",
      `Flare in shift ${name}`,
      measured.filter((s) => s.underPower && (s.flareRpm ?? 0) > limit.flareRpm),
      (s) => s.flareRpm ?? 0,
      "flare",
      "speed-rpm",
      limit.flareRpm,
    );
    const jolts = measured.filter((s) => s.joltRpmPerS !== undefined);
    const jolt = median(jolts.map((s) => s.joltRpmPerS ?? 0));
    if (jolts.length >= MIN_JOLTS && jolt > TYPICAL.joltRpmPerS)
      add(
        "harsh-shift",
        `Shift ${name} is harsh`,
        jolts.filter((s) => (s.joltRpmPerS ?? 0) > TYPICAL.joltRpmPerS),
        (s) => s.joltRpmPerS ?? 0,
        "swing of the output's acceleration",
        "speed-rate",
        TYPICAL.joltRpmPerS,
        "typical",
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

const CAUSE_TITLES: Readonly<Record<Exclude<SwingCause, "shudder">, string>> = {
  engine: "Vibration that comes from the engine: no shudder",
  "output shaft": "Vibration that follows the output shaft: no shudder",
  wheels: "Vibration that follows the wheels: no shudder",
  unknown: "Oscillation whose source cannot be told",
};
const MIN_VIBRATION_WINDOWS = 4;

/** One frequency, in windows that overlap, is one span. */
function spansOf(windows: readonly OscillationWindow[]): OscillationWindow[][] {
  const spans: OscillationWindow[][] = [];
  for (const w of windows) {
    const last = spans.at(-1);
    const previous = last?.at(-1);
    if (last && previous && w.startS <= previous.endS && Math.abs(w.peak.frequencyHz - previous.peak.frequencyHz) < 1.2)
      last.push(w);
    else spans.push([w]);
  }
  return spans;
}

function oscillationFindings(frame: Frame, oscillation: OscillationAnalysis): Finding[] {
  const own = limitsOf(frame.unit).shudderPeakToPeakRpm;
  const out: Finding[] = [];
  for (const cause of ["shudder", "engine", "output shaft", "wheels", "unknown"] as const) {
    const shudder = cause === "shudder";
    const limit = shudder ? own : { value: TYPICAL.vibrationPeakToPeakRpm, source: "typical" as const };
    const over = oscillation.windows.filter(
      (w) =>
        w.cause === cause &&
        w.peak.peakToPeak > limit.value &&
        (cause !== "unknown" || (w.signal === "slip" && w.working)),
    );
    // a single window may be a step in slip; a vibration is there again and again
    const kept = shudder ? spansOf(over).filter((s) => s.length >= 2) : spansOf(over);
    if (kept.length === 0 || (!shudder && over.length < MIN_VIBRATION_WINDOWS)) continue;
    // beside a swing whose source is known the rest is its edges
    if (cause === "unknown" && out.length > 0) continue;
    const all = kept.flat();
    const peakToPeak = median(all.map((w) => w.peak.peakToPeak));
    const seconds = kept.reduce((sum, s) => sum + (s.at(-1)?.endS ?? 0) - (s[0]?.startS ?? 0), 0);
    const folded = oscillation.rateHz < 40;
    const base = confidence(frame, kept.length, seconds, 12);
    const order = all.find((w) => w.order)?.order;
    const measures: [Measure, ...Measure[]] = [
      { name: "peak to peak", value: peakToPeak, quantity: "speed-rpm" },
      {
        name: order?.folded || cause === "unknown" ? "seen as" : "frequency",
        value: median(all.map((w) => w.peak.frequencyHz)),
        quantity: "frequency",
      },
    ];
    if (order) measures.push({ name: `times a turn of the ${order.part}`, value: order.order, quantity: "none" });
    out.push({
      id: shudder ? "shudder" : `oscillation:${cause.replace(" ", "-")}`,
      kind: shudder ? "shudder" : "oscillation",
      title: shudder ? "Shudder while the converter clutch works" : CAUSE_TITLES[cause],
      subject: shudder ? { component: "converter-clutch" } : {},
      severity: shudder || cause !== "unknown" ? "fault" : "notice",
      startS: kept[0]?.[0]?.startS ?? 0,
      endS: kept.at(-1)?.at(-1)?.endS ?? 0,
      occurrences: kept.map((s) => ({
        startS: s[0]?.startS ?? 0,
        endS: s.at(-1)?.endS ?? 0,
        value: median(s.map((w) => w.peak.peakToPeak)),
      })),
      conditions: {
        gears: [...new Set(all.map((w) => w.group.gear))].sort(),
        torqueNm: range(all.map((w) => w.torqueNm)),
        fluidC: range(all.map((w) => w.fluidC)),
        vehicleKmh: range(all.map((w) => w.vehicleKmh)),
      },
      measures,
      limit: { value: limit.value, quantity: "speed-rpm", source: limit.source },
      confidence:
        cause === "unknown"
          ? {
              level: "low",
              reason: `at ${oscillation.rateHz.toFixed(0)} readings a second frequencies over ${(oscillation.rateHz / 2).toFixed(0)} Hz fold down: the true one is unknown`,
              raise: "log fewer channels, 40 readings a second or more, and vary the speed",
            }
          : folded && !order
            ? {
                ...base,
                reason: `${base.reason}; at ${oscillation.rateHz.toFixed(0)} readings a second frequencies over ${(oscillation.rateHz / 2).toFixed(0)} Hz fold down, so the true one may be higher`,
                raise: "log fewer channels, 40 readings a second or more",
              }
            : base,
    });
  }
  return out;
}

function rippleFindings(frame: Frame, ripples: readonly Ripple[]): Finding[] {
  return ripples.map(
    (r): Finding => ({
      id: `sensor-ripple:${r.sensor}`,
      kind: "sensor-ripple",
      title: `${componentName(frame.unit, r.sensor)} ripples on its own`,
      subject: { component: r.sensor },
      severity: "fault",
      ...wholeDrive(frame),
      measures: [
        { name: "scatter", value: r.roughnessRpm, quantity: "speed-rpm" },
        { name: "of the shaft that it is geared to", value: r.elsewhereRpm, quantity: "speed-rpm" },
      ],
      limit: { value: TYPICAL.rippleRpm, quantity: "speed-rpm", source: "typical" },
      confidence: {
        level: "high",
        reason: "the shaft that it is geared to runs smoothly: what is measured with this sensor is not to be believed",
        raise: undefined,
      },
    }),
  );
}

function engagementFindings(frame: Frame, engagements: readonly Engagement[]): Finding[] {
  const limit = limitsOf(frame.unit).engagementDelayS;
  return (["D", "R"] as const).flatMap((into): Finding[] => {
    const all = engagements.filter((e) => e.range === into);
    const late = all.filter((e) => (e.delayS ?? Infinity) > limit.value);
    if (late.length === 0) return [];
    const never = late.filter((e) => e.delayS === undefined).length;
    return [
      {
        id: `late-engagement:${into}`,
        kind: "late-engagement",
        title: never === all.length ? `${into} does not engage` : `${into} engages late`,
        subject: { gear: into === "R" ? "R" : "1" },
        severity: late.length * 2 >= all.length ? "fault" : "notice",
        startS: late[0]?.commandS ?? 0,
        endS: late.at(-1)?.endS ?? 0,
        occurrences: late.map((e) => ({
          startS: e.commandS,
          endS: e.endS,
          value: e.delayS ?? e.endS - e.commandS,
        })),
        conditions: { gears: [into === "R" ? "R" : "1"], fluidC: range(late.map((e) => e.fluidC)) },
        measures: [
          {
            name: never > 0 ? "delay, at least" : "delay",
            value: median(late.map((e) => e.delayS ?? e.endS - e.commandS)),
            quantity: "duration",
          },
          { name: "late", value: late.length, quantity: "count" },
          { name: "made in all", value: all.length, quantity: "count" },
        ],
        limit: { value: limit.value, quantity: "duration", source: limit.source },
        confidence: confidence(frame, late.length, late.length * 2, 4),
      },
    ];
  });
}

const STANDS = {
  held: "the input stands as well: the train is tied up, or something holds the output",
  free: "the input runs free: nothing takes its torque",
  output: "the output shaft turns: splines, shafts or joints behind it, or the road speed is not read",
} as const;

function immobileFindings(frame: Frame, spans: readonly Immobile[]): Finding[] {
  return [...new Set(spans.map((s) => s.gear))].map((gear): Finding => {
    const all = spans.filter((s) => s.gear === gear);
    const input = all.find((s) => s.input !== undefined)?.input;
    const seconds = all.reduce((sum, s) => sum + s.endS - s.startS, 0);
    return {
      id: `no-drive:${gear}`,
      kind: "no-drive",
      title: `Does not move in gear ${gear}${input ? `: ${STANDS[input]}` : ""}`,
      subject: { gear },
      severity: "fault",
      startS: all[0]?.startS ?? 0,
      endS: all.at(-1)?.endS ?? 0,
      occurrences: all.map((s) => ({ startS: s.startS, endS: s.endS, value: s.endS - s.startS })),
      conditions: { gears: [gear], torqueNm: range(all.map((s) => s.torqueNm)) },
      measures: [
        { name: "stands under power for", value: seconds, quantity: "duration" },
        { name: "times", value: all.length, quantity: "count" },
      ],
      limit: undefined,
      confidence: confidence(frame, all.length, seconds, 2),
    };
  });
}

/** What has no moment of its own. */
const wholeDrive = (frame: Frame, gears: readonly string[] = []) => ({
  startS: 0,
  endS: frame.timeS.at(-1) ?? 0,
  occurrences: [],
  conditions: { gears },
});

/** A fault of the drive as a whole; its id is its kind unless it has one of its own. */
const overall = (
  frame: Frame,
  kind: FindingKind,
  own: Pick<Finding, "title" | "measures" | "limit" | "confidence"> & Partial<Pick<Finding, "id" | "subject">>,
): Finding => ({ id: kind, kind, subject: {}, severity: "fault", ...wholeDrive(frame), ...own });

function neutralFindings(frame: Frame, neutral: NeutralPull | undefined): Finding[] {
  if (!neutral || neutral.speedRatio >= DRAWN_DOWN_RATIO) return [];
  return [
    overall(frame, "neutral-pull", {
      title: "Turbine is held in neutral: an element drags that should be released",
      measures: [
        { name: "turbine under engine at rest in P and N", value: heldPct(neutral), quantity: "percent" },
        { name: "at rest for", value: neutral.seconds, quantity: "duration" },
      ],
      limit: { value: (1 - DRAWN_DOWN_RATIO) * 100, quantity: "percent", source: "typical" },
      confidence: confidence(frame, 1, neutral.seconds, 5),
    }),
  ];
}

function pressureFindings(frame: Frame, pressures: readonly PressureFollows[]): Finding[] {
  return pressures.flatMap(({ id, seconds, ...shares }): Finding[] => {
    const { shortPct, overPct } = offCommand(shares);
    const short = shortPct > (1 - SHORT_SHARE) * 100;
    if (!short && overPct <= (OVER_SHARE - 1) * 100) return [];
    const name = id === "line" ? "Line pressure" : `Pressure of ${componentName(frame.unit, id)}`;
    return [
      overall(frame, "pressure", {
        id: `pressure:${id}`,
        title: short ? `${name} stays behind its command` : `${name} is over its command`,
        subject: id === "line" ? {} : { component: id },
        measures: [
          {
            name: short ? "short of its command" : "over its command",
            value: short ? shortPct : overPct,
            quantity: "percent",
          },
          { name: "with a steady command for", value: seconds, quantity: "duration" },
        ],
        limit: {
          value: Math.abs(1 - (short ? SHORT_SHARE : OVER_SHARE)) * 100,
          quantity: "percent",
          source: "typical",
        },
        confidence: confidence(frame, 1, seconds, 10),
      }),
    ];
  });
}

function coolDownFindings(frame: Frame, coolDown: CoolDown | undefined): Finding[] {
  if (!coolDown || coolDown.decayS <= SLOW_DECAY_S) return [];
  return [
    overall(frame, "cool-down", {
      title: "Clutches cool down slowly after a launch",
      measures: [
        { name: "decay time", value: coolDown.decayS, quantity: "duration" },
        { name: "windows", value: coolDown.windows, quantity: "count" },
      ],
      limit: { value: SLOW_DECAY_S, quantity: "duration", source: "typical" },
      confidence: confidence(frame, coolDown.windows, coolDown.windows, 10),
    }),
  ];
}

function idleFindings(frame: Frame, idle: Idle | undefined): Finding[] {
  if (!idle || idle.dipRpm <= IDLE_DIP_RPM) return [];
  return [
    overall(frame, "idle", {
      title: "Idle is drawn down at rest: a clutch does not open, or the engine runs rough",
      measures: [
        { name: "lowest tenth under the usual idle", value: idle.dipRpm, quantity: "speed-rpm" },
        { name: "at rest for", value: idle.seconds, quantity: "duration" },
      ],
      limit: { value: IDLE_DIP_RPM, quantity: "speed-rpm", source: "typical" },
      confidence: confidence(frame, 1, idle.seconds, 10),
    }),
  ];
}

function pullFindings(frame: Frame, pull: EnginePull | undefined): Finding[] {
  if (!pull || pull.share >= PULL_LOW) return [];
  return [
    overall(frame, "engine-pull", {
      title: "Converter takes less torque than the engine reports: the engine is weak, or the converter",
      subject: { component: "converter" },
      measures: [
        { name: "missing of the torque reported", value: missingPct(pull), quantity: "percent" },
        { name: "steady pulls with the converter open", value: pull.seconds, quantity: "duration" },
      ],
      limit: { value: (1 - PULL_LOW) * 100, quantity: "percent", source: "typical" },
      confidence: confidence(frame, 1, pull.seconds, 5),
    }),
  ];
}

/** A single one may be a reading that was missed. */
const LAPSES = 2;

function lapseFindings(frame: Frame, lapses: readonly Lapse[] = []): Finding[] {
  if (lapses.length < LAPSES) return [];
  return [
    {
      id: "lapse",
      kind: "lapse",
      title: "All solenoids without power for a moment: the control unit, or what feeds it",
      subject: {},
      severity: "fault",
      startS: lapses[0]?.startS ?? 0,
      endS: lapses.at(-1)?.endS ?? 0,
      occurrences: lapses.map((l) => ({ startS: l.startS, endS: l.endS, value: l.endS - l.startS })),
      conditions: { gears: [], vehicleKmh: range(lapses.map((l) => l.vehicleKmh)) },
      measures: [{ name: "times", value: lapses.length, quantity: "count" }],
      limit: { value: LAPSES, quantity: "count", source: "typical" },
      confidence: confidence(frame, lapses.length, lapses.length, 10),
    },
  ];
}

const HUNTS_TIMES = 3;

function gearHuntingFindings(frame: Frame, hunts: readonly GearHunting[]): Finding[] {
  if (hunts.length < HUNTS_TIMES) return [];
  const gears = [...new Set(hunts.map((h) => h.between))];
  return [
    {
      id: "gear-hunting",
      kind: "gear-hunting",
      title: `Hunts between gears ${gears.join(", ")} with the foot still`,
      subject: {},
      severity: "fault",
      startS: hunts[0]?.startS ?? 0,
      endS: hunts.at(-1)?.endS ?? 0,
      occurrences: hunts.map((h) => ({ startS: h.startS, endS: h.endS, value: h.endS - h.startS })),
      conditions: { gears: [...new Set(gears.flatMap((g) => g.split("-")))] },
      measures: [{ name: "changes taken back", value: hunts.length, quantity: "count" }],
      limit: { value: HUNTS_TIMES, quantity: "count", source: "typical" },
      confidence: confidence(frame, hunts.length, hunts.length, 1),
    },
  ];
}

function loadReversalFindings(frame: Frame, reversals: readonly LoadReversal[]): Finding[] {
  const swing = usualSwingRpm(reversals);
  if (!(swing > SWINGS_RPM)) return [];
  const hits = reversals.filter((r) => r.swingRpm > SWINGS_RPM);
  return [
    {
      id: "load-reversal",
      kind: "load-reversal",
      title:
        swing > KNOCKS_RPM
          ? "Knocks when load comes and goes: play in the driveline"
          : "Swings when load comes and goes: a soft mount, or play",
      subject: {},
      severity: "fault",
      startS: hits[0]?.startS ?? 0,
      endS: hits.at(-1)?.startS ?? 0,
      occurrences: hits.map((r) => ({ startS: r.startS, endS: r.startS + 1, value: r.swingRpm })),
      conditions: { gears: [...new Set(hits.map((r) => r.gear))] },
      measures: [
        { name: "swing at the wheels, peak to peak", value: swing, quantity: "speed-rpm" },
        { name: "load reversals", value: reversals.length, quantity: "count" },
      ],
      limit: { value: SWINGS_RPM, quantity: "speed-rpm", source: "typical" },
      confidence: confidence(frame, reversals.length, reversals.length, 18),
    },
  ];
}

/** One launch may be a foot that trembled. */
const JUDDERS_OFTEN = { launches: 2, share: 0.3, surely: 3 };

/** By the gear that launches: each belongs to one of the two clutches. */
function launchFindings(frame: Frame, launches: readonly Launch[]): Finding[] {
  const limit = TYPICAL.judderPeakToPeakRpm;
  return [...new Set(launches.map((l) => l.gear))].flatMap((gear): Finding[] => {
    const judged = launches.filter((l) => l.gear === gear && l.judder);
    const hits = judged.filter((l) => (l.judder?.peakToPeak ?? 0) > limit);
    const [first] = hits;
    if (!first || hits.length < JUDDERS_OFTEN.launches || hits.length < JUDDERS_OFTEN.share * judged.length) return [];
    return [
      {
        id: `judder:${gear}`,
        kind: "judder",
        title: `Judder while it launches in ${gear}`,
        subject: { gear },
        severity: hits.length >= JUDDERS_OFTEN.surely ? "fault" : "notice",
        startS: first.startS,
        endS: hits.at(-1)?.endS ?? 0,
        occurrences: hits.map((l) => ({ startS: l.startS, endS: l.endS, value: l.judder?.peakToPeak ?? 0 })),
        conditions: {
          gears: [gear],
          torqueNm: range(hits.map((l) => l.torqueNm)),
          fluidC: range(hits.map((l) => l.clutchC)),
        },
        measures: [
          { name: "peak to peak", value: median(hits.map((l) => l.judder?.peakToPeak ?? 0)), quantity: "speed-rpm" },
          { name: "frequency", value: median(hits.map((l) => l.judder?.frequencyHz ?? 0)), quantity: "frequency" },
          { name: "launches concerned", value: hits.length, quantity: "count" },
          { name: "made in all", value: judged.length, quantity: "count" },
        ],
        limit: { value: limit, quantity: "speed-rpm", source: "typical" },
        confidence: confidence(frame, hits.length, hits.length * 2, 12),
      },
    ];
  });
}

function stallFindings(frame: Frame, tests: readonly StallTest[]): Finding[] {
  return tests.flatMap((t, i): Finding[] => {
    if (t.expectedRpm === undefined) return [];
    const off = t.engineRpm / t.expectedRpm - 1;
    if (Math.abs(off) <= TYPICAL.stallShare) return [];
    return [
      {
        id: `stall:${i + 1}`,
        kind: "stall",
        title: `Stall speed too ${off > 0 ? "high: something slips" : "low: the converter or the engine is weak"}`,
        subject: { component: "converter" },
        severity: "fault",
        startS: t.startS,
        endS: t.endS,
        occurrences: [{ startS: t.startS, endS: t.endS, value: t.engineRpm }],
        conditions: { gears: [], fluidC: range([t.fluidC]) },
        measures: [
          { name: "stall speed", value: t.engineRpm, quantity: "speed-rpm" },
          { name: "expected at this torque", value: t.expectedRpm, quantity: "speed-rpm" },
        ],
        limit: undefined,
        confidence: confidence(frame, 1, t.endS - t.startS, 4),
      },
    ];
  });
}

function heatFindings(heat: HeatAnalysis | undefined): Finding[] {
  if (!heat) return [];
  const clutch = heat.sensor === "clutch";
  const limitC = clutch ? TYPICAL.clutchC : TYPICAL.fluidC;
  const seconds = clutch ? (heat.highestC > limitC ? 1 : 0) : (heat.secondsAbove[1] ?? 0);
  const loses = heat.cooler === "loses" && heat.highestC > 105;
  if (!(seconds > 10 || (clutch && seconds > 0) || loses)) return [];
  const measures: [Measure, ...Measure[]] = [{ name: "highest", value: heat.highestC, quantity: "temperature" }];
  if (heat.fastestRiseKPerMin !== undefined)
    measures.push({ name: "rise a minute", value: heat.fastestRiseKPerMin, quantity: "temperature-difference" });
  if (heat.cruiseKPerMin !== undefined)
    measures.push({
      name: "a minute of easy cruising",
      value: heat.cruiseKPerMin,
      quantity: "temperature-difference",
    });
  return [
    {
      id: "heat",
      kind: "heat",
      title: loses
        ? "Heat is not carried off while hardly anything slips"
        : `${clutch ? "Clutch" : "Fluid"} gets too hot`,
      subject: {},
      severity: heat.highestC > (clutch ? limitC : TYPICAL.fluidHighestC) || loses ? "fault" : "notice",
      startS: Math.max(0, heat.highestAtS - 20),
      endS: heat.highestAtS,
      occurrences: [{ startS: Math.max(0, heat.highestAtS - 20), endS: heat.highestAtS, value: heat.highestC }],
      conditions: { gears: [], fluidC: [heat.fromC, heat.highestC] },
      measures,
      limit: { value: limitC, quantity: "temperature", source: "typical" },
      confidence: {
        level: heat.slipEnergyKj === undefined ? "medium" : "high",
        reason: `${(heat.secondsAbove[0] ?? 0).toFixed(0)} s above 110 °C`,
        raise: heat.slipEnergyKj === undefined ? "record engine torque: then heat can be set against slip" : undefined,
      },
    },
  ];
}

const NEAR_LIMIT = 0.9;

function adaptationFindings(frame: Frame, values: readonly AdaptationValue[]): Finding[] {
  return values
    .filter((v) => v.used >= NEAR_LIMIT)
    .map(
      (v): Finding => ({
        id: `adaptation:${v.id}`,
        kind: "adaptation",
        title: `${v.name} is ${v.used >= 1 ? "at" : "near"} its limit`,
        subject: { component: v.component },
        severity: v.used >= 1 ? "fault" : "notice",
        ...wholeDrive(frame),
        measures: [
          { name: `learned, ${v.unit}`, value: v.last, quantity: "none" },
          { name: "of the way to the limit", value: v.used * 100, quantity: "percent" },
        ],
        limit: {
          value: v.last >= (v.limits[0] + v.limits[1]) / 2 ? v.limits[1] : v.limits[0],
          quantity: "none",
          source: "unit file",
        },
        confidence: { level: "high", reason: "read from the controller", raise: undefined },
      }),
    );
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

function huntingFindings(converter: ConverterAnalysis | undefined): Finding[] {
  const spans = converter?.hunting ?? [];
  const [first] = spans;
  if (!first) return [];
  const gears = [...new Set(spans.map((s) => s.gear))].sort();
  const cycles = spans.reduce((n, s) => n + s.cycles, 0);
  return [
    {
      id: "hunting",
      kind: "hunting",
      title: `Converter clutch hunts in gear ${gears.join(", ")}`,
      subject: { component: "converter-clutch" },
      severity: "notice",
      startS: first.startS,
      endS: spans.at(-1)?.endS ?? first.endS,
      occurrences: spans.map((s) => ({ startS: s.startS, endS: s.endS, value: s.cyclesPerMin })),
      conditions: {
        gears,
        fluidC: range(spans.map((s) => s.fluidC)),
        vehicleKmh: range(spans.map((s) => s.vehicleKmh)),
      },
      measures: [
        { name: "let go and taken again", value: cycles, quantity: "count" },
        { name: "a minute", value: Math.max(...spans.map((s) => s.cyclesPerMin)), quantity: "count" },
      ],
      limit: { value: HUNTING_CYCLES - 1, quantity: "count", source: "typical" },
      confidence: {
        level: "medium",
        reason: "the controller lets it go at a steady speed and pedal",
        raise: "look at the signals that it decides by: pedal, brake switch, fluid temperature, engine torque",
      },
    },
  ];
}
