/** Friction of a paper lining in sound fluid: it rises with slip, so that slip dies out. */
const STATIC = 0.122;
const RISE = 0.016;
/** the same of a dry lining */
export const DRY_OVER_WET = 2.3;
/** slip at which half of the rise, or fall, is there, rad/s */
const HALF_RAD_S = 3;
/** how far friction falls in spoiled fluid or on a glazed lining, of the static value */
const FALL = 0.7;
/** a worn lining has lost its grip at rest and drags by its film only, which needs slip, rad/s */
const FILM_RAD_S = 14;

/** Coefficient that a unit is laid out for, and that its controller reckons with. */
export const DESIGN_FRICTION = 0.12;

/**
 * Friction coefficient of a wet lining at a slip speed.
 * @param slipRadS - absolute
 * @param falling - 0 sound … 1 spoiled: the curve falls with slip instead of rising
 * @param wear - 0 … 1 of its boundary friction gone
 * Source: Stribeck curve of paper linings; which way it slopes near zero decides whether slip is damped or driven.
 */
export function wetFriction(slipRadS: number, falling: number, wear: number): number {
  const share = slipRadS / (slipRadS + HALF_RAD_S);
  const sound = STATIC + (RISE - falling * (RISE + FALL * STATIC)) * share;
  return wear === 0 ? sound : sound * (1 - wear) + 0.85 * STATIC * wear * (slipRadS / (slipRadS + FILM_RAD_S));
}

/** slip over which a clutch that judders loses half of what it loses, rad/s: launches slip far */
const JUDDER_HALF_RAD_S = 60;

/** Factor on the friction of a launching clutch whose grip falls with slip over the whole launch. */
export const judderFactor = (slipRadS: number, judder: number): number =>
  1 - 0.5 * judder * (slipRadS / (slipRadS + JUDDER_HALF_RAD_S));

/** how far the grip of faces that run out of true varies, of its mean */
const RUN_OUT = 0.3;

/** Factor on the grip of a clutch that judders: it comes and goes once a turn of one face against the other. @param turnRad - between them */
export const runOutFactor = (turnRad: number, judder: number): number => 1 + RUN_OUT * judder * Math.sin(turnRad);
