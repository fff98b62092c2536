export type { JudgedCondition } from "./conditions.ts";
export { codeOfWord, judgeCondition, judgeConditions } from "./conditions.ts";
export type { RelearnAdvice, RelearnKnown } from "./due.ts";
export { relearnAfter, SHIFTS_ENOUGH } from "./due.ts";
export type { LearnedGauge, LearnedReading } from "./learned.ts";
export { learnedGauges, learnedUsed } from "./learned.ts";
export type { RelearnEnd, RelearnEvent, RelearnState, RoutineTold } from "./run.ts";
export { advanceRelearn, beginRelearn, wantedOf } from "./run.ts";
export { driveMissing } from "./windows.ts";
