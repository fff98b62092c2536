import { type Entry, type EntryBodies, type EntryKind, slotOf } from "@gearsense/core/job";
import { createStore, del, entries, get, set, type UseStore, update } from "idb-keyval";

/** What a person writes of their own; what the server computes from it never waits here. */
export type WrittenKind = Exclude<EntryKind, "log" | "analysis">;
export type Written = { [K in WrittenKind]: { readonly kind: K; readonly body: EntryBodies[K] } }[WrittenKind];

/** An entry that waits for the network on this device until the server has it. */
export type WaitingEntry = Written & {
  readonly id: string;
  readonly jobId: string;
  /** what it is called when it is spoken of */
  readonly title: string;
  /** stands in for its place on the timeline until it has one: see `isProvisional` */
  readonly seq: number;
  /** what the person saw in its slot: 0 for nothing, a provisional one for an entry that waits here too */
  readonly baseSeq: number;
  readonly at: string;
  /** id of the account that made it: it is sent in no other name */
  readonly by: string;
  /** their name, to be told to somebody else at this device */
  readonly name: string;
  /** the key under which it went out already, unanswered, on that base */
  readonly sentAs?: { readonly key: string; readonly baseSeq: number } | undefined;
  /** a refusal of the server: it will not be sent again by itself */
  readonly refused?: string | undefined;
  /** what somebody else stored in its place meanwhile: its writer decides which counts */
  readonly theirs?: Entry | "taken back" | undefined;
};

/** Taken as this number of the timeline; somebody else had done it already; no network; refused; or another stands there. */
export type Sent =
  | { readonly seq: number }
  | "done-already"
  | "waits"
  | { readonly refused: string }
  | { readonly theirs: Entry | "taken back" };

const FIRST_PROVISIONAL = 1e12;
/** Whether a number stands for an entry that waited on this device: those of a timeline count from one. */
export const isProvisional = (seq: number): boolean => seq >= FIRST_PROVISIONAL;
/** The next provisional number: a moment in milliseconds, never one that is taken. */
export const nextProvisional = (list: readonly WaitingEntry[], nowMs: number): number =>
  Math.max(nowMs, ...list.map((e) => e.seq + 1));

/** Whether it needs its writer before it goes anywhere. */
export const isStuck = (e: WaitingEntry): boolean => e.refused !== undefined || e.theirs !== undefined;
const placeOf = (e: WaitingEntry) => `${e.jobId} ${slotOf(e.kind, e.body as never, e.id)}`;

/** Where waiting entries are kept, and the numbers of those that have gone up. */
export interface EntryKeep {
  readonly list: () => Promise<WaitingEntry[]>;
  readonly keep: (e: WaitingEntry) => Promise<void>;
  readonly drop: (id: string) => Promise<void>;
  /** @returns the number on the timeline of what waited as `provisional`; undefined: it waits still, or never went */
  readonly numberOf: (provisional: number) => Promise<number | undefined>;
  readonly setNumber: (provisional: number, seq: number) => Promise<void>;
}

const NUMBERS_KEPT_MS = 30 * 86_400_000;
let waiting: UseStore | undefined;
let numbers: UseStore | undefined;
const waitingStore = () => (waiting ??= createStore("gearsense-entries", "waiting"));
const numberStore = () => (numbers ??= createStore("gearsense-entry-numbers", "numbers"));

/** On this device, shared by all its tabs. */
export const deviceKeep: EntryKeep = {
  list: async () =>
    (await entries<string, WaitingEntry>(waitingStore())).map(([, e]) => e).sort((a, b) => a.seq - b.seq),
  keep: (e) => set(e.id, e, waitingStore()),
  drop: (id) => del(id, waitingStore()),
  numberOf: (provisional) => get<number>(provisional, numberStore()),
  async setNumber(provisional, seq) {
    await update<number>(provisional, () => seq, numberStore());
    // a draft may name them for as long as it is likely to lie about
    for (const [old] of await entries<number, number>(numberStore()))
      if (old < provisional - NUMBERS_KEPT_MS) await del(old, numberStore());
  },
};

/**
 * What an entry is based on, as the server counts.
 * @returns undefined while what it rests on waits itself; 0 for what never reached the server
 */
export async function baseOf(
  baseSeq: number,
  list: readonly WaitingEntry[],
  keep: Pick<EntryKeep, "numberOf">,
): Promise<number | undefined> {
  if (!isProvisional(baseSeq)) return baseSeq;
  const number = await keep.numberOf(baseSeq);
  if (number !== undefined) return number;
  return list.some((e) => e.seq === baseSeq) ? undefined : 0;
}

/**
 * Sends what one person made, in its order, until one finds no network. What the server took, or had from somebody else, is forgotten
 * here; what it refuses, or what met another entry in its place, is kept for its writer to decide, and with it what was written on top of it.
 * @param notYet - says of an entry that it rests on what has not gone up: a photo
 * @returns what somebody else had done, and whether it stopped for want of a network
 */
export async function flushEntries(
  by: string,
  send: (e: WaitingEntry, baseSeq: number) => Promise<Sent>,
  keep: EntryKeep = deviceKeep,
  notYet: (e: WaitingEntry) => boolean = () => false,
): Promise<{ readonly theirs: WaitingEntry[]; readonly waits: boolean }> {
  const theirs: WaitingEntry[] = [];
  const held = new Set<string>();
  for (const e of await keep.list()) {
    if (e.by !== by) continue;
    const place = placeOf(e);
    if (isStuck(e) || held.has(place) || notYet(e)) {
      held.add(place);
      continue;
    }
    const baseSeq = await baseOf(e.baseSeq, await keep.list(), keep);
    // it rests on somebody else's that waits on this device
    if (baseSeq === undefined) continue;
    const sent = await send(e, baseSeq);
    if (sent === "waits") return { theirs, waits: true };
    if (sent === "done-already") {
      await dropEntry(e, keep);
      theirs.push(e);
    } else if ("seq" in sent) {
      await keep.setNumber(e.seq, sent.seq);
      await keep.drop(e.id);
    } else {
      await keep.keep({ ...e, ...sent });
      held.add(place);
    }
  }
  return { theirs, waits: false };
}

/** Forgets one that waits. What was written on top of it rests on what it rested on itself. */
export async function dropEntry(e: WaitingEntry, keep: EntryKeep = deviceKeep): Promise<void> {
  for (const other of await keep.list())
    if (other.baseSeq === e.seq) await keep.keep({ ...other, baseSeq: e.baseSeq, sentAs: undefined });
  await keep.drop(e.id);
}

/** It goes up once more: over what somebody else stored in its place, or as it was after a refusal. */
export const againOf = ({ refused: _r, theirs, ...e }: WaitingEntry): WaitingEntry =>
  theirs === undefined
    ? (e as WaitingEntry)
    : ({ ...e, baseSeq: theirs === "taken back" ? 0 : theirs.seq } as WaitingEntry);
