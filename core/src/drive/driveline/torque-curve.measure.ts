import type { Measure } from "../measure.ts";
import { analyseTorqueCurve } from "./torque-curve.ts";

/** No fault by itself: the bench chooses converters by it. */
export const torqueCurve: Measure<"torqueCurve"> = {
  id: "torqueCurve",
  measure: ({ frame }) => analyseTorqueCurve(frame),
};
