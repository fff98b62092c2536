export { type Against, estimateAgainst, withBench, withExtras } from "./against.ts";
export type { Agreed } from "./agreed.ts";
export { agreedPrice, decidedOption } from "./agreed.ts";
export { type ApprovalNow, approvalNow } from "./approval.ts";
export {
  type BuildFileShape,
  type BuildInput,
  buildFile,
  buildRecord,
  drawingOf,
  type EarlierBuild,
  fitMeasured,
  openMeasures,
  placeSays,
  readText,
} from "./build-record.ts";
export { buildEstimate, type EstimateInput } from "./estimate.ts";
export { feltOf } from "./felt.ts";
export { type JobCardInput, jobCard, type PartLine, partsList } from "./job-card.ts";
export type { BeforeAfterBar, Report, ReportInput, ReportSection, ReportTable } from "./report.ts";
export { beforeAfterBars, buildReport, conditionsText, limitText, measuresText, REPORT_PHOTOS } from "./report.ts";
