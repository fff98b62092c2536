import type { Entry, EntryKind, EntryOf } from "./entries.ts";
import type { LogRole } from "./vocabulary.ts";

export const STAGES = ["intake", "first-look", "scan", "suspects", "decide", "work", "proof", "handover"] as const;
export type Stage = (typeof STAGES)[number] | "closed";

export interface JobState {
  readonly intake: EntryOf<"intake"> | undefined;
  readonly level: EntryOf<"level"> | undefined;
  readonly fluid: EntryOf<"fluid"> | undefined;
  readonly observations: readonly EntryOf<"observation">[];
  readonly pan: EntryOf<"pan"> | undefined;
  readonly photos: readonly EntryOf<"photo">[];
  readonly fluidPlan: EntryOf<"fluid-plan"> | undefined;
  readonly codes: readonly EntryOf<"code">[];
  readonly codesRead: EntryOf<"codes-read"> | undefined;
  readonly logs: readonly EntryOf<"log">[];
  readonly analyses: readonly EntryOf<"analysis">[];
  /** road tests without a log, one of each person */
  readonly felt: readonly EntryOf<"felt">[];
  readonly checks: readonly EntryOf<"check">[];
  readonly tried: readonly EntryOf<"tried">[];
  /** for each of `tried`, where on the timeline it was first told of: a later word on it is a correction */
  readonly triedSince: readonly number[];
  readonly sources: EntryOf<"sources"> | undefined;
  /** by option */
  readonly estimates: readonly EntryOf<"estimate">[];
  readonly decision: EntryOf<"decision"> | undefined;
  readonly plan: EntryOf<"plan"> | undefined;
  readonly steps: readonly EntryOf<"step">[];
  /** by place */
  readonly bench: readonly EntryOf<"bench">[];
  readonly trays: readonly EntryOf<"tray">[];
  readonly emptied: EntryOf<"emptied"> | undefined;
  /** in its order */
  readonly filling: readonly EntryOf<"filling">[];
  readonly supply: EntryOf<"supply"> | undefined;
  readonly promise: EntryOf<"promise"> | undefined;
  readonly work: readonly EntryOf<"work">[];
  /** of the work that was done last: one that is older says nothing of it */
  readonly roadTest: EntryOf<"road-test"> | undefined;
  /** readings of learned values, and relearns, in their order */
  readonly learned: readonly EntryOf<"learned">[];
  readonly relearns: readonly EntryOf<"relearn">[];
  readonly breakIns: readonly EntryOf<"break-in">[];
  /** each time it came back after it was handed over; what was decided, proved and handed over before is history */
  readonly comebacks: readonly EntryOf<"comeback">[];
  readonly proof: EntryOf<"proof"> | undefined;
  readonly assigned: EntryOf<"assigned"> | undefined;
  readonly approval: EntryOf<"approval"> | undefined;
  readonly handover: EntryOf<"handover"> | undefined;
  readonly cautions: readonly EntryOf<"caution">[];
  readonly notes: readonly EntryOf<"note">[];
  readonly stage: Stage;
  readonly waitsFor: string;
}

/** Ids of entries that no longer count: retracted, or followed by a newer entry in their slot. */
export function supersededIds(entries: readonly Entry[]): {
  retracted: ReadonlySet<string>;
  replaced: ReadonlySet<string>;
} {
  const retracted = new Set<string>();
  // a retraction may itself be retracted: walk from the newest
  for (const e of [...entries].sort((a, b) => b.seq - a.seq)) {
    if (e.kind === "retraction" && !retracted.has(e.id)) retracted.add(e.body.entryId);
  }
  const newest = new Map<string, Entry>();
  for (const e of entries) {
    if (retracted.has(e.id)) continue;
    const other = newest.get(e.slot);
    if (!other || other.seq < e.seq) newest.set(e.slot, e);
  }
  const replaced = new Set(entries.filter((e) => !retracted.has(e.id) && newest.get(e.slot) !== e).map((e) => e.id));
  return { retracted, replaced };
}

/** The entry that counts in a slot now. */
export function currentInSlot(entries: readonly Entry[], slot: string): Entry | undefined {
  const { retracted, replaced } = supersededIds(entries);
  return entries.find((e) => e.slot === slot && !retracted.has(e.id) && !replaced.has(e.id));
}

