import { FILL_DEEDS } from "@gearsense/core/fluid";
import { z } from "zod";
import { Day, Filled, FluidC, LocalTime, minutes, Text } from "./quantities.ts";

const Litres = z
  .number("litres are a number")
  .min(0, "litres are not negative")
  .max(40, "over 40 l is a slip of the finger");

/** By the ids of the unit file, in its units. */
export const LearnedValues = z
  .record(z.string().regex(/^[A-Za-z]\w{0,39}$/), z.number("a learned value is a number"))
  .refine((r) => Object.keys(r).length <= 60, "over 60 values");

/** What is written while the decision is carried out. */
export const WorkBodies = {
  plan: z.object({
    ways: z.array(Text(40)).max(20),
    extras: z.array(Text(40)).max(30).optional(),
    rust: z.enum(["none", "light", "heavy", "rotten"]).optional(),
    ageYears: z.number("years are a number").min(0).max(80, "over 80 years is a slip of the finger").optional(),
    helper: z.boolean().optional(),
    crane: z.boolean().optional(),
  }),
  tray: z.object({ step: Filled(81, "The step"), full: z.array(Text(60)).max(200) }),
  emptied: z.object({
    drainedL: Litres.nullable(),
    drainedC: FluidC("fluid does not run"),
    spiltL: Litres,
    linesOpened: z.boolean(),
    converterDrained: z.boolean(),
    dry: z.boolean(),
    prefilledL: Litres,
  }),
  filling: z.object({
    deed: z.enum(FILL_DEEDS),
    litres: z.number("litres are a number").min(-5).max(40, "over 40 l is a slip of the finger").nullable(),
    fluidC: FluidC("fluid does not run"),
    saw: Text(40),
    note: Text(400),
  }),
  supply: z.object({
    parts: z
      .array(
        z.object({
          name: Filled(120, "The part"),
          quantity: z.number("a number").min(0).max(1000),
          leadDays: z.number("days are a number").min(0).max(400, "over 400 days is a slip of the finger").nullable(),
          orderedOn: Day.nullable(),
          dueOn: Day.nullable(),
          cameOn: Day.nullable(),
        }),
      )
      .max(60),
  }),
  promise: z.object({
    at: LocalTime,
    odds: z.number().min(0).max(1).nullable(),
    note: Text(400),
  }),
  learned: z.object({ values: LearnedValues, how: z.enum(["link", "typed"]), note: Text(400) }),
  relearn: z.object({
    procedureId: Filled(40, "The procedure"),
    title: Filled(120, "The procedure"),
    how: z.enum(["link", "typed"]),
    outcome: z.enum(["done", "aborted", "failed"]),
    say: Text(400),
    next: Text(400),
    ends: z.enum(["done", "again", "repair"]),
    code: z.int().min(0).max(255).nullable(),
    element: Text(40).nullable(),
    stage: Text(300),
    before: LearnedValues,
    after: LearnedValues,
    note: Text(400),
  }),
  "break-in": z.object({
    odometerKm: z.number("kilometres are a number").min(0).max(5e6),
    inspected: z.object({ level: z.enum(["ok", "low", "high"]), leaks: z.boolean(), metal: z.boolean() }).nullable(),
    note: Text(400),
  }),
  comeback: z.object({
    what: Filled(600, "What it does again"),
    odometerKm: z.number("kilometres are a number").min(0).max(5e6),
    repairId: Text(200).nullable(),
  }),
  bench: z.object({
    place: z.string().regex(/^[a-z-]{2,30}(:[A-Za-z][\w-]{0,39})?$/, "a place of the bench such as pack:TC"),
    title: Filled(120, "The place"),
    values: z
      .array(
        z.object({
          id: Filled(60, "The value"),
          name: Filled(120, "The value"),
          unit: z.string().max(16),
          readings: z.array(z.number("a reading is a number")).min(1).max(50),
          instrument: Filled(80, "The instrument"),
          percent: z.number().min(0).max(100),
          fixed: z.number().min(0).max(10_000),
          temperatureC: z.number().min(-60).max(250).optional(),
          from: z.number().optional(),
          to: z.number().optional(),
          asRead: z.boolean().optional(),
        }),
      )
      .max(120),
    looks: z
      .array(
        z.object({
          id: Filled(60, "What was looked at"),
          name: Filled(120, "What was looked at"),
          outcome: Filled(60, "What was seen"),
          label: Text(160),
          pass: z.boolean().nullable(),
        }),
      )
      .max(60),
    chosen: z
      .array(
        z.object({
          id: Filled(60, "The part"),
          name: Filled(120, "The part"),
          sizeMm: z.number().positive().max(500).nullable(),
          quantity: z.number("a number").min(0).max(100),
          costEach: z.number("a price is a number").min(0).max(1e5),
          why: Text(300),
        }),
      )
      .max(20),
    curve: z
      .array(z.tuple([z.number(), z.number()]))
      .max(60)
      .optional(),
    note: Text(1000),
  }),
  step: z.object({
    step: Filled(81, "The step"),
    title: Filled(120, "What the step is"),
    minutes,
    values: z.array(z.object({ id: Filled(40, "The value"), name: Filled(120, "The value"), value: Text(60) })).max(8),
    trouble: z.array(Filled(60, "What went wrong")).max(8),
    note: Text(1000),
    overridden: Text(400),
  }),
};
