import type { BenchContradiction, CauseOdds, CauseSign, LoggedFactor } from "@gearsense/core/bench";
import type { Instrument } from "@gearsense/core/knowledge";
import type { BuildFileShape, EarlierBuild } from "@gearsense/core/report";
import { z } from "zod";
import { Filled, Timestamp } from "./quantities.ts";
import { coreShape } from "./views.ts";
import { WorkBodies } from "./work-entries.ts";

/** How sure an instrument is: one standard deviation, as a share of the reading and fixed. */
export const InstrumentFile = z.object({
  id: z.string().regex(/^[a-z][a-z0-9-]{0,39}$/, "small letters, digits and -"),
  name: Filled(60, "The instrument"),
  percent: z
    .number("a share is a number")
    .min(0, "a share is not negative")
    .max(50, "over 50 % isn’t an instrument’s uncertainty"),
  fixed: z.number("an uncertainty is a number").min(0, "an uncertainty is not negative").max(1000),
  unit: z.string().max(16).optional(),
}) satisfies z.ZodType<Instrument>;

export const Instruments = z
  .object({ instruments: z.array(InstrumentFile), seq: z.int().min(0) })
  .meta({ id: "Instruments" });
export type InstrumentsView = z.infer<typeof Instruments>;

export const InstrumentsSave = z
  .object({
    instruments: z
      .array(
        InstrumentFile.refine((i) => i.percent > 0 || i.fixed > 0, {
          path: ["fixed"],
          message: "no instrument is without uncertainty",
        }),
      )
      .max(60)
      .superRefine((list, ctx) => {
        list.forEach((x, i) => {
          if (list.findIndex((y) => y.id === x.id) !== i)
            ctx.addIssue({ code: "custom", path: [i, "id"], message: "stands there twice" });
        });
      }),
    baseSeq: z.int().min(0),
  })
  .meta({ id: "InstrumentsSave" });

/** What the bench of a job comes to beside what is typed there. */
export interface BenchView {
  readonly signs: readonly CauseSign[];
  readonly causes: readonly CauseOdds[];
  readonly contradictions: readonly BenchContradiction[];
  readonly earlier: readonly EarlierBuild[];
  /** capacity factor of the converter as the logs before and after the work show it */
  readonly factor: { readonly before: LoggedFactor | null; readonly after: LoggedFactor | null };
  /** highest torque by engine speed in the logs */
  readonly curve: readonly (readonly [number, number])[] | null;
}
export const Bench = coreShape<BenchView>("Bench");

const written = { author: z.string(), at: Timestamp };
const { values, looks, chosen, curve } = WorkBodies.bench.shape;

/** `*.build.json`: a build as an open file. */
export const BuildFile = z
  .object({
    format: z.literal("gearsense-build"),
    formatVersion: z.literal(1),
    job: z.string(),
    vehicle: z.object({ name: z.string(), plate: z.string() }),
    unit: z.object({ id: z.string(), name: z.string(), version: z.int() }),
    places: z.array(
      z.object({
        place: z.string(),
        title: z.string(),
        state: z.enum(["pass", "fail", "open"]),
        values: z.array(
          values.element.extend({
            mean: z.number(),
            uncertainty: z.number().min(0),
            call: z.enum(["in", "out", "close", "no-limit"]),
            inside: z.number().min(0).max(1),
            ...written,
          }),
        ),
        looks: z.array(looks.element.extend(written)),
        chosen: z.array(chosen.element.extend(written)),
        curve,
        note: z.string(),
      }),
    ),
    cause: z.object({ id: z.string(), title: z.string(), note: z.string() }).nullable(),
    breakInKm: z.number().nullable(),
    watch: z.array(z.string()),
  })
  .meta({ id: "BuildFile" }) satisfies z.ZodType<BuildFileShape>;
