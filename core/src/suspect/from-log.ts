import {
  type Analysis,
  gearOutcomes,
  KNOCKS_RPM,
  median,
  neverTakesHold,
  obtainedGears,
  SWINGS_RPM,
  usualSwingRpm,
  VIBRATION_RATE_HZ,
} from "../drive/index.ts";
import { elementsIn, explainObtained, sensorValidIn, type Unit } from "../unit/index.ts";
import type { AnalysedLog, Evidence } from "./evidence.ts";
import type { Subject } from "./instances.ts";

const MIN_CLUTCH_S = 10;
const MIN_SHIFTS = 2;
const MIN_DRIVEN_S = 5;
/** Slip that rises less than this with torque does not follow it, rpm per N·m. */
const SLOPE_RPM_PER_NM = 0.15;
/** Slip that begins so far above the coldest of the drive begins hot. */
const HOTTER_BY_C = 12;
/** A drive that never was colder than this says nothing of cold. */
const COLD_C = 40;
/** Of the load at which it slips. */
const HELD_AS_MUCH = 0.85;
const HARSH_MANY = 3;
/** A gear that slips so long and hardly ever holds is not there. */
const MIN_GONE_S = 2.5;
const GONE_SHARE = 0.15;
/** Of the unit's largest torque: what drags along in a gear that is not there. */
const FREE_SHARE = 0.035;
const MIN_WANTED_S = 10;
const REACHED_S = 1;
/** A signal that comes and goes is not away for so long. */
const DEAD_S = 10;
/** A contact that is touched and lost again is away for less. */
const FLICKER_S = 0.32;
/** Of the way to its limit; less is the spread of sound units. */
const LEARNED_SHARE = 0.3;

type Add = (table: string, key: string, subject: Subject, outcome: string, label: string, abnormal: boolean) => void;

/**
 * What one log says, absence included where it could have shown it: a gear held under the torque at which others slip, a
 * sensor steady in the gears where it reads.
 */
export function fromLog(unit: Unit, entryId: string, logId: string, analysis: Analysis): Evidence[] {
  const list: Evidence[] = [];
  const add: Add = (table, key, subject, outcome, label, abnormal) =>
    list.push({ id: `${logId}:${table}:${key}`, table, subject, outcome, label, entryId, abnormal });
  gears(unit, analysis, add);
  if (unit.kind !== "planetary") missing(analysis, add);
  learned(unit, analysis, add);
  driveline(analysis, add);
  lapses(analysis, add);
  wrongGears(unit, analysis, add);
  shifts(analysis, add);
  converter(analysis, add);
  vibration(analysis, add);
  standstill(analysis, add);
  launches(unit, analysis, add);
  sensors(unit, analysis, add);
  const limp = analysis.limp !== undefined;
  either(add, "limp", limp, ["limp", "Limp mode in the log"], ["none", "No limp mode in the log"]);
  return list;
}

/** One of two outcomes for the whole drive, each with its label: the abnormal one when it is so, the usual one otherwise. */
function either(
  add: Add,
  table: string,
  isSo: boolean,
  abnormal: readonly [outcome: string, label: string],
  usual: readonly [outcome: string, label: string],
): void {
  const [outcome, label] = isSo ? abnormal : usual;
  add(table, "all", {}, outcome, label, isSo);
}

const has = (analysis: Analysis, kind: string) => analysis.findings.some((f) => f.kind === kind);

