import { explainObtained, type Unit } from "../../unit/index.ts";
import type { AnalysedLog, Analysis } from "../analysis.ts";
import { confidence, type Finding, type MeasuredValue, range, wholeDrive } from "../finding.ts";
import { limitsOf } from "../limits.ts";
import type { Add, Drive, DriveEvidence, Measure } from "../measure.ts";
import { gearOutcomes, obtainedGears } from "../outcomes.ts";
import { sensorMask } from "../sensors/mask.ts";
import { powerLosses } from "../sensors/power-losses.measure.ts";
import { findRipples, type Ripple, rippleReachRpm, speedsRipple } from "../sensors/quality.ts";
import { shifts } from "../shift/shifts.measure.ts";
import type { Frame } from "../signal/frame.ts";
import { within } from "../signal/stats.ts";
import { analyseHeld, type HeldAnalysis, type HeldResult } from "./held.ts";
import { standing } from "./immobile.measure.ts";
import { limp } from "./limp.measure.ts";
import type { Limp } from "./limp.ts";
import { slipLoads, slipScope } from "./slip-load.ts";

/** What goes wrong just before limp mode belongs to it. */
const BEFORE_LIMP_S = 0.3;
/** A clutch that lets the engine run away is the reason of limp mode: so much of it is slip. */
const AFTER_RUNAWAY_S = 6;
/** Slip that rises less than this with torque does not follow it, rpm per N·m. */
const SLOPE_RPM_PER_NM = 0.15;
/** Slip that begins so far above the coldest of the drive begins hot. */
const HOTTER_BY_C = 12;
/** A drive that never was colder than this says nothing of cold. */
const COLD_C = 40;
/** Of the load at which it slips. */
const HELD_AS_MUCH = 0.85;
/** A gear that slips so long and hardly ever holds is not there. */
const MIN_GONE_S = 2.5;
const GONE_SHARE = 0.15;
/** Of the unit's largest torque: what drags along in a gear that is not there. */
const FREE_SHARE = 0.035;

/** Clutches open when the controller falls out, and fill again for so long after it. */
const [LOSS_OPENS_S, LOSS_FILLS_S] = [0.3, 1.5];

/** 1 where a speed is not to be believed, or the controller let all clutches go: no clutch is to blame for what slips then. */
const unheld = (drive: Drive): Uint8Array =>
  drive.once(unheld, () => {
    const spans = drive.of(powerLosses) ?? [];
    if (spans.length === 0) return sensorMask(drive);
    const out = within(
      drive.frame.timeS,
      spans.map((l) => [l.startS - LOSS_OPENS_S, l.endS + LOSS_FILLS_S]),
    );
    return out.map((q, i) => q | (sensorMask(drive)[i] as number));
  });

function heldOver(drive: Drive, slipLimitRpm: (ratio: number) => number): HeldResult {
  const { frame, unit } = drive;
  const found = drive.of(limp);
  return analyseHeld(
    frame,
    drive.of(shifts),
    unheld(drive),
    slipLimitRpm,
    found && (found.byRunaway ? found.startS + AFTER_RUNAWAY_S : found.startS - BEFORE_LIMP_S),
    // a dual clutch drives on substitute values from then on, a converter unit with another pressure
    found !== undefined && (found.byPressure || (unit.kind !== "planetary" && found.certain)),
  );
}

const first = (drive: Drive): HeldResult => drive.once(first, () => heldOver(drive, () => drive.limits.slipRpm.value));

/** Sensors that ripple while a gear is held: what a loose sensor adds isn’t slip. */
export const ripplesHeld = (drive: Drive): Ripple[] =>
  drive.once(ripplesHeld, () => findRipples(drive.frame, first(drive).steady));

export const held: Measure<"held"> = {
  id: "held",
  measure(drive) {
    const { slipRpm } = drive.limits;
    const ripples = ripplesHeld(drive);
    const { steady, ...result } = speedsRipple(ripples)
      ? heldOver(drive, (ratio) => slipRpm.value + rippleReachRpm(ripples, ratio))
      : first(drive);
    return result;
  },
  findings: (measured, { frame }) => gearFindings(frame, measured.held, measured.limp),
  compares: {
    slip: {
      by: "occasion",
      measure: "slip reached each second, 90th percentile",
      share: 0.9,
      harder: true,
      ofSpeeds: true,
      rateHz: 5,
      // seconds of one stretch are hardly independent
      together: 3,
      occasions: ({ held: { groups } }, { subject }) =>
        groups
          .filter((g) => g.gear === subject.gear)
          .flatMap((g) => g.eachSecond.map(({ slipRpm, ...of }) => ({ at: `gear ${g.gear}`, value: slipRpm, ...of }))),
    },
    "wrong-gear": {
      by: "occasion",
      share: 0.5,
      ofSpeeds: true,
      rateHz: 3,
      together: 3,
      limit: () => 0.5,
      measure: "share of the seconds in another gear",
      quantity: "none",
      occasions: ({ held: { gears: of } }, { subject }) =>
        of
          .filter((g) => g.gear === subject.gear)
          .flatMap(({ gear, seconds, wrongSeconds }) =>
            Array.from({ length: Math.min(200, Math.round(seconds)) }, (_, s) => ({
              at: `gear ${gear}`,
              value: s < Math.round(wrongSeconds) ? 1 : 0,
            })),
          ),
    },
  },
  evidence(unit, analysis, add) {
    gears(unit, analysis, add);
    wrongGears(unit, analysis, add);
  },
  together(unit, logs) {
    const heat = slipHeat(logs);
    const scope = slipScope(unit, logs);
    return [...(heat ? [heat] : []), ...slipLoads(unit, logs), ...(scope ? [scope] : [])];
  },
};

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
    const measures: [MeasuredValue, ...MeasuredValue[]] = [
      { name: "highest slip", value: worst.peakRpm, quantity: "speed-rpm" },
    ];
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

function gears(unit: Unit, analysis: Analysis, add: Add): void {
  const outcomes = gearOutcomes(analysis);
  const slipping = analysis.held.gears.filter((g) => g.slipping.length > 0);
  const stands = standing(analysis);
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
function slipHeat(logs: readonly AnalysedLog[]): DriveEvidence | undefined {
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
  const say = (outcome: string, label: string): DriveEvidence => ({
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
