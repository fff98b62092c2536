import type { Uncertain } from "../measure/index.ts";
import type { SelectivePart } from "../unit/index.ts";
import { chooseSelective, type Selection } from "./packs.ts";

/**
 * The washer that brings an end play to the middle of its window: with another one in, the play changes by what their
 * thicknesses differ.
 * @param play - as read with the fitted washer in
 */
export function chooseWasher(
  play: Uncertain,
  fitted: Uncertain,
  windowMm: readonly [number, number],
  washer: SelectivePart,
): Selection {
  const bare = {
    value: play.value + fitted.value,
    uncertainty: Math.hypot(play.uncertainty, fitted.uncertainty),
  };
  return chooseSelective(bare, windowMm, (windowMm[0] + windowMm[1]) / 2, washer);
}
