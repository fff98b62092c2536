export type { Choice, DecideInput, Decision, Figures, Flip } from "./decide.ts";
export { breakEven, choicesOf, chosenWay, decide, LEAVE_ID } from "./decide.ts";
