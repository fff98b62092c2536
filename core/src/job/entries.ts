import type { EntryBodies } from "./bodies.ts";

/**
 * The timeline of a job: append-only entries. An entry fills a slot; the newest valid entry of a slot counts. A change
 * is a new entry in the same slot; an undo is a `retraction` of an entry. Nothing is ever overwritten.
 */
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

/** One code of one module: the same code in another module is another one. */
export const codeKey = ({ code, module }: Pick<EntryBodies["code"], "code" | "module">): string =>
  module.trim() === "" ? code : `${code}@${module.trim().toLowerCase()}`;

/** The slot an entry fills. Two entries in one slot are versions of the same thing. @param unique - for kinds that pile up */
export function slotOf<K extends EntryKind>(kind: K, body: EntryBodies[K], unique: string): string {
  const b = body as Partial<
    Record<
      | "code"
      | "module"
      | "logId"
      | "checkId"
      | "about"
      | "rung"
      | "photoId"
      | "repairId"
      | "by"
      | "optionId"
      | "step"
      | "place",
      string
    >
  >;
  switch (kind) {
    case "code":
      return `code:${codeKey(b as EntryBodies["code"])}`;
    case "log":
    case "analysis":
      return `${kind}:${b.logId}`;
    case "check":
      return `check:${b.checkId}`;
    case "tried":
      return `tried:${b.repairId}`;
    case "observation":
      return `observation:${b.rung}`;
    case "photo":
      return `photo:${b.photoId}`;
    // two people's words stand beside each other
    case "felt":
      return `felt:${b.by?.trim().toLowerCase()}`;
    case "estimate":
      return `estimate:${b.optionId}`;
    case "caution":
      return `caution:${b.about}`;
    case "bench":
      return `bench:${b.place}`;
    case "step":
    case "tray":
      return `${kind}:${b.step}`;
    case "learned":
    case "relearn":
    case "comeback":
    case "break-in":
    case "filling":
    case "work":
    case "note":
    case "retraction":
      return `${kind}:${unique}`;
    default:
      return kind;
  }
}
