export type { CaseSet, EvaluationCase } from "./cases.ts";
export { drawCase } from "./cases.ts";
export { judgeCase } from "./judge.ts";
export { evaluationPage } from "./page.ts";
export { evaluate } from "./run.ts";
export type { CaseScore } from "./score.ts";
export { summarise } from "./summary.ts";
