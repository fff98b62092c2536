export {
  both,
  type Calendar,
  calendarOf,
  nextWorking,
  type Spans,
  without,
  workedUntil,
  workingBetween,
} from "./calendar.ts";
export { drawnEnds, drawnMinutes, oddsBy, promiseAt, SHARED_SPREAD } from "./promise.ts";
export {
  Bench,
  type Done,
  likelyMinutes,
  type Minutes,
  type Person,
  type Policy,
  type Schedule,
  type Shop,
  type ShopJob,
  type Slot,
  scheduleBy,
  type Task,
} from "./schedule.ts";
export { costOf, type Found, findSchedule, firstCome, LATE_WEIGHT, MOST_TRIED } from "./search.ts";
export {
  DAY_MIN,
  dayNumber,
  dayOf,
  HORIZON_DAYS,
  type JobToPlan,
  LICENCE,
  minutesTo,
  openDay,
  openDaysBefore,
  openDaysLater,
  type ShopSetup,
  shopFrom,
  shopJob,
  standsApart,
  timeAt,
  weekday,
} from "./week.ts";