/** What the timeline says now. The order in which entries are passed does not matter. */
export function foldJob(entries: readonly Entry[]): JobState {
  const { retracted, replaced } = supersededIds(entries);
  const valid = entries.filter((e) => !retracted.has(e.id) && !replaced.has(e.id)).sort((a, b) => a.seq - b.seq);
  const all = <K extends EntryKind>(kind: K) =>
    valid.filter((e): e is Entry & EntryOf<K> => e.kind === kind) as unknown as EntryOf<K>[];
  const logs = all("log");
  const tried = all("tried");
  const since = (slot: string) =>
    Math.min(...entries.filter((e) => e.slot === slot && !retracted.has(e.id)).map((e) => e.seq));
  const workedAt = Math.max(0, ...[...all("work"), ...tried].map((e) => e.seq));
  const comebacks = all("comeback");
  const backAt = comebacks.at(-1)?.seq ?? 0;
  const newest = <K extends EntryKind>(kind: K) => all(kind).find((e) => e.seq > backAt);
  const logIds = new Set(logs.map((l) => l.body.logId));
  const base = {
    intake: all("intake")[0],
    level: all("level")[0],
    fluid: all("fluid")[0],
    observations: all("observation"),
    pan: all("pan")[0],
    photos: all("photo"),
    fluidPlan: all("fluid-plan")[0],
    codes: all("code"),
    codesRead: all("codes-read")[0],
    logs,
    analyses: all("analysis").filter((a) => logIds.has(a.body.logId)),
    felt: all("felt"),
    checks: all("check"),
    tried,
    triedSince: tried.map((t) => since(t.slot)),
    sources: all("sources")[0],
    estimates: all("estimate"),
    decision: newest("decision"),
    plan: all("plan")[0],
    steps: all("step"),
    bench: all("bench"),
    trays: all("tray"),
    emptied: all("emptied")[0],
    filling: all("filling"),
    supply: all("supply")[0],
    promise: all("promise")[0],
    work: all("work"),
    roadTest: all("road-test").find((e) => e.seq > workedAt),
    learned: all("learned"),
    relearns: all("relearn"),
    breakIns: all("break-in"),
    comebacks,
    proof: newest("proof"),
    assigned: all("assigned")[0],
    approval: newest("approval"),
    handover: newest("handover"),
    cautions: all("caution"),
    notes: all("note"),
  };
  return { ...base, ...stageOf(base) };
}

/** Nothing was decided, done or proved: there is nothing to hand over yet. */
export const untouched = (s: Pick<JobState, "decision" | "work" | "proof">): boolean =>
  !s.decision && s.work.length === 0 && !s.proof;

function stageOf(s: Omit<JobState, "stage" | "waitsFor">): Pick<JobState, "stage" | "waitsFor"> {
  const analysed = (role: LogRole) =>
    s.logs.some((l) => l.body.role === role && s.analyses.some((a) => a.body.logId === l.body.logId));
  if (s.handover) return { stage: "closed", waitsFor: "nothing: handed over" };
  if (s.proof) return { stage: "handover", waitsFor: "report and hand-over" };
  const backAt = s.comebacks.at(-1)?.seq ?? 0;
  if (s.work.some((w) => w.seq > backAt))
    return {
      stage: "proof",
      waitsFor: analysed("after") || s.roadTest ? "acceptance of the proof" : "a log after the repair",
    };
  if (s.decision) return { stage: "work", waitsFor: "the work" };
  if (!s.intake) return { stage: "intake", waitsFor: "the complaint" };
  if (!s.level) return { stage: "first-look", waitsFor: "the fluid level" };
  if (backAt > 0 && !s.logs.some((l) => l.seq > backAt) && !s.felt.some((f) => f.seq > backAt))
    return { stage: "scan", waitsFor: "a drive: it has come back" };
  if (!analysed("before") && s.felt.length === 0) return { stage: "scan", waitsFor: "a scan log or a road test" };
  if (s.checks.length === 0) return { stage: "suspects", waitsFor: "the next check" };
  return { stage: "decide", waitsFor: "a decision" };
}
