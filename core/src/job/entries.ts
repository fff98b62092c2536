/**
 * The timeline of a job: append-only entries. An entry fills a slot; the newest valid entry of a slot counts. A change
 * is a new entry in the same slot; an undo is a `retraction` of an entry. Nothing is ever overwritten.
 */
export interface Symptom {
  readonly kind: "slip" | "harsh" | "shudder" | "limp" | "no-drive" | "late" | "noise" | "leak" | "warning-light";
  /** gears or shifts: "4", "2-3" */
  readonly where: readonly string[];
  readonly speedKmh?: readonly [number, number] | undefined;
  readonly load: "any" | "light" | "steady" | "hard" | "coast";
  readonly temperature: "any" | "cold" | "hot";
  readonly since: string;
}

export interface EntryBodies {
  intake: {
    readonly complaint: string;
    readonly symptoms: readonly Symptom[];
    readonly doneAlready: string;
    readonly recentEvents: string;
  };
  level: {
    readonly state: "low" | "ok" | "high" | "not-readable";
    readonly method: string;
    readonly fluidC: number | null;
    readonly litresFromFull: number | null;
    readonly engineRunning: boolean;
    readonly note: string;
  };
  fluid: {
    readonly colour: "fresh" | "amber" | "brown" | "black" | "milky";
    readonly smell: "none" | "varnish" | "burnt";
    readonly note: string;
  };
  code: {
    readonly code: string;
    readonly text: string;
    readonly module: string;
    readonly triage: "complaint" | "earlier-work" | "unclear";
    readonly reason: string;
  };
  "codes-read": { readonly allModules: boolean; readonly note: string };
  log: {
    readonly logId: string;
    readonly fileName: string;
    readonly bytes: number;
    readonly sha256: string;
    readonly role: "before" | "after";
    /** what the drive was for: "cold", "hot" */
    readonly label?: string | undefined;
  };
  analysis: { readonly logId: string; readonly findings: number; readonly headline: string };
  check: {
    readonly checkId: string;
    readonly component: string;
    readonly title: string;
    readonly outcome: string;
    readonly outcomeLabel: string;
    readonly abnormal: boolean;
    readonly minutes: number | null;
    readonly note: string;
  };
  decision: {
    readonly repairId: string;
    readonly title: string;
    readonly reason: string;
    readonly expectedCost: number;
    readonly cures: number;
    readonly modelVersion: number;
    readonly odds: readonly { readonly title: string; readonly probability: number }[];
    readonly levelKnown: boolean;
  };
  work: {
    readonly text: string;
    readonly minutes: number;
    readonly parts: readonly { readonly name: string; readonly quantity: number; readonly cost: number }[];
  };
  proof: {
    readonly beforeLogId: string;
    readonly afterLogId: string;
    readonly sentence: string;
    readonly note: string;
  };
  handover: {
    readonly remarks: string;
    readonly followUps: readonly {
      readonly what: string;
      readonly dueOn: string | null;
      readonly dueKm: number | null;
    }[];
  };
  caution: { readonly about: string; readonly text: string };
  note: {
    readonly text: string;
    /** a span of a log that it speaks of */
    readonly span?: { readonly logId: string; readonly startS: number; readonly endS: number } | undefined;
  };
  retraction: { readonly entryId: string; readonly reason: string };
}

export type EntryKind = keyof EntryBodies;

export interface EntryOf<K extends EntryKind> {
  readonly id: string;
  /** position on the job's timeline, from 1 */
  readonly seq: number;
  readonly at: string;
  readonly author: string;
  readonly source: "typed" | "file" | "computed";
  readonly kind: K;
  readonly slot: string;
  readonly body: EntryBodies[K];
}

export type Entry = { [K in EntryKind]: EntryOf<K> }[EntryKind];

/** The slot an entry fills. Two entries in one slot are versions of the same thing. @param unique - for kinds that pile up */
export function slotOf<K extends EntryKind>(kind: K, body: EntryBodies[K], unique: string): string {
  const b = body as Partial<Record<"code" | "logId" | "checkId" | "about", string>>;
  switch (kind) {
    case "code":
      return `code:${b.code}`;
    case "log":
    case "analysis":
      return `${kind}:${b.logId}`;
    case "check":
      return `check:${b.checkId}`;
    case "caution":
      return `caution:${b.about}`;
    case "work":
    case "note":
    case "retraction":
      return `${kind}:${unique}`;
    default:
      return kind;
  }
}
