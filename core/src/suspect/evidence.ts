import { type Analysis, gearOutcomes, VIBRATION_RATE_HZ } from "../drive/index.ts";
import { judgeLevel, levelMistakes } from "../fluid/index.ts";
import type { EntryBodies, EntryOf, JobState, Sureness } from "../job/index.ts";
import { type DebrisKnowledge, debrisSources, drainedAs, pasteWithin } from "../observe/index.ts";
import { sensorValidIn, type Unit } from "../unit/index.ts";
import type { Subject } from "./instances.ts";

/** One thing that was seen. `table` names a likelihood table, or is `check` or `observation` with the id of the check or rung as `checkId`. */
export interface Evidence {
  readonly id: string;
  readonly table: string;
  readonly checkId?: string | undefined;
  readonly subject: Subject;
  readonly outcome: string;
  readonly label: string;
  /** timeline entry it came from */
  readonly entryId: string;
  /** an outcome that speaks of a fault rather than of health */
  readonly abnormal: boolean;
  /** 0…1: how far it can be believed; absent: wholly. What is not believed is as likely under every fault */
  readonly weight?: number | undefined;
}

export interface AnalysedLog {
  readonly logId: string;
  readonly entryId: string;
  readonly analysis: Analysis;
}

/** Complaint words that the symptom table knows. */
const SYMPTOMS: ReadonlySet<string> = new Set(["slip", "harsh", "shudder", "limp", "no-drive", "late"]);
const MIN_CLUTCH_S = 10;
const MIN_SHIFTS = 2;
/** Slip that rises less than this with torque does not follow it, rpm per N·m. */
const SLOPE_RPM_PER_NM = 0.15;

/**
 * Everything known about a job as evidence. Absence counts where the log could have shown it: a gear held under the
 * torque at which others slip, a sensor steady in the gears where it reads, codes read and not found. Entries put aside
 * as caused by earlier work are left out.
 */
export function collectEvidence(
  unit: Unit,
  state: JobState,
  logs: readonly AnalysedLog[],
  debris: DebrisKnowledge,
): Evidence[] {
  const list: Evidence[] = [];
  for (const log of logs) mergeLog(list, fromLog(unit, log));
  const { intake, level, fluid, pan } = state;
  if (intake) {
    for (const kind of new Set(intake.body.symptoms.map((s) => s.kind))) {
      if (!SYMPTOMS.has(kind)) continue;
      list.push({
        id: `symptom:${kind}`,
        table: "symptom",
        subject: {},
        outcome: kind,
        label: `Complaint: ${kind.replace("-", " ")}`,
        entryId: intake.id,
        abnormal: true,
      });
    }
  }
  if (intake) list.push(...fromHistory(intake));
  const checkedLevel = state.checks.some((c) => c.body.checkId === "level");
  const levelState = level && levelStateOf(unit, level.body);
  if (level && levelState && !checkedLevel) {
    list.push({
      id: "fluid-level",
      table: "fluid-level",
      subject: {},
      outcome: levelState,
      label: `Fluid level ${levelState === "ok" ? "in the window" : levelState}`,
      entryId: level.id,
      abnormal: levelState !== "ok",
    });
  }
  if (fluid) list.push(...fromFluid(fluid));
  for (const o of state.observations) {
    if (o.body.skipped) continue;
    list.push({
      id: `observation:${o.body.rung}`,
      table: "observation",
      checkId: o.body.rung,
      subject: {},
      outcome: o.body.outcome,
      label: `${o.body.title}: ${o.body.outcomeLabel}`,
      entryId: o.id,
      abnormal: o.body.abnormal,
      weight: SURENESS[o.body.sure],
    });
  }
  if (pan) list.push(...fromPan(unit, debris, pan));
  const present = new Set(state.codes.map((c) => c.body.code));
  for (const c of state.codes) {
    if (c.body.triage === "earlier-work" || !unit.codes.some((u) => u.code === c.body.code)) continue;
    list.push({
      id: `code:${c.body.code}`,
      table: "code",
      subject: { code: c.body.code },
      outcome: "present",
      label: `Code ${c.body.code} stored`,
      entryId: c.id,
      abnormal: true,
    });
  }
  if (state.codesRead) {
    for (const c of unit.codes) {
      if (present.has(c.code)) continue;
      list.push({
        id: `code:${c.code}`,
        table: "code",
        subject: { code: c.code },
        outcome: "absent",
        label: `Code ${c.code} not stored`,
        entryId: state.codesRead.id,
        abnormal: false,
      });
    }
  }
  for (const c of state.checks) {
    list.push({
      id: `check:${c.body.checkId}`,
      table: "check",
      checkId: c.body.checkId,
      subject: { component: c.body.component },
      outcome: c.body.outcome,
      label: `${c.body.title}: ${c.body.outcomeLabel}`,
      entryId: c.id,
      abnormal: c.body.abnormal,
    });
  }
  return list;
}

