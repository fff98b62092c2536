import type { NewEntryInput } from "@gearsense/contract";
import type { Entry, EntryBodies } from "@gearsense/core/job";
import { useRef } from "react";
import { ApiFailure } from "../api/client.ts";
import { useAddEntry } from "../offline/useAddEntry.ts";
import { useDraft } from "../shared/useDraft.ts";
import { useJob } from "./job-context.tsx";

export type TypedKind = NewEntryInput["kind"];

export interface EntryForm<B> {
  readonly value: B;
  readonly set: (patch: Partial<B>) => void;
  readonly submit: (body?: EntryBodies[TypedKind]) => Promise<boolean>;
  readonly pending: boolean;
  readonly errors: Readonly<Record<string, string>>;
  /** a refusal that belongs to no field */
  readonly failure: string | undefined;
  /** what somebody else stored meanwhile */
  readonly conflict: Entry | "taken back" | undefined;
  readonly takeTheirs: () => void;
  readonly storeMine: () => Promise<boolean>;
  readonly drafted: boolean;
  readonly reset: () => void;
}

interface Standing {
  readonly seq: number;
}

/**
 * A form for one slot of the timeline. What is typed is kept on this device together with the version it began from; a
 * version that has moved on is refused by the server, shown beside, and nothing typed is lost.
 * @param slot - names the draft and the version
 * @param current - entry that stands in the slot now, or how to find it from what is typed
 */
export function useEntryForm<B extends object>(
  kind: TypedKind,
  slot: string,
  current: Standing | undefined | ((value: B) => Standing | undefined),
  initial: B,
): EntryForm<B> {
  const { job } = useJob();
  const add = useAddEntry(job.id);
  const timesTyped = useRef(0);
  const draft = useDraft<B & { base?: number }>(`${job.id}.${slot}`, initial);
  const { base: draftBase, ...rest } = draft.value;
  const value = rest as unknown as B;
  // a slot that depends on what is typed has no version before it is typed
  const base = typeof current === "function" ? (current(value)?.seq ?? 0) : (draftBase ?? current?.seq ?? 0);
  const failure = add.error instanceof ApiFailure ? add.error : undefined;
  const stale = failure?.code === "stale";

  const store = async (body: EntryBodies[TypedKind], baseSeq: number): Promise<boolean> => {
    const before = timesTyped.current;
    let stored: Awaited<ReturnType<typeof add.mutateAsync>>;
    try {
      stored = await add.mutateAsync({ kind, body, baseSeq } as NewEntryInput);
    } catch (error) {
      if (error instanceof ApiFailure) return false;
      throw error;
    }
    // what was typed while it was on its way is of the version that has just been stored
    if (timesTyped.current === before) draft.clear();
    else draft.set({ base: stored.entries.findLast((e) => e.kind === kind)?.seq } as Partial<B & { base?: number }>);
    return true;
  };
  const strip = () => ({ ...value }) as unknown as EntryBodies[TypedKind];
  return {
    value,
    set: (patch) => {
      if (add.isError && !stale) add.reset();
      timesTyped.current += 1;
      draft.set({ ...patch, base } as Partial<B & { base?: number }>);
    },
    submit: (body) => store(body ?? strip(), base),
    pending: add.isPending,
    errors:
      failure && !stale
        ? Object.fromEntries(Object.entries(failure.fields).map(([k, v]) => [k.replace(/^body\./, ""), v]))
        : {},
    failure: failure && !stale && Object.keys(failure.fields).length === 0 ? failure.message : undefined,
    conflict: stale ? (failure?.current ?? "taken back") : undefined,
    takeTheirs: () => {
      add.reset();
      draft.clear();
    },
    storeMine: () => {
      const body = (add.variables?.body as EntryBodies[TypedKind] | undefined) ?? strip();
      return store(body, failure?.current?.seq ?? 0);
    },
    drafted: draft.drafted,
    reset: () => {
      add.reset();
      draft.clear();
    },
  };
}
