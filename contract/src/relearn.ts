import type { BreakIn } from "@gearsense/core/bench";
import type { LearnedReading, RelearnState } from "@gearsense/core/relearn";
import { z } from "zod";
import { Filled, Id } from "./quantities.ts";
import { LinkAt } from "./recording.ts";
import { coreShape } from "./views.ts";
import { LearnedValues } from "./work-entries.ts";

export const RelearnStart = LinkAt.extend({
  procedureId: Filled(40, "The procedure"),
  /** somebody has said that the vehicle on the line is the right one */
  otherVehicle: z.boolean().default(false),
  /** noted values that are to be written back; empty for other procedures */
  values: LearnedValues.default({}),
}).meta({ id: "RelearnStart" });
export type RelearnStartInput = z.infer<typeof RelearnStart>;

/** A procedure at a link, as it is now. */
export const RelearnRun = z
  .object({
    id: Id,
    procedureId: z.string(),
    author: z.string(),
    startedAt: z.string(),
    /** preparing: the conditions are watched, nothing was begun; over: it has ended and is on the timeline */
    phase: z.enum(["preparing", "running", "over", "cut"]),
    /** newest readings by channel */
    values: z.record(z.string(), z.number()),
    routine: z
      .object({ state: z.string(), code: z.int(), lever: z.string().nullable(), progressPct: z.number() })
      .nullable(),
    state: coreShape<RelearnState>("RelearnState"),
    before: LearnedValues,
    after: LearnedValues,
    /** why the link is gone; null: it is there */
    gone: z.string().nullable(),
  })
  .meta({ id: "RelearnRun" });
export type RelearnRunView = z.infer<typeof RelearnRun>;
export const RelearnOfJob = z.object({ run: RelearnRun.nullable() }).meta({ id: "RelearnOfJob" });
export const RelearnNow = z.object({ run: RelearnRun }).meta({ id: "RelearnNow" });

/** Learned values of a vehicle over all its visits. */
export interface LearnedView {
  readonly readings: readonly (LearnedReading & { readonly jobNumber: string; readonly from: string })[];
  /** when values were set anew */
  readonly resets: readonly string[];
  /** shifts of the drives since the newest work: those outside their limit, and how many were made */
  readonly shifts: { readonly outside: readonly string[]; readonly made: number };
  /** of the newest build; null: no fresh linings went in */
  readonly breakIn: BreakIn | null;
}
export const Learned = coreShape<LearnedView>("Learned");
