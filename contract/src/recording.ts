import type { LiveState } from "@gearsense/core/drive";
import { z } from "zod";
import { Filled, Id, LogRole, Text } from "./quantities.ts";
import { coreShape } from "./views.ts";

const Channel = z.string().regex(/^[a-z][A-Za-z0-9_]{0,59}$/, "a channel such as turbine_rpm");

const MarkId = z.string().regex(/^[\w-]{8,80}$/, "8 to 80 letters, digits, - and _");

/** Which identifier holds which channel. */
export const LinkFile = z
  .object({
    format: z.literal("gearsense-link"),
    version: z.literal(1),
    name: Filled(120, "The name"),
    channels: z
      .array(
        z.object({
          channel: Channel,
          ecu: z.enum(["engine", "transmission"]),
          did: z.string().max(10),
          bytes: z.union([z.literal(1), z.literal(2), z.literal(4)]),
          signed: z.boolean().optional(),
          scale: z.number(),
          offset: z.number(),
          unit: z.string().max(16).optional(),
          invalid: z.number().optional(),
        }),
      )
      .max(200),
  })
  .meta({ id: "LinkFile" });

export type LinkFileData = z.infer<typeof LinkFile>;
export const LinkDefinitions = z.object({ definitions: z.array(LinkFile) }).meta({ id: "LinkDefinitions" });

export const LinkAt = z.object({
  host: z.string().regex(/^[\w.:-]{1,80}$/, "a name or an address"),
  port: z.coerce.number("a port is a number").int().min(1).max(65_535),
});

/** Who is at the other end of a link. */
export const Link = z
  .object({
    /** only to the simulated vehicle anything is sent that changes something */
    simulated: z.boolean(),
    vin: z.string().nullable(),
    /** number of the job's vehicle when another is on the line */
    otherVehicle: z.string().nullable(),
    codes: z.array(z.object({ code: z.string(), module: z.string(), status: z.number() })),
    channels: z.array(z.string()),
    /** how long an answer with values takes, ms; 0: none came */
    answerMs: z.number(),
  })
  .meta({ id: "Link" });
export type LinkView = z.infer<typeof Link>;

export const RecordingStart = LinkAt.extend({
  channels: z.array(Channel).min(1, "choose at least one channel").max(60),
  role: LogRole,
  /** somebody has said that the vehicle on the line is the right one */
  otherVehicle: z.boolean().default(false),
  definition: LinkFile.optional(),
}).meta({ id: "RecordingStart" });

export type RecordingStartInput = z.infer<typeof RecordingStart>;

export const RecordingMark = z
  .object({
    /** of the mark, chosen by whoever sets it: sent twice it is one mark, and a name later is the same mark */
    id: MarkId,
    name: Text(60),
    /** how long ago it was felt: the network may have been cut meanwhile */
    agoS: z
      .number()
      .min(0)
      .max(8 * 3600)
      .default(0),
  })
  .meta({ id: "RecordingMark" });
export const RecordingEnd = z.object({ wanted: z.enum(["keep", "drop"]) }).meta({ id: "RecordingEnd" });

export const Recording = z
  .object({
    id: Id,
    role: LogRole,
    author: z.string(),
    channels: z.array(z.string()),
    startedAt: z.string(),
    seconds: z.number(),
    rows: z.int(),
    live: z.object({
      timeS: z.number(),
      /** readings a second of each channel */
      rateHz: z.number(),
      missed: z.int(),
      lastMiss: z.string().nullable(),
      /** how often the clock of the link was set meanwhile */
      clockJumps: z.int(),
      values: z.record(z.string(), z.number()),
      /** why the link is gone; null: it is there */
      gone: z.string().nullable(),
      /** what was driven so far; null: nothing yet */
      drive: coreShape<LiveState>("LiveState").nullable(),
    }),
    marks: z.array(z.object({ id: MarkId, timeS: z.number(), name: z.string() })),
    /** cut: whoever recorded it is gone */
    state: z.enum(["open", "cut", "kept", "dropped"]),
    logId: z.string().nullable(),
  })
  .meta({ id: "Recording" });
export type RecordingView = z.infer<typeof Recording>;

export const RecordingOfJob = z.object({ recording: Recording.nullable() }).meta({ id: "RecordingOfJob" });
export const RecordingNow = z.object({ recording: Recording }).meta({ id: "RecordingNow" });
