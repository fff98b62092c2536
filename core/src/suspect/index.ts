export type { AnalysedLog } from "../drive/index.ts";
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
export { CHECK_WAYS, checkKnowledge, FAULT_GROUPS, INTRUSIVENESS, OPTION_KINDS, WINDOWS } from "../knowledge/index.ts";
export { Belief } from "./belief/belief.ts";
export { believe, unexplainedBy } from "./belief/believe.ts";
export { MODEL_VERSION, NOTHING_ID, normalise, SuspectModel, UNKNOWN_ID } from "./belief/model.ts";
export {
  collectEvidence,
  drivesByRepairs,
  fromLogs,
  levelKnown,
  mileageEvidence,
} from "./evidence/collect.ts";
export type { EarlierWork } from "./evidence/earlier.ts";
export { earlierWork, fittedEvidence } from "./evidence/earlier.ts";
export type { Evidence } from "./evidence/evidence.ts";
export { repairsDone, stillHolding } from "./evidence/evidence.ts";
export type { EvidenceProblem } from "./evidence/sift.ts";
export { siftEvidence } from "./evidence/sift.ts";
export { SURENESS } from "./evidence/sureness.ts";
export type { Check, CustomFault, Fault, Repair, Subject } from "./faults/instances.ts";
export {
  componentsOf,
  doneAgain,
  generateChecks,
  generateFaults,
  generateRepairs,
  kindTitle,
  relationHolds,
  subjectName,
} from "./faults/instances.ts";
export type { FaultSet } from "./faults/sets.ts";
export type { Judgement, OrderCosts } from "./judge.ts";
export { compareOrders, judge } from "./judge.ts";
export { moneyOf, sumsOf } from "./money.ts";
export type { ByClass, NamedFactor, OwnFactor, OwnJobs, ProvedJob } from "./own-jobs.ts";
export { expectedIn, foundBy, MOST_FACTOR, namedFactors, ownFactors, ownJobs, SHAPE } from "./own-jobs.ts";
export type { OwnPriceRow } from "./own-prices.ts";
export { EVERYWHERE, rowsFor, withOwnPrices } from "./own-prices.ts";
export type { ProposedChannel } from "./plan/channels.ts";
export { PROPOSED_CHANNELS, proposeChannels } from "./plan/channels.ts";
export type { Advice, CheckBranch, NextCheck, Option } from "./plan/next.ts";
export { Planner, turnOrder } from "./plan/next.ts";
export { optimalCost, plannedMove, policyCost } from "./plan/optimum.ts";
export type { Order } from "./plan/orders.ts";
export { nextMove, ORDERS, sampledCost } from "./plan/orders.ts";
export type { Money, Opened, OwnPrice, Price, PriceLine } from "./plan/price.ts";
export { openedBy, optionId, priceOf, refillL } from "./plan/price.ts";
export { checkEffort, cureOf, PlanSpace } from "./plan/space.ts";
export type { Standing } from "./plan/standing.ts";
export { checksDone, FRESH, standingOf } from "./plan/standing.ts";
export type { Explanation, Leverage, Ranking, Suspect, Weight } from "./rank.ts";
export { rankSuspects } from "./rank.ts";
export type { Chosen } from "./record.ts";
export { checkEntry, chosenOption, decisionEntry } from "./record.ts";
