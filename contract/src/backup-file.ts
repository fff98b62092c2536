import { z } from "zod";

/** What stands at the head of a backup of everything: `gearsense-backup`, see docs/formats.md. */
export const BackupManifest = z.object({
  format: z.literal("gearsense-backup"),
  formatVersion: z.literal(1),
  madeAt: z.iso.datetime(),
  /** of the database it was made from: it goes into none with others */
  migrations: z.array(z.string()),
  shops: z.array(z.string()),
  /** tables with their columns, each after those that it refers to */
  tables: z.record(z.string(), z.array(z.string())),
});
export type BackupManifestData = z.infer<typeof BackupManifest>;
