import type { ShopFigures } from "@gearsense/core/figures";
import { z } from "zod";
import { Day } from "./quantities.ts";
import { coreShape } from "./views.ts";

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
export type FiguresView = z.infer<typeof Figures>;
