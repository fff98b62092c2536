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
export { type Bar, criticalPath, type Took, timeLost } from "./critical.ts";
export { type Extra, extraProcedures, extrasOf } from "./extras.ts";
export { LIFT_MINUTES, type Order, PLACE_MINUTES, type Placed, suggestedOrder, timed } from "./order.ts";
export { type OwnMinutes, ownMinutes, SHOP_SPREAD, scaled, TIME_SPREAD } from "./own-minutes.ts";
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
export { emptyStart, FIRST_START } from "./start.ts";
export {
  fits,
  LEAST_COOLER_HALF_MIN_L,
  LIMIT_NAMES,
  type Limits,
  limitOf,
  TRAITS,
  type Trait,
  traitsOf,
} from "./traits.ts";
export { type Cell, leftInTray, type Tray, trayOf } from "./trays.ts";
export {
  CALL_MIN,
  type Conditions,
  compareWays,
  FETCH_MIN,
  type Flip,
  MISHAP_CAUSES,
  type Mishap,
  oddsOf,
  RUST,
  type Rust,
  type WayFigures,
  type WaysCompared,
} from "./ways.ts";
