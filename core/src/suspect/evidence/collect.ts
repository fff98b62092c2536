import { type AnalysedLog, distinct, driveEvidence, evidenceTogether } from "../../drive/index.ts";
import { judgeLevel, levelMistakes } from "../../fluid/index.ts";
import type { EntryBodies, EntryOf, JobState } from "../../job/index.ts";
import {
  type DebrisKnowledge,
  debrisSources,
  drainedAs,
  leakSource,
  pasteWithin,
  photoAgainstWord,
} from "../../observe/index.ts";
import { inSentence, type Unit } from "../../unit/index.ts";
import type { Evidence } from "./evidence.ts";
import { fromBench } from "./from-bench.ts";
import { fromLearned } from "./from-learned.ts";
import { fromPhotos } from "./from-photos.ts";
import { fromCodeMeanings, fromFelt } from "./from-road.ts";
import { fromSteps, levelAtStep } from "./from-steps.ts";
import { SURENESS } from "./sureness.ts";

/** Complaint words that the symptom table knows. */
const SYMPTOMS: ReadonlySet<string> = new Set(["slip", "harsh", "shudder", "limp", "no-drive", "late"]);
/** Complaints whose gears speak of elements. */
const TELLS_GEAR: ReadonlySet<string> = new Set(["slip", "harsh", "late", "no-drive"]);

/**
 * Everything known about a job as evidence. Absence counts where the log could have shown it: a gear held under the
 * torque at which others slip, a sensor steady in the gears where it reads, codes read and not found. Entries put aside
 * as caused by earlier work are left out. What was seen after a repair that did not cure speaks of what that has left.
 */
export function collectEvidence(
  unit: Unit,
  state: JobState,
  logs: readonly AnalysedLog[],
  debris: DebrisKnowledge,
): Evidence[] {
  const since = (e: Evidence, repairs: number): Evidence => {
    if (repairs === 0) return e;
    const of = { ...e, id: `${e.id}@${repairs}`, afterRepairs: repairs };
    return e.table === "tried" ? of : { ...of, label: `${e.label}, since repair ${repairs}` };
  };
  const drives = drivesByRepairs(state, logs).flatMap((of, repairs) =>
    fromLogs(unit, of).map((e) => since(e, repairs)),
  );
  const { level, fluid, pan, codesRead, observations, codes, felt, checks, photos, steps, bench, learned, relearns } =
    state;
  const seqs = new Map<string, number>();
  for (const e of [
    level,
    fluid,
    pan,
    codesRead,
    ...observations,
    ...codes,
    ...felt,
    ...checks,
    ...photos,
    ...steps,
    ...bench,
    ...learned,
    ...relearns,
  ])
    if (e) seqs.set(e.id, e.seq);
  state.tried.forEach((t, i) => {
    seqs.set(t.id, state.triedSince[i] as number);
  });
  const seen = fromEntries(unit, state, debris).map((e) => since(e, repairsBefore(state, seqs.get(e.entryId) ?? 0)));
  // a log that shows how values are learned is the better witness of them
  const told = new Set(drives.filter((e) => e.table === "adaptation").map((e) => e.subject.component));
  return [...drives, ...seen.filter((e) => e.table !== "adaptation" || !told.has(e.subject.component))];
}

const repairsBefore = (state: JobState, seq: number): number => state.triedSince.filter((t) => t < seq).length;

/**
 * The logs by how many repairs had been done without a cure. A drive after work belongs to what became of that work: as
 * long as nobody said that it did not cure, it proves and isn't evidence.
 * @returns a list for every stage, from the one before any repair
 */
export function drivesByRepairs(state: JobState, logs: readonly AnalysedLog[]): AnalysedLog[][] {
  const stages = Array.from({ length: state.tried.length + 1 }, (): AnalysedLog[] => []);
  for (const log of logs) {
    const entry = state.logs.find((l) => l.body.logId === log.logId);
    const seq = entry?.seq ?? 0;
    let stage = repairsBefore(state, seq);
    if (entry && entry.body.role !== "before") {
      const last = Math.max(0, ...state.triedSince.filter((t) => t < seq));
      const works = state.work.some((w) => w.seq > last && w.seq < seq);
      stage = Math.max(1, stage + Number(works));
    }
    stages[stage]?.push(log);
  }
  return stages;
}

