import { type Analysis, gearOutcomes, obtainedGears, VIBRATION_RATE_HZ } from "../drive/index.ts";
import { explainObtained, sensorValidIn, type Unit } from "../unit/index.ts";
import type { Evidence } from "./evidence.ts";
import type { Subject } from "./instances.ts";

const MIN_CLUTCH_S = 10;
const MIN_SHIFTS = 2;
const MIN_DRIVEN_S = 5;
/** Slip that rises less than this with torque does not follow it, rpm per N·m. */
const SLOPE_RPM_PER_NM = 0.15;
/** Slip that begins so far above the coldest of the drive begins hot. */
const HOTTER_BY_C = 12;
const HARSH_MANY = 3;

type Add = (table: string, key: string, subject: Subject, outcome: string, label: string, abnormal: boolean) => void;

/**
 * What one log says, absence included where it could have shown it: a gear held under the torque at which others slip, a
 * sensor steady in the gears where it reads.
 */
export function fromLog(unit: Unit, entryId: string, logId: string, analysis: Analysis): Evidence[] {
  const list: Evidence[] = [];
  const add: Add = (table, key, subject, outcome, label, abnormal) =>
    list.push({ id: `${logId}:${table}:${key}`, table, subject, outcome, label, entryId, abnormal });
  gears(analysis, add);
  wrongGears(unit, analysis, add);
  shifts(analysis, add);
  converter(analysis, add);
  vibration(analysis, add);
  standstill(analysis, add);
  sensors(unit, analysis, add);
  const limp = analysis.limp !== undefined;
  add("limp", "all", {}, limp ? "limp" : "none", limp ? "Limp mode in the log" : "No limp mode in the log", limp);
  return list;
}

const has = (analysis: Analysis, kind: string) => analysis.findings.some((f) => f.kind === kind);

function gears(analysis: Analysis, add: Add): void {
  const outcomes = gearOutcomes(analysis);
  const slipping = analysis.held.gears.filter((g) => g.slipping.length > 0);
  for (const g of analysis.held.gears) {
    const outcome = outcomes[g.gear];
    if (outcome === "bad") add("gear", g.gear, { gear: g.gear }, "slips", `Gear ${g.gear} slips`, true);
    if (outcome === "good") {
      const upTo = g.cleanTorqueNm === undefined ? "" : ` up to ${Math.round(g.cleanTorqueNm)} N·m`;
      add("gear", g.gear, { gear: g.gear }, "holds", `Gear ${g.gear} holds${upTo}`, false);
    }
  }
  const sloped = slipping.filter((g) => g.rpmPerNm !== undefined);
  if (sloped.length > 0) {
    const grows = sloped.filter((g) => (g.rpmPerNm as number) > SLOPE_RPM_PER_NM).length * 2 > sloped.length;
    add(
      "slip-pattern",
      "all",
      {},
      grows ? "grows-with-torque" : "sudden",
      grows ? "Slip grows with torque" : "Slip does not follow torque",
      true,
    );
  }
  const temperatures = slipping.flatMap((g) => g.slipping.flatMap((s) => (s.fluidC === undefined ? [] : [s.fluidC])));
  const coldest = analysis.heat?.sensor === "fluid" ? analysis.heat.fromC : undefined;
  if (temperatures.length > 0 && coldest !== undefined && (analysis.heat?.highestC ?? 0) - coldest > 2 * HOTTER_BY_C) {
    const hot = Math.min(...temperatures) > coldest + HOTTER_BY_C;
    add(
      "slip-heat",
      "all",
      {},
      hot ? "only-hot" : "cold-too",
      hot ? `Slips only above ${Math.min(...temperatures).toFixed(0)} °C` : "Slips cold as well",
      true,
    );
  }
}

/** Gears obtained against the command, and what alone could stick so. */
function wrongGears(unit: Unit, analysis: Analysis, add: Add): void {
  const seen = obtainedGears(analysis);
  const wrong = seen.filter((s) => s.commanded !== s.obtained);
  if (wrong.length === 0) {
    if (seen.length > 1) add("wrong-gear", "all", { components: [] }, "none", "Every gear came as commanded", false);
    return;
  }
  const stuck = explainObtained(unit, seen);
  const components = [...new Set(stuck.flatMap((s) => [s.stuck.component, ...s.solenoids]))];
  add(
    "wrong-gear",
    "all",
    { components },
    "obtained",
    `Gear ${wrong.map((w) => `${w.obtained} for ${w.commanded}`).join(", ")}`,
    true,
  );
}

const WORSE = ["clean", "late", "flares", "fails"] as const;
const SHIFT_WORDS = { clean: "clean", late: "comes late", flares: "flares or takes long", fails: "fails" } as const;

