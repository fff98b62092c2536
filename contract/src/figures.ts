import { LEAST_PART_LETTERS, type PartFitted, type ShopFigures } from "@gearsense/core/figures";
import { z } from "zod";
import { Day, Id } from "./quantities.ts";
import { coreShape, OwnFactors } from "./views.ts";

/** Two days, both of them within it. */
export const Period = z.object({ from: Day, to: Day }).refine((p) => p.from <= p.to, {
  path: ["to"],
  message: "lies before the first day",
});

export const Figures = z
  .object({
    /** of the stays that ended within the period */
    figures: coreShape<ShopFigures>("ShopFigures"),
    /** open jobs now, by what they wait for, most first */
    waits: z.array(z.object({ waitsFor: z.string(), jobs: z.int(), oldestDays: z.number() })),
  })
  .meta({ id: "Figures" });
/** What the shop's own proved jobs say of the classes of faults, whether or not the odds move with it. */
export const OwnJobs = z.object({ jobs: z.int(), moves: z.boolean(), factors: OwnFactors }).meta({ id: "OwnJobs" });
export type OwnJobsView = z.infer<typeof OwnJobs>;
export const PartsQuery = z.object({
  find: z.string().trim().min(LEAST_PART_LETTERS, `at least ${LEAST_PART_LETTERS} letters of the part's name`).max(80),
  /** the job after which it goes on, by its number */
  after: z.string().max(20).optional(),
});
export const Parts = z
  .object({
    parts: z.array(
      z.object({
        jobId: Id,
        number: z.string(),
        vehicle: z.string(),
        plate: z.string(),
        unitName: z.string(),
        odometerKm: z.number(),
        fitted: coreShape<PartFitted>("PartFitted"),
      }),
    ),
    next: z.string().nullable(),
  })
  .meta({ id: "Parts" });
export type PartsView = z.infer<typeof Parts>;
export type FiguresView = z.infer<typeof Figures>;
