import { between, DUAL, type FaultKind, kind } from "./kind.ts";

/** Of dual-clutch units alone. */
export const DUAL_CLUTCH_KINDS: readonly FaultKind[] = [
  // dual clutch
  kind(
    "dual-clutch-worn",
    "dual-clutch",
    "Clutch lining worn",
    "slips above a torque in the gears of one clutch; its touch point has wandered",
    (h, id, s) => {
      const i = h.pack(id);
      h.wear[i] = between(s, 0.3, 0.8);
      h.hydraulics.touchShiftKpa[i] = between(s, 30, 75);
    },
    DUAL,
  ),
  kind(
    "launch-judder",
    "launching-clutch",
    "Clutch judders",
    "4–14 Hz ripple while it launches",
    (h, id, s) => {
      h.judder[h.pack(id)] = between(s, 0.6, 1);
    },
    DUAL,
  ),
  kind(
    "clutch-pressure-low",
    "dual-clutch",
    "Clutch valve leaks",
    "slips above a torque in the gears of one clutch; touch point steady",
    (h, id, s) => {
      h.hydraulics.leak[h.pack(id)] = between(s, 0.4, 0.8);
    },
    DUAL,
  ),
  kind(
    "clutch-drags",
    "dual-clutch",
    "Clutch does not open",
    "creeps against the brake, idle drawn down at rest",
    (h, id, s) => {
      h.dragNm[h.pack(id)] = between(s, 4, 11);
    },
    DUAL,
  ),
  kind(
    "fork-stuck",
    "fork",
    "Fork stuck",
    "one gear is never engaged",
    (h, id) => {
      h.forksStuck.add(id);
    },
    DUAL,
  ),
  kind(
    "fork-sensor-lost",
    "fork",
    "Fork position not read",
    "the gear is barred although the fork moves",
    (h, id) => {
      h.forksUnseen.add(id);
    },
    DUAL,
  ),
  kind(
    "hydraulic-pump-weak",
    "unit",
    "Hydraulic pump or accumulator weak",
    "pressure behind its command, its code, slip at high torque",
    (h, _id, s) => {
      h.hydraulics.pumpScale = 1 - between(s, 0.75, 0.94);
    },
    DUAL,
  ),
  kind(
    "clutch-cooling-lost",
    "unit",
    "Clutch cooling gone",
    "clutch gets far too hot on hills and in traffic",
    (h, _id, s) => {
      h.clutchCooling = 1 - between(s, 0.8, 1);
    },
    DUAL,
  ),
];
