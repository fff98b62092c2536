import { z } from "zod";

/** Small parts that several schemas share. */
export const Id = z.uuid();
export const Text = (max: number) => z.string().trim().max(max);
export const Filled = (max: number, what: string) => z.string().trim().min(1, `${what} is needed`).max(max);
export const Span = z.tuple([z.number(), z.number()]);
/** A day of our century: a calendar is asked for no other. */
export const Day = z.iso.date().refine((d) => d >= "2000" && d < "2100", "has to lie between 2000 and 2099");
export const Timestamp = z.iso.datetime({ offset: true });
