import { LOG_ROLES } from "@gearsense/core/job";
import { z } from "zod";

/** Small parts that several schemas share. */
export const Id = z.uuid();
export const LogRole = z.enum(LOG_ROLES);
export const Text = (max: number) => z.string().trim().max(max);
export const Filled = (max: number, what: string) => z.string().trim().min(1, `${what} is needed`).max(max);
export const Span = z.tuple([z.number(), z.number()]);
/** A day of our century: a calendar is asked for no other. */
/** Minute of a day on the shop's own clock. */
export const LocalTime = z
  .string()
  .regex(/^\d{4}-\d{2}-\d{2}T([01]\d|2[0-3]):[0-5]\d$/, "a day and a time, such as 2026-11-30T16:30")
  .refine(
    (t) =>
      !Number.isNaN(Date.parse(`${t.slice(0, 10)}T00:00:00Z`)) &&
      new Date(`${t.slice(0, 10)}T00:00:00Z`).toISOString().startsWith(t.slice(0, 10)),
    "this day doesn’t exist",
  );

export const Day = z.iso.date().refine((d) => d >= "2000" && d < "2100", "has to lie between 2000 and 2099");
export const Timestamp = z.iso.datetime({ offset: true });

/** Of a check or a step; null: nobody took the time. */
export const minutes = z.number().min(0).max(6000).nullable();

/** Of the fluid: what no fluid in a vehicle has is a slip of the finger. */
export const FluidC = (what: string) =>
  z.number().min(-40, `below −40 °C ${what}`).max(150, `above 150 °C ${what}`).nullable();