function gears(unit: Unit, analysis: Analysis, add: Add): void {
  const outcomes = gearOutcomes(analysis);
  const slipping = analysis.held.gears.filter((g) => g.slipping.length > 0);
  const vain = analysis.immobile.some((s) => s.input === "output");
  const stands = new Map(
    analysis.immobile
      .filter((s) => s.input !== "output")
      .map((s) => [s.gear, s.input === "held" ? "blocked" : "gone"] as const),
  );
  if (analysis.held.gears.length > 0)
    either(
      add,
      "drive-lost",
      vain,
      ["lost", "Output shaft turns and the vehicle stands"],
      ["none", "The vehicle moves with its output shaft"],
    );
  for (const [gear, outcome] of stands)
    add(
      "gear",
      gear,
      { gear },
      outcome,
      outcome === "blocked" ? `Gear ${gear} ties up: stands under power` : `Gear ${gear} does not drive`,
      true,
    );
  for (const g of analysis.held.gears) {
    const outcome = outcomes[g.gear];
    if (stands.has(g.gear)) continue;
    const free = (g.slipCarriedNm ?? 0) < FREE_SHARE * unit.maxInputTorqueNm;
    if (outcome === "bad" && free && g.slipSeconds > MIN_GONE_S && g.cleanSeconds < GONE_SHARE * g.slipSeconds)
      add("gear", g.gear, { gear: g.gear }, "gone", `Gear ${g.gear} never holds`, true);
    else if (outcome === "bad") add("gear", g.gear, { gear: g.gear }, "slips", `Gear ${g.gear} slips`, true);
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
}

/**
 * Does it slip hot only? Over all logs of a vehicle: a gear that slips warm and held as much while it was cold, against one
 * that slipped cold as well. Cold that was not driven says nothing.
 */
export function slipHeat(logs: readonly AnalysedLog[]): Evidence | undefined {
  const byGear = new Map<string, { coldestSlipC: number; load: number | undefined; from: AnalysedLog }>();
  let coldestC = Number.POSITIVE_INFINITY;
  for (const log of logs) {
    const { heat, held } = log.analysis;
    if (heat?.sensor !== "fluid") continue;
    coldestC = Math.min(coldestC, heat.fromC);
    for (const g of held.gears)
      for (const s of g.slipping) {
        if (s.fluidC === undefined || s.fluidC >= (byGear.get(g.gear)?.coldestSlipC ?? Number.POSITIVE_INFINITY))
          continue;
        byGear.set(g.gear, { coldestSlipC: s.fluidC, load: g.lowestSlipNmPerKpa, from: log });
      }
  }
  if (byGear.size === 0) return undefined;
  const [coldest] = [...byGear.values()].sort((a, b) => a.coldestSlipC - b.coldestSlipC);
  if (!coldest) return undefined;
  const say = (outcome: string, label: string): Evidence => ({
    id: `${coldest.from.logId}:slip-heat:all`,
    table: "slip-heat",
    subject: {},
    outcome,
    label,
    entryId: coldest.from.entryId,
    abnormal: true,
  });
  const shown = coldest.coldestSlipC.toFixed(0);
  if (coldest.coldestSlipC < coldestC + HOTTER_BY_C)
    return coldest.coldestSlipC < COLD_C ? say("cold-too", "Slips cold as well") : undefined;
  const heldCold = [...byGear].some(([gear, { coldestSlipC, load }]) =>
    logs.some(({ analysis: { held } }) =>
      held.gears.some(
        (g) =>
          g.gear === gear &&
          g.coldestCleanC !== undefined &&
          g.coldestCleanC < coldestSlipC - HOTTER_BY_C &&
          (load === undefined || g.cleanNmPerKpa === undefined || g.cleanNmPerKpa > HELD_AS_MUCH * load),
      ),
    ),
  );
  return heldCold ? say("only-hot", `Slips only above ${shown} °C, and held as much below`) : undefined;
}

/** Gears of a dual clutch that never come although the drive calls for them: what bars them is a fork. */
function missing(analysis: Analysis, add: Add): void {
  // limp mode bars gears of its own
  if (analysis.limp) return;
  for (const { gear, seconds, wantedSeconds } of analysis.reach) {
    if (seconds > REACHED_S) add("gear-reached", gear, { gear }, "reached", `Gear ${gear} is reached`, false);
    else if (wantedSeconds > MIN_WANTED_S) {
      add("gear-reached", gear, { gear }, "missing", `Gear ${gear} never comes`, true);
      // those above it lie behind
      return;
    }
  }
}

/**
 * Learned values: how far an element's own has gone from that of a new unit. One of an element that no upshift applies is
 * hardly ever taught anything: that it is usual says nothing.
 */
function learned(unit: Unit, analysis: Analysis, add: Add): void {
  const applied = unit.gears.filter((g) => g.ratio > 0).map((g) => elementsIn(unit, g.name));
  const comesOn = new Set(applied.slice(1).flatMap((to, i) => to.filter((e) => !applied[i]?.includes(e))));
  for (const a of analysis.adaptations) {
    const outcome = a.used < LEARNED_SHARE ? "usual" : a.last > a.newValue ? "high" : "low";
    if (outcome === "usual" && unit.kind === "planetary" && !comesOn.has(a.component)) continue;
    add(
      "adaptation",
      a.id,
      { component: a.component },
      outcome,
      `${a.name} ${outcome === "usual" ? "as usual" : `learned ${outcome}`}`,
      outcome !== "usual",
    );
  }
}

/** The controller itself falls out. */
function lapses(analysis: Analysis, add: Add): void {
  if (!analysis.lapses) return;
  const lapsed = has(analysis, "lapse");
  either(add, "lapse", lapsed, ["lapses", "All solenoids lose power for a moment"], ["none", "Solenoids stay powered"]);
}

/** Engine and driveline: what is easily taken for the transmission. */
function driveline(analysis: Analysis, add: Add): void {
  if (analysis.pull) {
    const low = has(analysis, "engine-pull");
    either(
      add,
      "engine-pull",
      low,
      ["low", "Converter takes less torque than the engine reports"],
      ["fits", "Engine gives what it reports"],
    );
  }
  if (analysis.idle)
    either(
      add,
      "idle",
      has(analysis, "idle"),
      ["drawn-down", "Idle is drawn down at rest"],
      ["steady", "Idle is steady at rest"],
    );
  if (analysis.neutral)
    either(
      add,
      "neutral-pull",
      has(analysis, "neutral-pull"),
      ["held", "Turbine is held in neutral"],
      ["free", "Turbine runs free in neutral"],
    );
  if (analysis.coolDown)
    either(
      add,
      "cool-down",
      has(analysis, "cool-down"),
      ["slow", "Clutches cool down slowly"],
      ["soon", "Clutches cool down after a launch"],
    );
  if (analysis.reach.length > 0) {
    const hunts = has(analysis, "gear-hunting");
    either(
      add,
      "gear-hunting",
      hunts,
      ["hunts", "Hunts between gears with the foot still"],
      ["calm", "Keeps its gears"],
    );
  }
  const swing = usualSwingRpm(analysis.loadReversals);
  if (!Number.isNaN(swing)) {
    const outcome = swing > KNOCKS_RPM ? "knocks" : swing > SWINGS_RPM ? "swings" : "quiet";
    add(
      "load-reversal",
      "all",
      {},
      outcome,
      outcome === "quiet" ? "Quiet when load comes and goes" : `Driveline ${outcome} when load comes and goes`,
      outcome !== "quiet",
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
  if (neverTakesHold(analysis.converter))
    add("converter-clutch", "all", {}, "open", "Converter clutch never takes hold: slips as if let go", true);
  else
    either(
      add,
      "converter-clutch",
      slips,
      ["slips", "Converter clutch slips while applied"],
      ["holds", "Converter clutch holds"],
    );
  const hunts = has(analysis, "hunting");
  either(add, "hunting", hunts, ["hunts", "Converter clutch hunts"], ["calm", "Converter clutch calm"]);
}

function vibration(analysis: Analysis, add: Add): void {
  const { oscillation } = analysis;
  if (oscillation.rateHz < VIBRATION_RATE_HZ) return;
  const found = (id: string) => analysis.findings.some((f) => f.id === id);
  if (oscillation.clutchWorking.length > 0) {
    const shudders = has(analysis, "shudder");
    either(
      add,
      "shudder",
      shudders,
      ["shudders", "Shudder while the converter clutch works"],
      ["smooth", "No shudder while the converter clutch works"],
    );
  }
  if (oscillation.openPeakToPeakRpm !== undefined) {
    const open = found("oscillation:engine");
    either(
      add,
      "open-oscillation",
      open,
      ["present", "Vibration that comes from the engine"],
      ["absent", "No vibration from the engine"],
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
  if (analysis.stallTests.length > 0) {
    const off = analysis.findings.find((f) => f.kind === "stall");
    const low = /low/i.test(off?.title ?? "");
    const outcome = !off ? "normal" : low ? "low" : "high";
    add("stall-speed", "all", {}, outcome, `Stall speed ${outcome}`, outcome !== "normal");
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

const MIN_LAUNCHES = 2;

/** Moving off, by the clutch that does it. */
function launches(unit: Unit, analysis: Analysis, add: Add): void {
  const clutches = unit.elements.filter((e) => e.kind === "dual-clutch");
  for (const { id, name } of clutches) {
    const own = analysis.launches.filter((l) => l.judder && elementsIn(unit, l.gear).includes(id));
    const judders = analysis.findings.some((f) => f.kind === "judder" && own.some((l) => l.gear === f.subject.gear));
    if (judders) add("judder", id, { component: id }, "judders", `${name} judders while moving off`, true);
    else if (own.length >= MIN_LAUNCHES)
      add("judder", id, { component: id }, "smooth", `${name} moves off smoothly`, false);
  }
}

function sensors(unit: Unit, analysis: Analysis, add: Add): void {
  const driven = analysis.held.gears.filter((g) => g.seconds > MIN_DRIVEN_S).map((g) => g.gear);
  for (const sensor of unit.sensors) {
    if (!sensor.channel.endsWith("_rpm") && sensor.channel !== "range") continue;
    const drops = analysis.findings.some((f) => f.id === `drop-out:${sensor.id}`);
    const away = analysis.dropouts.flatMap((d) => (d.sensor === sensor.id ? [d.endS - d.startS] : []));
    const dead = away.some((s) => s > DEAD_S);
    const ripples = analysis.findings.some((f) => f.id === `sensor-ripple:${sensor.id}`);
    const seen = driven.some((g) => sensorValidIn(sensor, g)) && !analysis.derived.includes(sensor.channel);
    if (drops && dead) add("sensor", sensor.id, { component: sensor.id }, "dead", `${sensor.name} reads nothing`, true);
    else if (drops && median(away) < FLICKER_S)
      add("sensor", sensor.id, { component: sensor.id }, "flickers", `${sensor.name} flickers`, true);
    else if (drops) add("sensor", sensor.id, { component: sensor.id }, "drops-out", `${sensor.name} drops out`, true);
    else if (ripples) add("sensor", sensor.id, { component: sensor.id }, "ripples", `${sensor.name} ripples`, true);
    else if (seen) add("sensor", sensor.id, { component: sensor.id }, "steady", `${sensor.name} steady`, false);
  }
}
