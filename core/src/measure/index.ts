export type { Judged, ReadMeasure, Window } from "./measure.ts";
export {
  copperAt20,
  judgeReadings,
  measuresFor,
  outcomeOf,
  QUANTITIES,
  readingsIn,
  SURE_ENOUGH,
  uncertaintyOf,
  weightOf,
  windowOf,
  windowText,
} from "./measure.ts";
