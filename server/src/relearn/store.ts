import type { RelearnRunView } from "@gearsense/contract";
import type { ShopScope } from "../db/shop-scope.ts";

/** What changes while it runs. */
export type RelearnLive = Pick<RelearnRunView, "values" | "routine" | "state" | "before" | "after" | "gone">;

export interface RelearnRow {
  readonly id: string;
  readonly job_id: string;
  readonly address: string;
  readonly procedure_id: string;
  readonly author: string;
  readonly started_at: Date;
  readonly beat_at: Date;
  readonly phase: "preparing" | "running" | "over";
  readonly live: RelearnLive;
  /** asked of whoever holds the link */
  readonly to_begin: boolean;
  readonly to_stop: boolean;
}

/** Relearns of one shop at a link. */
export function createRelearnStore(scope: ShopScope) {
  const one = (id: string) => scope.from("relearn").where({ id });
  return {
    newest: (jobId: string): Promise<RelearnRow | undefined> =>
      scope.from("relearn").where({ job_id: jobId }).orderBy("started_at", "desc").first(),
    byId: (id: string): Promise<RelearnRow | undefined> => one(id).first(),
    /** @returns false when a relearn holds this link already */
    insert: (row: Omit<RelearnRow, "live"> & { live: string }) => scope.insertNew("relearn", { ...row }),
    /** One that somebody has settled meanwhile stays as it is. */
    update: async (id: string, patch: Record<string, unknown>): Promise<void> => {
      await one(id).whereNot({ phase: "over" }).update(patch);
    },
    /** Settles one, once. @returns false when somebody else has */
    settle: async (id: string, patch: Record<string, unknown>): Promise<boolean> =>
      (await one(id)
        .whereNot({ phase: "over" })
        .update({ ...patch, phase: "over" })) > 0,
    /** Is a drive being recorded from this link? */
    recorded: async (address: string): Promise<boolean> =>
      (await scope.from("recording").where({ address, state: "open" }).first()) !== undefined,
  };
}

export type RelearnStore = ReturnType<typeof createRelearnStore>;
