import type { Measure } from "../measure.ts";
import { analyseReach } from "./reach.ts";

const MIN_WANTED_S = 10;
const REACHED_S = 1;

export const reach: Measure<"reach"> = {
  id: "reach",
  measure: ({ frame }) => analyseReach(frame),
  /** Gears of a dual clutch that never come although the drive calls for them: what bars them is a fork. */
  evidence(unit, analysis, add) {
    // limp mode bars gears of its own
    if (unit.kind === "planetary" || analysis.limp) return;
    for (const { gear, seconds, wantedSeconds } of analysis.reach) {
      if (seconds > REACHED_S) add("gear-reached", gear, { gear }, "reached", `Gear ${gear} is reached`, false);
      else if (wantedSeconds > MIN_WANTED_S) {
        add("gear-reached", gear, { gear }, "missing", `Gear ${gear} never comes`, true);
        // those above it lie behind
        return;
      }
    }
  },
};
