import { HAZARDS, type Hazard, LIFTS, PLACES, type Procedure, WAITS } from "@gearsense/core/procedure";
import { z } from "zod";

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
    includes: list(z.string().regex(/^[a-z][a-z0-9-]{0,39}\??$/, 'an end, or an end and "?"'), 12).optional(),
    steps: z.array(StepSchema).min(1).max(80),
  })
  .meta({ id: "ProcedureFile" }) satisfies z.ZodType<Procedure>;

/** The plan of a job: its steps, an order of them, and the ways there are. */
export const PlanView = z
  .object({
    /** repairs of the decision that no procedure does yet */
    without: z.array(z.string()),
    steps: z.array(StepSchema.extend({ key: z.string(), procedure: z.string(), before: z.array(z.string()) })),
    /** keys of the steps in the suggested order, with the minute at which each begins and where the lift goes before it */
    order: z.array(
      z.object({
        key: z.string(),
        startMin: z.number(),
        endMin: z.number(),
        liftTo: z.enum(["up", "down"]).optional(),
      }),
    ),
    totalMin: z.number(),
    ways: z.array(
      z.object({ end: z.string(), chosen: z.string(), of: z.array(z.object({ id: z.string(), title: z.string() })) }),
    ),
  })
  .meta({ id: "Plan" });
export type PlanOfJob = z.infer<typeof PlanView>;
