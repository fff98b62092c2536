import { z } from "zod";
import { AnalysisFile, ImportReportSchema } from "./analysis-file.ts";
import { EntrySchema } from "./entries.ts";
import { Id, LogRole, Timestamp } from "./quantities.ts";
import { StoredReading } from "./reading-file.ts";
import { UnitFile } from "./unit-file.ts";
import { Vehicle } from "./views.ts";

const MOST_ENTRIES = 5000;
const MOST_LOGS = 60;
const MOST_PHOTOS = 300;
/** Nothing in a workshop's books is older, or of the next century. */
const InOurTime = Timestamp.refine((t) => t >= "2000" && t < "2100", "has to lie between 2000 and 2099");
const FileName = z.string().min(1).max(200);
const Path = z.string().min(1).max(400);
const Sha256 = z.string().regex(/^[0-9a-f]{64}$/, "64 hexadecimal digits");

/** `job.json` in an exported job; the raw logs stand beside it as `logs/<logId>/<file name>`. */
export const JobFile = z
  .object({
    format: z.literal("gearsense-job"),
    formatVersion: z.literal(1),
    exportedAt: Timestamp,
    number: z.string().regex(/^\d{4,9}$/, "four to nine digits"),
    openedAt: InOurTime,
    odometerKm: z.number().min(0).max(3_000_000),
    vehicle: Vehicle.extend({
      name: z.string().min(1).max(120),
      plate: z.string().max(20),
      owner: z.string().min(1).max(120),
      vin: z.string().max(24).default(""),
    }),
    /** the unit file as it was when the job was diagnosed */
    unit: UnitFile,
    entries: z
      .array(EntrySchema)
      .max(MOST_ENTRIES)
      .refine((list) => list.every((e) => InOurTime.safeParse(e.at).success), "at: has to lie between 2000 and 2099"),
    /** pictures as they are stored, beside it as `photos/<photoId>.jpg`; absent in files of earlier versions */
    photos: z
      .array(
        z.object({
          photoId: Id,
          sha256: Sha256,
          widthPx: z.int().min(1),
          heightPx: z.int().min(1),
          path: Path,
        }),
      )
      .max(MOST_PHOTOS)
      .default([]),
    logs: z
      .array(
        z.object({
          logId: Id,
          fileName: FileName,
          sha256: Sha256,
          role: LogRole,
          path: Path,
          analysis: z
            .object({ reading: StoredReading, report: ImportReportSchema, analysis: AnalysisFile })
            .nullable()
            // a result of an older version: the log is analysed anew after the import
            .catch(null),
        }),
      )
      .max(MOST_LOGS),
  })
  .meta({ id: "JobFile" });
export type JobFileData = z.infer<typeof JobFile>;
