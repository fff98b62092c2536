import { writeFileSync } from "node:fs";
import { type CaseSet, evaluate, evaluationPage } from "@gearsense/evaluation";
import { libraryUnits } from "./units.ts";

const PAGE = new URL("../../docs/evaluation.md", import.meta.url);

/**
 * Scores the analysis on simulated drives and prints the page. The page of the held-out cases is kept in docs/.
 * @param tell - progress, for the error stream
 */
export async function evaluateCases(
  options: { readonly cases: number; readonly seed: number; readonly set: CaseSet },
  tell: (line: string) => void,
): Promise<string> {
  const scores = await evaluate({
    ...options,
    units: libraryUnits(),
    onProgress: (done, of) => {
      if (done % 20 === 0 || done === of) tell(`${done} of ${of} cases`);
    },
  });
  const page = evaluationPage(scores, options.set, options.seed);
  if (options.set === "held-out") writeFileSync(PAGE, page);
  return page;
}
