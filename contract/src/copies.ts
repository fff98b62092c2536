import { z } from "zod";

/** How often a copy of everything is made by itself, and how many of them are kept. */
export const CopyRule = z
  .object({
    /** hours between two; 0: none is made by itself */
    everyHours: z.union([z.literal(0), z.literal(6), z.literal(24), z.literal(168)]),
    keep: z.int().min(1, "at least one is kept").max(60, "at most 60 are kept"),
  })
  .meta({ id: "CopyRule" });
export type CopyRuleData = z.infer<typeof CopyRule>;

export const Copy = z
  .object({
    name: z.string(),
    madeAt: z.string(),
    bytes: z.number(),
    /** before-update: made before a new version changed the database */
    why: z.enum(["kept", "before-update"]),
  })
  .meta({ id: "Copy" });
export type CopyView = z.infer<typeof Copy>;

export const Copies = z
  .object({
    /** newest first */
    copies: z.array(Copy),
    rule: CopyRule,
    /** false: whoever runs the server has given no folder for them */
    kept: z.boolean(),
    /** the only shop of this server: its owner may fetch and restore copies of everything */
    alone: z.boolean(),
    /** bytes of the copy that is being made */
    running: z.number().nullable(),
    /** why the newest that was due was not made */
    trouble: z.object({ at: z.string(), message: z.string() }).nullable(),
  })
  .meta({ id: "Copies" });
export type CopiesView = z.infer<typeof Copies>;

export const RestoreConfirm = z.object({ confirm: z.string().max(80) }).meta({ id: "RestoreConfirm" });
export const Restored = z.object({ madeAt: z.string(), shops: z.array(z.string()) }).meta({ id: "Restored" });