/** What speaks of a fault by having happened. Services and cleared codes speak of none. */
const HISTORY_WORDS: Readonly<Record<string, string>> = {
  "event-flood": "Ford or flood before",
  "event-impact": "Kerb, rock or crash before",
  "event-tow": "Towed before",
  "event-engine-work": "Engine work before",
  "event-more-power": "More power",
  "history-fluid": "Fluid changed before",
  "history-part": "Part swapped before",
  "history-battery": "Battery off or new",
  "history-fuse": "Fuse pulled before",
  "duty-tow": "Tows",
  "duty-taxi": "Taxi, stop-and-go",
  "duty-hills": "Hills",
};

/** Events, history and duty that were named. What was not named was perhaps not asked: that says nothing. */
function fromHistory({ id, body }: EntryOf<"intake">): Evidence[] {
  const named = [
    ...(body.events ?? []).map((e) => `event-${e.kind}`),
    ...(body.history ?? []).map((h) => `history-${h.kind}`),
    ...(body.duty ?? []).map((d) => `duty-${d}`),
  ];
  return [...new Set(named)].flatMap((table): Evidence[] => {
    const label = HISTORY_WORDS[table];
    return label ? [{ id: table, table, subject: {}, outcome: "yes", label, entryId: id, abnormal: false }] : [];
  });
}

/** How far an observation is believed. */
export const SURENESS: Readonly<Record<Sureness, number>> = { sure: 0.97, fairly: 0.75, doubtful: 0.4 };

/** Was the level read in a way that tells it? Costly steps warn until it was. */
export const levelKnown = (unit: Unit, state: JobState): boolean =>
  state.level !== undefined && levelStateOf(unit, state.level.body) !== undefined;

/** The level as it is at the reference temperature; a reading that was made wrongly is none. */
function levelStateOf(unit: Unit, body: EntryBodies["level"]): "low" | "ok" | "high" | undefined {
  if (body.state === "not-readable" || levelMistakes(unit, body).some((m) => m.spoils)) return undefined;
  const judged = judgeLevel(unit, body);
  return judged && judged.state !== "undecided" ? judged.state : body.state;
}

function fromFluid({ id, body }: EntryOf<"fluid">): Evidence[] {
  const one = (table: string, outcome: string, label: string, abnormal: boolean): Evidence => ({
    id: table,
    table,
    subject: {},
    outcome,
    label,
    entryId: id,
    abnormal,
  });
  const list = [
    one("fluid-smell", body.smell, `Fluid smell: ${body.smell}`, body.smell !== "none"),
    one("fluid-colour", body.colour, `Fluid colour: ${body.colour}`, ["black", "milky", "brown"].includes(body.colour)),
  ];
  // milky by colour says it already
  if (body.cloudiness && body.colour !== "milky")
    list.push(one("cloudiness", body.cloudiness, `Fluid ${body.cloudiness}`, body.cloudiness !== "clear"));
  if (body.blot && body.blot !== "not-done")
    list.push(one("blot", body.blot, `Blot: ${body.blot.replace("-", " ")}`, body.blot !== "even"));
  return list;
}

const AMOUNTS = ["none", "trace", "some", "much"] as const;

function fromPan(unit: Unit, known: DebrisKnowledge, { id, body }: EntryOf<"pan">): Evidence[] {
  const weight = SURENESS[body.sure];
  const list: Evidence[] = [];
  const add = (table: string, outcome: string, label: string, abnormal: boolean) =>
    list.push({ id: table, table, subject: {}, outcome, label, entryId: id, abnormal, weight });
  for (const d of body.debris) {
    const kind = known.kinds.find((k) => k.id === d.kind);
    if (!kind?.table) continue;
    if (d.kind === "grey-paste") {
      const within = pasteWithin(known, d.amount, body.kmSinceService);
      if (within !== undefined)
        add(
          kind.table,
          within ? "within" : "over",
          `Grey paste ${within ? "within" : "over"} what the distance allows`,
          !within,
        );
      continue;
    }
    // a lining that does not run in the fluid cannot be missed in it
    if (d.amount === 0 && debrisSources(unit, kind).length === 0) continue;
    const amount = AMOUNTS[d.amount];
    add(kind.table, amount, `${kind.title}: ${amount}`, d.amount >= 2);
  }
  const drained = drainedAs(unit, body.drainedL, body.drainedC);
  if (drained)
    add(
      "drained-volume",
      drained.state,
      `Drained ${(body.drainedL ?? 0).toFixed(1)} l of ${drained.expectedL.toFixed(1)} l`,
      drained.state !== "as-expected",
    );
  if (body.filter !== "not-opened")
    add("filter-opened", body.filter, `Filter cut open: ${body.filter}`, body.filter !== "clean");
  return list;
}

