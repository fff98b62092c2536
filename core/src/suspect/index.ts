export type {
  CheckKind,
  ComponentKind,
  FaultClass,
  Intrusiveness,
  Knowledge,
  LikelihoodRow,
  LikelihoodTable,
  Relation,
  RepairKind,
} from "../knowledge/index.ts";
export { checkKnowledge, INTRUSIVENESS } from "../knowledge/index.ts";
export type { AnalysedLog, Evidence } from "./evidence.ts";
export { checksDone, collectEvidence, levelKnown } from "./evidence.ts";
export type { Check, Fault, Repair, Subject } from "./instances.ts";
export { componentsOf, generateChecks, generateFaults, generateRepairs, relationHolds } from "./instances.ts";
export type { Advice, CheckBranch, Money, NextCheck, Option } from "./next.ts";
export { Planner } from "./next.ts";
export type { Ranking, Suspect, Weight } from "./rank.ts";
export { MODEL_VERSION, rankSuspects, SuspectModel, UNKNOWN_ID } from "./rank.ts";
export { checkEntry, decisionEntry } from "./record.ts";
