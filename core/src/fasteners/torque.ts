import { NM_PER_LBF_FT } from "../quantity/index.ts";
import type { Fastener } from "../unit/index.ts";
import { tighteningOrder } from "./order.ts";

const INCHES_PER_FOOT = 12;

/** One torque in the three units that stand on wrenches. */
export const torqueUnits = (torqueNm: number) => ({
  newtonMetre: torqueNm,
  poundFoot: torqueNm / NM_PER_LBF_FT,
  poundInch: (torqueNm / NM_PER_LBF_FT) * INCHES_PER_FOOT,
});

/**
 * What a wrench with an extension in line is set to: T·L/(L+E), the same force at a longer arm.
 * @param leverMm - from the square to the middle of the grip
 * @param extensionMm - from the square to the bolt, in line with the wrench; negative when it points back
 * @throws RangeError for an arm that is not there
 */
export function wrenchSetting(torqueNm: number, leverMm: number, extensionMm: number): number {
  if (!(leverMm > 0) || !(leverMm + extensionMm > 0))
    throw new RangeError("the arm of a wrench is longer than nothing");
  return (torqueNm * leverMm) / (leverMm + extensionMm);
}

export interface Pass {
  readonly id: "hand" | "snug" | "first" | "second" | "full" | "round" | "angle";
  readonly words: string;
  /** to be set at the wrench; undefined: by feel, or by angle */
  readonly torqueNm: number | undefined;
}

const FIRST = 0.3;
const SECOND = 0.6;

/** How a set of bolts is tightened, pass by pass, each in the order of the map. */
export function passesOf(bolt: Pick<Fastener, "torqueNm" | "angleDeg" | "count">): Pass[] {
  const { torqueNm, angleDeg } = bolt;
  return [
    { id: "hand", words: "By hand: every bolt started before any is snug", torqueNm: undefined },
    { id: "snug", words: "Snug, until it touches", torqueNm: undefined },
    // one bolt alone pulls nothing crooked
    ...(bolt.count > 1
      ? ([
          { id: "first", words: "30 %", torqueNm: torqueNm * FIRST },
          { id: "second", words: "60 %", torqueNm: torqueNm * SECOND },
        ] as const)
      : []),
    { id: "full", words: "Full torque, in one steady pull", torqueNm },
    ...(angleDeg
      ? ([{ id: "angle", words: `Then ${angleDeg}° further, each in one pull`, torqueNm: undefined }] as const)
      : ([{ id: "round", words: "Once more all round: has any settled?", torqueNm }] as const)),
  ];
}

/** The order of a set of bolts: the maker's where the file has one, else by their places. Undefined without places. */
export function orderOf(
  bolt: Fastener,
): { readonly order: readonly number[]; readonly by: "maker" | "places" } | undefined {
  if (!bolt.positionsMm) return undefined;
  return bolt.order ? { order: bolt.order, by: "maker" } : { order: tighteningOrder(bolt.positionsMm), by: "places" };
}