function fromEntries(unit: Unit, state: JobState, debris: DebrisKnowledge): Evidence[] {
  const list: Evidence[] = [];
  const { intake, level, fluid, pan } = state;
  if (intake) {
    const said = new Map<string, string>();
    for (const { kind, where } of intake.body.symptoms) {
      if (!SYMPTOMS.has(kind)) continue;
      // some gears that do not pull are not a vehicle that does not move: they slip through
      if (kind === "no-drive" && where.length > 0) said.set("slip", `Complaint: no drive in ${where.join(", ")}`);
      else if (!said.has(kind)) said.set(kind, `Complaint: ${kind.replace("-", " ")}`);
    }
    for (const [outcome, label] of said)
      list.push({
        id: `symptom:${outcome}`,
        table: "symptom",
        subject: {},
        outcome,
        label,
        entryId: intake.id,
        abnormal: true,
      });
  }
  for (const kind of ["noise", "leak"] as const)
    if (intake?.body.symptoms.some((s) => s.kind === kind))
      list.push({
        id: `told-${kind}`,
        table: `told-${kind}`,
        subject: {},
        outcome: "told",
        label: `Complaint: ${kind}`,
        entryId: intake.id,
        abnormal: true,
      });
  if (intake) list.push(...fromComplaint(unit, intake), ...fromHistory(intake));
  const checkedLevel = state.checks.some((c) => c.body.checkId === "level");
  const levelState = level && levelStateOf(unit, level.body);
  if (level && levelState && !checkedLevel) {
    list.push({
      id: "fluid-level",
      table: "fluid-level",
      subject: {},
      outcome: levelState,
      label: `Fluid level ${levelState === "ok" ? "correct" : levelState === "high" ? "overfilled" : levelState}`,
      entryId: level.id,
      abnormal: levelState !== "ok",
    });
  }
  if (fluid) list.push(...fromFluid(unit, fluid));
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
  const leaks = state.observations.find((o) => o.body.rung === "leaks" && !o.body.skipped);
  const source = leaks && leakSource(leaks.body.values);
  if (leaks && source)
    list.push({
      id: "leak-place",
      table: "leak-place",
      subject: {},
      outcome: source.id,
      label: `Leaks at: ${inSentence(source.label)}`,
      entryId: leaks.id,
      abnormal: true,
      weight: SURENESS[leaks.body.sure],
    });
  if (pan) list.push(...fromPan(unit, debris, pan));
  list.push(
    ...fromPhotos(state, debris),
    ...fromSteps(unit, state),
    ...fromBench(unit, state),
    ...fromLearned(unit, state),
  );
  const present = new Set(state.codes.map((c) => c.body.code));
  const counted = new Set<string>();
  for (const c of state.codes) {
    if (c.body.triage === "earlier-work" || !unit.codes.some((u) => u.code === c.body.code)) continue;
    // two modules that store one code say one thing
    if (counted.has(c.body.code)) continue;
    counted.add(c.body.code);
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
  list.push(...fromCodeMeanings(unit, state.codes), ...fromFelt(unit, state.felt));
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
  for (const t of state.tried)
    list.push({
      id: `tried:${t.body.repairId}`,
      table: "tried",
      checkId: t.body.repairId,
      subject: { component: t.body.repairId.split(":")[1] ?? "unit" },
      outcome: t.body.outcome,
      label: `${t.body.title}: ${t.body.outcome === "better" ? "better, not gone" : "no change"}`,
      entryId: t.id,
      abnormal: false,
    });
  for (const c of state.checks) {
    list.push({
      id: `check:${c.body.checkId}`,
      table: "check",
      checkId: c.body.checkId,
      subject: { component: c.body.component },
      outcome: c.body.outcome,
      label: `${c.body.title}: ${c.body.outcomeLabel}${measuredText(c.body.values)}`,
      entryId: c.id,
      abnormal: c.body.abnormal,
      ...(c.body.weight === undefined ? {} : { weight: c.body.weight }),
    });
  }
  return list;
}

/** "(5.9 Ω)": the numbers behind an outcome. */
const measuredText = (values: EntryBodies["check"]["values"]): string =>
  values === undefined || values.length === 0
    ? ""
    : ` (${values.map((v) => `${Number(v.value.toPrecision(3))} ${v.unit}`).join(", ")})`;

/** Gears and shifts that the complaint names, and whether it comes with heat: hearsay, but of the one who lives with it. */
function fromComplaint(unit: Unit, { id, body }: EntryOf<"intake">): Evidence[] {
  const list = new Map<string, Evidence>();
  const say = (table: string, subject: Evidence["subject"], outcome: string, label: string) =>
    list.set(`${table}:${JSON.stringify(subject)}`, {
      id: `${table}:${Object.values(subject).join() || "all"}`,
      table,
      subject,
      outcome,
      label,
      entryId: id,
      abnormal: false,
    });
  const gears = new Set(unit.gears.map((g) => g.name));
  for (const s of body.symptoms) {
    if (!TELLS_GEAR.has(s.kind)) continue;
    for (const where of s.where) {
      if (gears.has(where)) say("told-gear", { gear: where }, "told", `Complaint names gear ${where}`);
      else if (where.split("-").length === 2 && where.split("-").every((g) => gears.has(g)))
        say("told-shift", { shift: where }, "told", `Complaint names shift ${where}`);
    }
    if (s.temperature !== "any") say("told-heat", {}, s.temperature, `Complaint: ${s.temperature}`);
  }
  return [...list.values()];
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

/** What the distance driven says by itself: some faults are of old age. */
export function mileageEvidence(odometerKm: number | null, entryId: string): Evidence[] {
  if (odometerKm === null) return [];
  const outcome =
    odometerKm < 60_000 ? "low" : odometerKm < 150_000 ? "middle" : odometerKm < 260_000 ? "high" : "very-high";
  return [
    {
      id: "mileage",
      table: "mileage",
      subject: {},
      outcome,
      label: `${Math.round(odometerKm / 1000)} 000 km driven`,
      entryId,
      abnormal: false,
    },
  ];
}

/** Was the level read in a way that tells it? Costly steps warn until it was. */
export const levelKnown = (unit: Unit, state: JobState): boolean =>
  state.level === undefined ? levelAtStep(state) !== undefined : levelStateOf(unit, state.level.body) !== undefined;

/** The level as it is at the reference temperature; a reading that was made wrongly doesn't count. */
function levelStateOf(unit: Unit, body: EntryBodies["level"]): "low" | "ok" | "high" | undefined {
  if (body.state === "not-readable" || levelMistakes(unit, body).some((m) => m.spoils)) return undefined;
  const judged = judgeLevel(unit, body);
  return judged && judged.state !== "undecided" ? judged.state : body.state;
}

function fromFluid(unit: Unit, { id, body }: EntryOf<"fluid">): Evidence[] {
  const photo = photoAgainstWord(unit, body);
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
    {
      ...one(
        "fluid-colour",
        body.colour,
        `Fluid colour: ${body.colour}${photo ? `, ${photo.against ? "the photo says otherwise" : "borne out by the photo"} (ΔE ${photo.away.toFixed(0)} from fresh)` : ""}`,
        ["black", "milky", "brown"].includes(body.colour),
      ),
      ...(photo?.against ? { weight: SURENESS.doubtful } : {}),
    },
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

/** What the logs of one vehicle say together; one that was entered twice counts once. */
export function fromLogs(unit: Unit, entered: readonly AnalysedLog[]): Evidence[] {
  const logs = distinct(entered, (l) => l.analysis);
  const list: Evidence[] = [];
  for (const log of logs) mergeLog(list, driveEvidence(unit, log));
  return [...list, ...evidenceTogether(unit, logs)];
}

/** Two drives of one vehicle are not independent: what both show counts once; the abnormal reading stays and says that the other was seen too. */
function mergeLog(list: Evidence[], more: readonly Evidence[]): void {
  const key = (e: Evidence) => `${e.table}|${JSON.stringify(e.subject)}`;
  for (const e of more) {
    const at = list.findIndex((x) => key(x) === key(e));
    if (at < 0) list.push(e);
    else {
      const known = list[at] as Evidence;
      if (e.outcome === known.outcome) continue;
      const [kept, other] = e.abnormal && !known.abnormal ? [e, known] : [known, e];
      list[at] = { ...kept, butIn: other.label };
    }
  }
}
