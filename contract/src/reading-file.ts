import type { BusDefinition, ImportProfile } from "@gearsense/core/log";
import { z } from "zod";
import { Id, Span } from "./quantities.ts";

export const ColumnMappingSchema = z.object({
  column: z.int().min(0),
  channel: z.string().max(60).nullable(),
  unit: z.string().max(20).nullable(),
});

const DialectChoiceSchema = z.object({
  delimiter: z.enum([",", ";", "\t", "|"]).optional(),
  decimalComma: z.boolean().optional(),
  headerLine: z.int("the header line is a whole number").min(1).max(200).optional(),
});

const bits = {
  startBit: z.int().min(0).max(511),
  lengthBits: z.int().min(1).max(52),
  byteOrder: z.enum(["little", "big"]),
};

/** Where the channels lie in the frames of a bus: `gearsense-bus`, see docs/formats.md. */
export const BusFile: z.ZodType<BusDefinition> = z
  .object({
    format: z.literal("gearsense-bus", 'the format is "gearsense-bus"'),
    version: z.literal(1, "only version 1 is known"),
    name: z.string().min(1).max(120),
    channels: z
      .array(
        z.object({
          channel: z.string().min(1).max(60),
          id: z.string().regex(/^0x[0-9a-f]{1,8}$/i, 'write the identifier as "0x1A0"'),
          ...bits,
          signed: z.boolean().exactOptional(),
          scale: z.number(),
          offset: z.number(),
          unit: z.string().max(20).exactOptional(),
          invalid: z.array(z.number()).max(16).exactOptional(),
          multiplexer: z.object({ ...bits, value: z.number() }).exactOptional(),
        }),
      )
      .min(1, "needs at least one channel")
      .max(400),
  })
  .meta({ id: "BusFile" });

/** How the exports of one source are read: `gearsense-import-profile`, see docs/formats.md. */
export const ImportProfileFile: z.ZodType<ImportProfile> = z
  .object({
    format: z.literal("gearsense-import-profile", 'the format is "gearsense-import-profile"'),
    version: z.literal(1, "only version 1 is known"),
    name: z.string().trim().min(1, "The name is needed").max(80),
    dialect: DialectChoiceSchema.exactOptional(),
    definition: BusFile.exactOptional(),
    columns: z
      .array(
        z.object({
          header: z.string().max(200),
          unitText: z.string().max(60).exactOptional(),
          channel: z.string().max(60).nullable(),
          unit: z.string().max(20).nullable(),
        }),
      )
      .max(1000),
  })
  .meta({ id: "ImportProfileFile" });

const part = {
  mapping: z.array(ColumnMappingSchema).min(2).max(1000),
  dialect: DialectChoiceSchema.optional(),
  definition: BusFile.optional(),
};

/** How a stored log is to be read and which part of it is judged. */
export const ReadingSchema = z
  .object({
    ...part,
    /** only this span is judged, s of the log */
    spanS: Span.optional(),
    /** logs of the job that are joined behind it, each read as it was analysed last */
    joined: z.array(Id).max(8).optional(),
  })
  .meta({ id: "Reading" });
export type ReadingInput = z.infer<typeof ReadingSchema>;

/** The same as it is kept: the joined logs with how each was read. */
export const StoredReading = ReadingSchema.omit({ joined: true }).extend({
  joined: z.array(z.object({ logId: Id, fileName: z.string(), ...part })).optional(),
});
export type StoredReadingView = z.infer<typeof StoredReading>;
