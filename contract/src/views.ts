import type { FeltProof, FindingComparison } from "@gearsense/core/drive";
import type {
  Advice,
  Check,
  Evidence,
  EvidenceProblem,
  NamedFactor,
  ProposedChannel,
  Ranking,
  Repair,
} from "@gearsense/core/suspect";
import type { ChartReading, GearOutcome, StuckExplanation } from "@gearsense/core/unit";
import type { CircuitPicture } from "@gearsense/core/wiring";
import { z } from "zod";
import { AnalysisFile, Finding, ImportReportSchema } from "./analysis-file.ts";
import { EntrySchema, IntakeSchema } from "./entries.ts";
import { Day, Filled, Id, Text } from "./quantities.ts";
import { StoredReading } from "./reading-file.ts";
import { UnitFile, WrittenUnitFile } from "./unit-file.ts";

/** Shapes that core owns and that are only read here; documented by name. */
export const coreShape = <T>(id: string) =>
  z.custom<T>((v) => v !== undefined).meta({ id, description: `The ${id} structure of core.` });

/** How the shop's own jobs move the odds, class by class. */
export const OwnFactors = coreShape<NamedFactor[]>("OwnFactors");

export const ROLES = ["viewer", "technician", "owner"] as const;
export type Role = (typeof ROLES)[number];

export const Session = z
  .object({
    account: z.object({ id: Id, name: z.string(), signIn: z.string(), role: z.enum(ROLES) }),
    shop: z.object({
      name: z.string(),
      currency: z.string(),
      hourlyRate: z.number(),
      taxPercent: z.number(),
      terms: z.string(),
    }),
  })
  .meta({ id: "Session" });
export type SessionView = z.infer<typeof Session>;

export const Credentials = z
  .object({ signIn: Filled(120, "The sign-in name"), password: z.string().min(1, "The password is needed").max(200) })
  .meta({ id: "Credentials" });

export const Vehicle = z
  .object({ id: Id, name: z.string(), plate: z.string(), owner: z.string(), vin: z.string().default("") })
  .meta({ id: "Vehicle" });

/** A vehicle that has been in the shop, with its jobs, newest first. */
export const KnownVehicle = Vehicle.extend({
  unitId: z.string(),
  odometerKm: z.number(),
  jobs: z.array(z.object({ id: Id, number: z.string(), openedAt: z.string(), complaint: z.string() })),
}).meta({ id: "KnownVehicle" });
export type KnownVehicleView = z.infer<typeof KnownVehicle>;

/** Dates for another program's calendar. */
export const CalendarInput = z
  .object({
    title: Filled(120, "The title"),
    events: z
      .array(z.object({ what: Filled(200, "What is due"), dueOn: Day, note: Text(600) }))
      .min(1, "There is nothing with a date.")
      .max(30),
  })
  .meta({ id: "Calendar" });

export const JobSummary = z
  .object({
    id: Id,
    number: z.string(),
    vehicle: Vehicle,
    unitId: z.string(),
    unitName: z.string(),
    odometerKm: z.number(),
    openedAt: z.string(),
    stage: z.enum(["intake", "first-look", "scan", "suspects", "decide", "work", "proof", "handover", "closed"]),
    waitsFor: z.string(),
    complaint: z.string(),
    /** what was decided and which parts were fitted: what a search finds it by */
    done: z.string(),
    /** who has it in hand; empty: nobody */
    assignedTo: z.string(),
    lastEntryAt: z.string(),
  })
  .meta({ id: "JobSummary" });
export type JobSummaryView = z.infer<typeof JobSummary>;

const EarlierWorkSchema = z.object({
  jobId: Id,
  number: z.string(),
  openedAt: z.string(),
  odometerKm: z.number(),
  repairId: z.string(),
  title: z.string(),
  parts: z.array(z.string()),
  proof: z.string(),
});

/** Jobs of a list: at most so many at once. */
export const PAGE = 50;
const Stage = JobSummary.shape.stage;
export const JobsQuery = z.object({
  /** `open`: all that are not handed over */
  which: z.enum(["all", "open", "closed"]).default("all"),
  /** words that all have to be found: number, vehicle, plate, owner, unit, complaint, what was done and fitted */
  find: z.string().trim().max(120).default(""),
  limit: z.coerce.number().int().min(1).max(PAGE).default(PAGE),
  /** only the jobs that this person has in hand */
  assignedTo: z.string().trim().max(80).optional(),
  /** number of the last job of the page before */
  after: z
    .string()
    .regex(/^\d{1,9}$/, "the number of a job")
    .optional(),
});
export const JobPage = z
  .object({
    jobs: z.array(JobSummary),
    /** ask for what comes after it; null on the last page */
    next: z.string().nullable(),
    /** open and closed jobs of the shop, whatever is found */
    byStage: z.partialRecord(Stage, z.int()),
  })
  .meta({ id: "JobPage" });
export type JobPageView = z.infer<typeof JobPage>;
/** What is typed of a vehicle that may have been here before; without any, the newest. */
export const VehiclesQuery = z.object({
  name: z.string().trim().max(120).default(""),
  plate: z.string().trim().max(20).default(""),
  owner: z.string().trim().max(120).default(""),
  vin: z.string().trim().max(24).default(""),
});
export type VehiclesQueryView = z.infer<typeof VehiclesQuery>;

