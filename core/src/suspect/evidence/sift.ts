import { GONE } from "../belief/column.ts";
import type { SuspectModel } from "../belief/model.ts";
import { aboutOf, type Evidence, repairsDone } from "./evidence.ts";

/** A piece of evidence that cannot be counted, and why. Nothing is left out without one of these. */
export interface EvidenceProblem {
  readonly evidenceId: string;
  readonly entryId: string;
  readonly label: string;
  readonly reason: string;
}

/**
 * Parts what can be counted from what cannot: an entry of an older library, a part that the unit lacks, a thing said twice.
 * Two entries that say the contrary of one thing are both kept from the odds: they would be averaged.
 */
export function siftEvidence(
  model: SuspectModel,
  evidence: readonly Evidence[],
): { readonly used: Evidence[]; readonly problems: EvidenceProblem[] } {
  const used: Evidence[] = [];
  const problems: EvidenceProblem[] = [];
  const tell = (e: Evidence, reason: string) =>
    problems.push({ evidenceId: e.id, entryId: e.entryId, label: e.label, reason });
  const seen = new Map<string, Evidence>();
  const contradicted = new Set<string>();
  for (const e of evidence) {
    const reason = whyNot(model, e);
    if (reason) {
      tell(e, reason);
      continue;
    }
    const about = momentOf(e);
    const before = seen.get(about);
    if (!before) {
      seen.set(about, e);
      used.push(e);
    } else if (before.outcome === e.outcome) tell(e, `"${before.label}" says it already: counted once`);
    else {
      tell(e, `it contradicts "${before.label}": neither is counted until one of them is put aside`);
      if (!contradicted.has(about))
        tell(before, `"${e.label}" contradicts it: neither is counted until one of them is put aside`);
      contradicted.add(about);
    }
  }
  const kept = used.filter((e) => !contradicted.has(momentOf(e)));
  const lost = kept.filter(
    (e) => e.abnormal && (e.table === "sensor" || (e.table === "heat" && e.outcome === "too-hot")),
  );
  return {
    used: tempered(
      kept.filter((e) => {
        const cause =
          lost.find((s) => repairsDone(s) === repairsDone(e) && echoes(model, e, s)) ??
          kept.find((s) => repairsDone(s) === repairsDone(e) && saysBetter(s, e));
        if (cause) tell(e, `it follows from "${cause.label}": counted once`);
        return !cause;
      }),
    ),
    problems,
  };
}

/** A repair changes what is there to see. */
const momentOf = (e: Evidence): string => `${repairsDone(e)}|${aboutOf(e)}`;

/** How far gears, shifts, learned values, times or stored codes of one vehicle come and go together: 0 not at all, 1 wholly. */
const TOGETHER: Readonly<Record<string, number>> = {
  gear: 0.3,
  shift: 0.3,
  adaptation: 0.3,
  time: 0.2,
  "code-present": 0.2,
  felt: 0.3,
  "ratio-code": 0.5,
  // one thing said in one breath: three gears of one clutch aren't three complaints
  told: 1,
};

/** What comes and goes together: the times of one drive are taken from the same shifts, the places of a complaint told by one customer. */
function groupOf({ table, outcome }: Evidence): string {
  if (/^(delay|inertia|engage)-/.test(table)) return "time";
  if (table === "told-gear" || table === "told-shift") return "told";
  // gears felt, shifts felt and situations are each a group
  if (table.startsWith("felt-")) return /^felt-(gear|shift)$/.test(table) ? table : "felt";
  return table === "code" ? `code-${outcome}` : table;
}

/**
 * Gears slip together and hold together: k of them are worth k / (1 + (k − 1) ρ) independent ones (design effect of
 * cluster samples, Kish 1965). Their power is set, not multiplied: what was sifted before may be sifted again.
 */
function tempered(list: readonly Evidence[]): Evidence[] {
  const counts = new Map<string, number>();
  const key = (e: Evidence) => {
    const group = groupOf(e);
    return `${repairsDone(e)}|${group}|${group === "time" ? e.outcome === "usual" : e.abnormal}`;
  };
  for (const e of list) counts.set(key(e), (counts.get(key(e)) ?? 0) + 1);
  return list.map((e) => {
    const rho = TOGETHER[groupOf(e)] ?? (e.table.startsWith("felt-") ? TOGETHER.felt : undefined);
    const k = counts.get(key(e)) ?? 1;
    return rho === undefined || k === 1 ? e : { ...e, power: 1 / (1 + (k - 1) * rho) };
  });
}

/** What says the same of one gear or shift, the better witness first: a log beside a person who tried it, who stands beside the complaint. */
const WITNESSES: readonly (readonly [string, string])[] = [
  ["gear", "felt-gear"],
  ["felt-gear", "told-gear"],
  ["shift", "felt-shift"],
  ["felt-shift", "told-shift"],
  ["neutral-pull", "felt-neutral"],
];

/** Is the first the better witness of the same gear or shift? */
const saysBetter = (s: Evidence, e: Evidence): boolean =>
  WITNESSES.some(([better, worse]) => s.table === better && e.table === worse) &&
  s.subject.gear === e.subject.gear &&
  s.subject.shift === e.subject.shift;

/**
 * A controller that loses a signal, or reads one beyond belief, stores its code and limps, and does neither where the signal
 * is merely rough: that says nothing beyond the signal itself.
 */
function echoes({ unit }: SuspectModel, e: Evidence, cause: Evidence): boolean {
  const heat = cause.table === "heat";
  if (heat && !e.abnormal) return false;
  if (e.table === "limp") return !heat;
  const named = e.table === "code" ? unit.codes.find((c) => c.code === e.subject.code)?.components : undefined;
  const of = heat ? unit.sensors.find((s) => s.channel === "fluid_c")?.id : cause.subject.component;
  return of !== undefined && (named?.includes(of) ?? false);
}

function whyNot(model: SuspectModel, e: Evidence): string | undefined {
  const table = model.findTable(e);
  if (!table)
    return `this library has no ${e.table === "check" ? "check" : e.table === "tried" || e.table === "fitted" ? "repair" : e.table === "observation" ? "rung" : "evidence"} "${e.checkId ?? e.table}" for ${model.unit.name}`;
  // a repair after which all is well leaves nothing to judge
  const outcomes = Object.keys(table.otherwise).filter((o) => e.table !== "tried" || o !== GONE);
  if (!outcomes.includes(e.outcome)) return `"${e.outcome}" isn’t one of its outcomes: ${outcomes.join(", ")}`;
  if (e.weight !== undefined && !(e.weight > 0 && e.weight <= 1))
    return `its weight is ${e.weight}; it has to be over 0 and at most 1`;
  const { component, components, gear, shift, code } = e.subject;
  const lacks = [component, ...(components ?? [])].find((c) => c !== undefined && !model.hasComponent(c));
  if (lacks !== undefined) return `${model.unit.name} has no part "${lacks}"`;
  const gears = new Set(model.unit.gears.map((g) => g.name));
  if (gear !== undefined && !gears.has(gear)) return `${model.unit.name} has no gear "${gear}"`;
  if (shift !== undefined && !shift.split("-").every((g) => gears.has(g)))
    return `${model.unit.name} has no shift "${shift}"`;
  if (code !== undefined && !model.unit.codes.some((c) => c.code === code))
    return `${model.unit.name} has no code "${code}"`;
  return undefined;
}
