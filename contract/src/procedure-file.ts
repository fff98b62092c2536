import {
  HAZARDS,
  type Hazard,
  LIFTS,
  MISHAP_CAUSES,
  type Mishap,
  PLACES,
  type Procedure,
  WAITS,
  type WaysCompared,
} from "@gearsense/core/procedure";
import { z } from "zod";
import { coreShape } from "./views.ts";

const name = z.string().min(1).max(120);
const id = z.string().regex(/^[a-z][a-z0-9-]{0,39}$/, "small letters, digits and - only");
const ref = z.string().regex(/^[a-z][a-z0-9-]{0,39}(\/[a-z][a-z0-9-]{0,39})?$/, "a step, or procedure/step");
const trait = z.string().regex(/^!?[a-z][a-z-]{0,30}$/, 'a trait of units, or "!" and a trait');
/** best, likely, worst */
const Minutes = z.tuple([z.number().min(0), z.number().min(0), z.number().min(0).max(10_000)]);
const list = (of: z.ZodString, most: number) => z.array(of).max(most);
const HAZARD_NAMES = Object.keys(HAZARDS) as [Hazard, ...Hazard[]];

export const StepSchema = z.strictObject({
  id,
  title: name,
  how: z.string().max(1200).optional(),
  place: z.enum(PLACES),
  lift: z.enum(LIFTS).optional(),
  when: list(trait, 8).optional(),
  after: list(ref, 20).optional(),
  minutes: Minutes,
  people: z.union([z.literal(1), z.literal(2)]).optional(),
  wait: z.strictObject({ what: z.enum(WAITS), minutes: Minutes, why: z.string().min(1).max(200) }).optional(),
  tools: list(name, 12).optional(),
  fasteners: list(z.string().min(1).max(40), 8).optional(),
  parts: z
    .array(z.strictObject({ name, count: z.int().min(1).max(60).optional(), oneTime: z.boolean().optional() }))
    .max(12)
    .optional(),
  consumables: list(name, 8).optional(),
  hazards: z.array(z.enum(HAZARD_NAMES)).max(8).optional(),
  cautions: list(z.string().min(1).max(40), 8).optional(),
  hold: z
    .strictObject({ ask: z.string().min(1).max(200), reason: z.string().min(1).max(300), opensBy: id.optional() })
    .optional(),
  record: z
    .array(
      z.strictObject({
        id,
        name,
        quantity: z.enum(["temperature", "volume", "length", "torque", "resistance", "pressure", "count", "choice"]),
        limit: z.string().max(40).optional(),
        options: list(name, 8).optional(),
      }),
    )
    .max(8)
    .optional(),
  photos: list(name, 6).optional(),
  opens: id.optional(),
  needs: list(id, 6).optional(),
  undoes: ref.optional(),
  removes: z.boolean().optional(),
  afterRefits: z.boolean().optional(),
  tray: id.optional(),
  mishaps: list(name, 8).optional(),
});

/** How work is done: `gearsense-procedure`, see docs/formats.md. */
export const ProcedureFile = z
  .strictObject({
    format: z.literal("gearsense-procedure", 'the format is "gearsense-procedure"'),
    version: z.literal(1, "only version 1 is known"),
    id,
    title: name,
    end: id,
    when: list(trait, 8).optional(),
    repairs: list(z.string().min(1).max(40), 40).optional(),
    phase: z.enum(["before", "after"]).optional(),
    extra: z
      .strictObject({
        why: z.string().min(1).max(300),
        parts: z.array(z.strictObject({ name, cost: z.number().min(0).max(100_000) })).max(12),
        odds: z.number().min(0).max(1),
        by: z.enum(MISHAP_CAUSES),
      })
      .optional(),
    includes: list(z.string().regex(/^[a-z][a-z0-9-]{0,39}\??$/, 'an end, or an end and "?"'), 12).optional(),
    steps: z.array(StepSchema).min(1).max(80),
  })
  .meta({ id: "ProcedureFile" }) satisfies z.ZodType<Procedure>;

/** What goes wrong at steps, how often and what it takes: `library/procedures/mishaps.json`. */
export const MishapsFile = z.strictObject({
  format: z.literal("gearsense-mishaps"),
  version: z.literal(1),
  mishaps: z.array(
    z.strictObject({
      name,
      odds: z.number().min(0).max(1),
      by: z.enum(MISHAP_CAUSES),
      minutes: Minutes,
      remedy: z.string().min(1).max(300),
      parts: z
        .array(z.strictObject({ name, cost: z.number().min(0).max(100_000) }))
        .max(6)
        .optional(),
    }),
  ),
}) satisfies z.ZodType<{ readonly mishaps: readonly Mishap[] }>;

/** The plan of a job: its steps, an order of them, and the ways there are. */
export const PlanView = z
  .object({
    /** repairs of the decision that no procedure does yet */
    without: z.array(z.string()),
    steps: z.array(
      StepSchema.extend({
        key: z.string(),
        procedure: z.string(),
        undoneKey: z.string().optional(),
        /** the shop's own minutes moved those of the file: how many jobs speak, and by what factor */
        own: z.object({ jobs: z.number(), factor: z.number() }).optional(),
        before: z.array(z.string()),
      }),
    ),
    /** keys of the steps in the suggested order, with the minute at which each begins and where the lift goes before it */
    order: z.array(
      z.object({
        key: z.string(),
        startMin: z.number(),
        endMin: z.number(),
        /** so much later it may end, with hands enough, and the whole is no later; 0: on the critical path */
        slackMin: z.number(),
        liftTo: z.enum(["up", "down"]).optional(),
      }),
    ),
    totalMin: z.number(),
    /** with hands enough, along the critical path */
    criticalMin: z.number(),
    /** what is worth doing while it is open */
    extras: z.array(
      z.object({
        id: z.string(),
        title: z.string(),
        why: z.string(),
        parts: z.array(z.object({ name: z.string(), cost: z.number() })),
        minutes: z.number(),
        nowCost: z.number(),
        odds: z.number(),
        laterCost: z.number(),
        worth: z.number(),
        taken: z.boolean(),
      }),
    ),
    ways: z.array(
      z.object({ end: z.string(), chosen: z.string(), of: z.array(z.object({ id: z.string(), title: z.string() })) }),
    ),
  })
  .meta({ id: "Plan" });
/** Ways to what was decided, on the same drawn jobs. */
export const Ways = coreShape<WaysCompared>("Ways");
export type WaysView = WaysCompared;
export type PlanOfJob = z.infer<typeof PlanView>;
