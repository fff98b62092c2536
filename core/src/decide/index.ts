export type { Choice, DecideInput, Decision, Figures, Flip } from "./decide.ts";
export { breakEven, choicesOf, decide, LEAVE_ID } from "./decide.ts";
