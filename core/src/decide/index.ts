export type { Choice } from "./choices.ts";
export { askedFor, choicesOf, LEAVE_ID, othersOf, SELL_ID } from "./choices.ts";
export type { DecideInput } from "./decide.ts";
export { chosenFrom, decide, SELL_SHARE } from "./decide.ts";
export type { Decision, Figures, Flip, Origin } from "./figures.ts";
export { breakEven } from "./flips.ts";
export type { Horizon } from "./leaving.ts";
export { failsAYear, horizonOf, LEAVING, whyNotLeave } from "./leaving.ts";