function shifts(analysis: Analysis, add: Add): void {
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
    const harsh = new Set(analysis.findings.filter((f) => f.kind === "harsh-shift").map((f) => f.subject.shift));
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

function converter(analysis: Analysis, add: Add): void {
  if (!analysis.converter || analysis.converter.secondsApplied < MIN_CLUTCH_S) return;
  const slips = has(analysis, "converter-slip");
  add(
    "converter-clutch",
    "all",
    {},
    slips ? "slips" : "holds",
    slips ? "Converter clutch slips while applied" : "Converter clutch holds",
    slips,
  );
  const hunts = has(analysis, "hunting");
  add(
    "hunting",
    "all",
    {},
    hunts ? "hunts" : "calm",
    hunts ? "Converter clutch hunts" : "Converter clutch calm",
    hunts,
  );
}

function vibration(analysis: Analysis, add: Add): void {
  const { oscillation } = analysis;
  if (oscillation.rateHz < VIBRATION_RATE_HZ) return;
  const found = (id: string) => analysis.findings.some((f) => f.id === id);
  if (oscillation.clutchWorking.length > 0) {
    const shudders = has(analysis, "shudder");
    add(
      "shudder",
      "all",
      {},
      shudders ? "shudders" : "smooth",
      shudders ? "Shudder while the converter clutch works" : "No shudder while the converter clutch works",
      shudders,
    );
  }
  if (oscillation.openPeakToPeakRpm !== undefined) {
    const open = found("oscillation:engine");
    add(
      "open-oscillation",
      "all",
      {},
      open ? "present" : "absent",
      open ? "Vibration that comes from the engine" : "No vibration from the engine",
      open,
    );
  }
  const road = found("oscillation:wheels") ? "wheels" : found("oscillation:output-shaft") ? "output-shaft" : "none";
  add(
    "road-oscillation",
    "all",
    {},
    road,
    road === "none" ? "No vibration from wheels or shafts" : `Vibration that comes from the ${road.replace("-", " ")}`,
    road !== "none",
  );
}

function standstill(analysis: Analysis, add: Add): void {
  if (analysis.engagements.length > 0) {
    const late = has(analysis, "late-engagement");
    add("engagement-time", "all", {}, late ? "late" : "prompt", late ? "Late engagement" : "Prompt engagement", late);
  }
  if (analysis.stallTests.length > 0) {
    const off = analysis.findings.find((f) => f.kind === "stall");
    const low = /low/i.test(off?.title ?? "");
    const outcome = !off ? "normal" : low ? "low" : "high";
    add("stall-speed", "all", {}, outcome, `Stall speed ${outcome}`, outcome !== "normal");
  }
  if (analysis.launches.length > 0) {
    const judders = has(analysis, "judder");
    add(
      "judder",
      "all",
      {},
      judders ? "judders" : "smooth",
      judders ? "Judders while moving off" : "Moves off smoothly",
      judders,
    );
  }
  if (analysis.heat) {
    const finding = analysis.findings.find((f) => f.kind === "heat");
    const outcome = !finding ? "normal" : finding.severity === "fault" ? "too-hot" : "warm";
    add(
      "heat",
      "all",
      {},
      outcome,
      `${analysis.heat.sensor === "fluid" ? "Fluid" : "Clutch"} ${outcome.replace("-", " ")}`,
      outcome !== "normal",
    );
    if (analysis.heat.cooler !== "not driven") {
      const loses = analysis.heat.cooler === "loses";
      add(
        "cooling",
        "all",
        {},
        loses ? "loses" : "cools",
        loses ? "Warms on while cruising" : "Cooler keeps up while cruising",
        false,
      );
    }
  }
}

function sensors(unit: Unit, analysis: Analysis, add: Add): void {
  const driven = analysis.held.gears.filter((g) => g.seconds > MIN_DRIVEN_S).map((g) => g.gear);
  for (const sensor of unit.sensors) {
    if (!sensor.channel.endsWith("_rpm")) continue;
    const drops = analysis.findings.some((f) => f.id === `drop-out:${sensor.id}`);
    const ripples = analysis.findings.some((f) => f.id === `sensor-ripple:${sensor.id}`);
    const seen = driven.some((g) => sensorValidIn(sensor, g)) && !analysis.derived.includes(sensor.channel);
    if (drops) add("sensor", sensor.id, { component: sensor.id }, "drops-out", `${sensor.name} drops out`, true);
    else if (ripples) add("sensor", sensor.id, { component: sensor.id }, "ripples", `${sensor.name} ripples`, true);
    else if (seen) add("sensor", sensor.id, { component: sensor.id }, "steady", `${sensor.name} steady`, false);
  }
}
