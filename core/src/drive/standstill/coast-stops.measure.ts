import type { Measure } from "../measure.ts";
import { findCoastStops } from "./standstill.ts";

export const coastStops: Measure<"coastStops"> = {
  id: "coastStops",
  measure: ({ frame }) => findCoastStops(frame),
};
