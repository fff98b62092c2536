import { writeFileSync } from "node:fs";
import { type CaseSet, evaluate, evaluateJobs, evaluationPage, jobsPage, smallModels } from "@gearsense/evaluation";
import { libraryKnowledge } from "./knowledge.ts";
import { libraryUnits } from "./units.ts";

const PAGE = new URL("../../docs/evaluation.md", import.meta.url);
const JOBS_PAGE = new URL("../../docs/evaluation-jobs.md", import.meta.url);
const SMALL_MODELS = 48;

export type EvaluatedPart = "logs" | "jobs";

/**
 * Scores the analysis on simulated drives, or the judgement on vehicles from the complaint to the cure, and prints the
 * page. The pages of the held-out cases are kept in docs/.
 * @param tell - progress, for the error stream
 */
export async function evaluateCases(
  options: { readonly cases: number; readonly seed: number; readonly set: CaseSet },
  parts: readonly EvaluatedPart[],
  tell: (line: string) => void,
): Promise<string> {
  const units = libraryUnits();
  const progress = (what: string) => (done: number, of: number) => {
    if (done % 20 === 0 || done === of) tell(`${done} of ${of} ${what}`);
  };
  const pages: string[] = [];
  if (parts.includes("logs")) {
    const page = evaluationPage(
      await evaluate({ ...options, units, onProgress: progress("drives") }),
      options.set,
      options.seed,
    );
    if (options.set === "held-out") writeFileSync(PAGE, page);
    pages.push(page);
  }
  if (parts.includes("jobs")) {
    const knowledge = libraryKnowledge();
    const scores = await evaluateJobs({ ...options, units, knowledge, onProgress: progress("vehicles") });
    const small = smallModels(units, knowledge, SMALL_MODELS, options.seed);
    const page = jobsPage(scores, small, options.set, options.seed);
    if (options.set === "held-out") writeFileSync(JOBS_PAGE, page);
    pages.push(page);
  }
  return pages.join("\n");
}