/** Two drives of one vehicle are not independent: what both show counts once, and the abnormal reading stays. */
function mergeLog(list: Evidence[], more: readonly Evidence[]): void {
  const key = (e: Evidence) => `${e.table}|${JSON.stringify(e.subject)}`;
  for (const e of more) {
    const at = list.findIndex((x) => key(x) === key(e));
    if (at < 0) list.push(e);
    else if (e.abnormal && !(list[at] as Evidence).abnormal) list[at] = e;
  }
}

/** Checks that need not be made again: recorded ones, and the level once it was read at the first look. */
export function checksDone(unit: Unit, state: JobState): Set<string> {
  const done = new Set(state.checks.map((c) => c.body.checkId));
  if (levelKnown(unit, state)) done.add("level");
  if (state.pan) done.add("pan");
  if (state.observations.some((o) => o.body.rung === "misfire" && !o.body.skipped)) done.add("misfire-count");
  return done;
}

function fromLog(unit: Unit, { analysis, entryId, logId }: AnalysedLog): Evidence[] {
  const list: Evidence[] = [];
  const add = (table: string, key: string, subject: Subject, outcome: string, label: string, abnormal: boolean) =>
    list.push({ id: `${logId}:${table}:${key}`, table, subject, outcome, label, entryId, abnormal });
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
  const byShift = new Map<string, { flared: number; measured: number }>();
  for (const s of analysis.shifts) {
    if (!s.measured || !s.underPower || Number(s.to) < Number(s.from)) continue;
    const entry = byShift.get(s.name) ?? { flared: 0, measured: 0 };
    entry.measured++;
    byShift.set(s.name, entry);
  }
  for (const f of analysis.findings) {
    const entry = f.subject.shift ? byShift.get(f.subject.shift) : undefined;
    if (entry && (f.kind === "flare" || f.kind === "slow-shift" || f.kind === "failed-shift"))
      entry.flared += f.occurrences.length;
  }
  // a shift into a gear that slips anyway says nothing new about it
  for (const [name, { flared, measured }] of byShift) {
    if (measured < MIN_SHIFTS || outcomes[name.split("-")[1] ?? ""] === "bad") continue;
    const flares = flared * 2 >= measured;
    if (flared > 0 && !flares) continue;
    add(
      "shift",
      name,
      { shift: name },
      flares ? "flares" : "clean",
      flares ? `Shift ${name} flares or takes long` : `Shift ${name} clean`,
      flares,
    );
  }
  const has = (kind: string) => analysis.findings.some((f) => f.kind === kind);
  if (analysis.converter && analysis.converter.secondsApplied >= MIN_CLUTCH_S) {
    const slips = has("converter-slip");
    add(
      "converter-clutch",
      "all",
      {},
      slips ? "slips" : "holds",
      slips ? "Converter clutch slips while applied" : "Converter clutch holds",
      slips,
    );
  }
  if (analysis.oscillation.clutchWorking.length > 0 && analysis.oscillation.rateHz >= VIBRATION_RATE_HZ) {
    const shudders = has("shudder");
    add(
      "shudder",
      "all",
      {},
      shudders ? "shudders" : "smooth",
      shudders ? "Shudder while the converter clutch works" : "No shudder while the converter clutch works",
      shudders,
    );
    if (analysis.oscillation.openPeakToPeakRpm !== undefined) {
      const open = analysis.findings.some((f) => f.id === "oscillation:engine");
      add(
        "open-oscillation",
        "all",
        {},
        open ? "present" : "absent",
        open ? "Vibration that comes from the engine" : "No vibration from the engine",
        open,
      );
    }
  }
  const driven = analysis.held.gears.filter((g) => g.seconds > 5).map((g) => g.gear);
  for (const sensor of unit.sensors) {
    if (!sensor.channel.endsWith("_rpm")) continue;
    const drops = analysis.findings.some((f) => f.id === `drop-out:${sensor.id}`);
    const seen = driven.some((g) => sensorValidIn(sensor, g)) && !analysis.derived.includes(sensor.channel);
    if (drops) add("sensor", sensor.id, { component: sensor.id }, "drops-out", `${sensor.name} drops out`, true);
    else if (seen) add("sensor", sensor.id, { component: sensor.id }, "steady", `${sensor.name} steady`, false);
  }
  const limp = analysis.limp !== undefined;
  add("limp", "all", {}, limp ? "limp" : "none", limp ? "Limp mode in the log" : "No limp mode in the log", limp);
  return list;
}
