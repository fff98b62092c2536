import type { OwnPriceRow } from "@gearsense/core/suspect";
import { z } from "zod";
import { Timestamp } from "./quantities.ts";

const Row = z.object({
  unitId: z.string().min(1).max(60).nullable(),
  repair: z.string().min(1).max(60),
  source: z.string().min(1).max(60).nullable(),
  hours: z
    .number("hours are a number")
    .min(0.05, "under three minutes isn’t a repair")
    .max(200, "at most 200 hours")
    .nullable(),
  partsCost: z
    .number("a price is a number")
    .min(0, "a price is not negative")
    .max(100_000, "at most 100 000")
    .nullable(),
}) satisfies z.ZodType<OwnPriceRow>;

const rows = z
  .array(Row)
  .max(2000)
  .superRefine((list, ctx) => {
    const seen = new Set<string>();
    list.forEach((r, i) => {
      const key = JSON.stringify([r.unitId, r.repair, r.source]);
      if (seen.has(key)) ctx.addIssue({ code: "custom", path: [i, "repair"], message: "stands there twice" });
      seen.add(key);
      if (r.hours === null && r.partsCost === null)
        ctx.addIssue({ code: "custom", path: [i, "hours"], message: "neither hours nor a price: leave the line out" });
    });
  });

export const OwnPrices = z
  .object({ prices: z.array(Row), seq: z.int().min(0), author: z.string(), at: Timestamp.nullable() })
  .meta({ id: "OwnPrices" });
export type OwnPricesView = z.infer<typeof OwnPrices>;

/** With what the library says of each repair, to be set over. */
export const Prices = OwnPrices.extend({
  library: z.object({
    fluidPerL: z.number(),
    filterCost: z.number(),
    repairs: z.array(
      z.object({
        id: z.string(),
        title: z.string(),
        kinds: z.array(z.string()).nullable(),
        hours: z.tuple([z.number(), z.number(), z.number()]),
        partsCost: z.number(),
        sources: z.array(z.object({ id: z.string(), title: z.string(), partsCost: z.number() })),
      }),
    ),
  }),
}).meta({ id: "Prices" });
export type PricesView = z.infer<typeof Prices>;

export const PricesSave = z.object({ prices: rows, baseSeq: z.int().min(0) }).meta({ id: "PricesSave" });
export type PricesSaveInput = z.infer<typeof PricesSave>;
