import type { DebrisKnowledge, Rung } from "@gearsense/core/observe";
import type { Report } from "@gearsense/core/report";
import type { Knowledge, OrderCosts } from "@gearsense/core/suspect";
import { z } from "zod";
import { Bench, BuildFile, Instruments, InstrumentsSave } from "./bench.ts";
import { TypedBodies } from "./entries.ts";
import { LINK_API } from "./link-api.ts";
import { NewEntry } from "./new-entry.ts";
import { PlanView, Ways } from "./procedure-file.ts";
import { Id, LogRole, Span } from "./quantities.ts";
import { ImportProfileFile, ReadingSchema } from "./reading-file.ts";
import { route } from "./route.ts";
import { ROUTES } from "./routes.ts";
import { SHOP_API } from "./shop-api.ts";
import { UnitFile } from "./unit-file.ts";

import {
  CalendarInput,
  Catalogue,
  Credentials,
  coreShape,
  Job,
  JobPage,
  JobsQuery,
  KnownVehicle,
  LogAnalysis,
  NewJob,
  Proof,
  Samples,
  Session,
  Suspects,
  System,
  UnitSave,
  VehiclesQuery,
  Work,
} from "./views.ts";
import { SetupSave, Week } from "./week.ts";

/** The HTTP API, described once: the server mounts it, the interface calls it, the OpenAPI document is made from it. */
export const API = {
  health: route({
    ...ROUTES.health,
    summary: "Is the server up",
    role: undefined,
    response: z.object({ ok: z.boolean() }).meta({ id: "Health" }),
  }),
  signIn: route({
    ...ROUTES.signIn,
    summary: "Sign in",
    role: undefined,
    body: Credentials,
    response: Session,
  }),
  session: route({
    ...ROUTES.session,
    summary: "Who is signed in",
    role: "viewer",
    response: Session,
  }),
  signOut: route({
    ...ROUTES.signOut,
    summary: "Sign out",
    role: "viewer",
    response: "none",
  }),
  jobs: route({
    ...ROUTES.jobs,
    summary: "Jobs of the shop, newest first, page by page; `find` looks through all of them",
    role: "viewer",
    query: JobsQuery,
    response: JobPage,
  }),
  openJob: route({
    ...ROUTES.openJob,
    summary: "Open a job",
    role: "technician",
    body: NewJob,
    response: Job,
  }),
  job: route({
    ...ROUTES.job,
    summary: "A job with its timeline",
    role: "viewer",
    response: Job,
  }),
  addEntry: route({
    ...ROUTES.addEntry,
    summary: "Append an entry to the timeline",
    role: "technician",
    body: NewEntry,
    response: Job,
  }),
  vehicles: route({
    ...ROUTES.vehicles,
    summary: "Vehicles that have been in the shop and that what is typed may mean, with their jobs; at most twenty",
    role: "viewer",
    query: VehiclesQuery,
    response: z.array(KnownVehicle).meta({ id: "KnownVehicles" }),
  }),
  observations: route({
    ...ROUTES.observations,
    summary: "Rungs of the first look and kinds of debris, from the library",
    role: "viewer",
    response: coreShape<{ rungs: readonly Rung[]; debris: DebrisKnowledge }>("Observations"),
  }),
  uploadPhoto: route({
    ...ROUTES.uploadPhoto,
    summary: "Store a photo: resized, without what the camera wrote about place and person",
    role: "technician",
    query: z.object({
      /** chosen by the sender, so that a photo that is sent twice is stored once */
      photoId: Id,
      about: TypedBodies.photo.shape.about,
      caption: z.string().max(200).optional(),
    }),
    body: "bytes",
    response: z.object({ photoId: Id, job: Job }).meta({ id: "StoredPhoto" }),
  }),
  photo: route({
    ...ROUTES.photo,
    summary: "A stored photo (JPEG)",
    role: "viewer",
    response: "bytes",
  }),
  calendar: route({
    ...ROUTES.calendar,
    summary: "Dates as an iCalendar file",
    role: "viewer",
    body: CalendarInput,
    response: "bytes",
  }),
  samples: route({
    ...ROUTES.samples,
    summary: "Made-up logs of the job's unit to try the import with, and what is to be seen in each",
    role: "viewer",
    response: Samples,
  }),
  sample: route({
    ...ROUTES.sample,
    summary: "One of them as a scan tool would write it",
    role: "viewer",
    response: "bytes",
  }),
  uploadLog: route({
    ...ROUTES.uploadLog,
    summary: "Store a scan log unchanged",
    role: "technician",
    query: z.object({
      fileName: z.string().min(1).max(200),
      role: LogRole,
      label: z.string().max(40).optional(),
      bytes: z.coerce.number().int(),
    }),
    body: "bytes",
    response: z.object({ logId: Id, sha256: z.string(), job: Job }).meta({ id: "StoredLog" }),
  }),
  rawLog: route({
    ...ROUTES.rawLog,
    summary: "A stored log, byte for byte",
    role: "viewer",
    response: "bytes",
  }),
  work: route({
    ...ROUTES.work,
    summary: "What is being computed for a job: what waits, behind how much, and how far the rest is",
    role: "viewer",
    response: z.object({ work: z.array(Work) }).meta({ id: "WorkOfJob" }),
  }),
  analyseLog: route({
    ...ROUTES.analyseLog,
    summary: "Analyse a stored log: how it is read, which span, joined with which others",
    role: "technician",
    body: ReadingSchema,
    response: z.object({ result: LogAnalysis, job: Job }).meta({ id: "AnalysedLog" }),
  }),
  analysis: route({
    ...ROUTES.analysis,
    summary: "Findings of a log",
    role: "viewer",
    response: LogAnalysis,
  }),
  analyses: route({
    ...ROUTES.analyses,
    summary: "All analyses of a log, newest first: none is ever thrown away",
    role: "viewer",
    response: z
      .array(
        z.object({
          madeAt: z.string(),
          version: z.int(),
          spanS: Span.optional(),
          joined: z.array(z.string()),
          findings: z.array(
            z.object({
              id: z.string(),
              title: z.string(),
              severity: z.string(),
              value: z.number(),
              quantity: z.string(),
            }),
          ),
        }),
      )
      .meta({ id: "AnalysisHistory" }),
  }),
  analyseAnew: route({
    ...ROUTES.analyseAnew,
    summary: "Analyse a log once more as it was read last; the earlier result is kept",
    role: "technician",
    response: z.object({ result: LogAnalysis, job: Job }).meta({ id: "AnalysedAnew" }),
  }),
  importProfiles: route({
    ...ROUTES.importProfiles,
    summary: "How this shop reads the exports of its sources",
    role: "viewer",
    response: z.array(ImportProfileFile).meta({ id: "ImportProfiles" }),
  }),
  saveImportProfile: route({
    ...ROUTES.saveImportProfile,
    summary: "Keep a profile; one of the same name is replaced",
    role: "technician",
    body: ImportProfileFile,
    response: z.array(ImportProfileFile).meta({ id: "ImportProfilesKept" }),
  }),
  dropImportProfile: route({
    ...ROUTES.dropImportProfile,
    summary: "Forget a profile",
    role: "technician",
    response: "none",
  }),
  suspects: route({
    ...ROUTES.suspects,
    summary: "Suspects, next checks, options",
    role: "viewer",
    response: Suspects,
  }),
  orders: route({
    ...ROUTES.orders,
    summary: "What this and two other ways of working would cost from here, on the same drawn vehicles",
    role: "viewer",
    response: coreShape<OrderCosts>("OrderCosts"),
  }),
  knowledge: route({
    ...ROUTES.knowledge,
    summary:
      "The diagnostic knowledge with the shop’s own prices of a unit: what the browser needs to compare the options",
    role: "viewer",
    query: z.object({ unitId: z.string().max(60) }),
    response: coreShape<Knowledge>("Knowledge"),
  }),
  estimatePdf: route({
    ...ROUTES.estimatePdf,
    summary: "The estimate for the customer as PDF, from the decision that stands",
    role: "viewer",
    query: z.object({ system: System }),
    response: "bytes",
  }),
  catalogue: route({
    ...ROUTES.catalogue,
    summary: "Every check and repair of the job's unit",
    role: "viewer",
    response: Catalogue,
  }),
  proof: route({
    ...ROUTES.proof,
    summary: "Before against after",
    role: "viewer",
    response: Proof,
  }),
  report: route({
    ...ROUTES.report,
    summary: "The report as data",
    role: "viewer",
    query: z.object({ system: System }),
    response: coreShape<Report>("Report"),
  }),
  reportPdf: route({
    ...ROUTES.reportPdf,
    summary: "The report as PDF",
    role: "viewer",
    query: z.object({ system: System }),
    response: "bytes",
  }),
  exportJob: route({
    ...ROUTES.exportJob,
    summary: "The whole job with its raw logs (zip)",
    role: "viewer",
    response: "bytes",
  }),
  importJob: route({
    ...ROUTES.importJob,
    summary: "Import an exported job; what was left out of it is told",
    role: "owner",
    body: "bytes",
    response: z.object({ job: Job, leftOut: z.array(z.string()) }).meta({ id: "ImportedJob" }),
  }),
  units: route({
    ...ROUTES.units,
    summary: "The unit library",
    role: "viewer",
    response: z.array(UnitFile).meta({ id: "UnitFiles" }),
  }),
  saveUnit: route({
    ...ROUTES.saveUnit,
    summary: "Store the next version of a unit of the shop",
    role: "technician",
    body: UnitSave,
    response: UnitFile,
  }),
  unitVersions: route({
    ...ROUTES.unitVersions,
    summary: "Versions of a unit, newest first",
    role: "viewer",
    response: z
      .array(z.object({ version: z.int(), author: z.string(), at: z.string().nullable() }))
      .meta({ id: "UnitVersions" }),
  }),
  unitVersion: route({
    ...ROUTES.unitVersion,
    summary: "One version of a unit, as its file",
    role: "viewer",
    response: UnitFile,
  }),
  unitSchema: route({
    ...ROUTES.unitSchema,
    summary: "JSON Schema of a unit file",
    role: undefined,
    response: z.record(z.string(), z.unknown()).meta({ id: "JsonSchema" }),
  }),
  procedureSchema: route({
    ...ROUTES.procedureSchema,
    summary: "JSON Schema of a procedure",
    role: undefined,
    response: z.record(z.string(), z.unknown()).meta({ id: "ProcedureSchema" }),
  }),
  plan: route({
    ...ROUTES.plan,
    summary: "How the decided repairs are done, step by step",
    role: "viewer",
    response: PlanView,
  }),
  ways: route({
    ...ROUTES.ways,
    summary: "The ways to what was decided, compared on the same drawn jobs",
    role: "viewer",
    response: Ways,
  }),
  week: route({
    ...ROUTES.week,
    summary: "Who is where with which job from now on, and what is promised",
    role: "viewer",
    response: Week,
  }),
  saveSetup: route({
    ...ROUTES.saveSetup,
    summary: "Lifts, people, their hours, days off and pinned jobs",
    role: "technician",
    body: SetupSave,
    response: Week,
  }),
  weekCalendar: route({
    ...ROUTES.weekCalendar,
    summary: "The week as an iCalendar file",
    role: "viewer",
    response: "bytes",
  }),
  jobCard: route({
    ...ROUTES.jobCard,
    summary: "The plan of a job on paper, with room to tick",
    role: "viewer",
    query: z.object({ system: System }),
    response: "bytes",
  }),
  partsList: route({
    ...ROUTES.partsList,
    summary: "Parts, material and fluid of the plan as CSV",
    role: "viewer",
    response: "bytes",
  }),
  bench: route({
    ...ROUTES.bench,
    summary: "What the bench of a job comes to: causes with their odds, contradictions, earlier builds",
    role: "viewer",
    response: Bench,
  }),
  buildPdf: route({
    ...ROUTES.buildPdf,
    summary: "The build record as PDF, with the drawn stack-ups",
    role: "viewer",
    query: z.object({ system: System }),
    response: "bytes",
  }),
  buildFile: route({
    ...ROUTES.buildFile,
    summary: "The build as an open file",
    role: "viewer",
    response: BuildFile,
  }),
  instruments: route({
    ...ROUTES.instruments,
    summary: "How sure the shop's instruments are",
    role: "viewer",
    response: Instruments,
  }),
  saveInstruments: route({
    ...ROUTES.saveInstruments,
    summary: "Say how sure the shop's instruments are",
    role: "technician",
    body: InstrumentsSave,
    response: Instruments,
  }),
  ...LINK_API,
  ...SHOP_API,
  cautions: route({
    ...ROUTES.cautions,
    summary: "Standing cautions",
    role: "viewer",
    response: z
      .object({ standing: z.string(), cautions: z.record(z.string(), z.string()), holds: z.array(z.string()) })
      .meta({ id: "Cautions" }),
  }),
  openapi: route({
    ...ROUTES.openapi,
    summary: "This description",
    role: undefined,
    response: z.any().meta({ id: "OpenApi" }),
  }),
} as const;

export type ApiName = keyof typeof API;
export type ResponseOf<N extends ApiName> = (typeof API)[N]["response"] extends z.ZodType<infer T> ? T : undefined;
export type BodyOf<N extends ApiName> = (typeof API)[N] extends { body: z.ZodType<infer T> } ? T : undefined;
