import type { EntryBodies } from "@gearsense/core/job";
import { createStore, del, entries, set, type UseStore } from "idb-keyval";

/** What is written at the vehicle, where there may be no network. */
export type TickKind = "step" | "emptied" | "filling" | "tray";
export type TickWritten = { [K in TickKind]: { readonly kind: K; readonly body: EntryBodies[K] } }[TickKind];

/** A tick, or what was done of a fill or a tray, that waits for the network on this device until the server has it. */
export type WaitingTick = TickWritten & {
  readonly id: string;
  readonly jobId: string;
  /** what it is called when it is spoken of */
  readonly title: string;
  /** what the person saw in the step's place: 0 for nothing */
  readonly baseSeq: number;
  readonly at: string;
  /** id of the account that made it: it is sent in no other name */
  readonly by: string;
  /** their name, to be told to somebody else at this device */
  readonly name: string;
  /** a refusal of the server: it will not be sent again by itself */
  readonly refused?: string | undefined;
};

/** Taken; somebody else had done it already; no network; or refused with a reason. */
export type TickSent = "stored" | "done-already" | "waits" | { readonly refused: string };

let store: UseStore | undefined;
const ticks = (): UseStore => (store ??= createStore("gearsense-ticks", "waiting"));

export const keepTick = (tick: WaitingTick): Promise<void> => set(tick.id, tick, ticks());
export const dropTick = (id: string): Promise<void> => del(id, ticks());

/** Ticks of all jobs that wait, in the order in which they were made. */
export async function waitingTicks(): Promise<WaitingTick[]> {
  const all = await entries<string, WaitingTick>(ticks());
  return all.map(([, t]) => t).sort((a, b) => a.at.localeCompare(b.at));
}

/**
 * Sends what one person made, in its order, until one finds no network. What the server refuses is kept with its reason; what it took, or
 * had from somebody else, is forgotten here.
 * @returns what somebody else had done, and whether it stopped for want of a network
 */
export async function flushTicks(
  list: readonly WaitingTick[],
  by: string,
  send: (t: WaitingTick) => Promise<TickSent>,
  keep = keepTick,
  drop = dropTick,
): Promise<{ readonly theirs: WaitingTick[]; readonly waits: boolean }> {
  const theirs: WaitingTick[] = [];
  for (const t of list) {
    if (t.refused || t.by !== by) continue;
    const sent = await send(t);
    if (sent === "waits") return { theirs, waits: true };
    if (typeof sent === "object") await keep({ ...t, refused: sent.refused });
    else {
      await drop(t.id);
      if (sent === "done-already") theirs.push(t);
    }
  }
  return { theirs, waits: false };
}
