import { z } from "zod";
import { AnalysisFile, ImportReportSchema } from "./analysis-file.ts";
import { EntrySchema } from "./entries.ts";
import { Id, Timestamp } from "./quantities.ts";
import { StoredReading } from "./reading-file.ts";
import { UnitFile } from "./unit-file.ts";
import { Vehicle } from "./views.ts";

/** `job.json` in an exported job; the raw logs stand beside it as `logs/<logId>/<file name>`. */
export const JobFile = z
  .object({
    format: z.literal("gearsense-job"),
    formatVersion: z.literal(1),
    exportedAt: Timestamp,
    number: z.string(),
    openedAt: Timestamp,
    odometerKm: z.number(),
    vehicle: Vehicle,
    /** the unit file as it was when the job was diagnosed */
    unit: UnitFile,
    entries: z.array(EntrySchema),
    /** pictures as they are stored, beside it as `photos/<photoId>.jpg`; absent in files of earlier versions */
    photos: z
      .array(
        z.object({
          photoId: Id,
          sha256: z.string(),
          widthPx: z.int().min(1),
          heightPx: z.int().min(1),
          path: z.string(),
        }),
      )
      .default([]),
    logs: z.array(
      z.object({
        logId: Id,
        fileName: z.string(),
        sha256: z.string(),
        role: z.enum(["before", "after"]),
        path: z.string(),
        analysis: z
          .object({ reading: StoredReading, report: ImportReportSchema, analysis: AnalysisFile })
          .nullable()
          // a result of an older version: the log is analysed anew after the import
          .catch(null),
      }),
    ),
  })
  .meta({ id: "JobFile" });
export type JobFileData = z.infer<typeof JobFile>;