export const Job = JobSummary.extend({
  entries: z.array(EntrySchema),
  unit: UnitFile,
  /** work on the same vehicle in jobs before this one, newest first */
  earlier: z.array(EarlierWorkSchema),
}).meta({ id: "Job" });
export type JobView = z.infer<typeof Job>;

export const UnitSave = z.object({ unit: WrittenUnitFile, baseVersion: z.int().min(0) }).meta({ id: "UnitSave" });

export const NewJob = z
  .object({
    vehicle: z.object({
      name: Filled(120, "The vehicle"),
      plate: Text(20),
      owner: Filled(120, "The owner"),
      /** as typed; form and check digit are judged where it is typed, and a wrong digit does not stop a job */
      vin: Text(24).default(""),
    }),
    unitId: Filled(60, "The unit"),
    odometerKm: z
      .number("the mileage is a number")
      .min(0, "the mileage cannot be negative")
      .max(3_000_000, "over 3 000 000 km is not plausible"),
    intake: IntakeSchema,
  })
  .meta({ id: "NewJob" });
export type NewJobInput = z.infer<typeof NewJob>;

/** A made-up log to try the import with. */
const Sample = z
  .object({
    id: z.string(),
    fileName: z.string(),
    /** how the file is written */
    written: z.string(),
    /** what is wrong with the vehicle, and what is to be seen */
    shows: z.string(),
  })
  .meta({ id: "Sample" });
export const Samples = z.array(Sample).meta({ id: "Samples" });
export type SampleView = z.infer<typeof Sample>;

export const LogAnalysis = z
  .object({
    logId: Id,
    reading: StoredReading,
    report: ImportReportSchema,
    analysis: AnalysisFile,
  })
  .meta({ id: "LogAnalysis" });
export type LogAnalysisView = z.infer<typeof LogAnalysis>;

/** A piece of work that is asked for and not done yet. */
export const Work = z
  .object({
    id: Id,
    kind: z.enum(["analysis", "paper", "export"]),
    logId: Id.nullable(),
    state: z.enum(["waiting", "running"]),
    /** of its kind, before it; while it waits */
    ahead: z.int().optional(),
    /** what is being done, in words; null when nobody told; while it runs */
    stage: z.string().nullable().optional(),
  })
  .meta({ id: "Work" });
export type WorkView = z.infer<typeof Work>;

export const Suspects = z
  .object({
    ranking: coreShape<Ranking>("Ranking"),
    /** odds before the last entry that moved them, by fault id */
    previous: z.record(z.string(), z.number()),
    movedBy: z.object({ entryId: z.string(), label: z.string() }).nullable(),
    /** how the shop's own proved jobs move the odds; null: they do not */
    own: z.object({ jobs: z.int(), factors: OwnFactors }).nullable(),
    advice: coreShape<Advice>("Advice"),
    /** what is best recorded on the next drive */
    channels: coreShape<readonly ProposedChannel[]>("ProposedChannels"),
    /** that was counted */
    evidence: coreShape<Evidence[]>("Evidence"),
    /** that could not be counted, and why */
    problems: coreShape<EvidenceProblem[]>("EvidenceProblems"),
    /** elimination in the wiring; null while nothing is dead */
    circuit: coreShape<CircuitPicture | null>("CircuitPicture"),
    chart: z.object({
      outcomes: coreShape<Record<string, GearOutcome>>("GearOutcomes"),
      reading: coreShape<ChartReading>("ChartReading"),
      /** single things that stick and explain that other gears were obtained than commanded */
      stuck: coreShape<StuckExplanation[]>("StuckExplanations"),
    }),
    levelKnown: z.boolean(),
  })
  .meta({ id: "Suspects" });
export type SuspectsView = z.infer<typeof Suspects>;

export const Catalogue = z
  .object({ checks: coreShape<Check[]>("Checks"), repairs: coreShape<Repair[]>("Repairs") })
  .meta({ id: "Catalogue" });
export type CatalogueView = z.infer<typeof Catalogue>;

export const Proof = z
  .object({
    /** the drives that are pooled, oldest first */
    before: z.array(z.object({ logId: Id, fileName: z.string() })),
    after: z.array(z.object({ logId: Id, fileName: z.string() })),
    comparison: z
      .object({
        findings: coreShape<FindingComparison[]>("FindingComparison"),
        fresh: z.array(Finding),
        /** conditions of the complaint that the drives after did not meet */
        complaintNotDriven: z.array(z.string()),
        sentence: z.string(),
      })
      .nullable(),
    /** after a change of fluid or an additive: how long hot was driven, of what it takes; null: nothing such was done */
    hotDriving: z.object({ neededS: z.number(), drivenS: z.number() }).nullable(),
    /** complaint by complaint, by the road test that was typed; all "not exercised" while there is none */
    felt: coreShape<FeltProof[]>("FeltProofs"),
    feltSentence: z.string(),
  })
  .meta({ id: "Proof" });
export type ProofView = z.infer<typeof Proof>;

export const ApiError = z
  .object({
    error: z.object({
      code: z.string(),
      message: z.string(),
      /** finds the case in the server's log */
      id: z.string().optional(),
      fields: z.record(z.string(), z.string()).optional(),
      current: EntrySchema.optional(),
    }),
  })
  .meta({ id: "ApiError" });

export const System = z.enum(["metric", "imperial"]);
