export { AnalysisFile, Finding, ImportReportSchema } from "./analysis-file.ts";
export type { ApiName, BodyOf, ResponseOf } from "./api.ts";
export { API } from "./api.ts";
export { BackupManifest, type BackupManifestData } from "./backup-file.ts";
export { type BenchView, BuildFile, InstrumentFile, type InstrumentsView } from "./bench.ts";
export { type CopiesView, CopyRule, type CopyRuleData, type CopyView } from "./copies.ts";
export { ComputedBodies, EntrySchema, SymptomSchema, TypedBodies } from "./entries.ts";
export { EvidenceInput, type EvidenceInputFile } from "./evidence-file.ts";
export type { FiguresView, OwnJobsView, PartsView } from "./figures.ts";
export type { JobFileData } from "./job-file.ts";
export { JobFile } from "./job-file.ts";
export { parseKnowledge } from "./knowledge-file.ts";
export { LabelsFile } from "./labels-file.ts";
export type { NewEntryInput } from "./new-entry.ts";
export { NewEntry } from "./new-entry.ts";
export { jsonSchemaOf, openApiDocument, publishedSchema } from "./openapi.ts";
export type { OwnPricesView, PricesSaveInput, PricesView } from "./prices.ts";
export { MishapsFile, type PlanOfJob, PlanView, ProcedureFile, Ways, type WaysView } from "./procedure-file.ts";
export type { ReadingInput, StoredReadingView } from "./reading-file.ts";
export { BusFile, ColumnMappingSchema, ImportProfileFile, ReadingSchema, StoredReading } from "./reading-file.ts";
export type { LinkFileData, LinkView, RecordingStartInput, RecordingView } from "./recording.ts";
export { LinkFile } from "./recording.ts";
export type { LearnedView, RelearnRunView, RelearnStartInput } from "./relearn.ts";
export type { RouteSpec } from "./route.ts";
export type {
  OwnPasswordInput,
  PersonAddInput,
  PersonChangeInput,
  PersonView,
  ShopSaveInput,
  ShopView,
} from "./shop.ts";
export { TrainParts, UnitFile, WrittenUnitFile } from "./unit-file.ts";
export type {
  CatalogueView,
  JobPageView,
  JobSummaryView,
  JobView,
  KnownVehicleView,
  LogAnalysisView,
  NewJobInput,
  ProofView,
  Role,
  SampleView,
  SessionView,
  SuspectsView,
  VehiclesQueryView,
  WorkView,
} from "./views.ts";
export {
  ApiError,
  CalendarInput,
  Catalogue,
  Credentials,
  Job,
  JobPage,
  JobSummary,
  JobsQuery,
  KnownVehicle,
  LogAnalysis,
  NewJob,
  PAGE,
  Proof,
  ROLES,
  Samples,
  Session,
  Suspects,
  System,
  UnitSave,
  Vehicle,
  VehiclesQuery,
} from "./views.ts";
export { Setup, SetupSave, Week, type WeekView } from "./week.ts";
