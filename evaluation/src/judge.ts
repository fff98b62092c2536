import { type Analysis, analyseDrive } from "@gearsense/core/drive";
import {
  type BusDefinition,
  buildRecording,
  channelSpec,
  InputError,
  type MappingGuess,
  openLog,
  proposeMapping,
  type Table,
} from "@gearsense/core/log";
import type { Unit } from "@gearsense/core/unit";
import { captureDefinition, DIALECTS, exportLog, simulateDrive } from "@gearsense/simulator";
import type { EvaluationCase } from "./cases.ts";
import { type CaseScore, refusedScore, scoreCase } from "./score.ts";

/** The judge's side: bytes of a file and the unit, nothing else. */
function analyse(
  bytes: Uint8Array,
  definition: BusDefinition | undefined,
  unit: Unit,
  library: readonly Unit[],
  settle: (g: MappingGuess[], t: Table) => MappingGuess[],
) {
  const { table } = openLog(bytes, { definition });
  const guesses = proposeMapping(table, unit);
  const mapping = settle(guesses, table);
  const analysis: Analysis = analyseDrive(buildRecording(table, mapping), unit, library);
  return { table, guesses, analysis };
}

/** Simulates a case, writes its file, has it analysed without the truth, and compares. */
export function judgeCase(spec: EvaluationCase, unit: Unit, library: readonly Unit[]): CaseScore {
  const { columns, truth } = simulateDrive({
    unit,
    seed: spec.seed,
    durationS: spec.durationS,
    profile: spec.profile,
    rateHz: spec.rateHz,
    faults: spec.fault ? [spec.fault] : [],
  });
  const style = DIALECTS[spec.dialect];
  const bytes = exportLog(columns, style);
  const definition = style.layout === "capture" ? captureDefinition(columns) : undefined;
  const ids = definition ? ["time_s", ...definition.channels.map((c) => c.channel)] : [...columns.keys()];
  const expected = (column: number) => ids[column];
  // names that say nothing are set by hand by the person who knows the tool; the guess is scored all the same
  const settle = (guesses: MappingGuess[]): MappingGuess[] =>
    style.headers === "strange" ? guesses.map((g) => ({ ...g, channel: expected(g.column) ?? null })) : guesses;
  try {
    const { guesses, analysis } = analyse(bytes, definition, unit, library, settle);
    const wrong: string[] = [];
    let right = 0;
    for (const g of guesses) {
      const id = expected(g.column);
      if (g.channel === id) right++;
      else
        wrong.push(
          `"${g.header}" is ${id}, guessed ${g.channel ? (channelSpec(g.channel)?.label ?? g.channel) : "nothing"}`,
        );
    }
    const named = style.headers !== "strange";
    return scoreCase(spec, unit, analysis, truth, columns, {
      right: named ? right : 0,
      all: named ? guesses.length : 0,
      wrong: named ? wrong : [],
    });
  } catch (error) {
    if (error instanceof InputError) return refusedScore(spec, error.message);
    throw error;
  }
}
