import { z } from "zod";
import {
  Link,
  LinkAt,
  LinkDefinitions,
  LinkFile,
  RecordingEnd,
  RecordingMark,
  RecordingNow,
  RecordingOfJob,
  RecordingStart,
} from "./recording.ts";
import { Learned, RelearnNow, RelearnOfJob, RelearnStart } from "./relearn.ts";
import { route } from "./route.ts";
import { ROUTES } from "./routes.ts";

/** Routes of the link to a vehicle: who is there, drives that are recorded, relearns. */
export const LINK_API = {
  link: route({
    ...ROUTES.link,
    summary: "Who is at the other end of a link: number, codes, what can be recorded; only reads",
    role: "technician",
    query: LinkAt,
    response: Link,
  }),
  linkDefinitions: route({
    ...ROUTES.linkDefinitions,
    summary: "The shop’s own definitions of which identifier holds which channel",
    role: "viewer",
    response: LinkDefinitions,
  }),
  saveLinkDefinition: route({
    ...ROUTES.saveLinkDefinition,
    summary: "Keep a link definition; one of the same name is replaced",
    role: "technician",
    body: LinkFile,
    response: LinkDefinitions,
  }),
  dropLinkDefinition: route({
    ...ROUTES.dropLinkDefinition,
    summary: "Forget a link definition",
    role: "technician",
    response: LinkDefinitions,
  }),
  recording: route({
    ...ROUTES.recording,
    summary: "The newest recording of a job, as it is now",
    role: "viewer",
    response: RecordingOfJob,
  }),
  startRecording: route({
    ...ROUTES.startRecording,
    summary: "Record a drive from a link",
    role: "technician",
    body: RecordingStart,
    response: RecordingNow,
  }),
  markRecording: route({
    ...ROUTES.markRecording,
    summary: "Mark where something was felt, or name a mark",
    role: "technician",
    body: RecordingMark,
    response: RecordingNow,
  }),
  endRecording: route({
    ...ROUTES.endRecording,
    summary: "End a recording and keep it as a log of the job, or drop it",
    role: "technician",
    body: RecordingEnd,
    response: RecordingNow,
  }),
  learned: route({
    ...ROUTES.learned,
    summary: "Learned values of the vehicle over all its visits, and how far its newest build is run in",
    role: "viewer",
    response: Learned,
  }),
  relearn: route({
    ...ROUTES.relearn,
    summary: "The newest relearn at a link of a job, as it is now",
    role: "viewer",
    response: RelearnOfJob,
  }),
  startRelearn: route({
    ...ROUTES.startRelearn,
    summary: "Take a link for a relearn: the values are read and stored, the conditions watched; nothing is begun yet",
    role: "technician",
    body: RelearnStart,
    response: RelearnNow,
  }),
  beginRelearn: route({
    ...ROUTES.beginRelearn,
    summary: "Begin the relearn, once every condition holds; only with the simulated vehicle",
    role: "technician",
    body: z.object({}).meta({ id: "RelearnBegin" }),
    response: RelearnNow,
  }),
  endRelearn: route({
    ...ROUTES.endRelearn,
    summary: "End a relearn before its end, or let go of the link",
    role: "technician",
    body: z.object({}).meta({ id: "RelearnEnd" }),
    response: RelearnNow,
  }),
} as const;
