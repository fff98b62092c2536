export type { Judged, ReadMeasure, Uncertain, Window } from "./measure.ts";
export {
  copperAt20,
  judgeReadings,
  meanOf,
  measuresFor,
  oddsOf,
  outcomeOf,
  QUANTITIES,
  readingsIn,
  SURE_ENOUGH,
  surePercent,
  uncertaintyOf,
  weightOf,
  windowOf,
  windowText,
} from "./measure.ts";
