import type { Measure } from "../measure.ts";
import { analyseRoad } from "./road.ts";

/** No fault by itself: a break-in is counted by it. */
export const road: Measure<"road"> = {
  id: "road",
  measure: ({ frame }) => analyseRoad(frame),
};
