import { z } from "zod";

const Seconds = z.number().finite();
const Name = z.string().min(1).max(120);
const span = { startS: Seconds, endS: Seconds };

/** What happened on a labelled drive: see docs/formats.md. Times are seconds on the clock of the log. More than this may stand in the file. */
export const LabelsFile = z.object({
  schema: z.literal(1),
  healthy: z.boolean(),
  fault: z.object({
    kind: Name,
    components: z.array(Name).max(40),
    /** any of these counts as right when a suspect is named */
    places: z.array(Name).min(1).max(40),
  }),
  observability: z.object({ observable: z.boolean() }),
  log: z.object({ rateHz: z.number().positive().max(1000) }),
  events: z.object({
    shifts: z.array(z.object({ from: Name, to: Name, commandS: Seconds })).default([]),
    shudder: z.array(z.object(span)).default([]),
    slip: z
      .array(
        z.object({
          ...span,
          gear: Name,
          maxRpm: z
            .number()
            .nullable()
            .transform((v) => v ?? 0),
        }),
      )
      .default([]),
    dropouts: z.array(z.object({ ...span, sensor: Name })).default([]),
    limp: z.object({ startS: Seconds }).nullable().default(null),
  }),
});
