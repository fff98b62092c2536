export type { Choice, DecideInput, Decision, Figures, Flip, Origin } from "./decide.ts";
export { breakEven, choicesOf, chosenWay, decide, LEAVE_ID } from "./decide.ts";
