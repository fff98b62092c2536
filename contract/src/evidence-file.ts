import { FAULT_GROUPS, INTRUSIVENESS } from "@gearsense/core/suspect";
import { z } from "zod";

const Name = z.string().min(1).max(120);

/** Evidence of a vehicle for the command line: see docs/formats.md. */
export const EvidenceInput = z
  .object({
    format: z.literal("gearsense-evidence-of-a-vehicle"),
    version: z.literal(1),
    hourlyRate: z.number().positive().max(10_000).default(72),
    odometerKm: z.number().min(0).max(5e6).nullable().default(null),
    evidence: z
      .array(
        z
          .object({
            /** likelihood table, or "check", "observation", "tried" with the id of the check, rung or repair as `of` */
            table: Name,
            of: Name.optional(),
            outcome: Name,
            gear: Name.optional(),
            shift: Name.optional(),
            code: Name.optional(),
            component: Name.optional(),
            components: z.array(Name).max(60).optional(),
            /** how far it is believed, over 0 and at most 1 */
            weight: z.number().optional(),
            /** repairs ("tried") that had been done when it was seen */
            afterRepairs: z.int().min(0).max(50).optional(),
            label: z.string().max(200).optional(),
          })
          .strict(),
      )
      .max(2000, "more than 2000 pieces of evidence are not plausible"),
    /** checks that were made without telling anything */
    done: z.array(Name).max(500).default([]),
    opened: z.array(z.enum(INTRUSIVENESS)).max(6).default([]),
    /** faults of one's own */
    faults: z
      .array(
        z
          .object({
            id: Name,
            title: Name,
            group: z.enum(FAULT_GROUPS).default("elsewhere"),
            prior: z.number(),
            predicts: z.record(z.string(), z.record(z.string(), z.number())),
          })
          .strict(),
      )
      .max(50)
      .default([]),
  })
  .strict()
  .meta({ id: "EvidenceInput" });
export type EvidenceInputFile = z.infer<typeof EvidenceInput>;
