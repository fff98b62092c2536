import type { ShopSetup } from "@gearsense/core/schedule";
import { z } from "zod";
import { Day, Filled, Id, LocalTime, Text } from "./quantities.ts";

const Hours = z
  .tuple([z.int().min(0).max(1440), z.int().min(0).max(1440)])
  .refine(([from, to]) => to > from, "the day ends after it begins");

/** Who works in a shop, when, and on what. */
export const Setup = z
  .object({
    lifts: z.array(z.object({ id: Filled(40, "The lift"), name: Filled(40, "The name of the lift") })).max(12),
    people: z
      .array(
        z.object({
          id: Filled(40, "The person"),
          name: Filled(60, "The name"),
          skills: z.array(Filled(40, "The skill")).max(10),
          week: z.array(Hours.nullable()).length(7, "Monday to Sunday"),
          away: z
            .array(
              z
                .object({ from: Day, to: Day, why: Text(60) })
                .refine((a) => a.from <= a.to, { path: ["to"], message: "the last day is not before the first" }),
            )
            .max(60),
        }),
      )
      .max(20),
    holidays: z.array(z.object({ day: Day, name: Text(60) })).max(120),
    pins: z.array(z.object({ jobId: Id, fromAt: LocalTime, lift: z.string().max(40).nullable() })).max(200),
    crane: z.boolean(),
  })
  .superRefine((s, ctx) => {
    for (const list of ["lifts", "people"] as const) {
      const ids = s[list].map((x) => x.id);
      ids.forEach((id, i) => {
        if (ids.indexOf(id) !== i)
          ctx.addIssue({ code: "custom", path: [list, i, "id"], message: "stands there twice" });
      });
    }
  })
  .meta({ id: "ShopSetup" }) satisfies z.ZodType<ShopSetup>;

export const SetupSave = z.object({ setup: Setup, baseSeq: z.int().min(0) }).meta({ id: "ShopSetupSave" });

/** The week of a shop from now on. Times are the shop's own clock. */
export const Week = z
  .object({
    at: z.string(),
    seq: z.number(),
    setup: Setup,
    blocks: z.array(
      z.object({
        jobId: z.string(),
        people: z.array(z.string()),
        lift: z.string().nullable(),
        startAt: z.string(),
        endAt: z.string(),
        steps: z.array(z.string()),
      }),
    ),
    jobs: z.array(
      z.object({
        jobId: z.string(),
        number: z.string(),
        vehicle: z.string(),
        title: z.string(),
        stepsDone: z.number(),
        steps: z.number(),
        /** by likely times; null: it is not finished in the time that is looked at */
        readyAt: z.string().nullable(),
        /** in nine of ten drawn runs it is ready by then */
        sureAt: z.string().nullable(),
        /** ends of one in twenty, two in twenty … nineteen in twenty drawn runs; null: never */
        ends: z.array(z.string().nullable()),
        promisedAt: z.string().nullable(),
        /** that it is ready by what was promised */
        odds: z.number().nullable(),
        problem: z.string().nullable(),
        /** day on which the last missing part is there */
        partsOn: z.string().nullable(),
        waitsForParts: z.boolean(),
        orders: z.array(
          z.object({
            name: z.string(),
            orderedOn: z.string().nullable(),
            dueOn: z.string().nullable(),
            /** the last day on which it can be ordered for the promise to hold */
            orderBy: z.string().nullable(),
          }),
        ),
        lost: z.array(z.object({ title: z.string(), minutes: z.number(), likelyMin: z.number() })),
      }),
    ),
  })
  .meta({ id: "Week" });
export type WeekView = z.infer<typeof Week>;
