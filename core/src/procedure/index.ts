export { checkProcedures } from "./check.ts";
export {
  choicesOf,
  compose,
  endsOf,
  NoPlan,
  openSteps,
  type Plan,
  type PlanStep,
  type Problem,
  planOf,
  planTo,
  waitsFor,
  waysTo,
} from "./compose.ts";
export { LIFT_MINUTES, type Order, PLACE_MINUTES, type Placed, suggestedOrder, timed } from "./order.ts";
export {
  cautionsOf,
  HAZARDS,
  type Hazard,
  type Hold,
  hazardsOf,
  LIFTS,
  liftOf,
  PLACES,
  type Procedure,
  type ProcedureStep,
  type Recorded,
  stepKey,
  WAITS,
} from "./procedure.ts";
export {
  holdClosed,
  insideLimit,
  numberIn,
  tickProblem,
  untickProblem,
  type Values,
  valueProblem,
} from "./progress.ts";
export { fits, LIMIT_NAMES, type Limits, limitOf, TRAITS, type Trait, traitsOf } from "./traits.ts";
