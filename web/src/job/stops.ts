import type { JobView } from "@gearsense/contract";
import { causeMissing } from "@gearsense/core/bench";
import { foldJob, type JobState, type STAGES } from "@gearsense/core/job";
import { formatQuantity, percent, type UnitSystem } from "@gearsense/core/quantity";

/** The stages that every job goes through, and the stops that it may make besides. */
export const STOP_IDS = [
  "intake",
  "first-look",
  "scan",
  "pan",
  "suspects",
  "decide",
  "work",
  "bench",
  "fluid",
  "relearn",
  "proof",
  "handover",
] as const satisfies readonly ((typeof STAGES)[number] | "pan" | "bench" | "fluid" | "relearn")[];
export type StopId = (typeof STOP_IDS)[number];

export interface StopInfo {
  readonly id: StopId;
  readonly label: string;
  readonly key: string;
  readonly state: "untouched" | "in hand" | "done";
  /** the one figure that matters there */
  readonly figure: string;
}

export const STOP_LABELS: Readonly<Record<StopId, string>> = {
  intake: "Intake",
  "first-look": "First look",
  scan: "Scan",
  pan: "Pan",
  suspects: "Suspects",
  decide: "Decide",
  work: "Work",
  bench: "Bench",
  fluid: "Fluid",
  relearn: "Relearn",
  proof: "Proof",
  handover: "Hand-over",
};

const KEYS: Readonly<Record<StopId, string>> = {
  intake: "i",
  "first-look": "l",
  scan: "s",
  pan: "n",
  suspects: "o",
  decide: "d",
  work: "w",
  bench: "b",
  fluid: "f",
  relearn: "r",
  proof: "p",
  handover: "h",
};

export const stateOf = (job: JobView): JobState => foldJob(job.entries as Parameters<typeof foldJob>[0]);

const LEVEL_WORDS = { low: "low", ok: "level ok", high: "overfilled", "not-readable": "no level" } as const;
const plural = (n: number, word: string) => `${n} ${word}${n === 1 ? "" : "s"}`;

/** The newest relearn is what counts. */
function relearnStop({ relearns, learned }: JobState): [StopInfo["state"], string] {
  const last = relearns.at(-1)?.body.outcome;
  if (last) return [last === "done" ? "done" : "in hand", last];
  return learned.length > 0 ? ["in hand", "values read"] : ["untouched", ""];
}

/** The stops of the job line with their state and figure. @param topShare - odds of the best suspect */
export function stopsOf(state: JobState, topShare: number | undefined, system: UnitSystem): StopInfo[] {
  const before = state.logs.filter((l) => l.body.role === "before");
  const analysed = before.filter((l) => state.analyses.some((a) => a.body.logId === l.body.logId));
  const findings = state.analyses
    .filter((a) => before.some((l) => l.body.logId === a.body.logId))
    .reduce((n, a) => n + a.body.findings, 0);
  const minutes = state.work.reduce((m, w) => m + w.body.minutes, 0);
  const info: Record<StopId, [StopInfo["state"], string]> = {
    intake: [
      state.intake ? "done" : "untouched",
      state.intake ? plural(state.intake.body.symptoms.length, "symptom") : "",
    ],
    "first-look": [
      state.level
        ? "done"
        : state.fluid || state.codes.length > 0 || state.observations.length > 0
          ? "in hand"
          : "untouched",
      state.level ? LEVEL_WORDS[state.level.body.state] : "",
    ],
    scan: [
      analysed.length > 0 || state.felt.length > 0 ? "done" : before.length > 0 ? "in hand" : "untouched",
      analysed.length > 0 ? plural(findings, "finding") : state.felt.length > 0 ? "by feel" : "",
    ],
    pan: [
      state.pan ? "done" : "untouched",
      state.pan?.body.drainedL != null ? formatQuantity(state.pan.body.drainedL, "volume", system).text : "",
    ],
    suspects: [
      state.decision
        ? "done"
        : analysed.length > 0 || state.felt.length > 0 || state.checks.length > 0
          ? "in hand"
          : "untouched",
      topShare === undefined ? "" : percent(topShare),
    ],
    decide: [
      state.decision ? "done" : "untouched",
      state.decision ? `${Math.round(state.decision.body.cures * 100)} % cure` : "",
    ],
    work: [
      state.work.length > 0 ? "done" : state.decision ? "in hand" : "untouched",
      minutes > 0 ? `${(minutes / 60).toFixed(1)} h` : "",
    ],
    bench: [
      state.bench.length === 0 ? "untouched" : causeMissing(state) ? "in hand" : "done",
      state.bench.length > 0 ? plural(state.bench.length, "place") : "",
    ],
    fluid: [
      state.fluidPlan ? "done" : "untouched",
      state.fluidPlan ? `${Math.round(state.fluidPlan.body.fresh * 100)} % fresh` : "",
    ],
    relearn: relearnStop(state),
    proof: [state.proof ? "done" : state.work.length > 0 ? "in hand" : "untouched", state.proof ? "accepted" : ""],
    handover: [state.handover ? "done" : state.proof ? "in hand" : "untouched", state.handover ? "closed" : ""],
  };
  return STOP_IDS.map((id) => ({ id, label: STOP_LABELS[id], key: KEYS[id], state: info[id][0], figure: info[id][1] }));
}
