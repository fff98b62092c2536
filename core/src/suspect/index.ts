export type {
  Access,
  CheckKind,
  ComponentKind,
  FaultClass,
  FaultGroup,
  Intrusiveness,
  Knowledge,
  LikelihoodRow,
  LikelihoodTable,
  Relation,
  RepairKind,
  Source,
} from "../knowledge/index.ts";
export { CHECK_WAYS, checkKnowledge, FAULT_GROUPS, INTRUSIVENESS, OPTION_KINDS } from "../knowledge/index.ts";
export { Belief } from "./belief.ts";
export { believe, unexplainedBy } from "./believe.ts";
export { collectEvidence, drivesByRepairs, fromLogs, levelKnown, mileageEvidence, SURENESS } from "./collect.ts";
export type { AnalysedLog, Evidence } from "./evidence.ts";
export { stillHolding } from "./evidence.ts";
export { fromLog } from "./from-log.ts";
export type { Check, CustomFault, Fault, Repair, Subject } from "./instances.ts";
export {
  componentsOf,
  doneAgain,
  generateChecks,
  generateFaults,
  generateRepairs,
  relationHolds,
  subjectName,
} from "./instances.ts";
export type { Judgement, OrderCosts } from "./judge.ts";
export { compareOrders, judge } from "./judge.ts";
export { MODEL_VERSION, NOTHING_ID, SuspectModel, UNKNOWN_ID } from "./model.ts";
export type { Advice, CheckBranch, NextCheck, Option } from "./next.ts";
export { Planner, turnOrder } from "./next.ts";
export { optimalCost, plannedMove, policyCost } from "./optimum.ts";
export type { Order } from "./orders.ts";
export { nextMove, ORDERS, sampledCost } from "./orders.ts";
export type { Explanation, Leverage, Ranking, Suspect, Weight } from "./rank.ts";
export { rankSuspects } from "./rank.ts";
export type { Chosen } from "./record.ts";
export { checkEntry, chosenOption, decisionEntry } from "./record.ts";
export type { FaultSet } from "./sets.ts";
export type { EvidenceProblem } from "./sift.ts";
export { siftEvidence } from "./sift.ts";
export type { Money, Opened } from "./space.ts";
export { checkEffort, cureOf, openedBy, PlanSpace, repairCost } from "./space.ts";
export type { Standing } from "./standing.ts";
export { checksDone, FRESH, standingOf } from "./standing.ts";
export { usualTimes } from "./timing.ts";
