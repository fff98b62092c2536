export { ENGAGEMENT, type Fit, fitOf, type Hardware, type Material, type Thread, threadOf } from "./hardware.ts";
export { isLong, meanPullMm, neighboursOf, type PlaceMm, sideBySide, tighteningOrder } from "./order.ts";
export { orderOf, type Pass, passesOf, torqueUnits, wrenchSetting } from "./torque.ts";
