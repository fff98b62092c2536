import type { ShopSetup } from "@gearsense/core/schedule";
import type { ShopScope } from "../db/shop-scope.ts";
import { HttpError } from "../http/errors.ts";

/** Until a shop says otherwise: one lift, one person, Monday to Friday from eight to half past four. */
export const FIRST_SETUP: ShopSetup = {
  lifts: [{ id: "lift-1", name: "Lift 1" }],
  people: [
    {
      id: "person-1",
      name: "Technician",
      skills: [],
      week: [[480, 990], [480, 990], [480, 990], [480, 990], [480, 990], null, null],
      away: [],
    },
  ],
  holidays: [],
  pins: [],
  crane: true,
};

/** Steps that a shop has ticked with their minutes, the newest of each job and slot; at most so many. */
const MOST_STEPS = 20_000;

/** Who works in a shop, and what its steps took. */
export function createPlanningStore(scope: ShopScope) {
  return {
    async setup(): Promise<{ readonly setup: ShopSetup; readonly seq: number }> {
      const row: { setup: ShopSetup; seq: number } | undefined = await scope.from("shop_setup").first("setup", "seq");
      return row ?? { setup: FIRST_SETUP, seq: 0 };
    },
    /** @throws HttpError 409 `stale` when somebody else has changed it meanwhile */
    async save(setup: ShopSetup, baseSeq: number, author: string, at: Date): Promise<void> {
      const row = { setup: JSON.stringify(setup), seq: baseSeq + 1, author, at };
      const written =
        baseSeq === 0
          ? Number(await scope.insertNew("shop_setup", row))
          : await scope.from("shop_setup").where({ seq: baseSeq }).update(row);
      if (written === 0)
        throw new HttpError(
          409,
          "stale",
          "Somebody else has changed the week meanwhile. Load it again and repeat the change; nothing was stored.",
        );
    },
    /** What steps took in other jobs of the shop. @returns minutes by the key of the step */
    async minutesTaken(exceptJob: string | undefined): Promise<Map<string, number[]>> {
      const rows: { id: string; job_id: string; slot: string; step: string; minutes: number | null }[] = await scope
        .from("entry")
        .where({ kind: "step" })
        .orderBy("at", "desc")
        .limit(MOST_STEPS)
        .select("id", "job_id", "slot")
        .jsonExtract([
          ["body", "$.step", "step"],
          ["body", "$.minutes", "minutes"],
        ]);
      const retracted: { entry_id: string }[] = await scope
        .from("entry")
        .where({ kind: "retraction" })
        .jsonExtract("body", "$.entryId", "entry_id");
      const gone = new Set(retracted.map((r) => r.entry_id));
      const seen = new Set<string>();
      const out = new Map<string, number[]>();
      for (const r of rows) {
        if (gone.has(r.id) || r.job_id === exceptJob || r.minutes === null || r.minutes <= 0) continue;
        const place = `${r.job_id} ${r.slot}`;
        if (seen.has(place)) continue;
        seen.add(place);
        out.set(r.step, [...(out.get(r.step) ?? []), r.minutes]);
      }
      return out;
    },
  };
}
