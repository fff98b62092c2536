import type { StoredReadingView } from "@gearsense/contract";
import type { UnitSystem } from "@gearsense/core/quantity";
import type { ShopTerms } from "../accounts/store.ts";
import type { ShopScope } from "../db/shop-scope.ts";

/** What can be asked for, and what has to be known for it. Results lie in the database, under the id of the work. */
export interface Tasks {
  /** a log, as it is read; or as the analysis was that `replaces` names, which has aged */
  readonly analysis: {
    readonly jobId: string;
    readonly logId: string;
    readonly as: { readonly reading: StoredReadingView } | { readonly replaces: string };
    /** whose entry tells of it on the timeline; null: nobody asked, nothing is told */
    readonly author: string | null;
  };
  readonly paper: {
    readonly jobId: string;
    readonly paper: "report" | "estimate";
    readonly shop: ShopTerms;
    readonly system: UnitSystem;
  };
  readonly export: { readonly jobId: string };
}
export type Kind = keyof Tasks;
export const KINDS: readonly Kind[] = ["analysis", "paper", "export"];

/** One attempt at a piece of work. */
export interface Attempt {
  /** the same at every attempt: what is stored under it is stored once */
  readonly id: string;
  /** aborted when nobody waits for it any more, or the process ends */
  readonly signal: AbortSignal;
  /** tells how far it is, for who waits */
  readonly stage: (words: string) => void;
}

/** Who does the work. What is thrown as `HttpError` or `InputError` is an answer; anything else is tried again. */
export type Workers = {
  readonly [K in Kind]: (scope: ShopScope, task: Tasks[K], attempt: Attempt) => Promise<void>;
};

export interface Asked {
  readonly id: string;
  readonly signal?: AbortSignal | undefined;
}

/**
 * Has a piece of work done and waits for it. Two that ask under one id wait for the same; what was done before under it is
 * not done again.
 * @throws HttpError what the work was refused with; 503 `busy`, `nobody-works`
 */
export type Ask = <K extends Kind>(scope: ShopScope, kind: K, task: Tasks[K], asked: Asked) => Promise<void>;

/** Does it at once, here, within the transaction of the scope: for made-up data. */
export const atOnce =
  (workers: () => Workers): Ask =>
  (scope, kind, task, { id, signal }) =>
    workers()[kind](scope, task, { id, signal: signal ?? new AbortController().signal, stage: () => undefined });
