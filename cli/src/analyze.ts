import { readFileSync } from "node:fs";
import { BusFile } from "@gearsense/contract";
import { type Analysis, analyseDrive } from "@gearsense/core/drive";
import {
  type BusDefinition,
  buildRecording,
  checkDefinition,
  type ImportReport,
  openLog,
  proposeMapping,
  type ReadingChoice,
} from "@gearsense/core/log";
import { conditionsText, limitText, measuresText } from "@gearsense/core/report";
import { libraryUnits, unitFor } from "./units.ts";
import { UsageError } from "./usage-error.ts";

export interface AnalyzeOutput {
  readonly format: "gearsense-analyze";
  readonly version: 1;
  readonly file: string;
  readonly mapping: readonly {
    readonly header: string;
    readonly channel: string | null;
    readonly unit: string | null;
    readonly confidence: number;
  }[];
  readonly importReport: ImportReport;
  readonly analysis: Analysis;
}

/** The same analysis as the application's, from a file. @throws UsageError, InputError */
export function analyzeFile(path: string, unitName: string, choice: ReadingChoice = {}): AnalyzeOutput {
  const unit = unitFor(unitName);
  let bytes: Uint8Array;
  try {
    bytes = readFileSync(path);
  } catch {
    throw new UsageError(`${path} cannot be read. Check the path.`);
  }
  const { table } = openLog(bytes, choice);
  const mapping = proposeMapping(table, unit);
  const recording = buildRecording(table, mapping);
  return {
    format: "gearsense-analyze",
    version: 1,
    file: path,
    mapping: mapping.map(({ header, channel, unit: u, confidence }) => ({ header, channel, unit: u, confidence })),
    importReport: recording.report,
    analysis: analyseDrive(recording, unit, libraryUnits()),
  };
}

/** A channel definition from its file. @throws UsageError with the place that is wrong */
export function readBus(path: string): BusDefinition {
  let json: unknown;
  try {
    json = JSON.parse(readFileSync(path, "utf8"));
  } catch (error) {
    throw new UsageError(
      `${path} isn’t a readable channel definition: ${error instanceof Error ? error.message : error}`,
    );
  }
  const parsed = BusFile.safeParse(json);
  const issue = parsed.error?.issues[0];
  if (!parsed.data) throw new UsageError(`${path}: ${issue?.path.join(".")}: ${issue?.message}`);
  const [wrong] = checkDefinition(parsed.data);
  if (wrong) throw new UsageError(`${path}: ${wrong.path}: ${wrong.reason}`);
  return parsed.data;
}

/** The result as lines for a person. */
export function describe(output: AnalyzeOutput): string {
  const { analysis, importReport: report } = output;
  const lines = [
    `${output.file}: ${report.rows} rows, ${report.durationS.toFixed(0)} s at ${report.rateHz.toFixed(0)} Hz; ${report.rejectCount} rejected, ${report.gaps.length} gaps`,
    `${analysis.shifts.length} shifts; gears driven: ${analysis.held.gears.map((g) => g.gear).join(", ")}`,
  ];
  if (analysis.findings.length === 0) lines.push("No finding over a limit.");
  for (const f of analysis.findings) {
    lines.push(`- ${f.title} [${f.severity}, ${f.confidence.level}]`);
    lines.push(`    ${measuresText(f, "metric")}; limit ${limitText(f, "metric")}`);
    lines.push(
      `    ${conditionsText(f, "metric")}; ${f.startS.toFixed(1)}–${f.endS.toFixed(1)} s, ${f.occurrences.length} times`,
    );
  }
  for (const note of analysis.notes) lines.push(`Note: ${note}`);
  return lines.join("\n");
}
