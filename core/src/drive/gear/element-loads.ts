import { elementPressuresKpa, PAPER_FRICTION } from "../../unit/index.ts";
import type { Frame } from "../signal/frame.ts";
import { finite, lowestOnset, type Span, topHeld } from "../signal/stats.ts";

/**
 * How hard an element is worked: the part of the line pressure that it needs for its share of the input torque, return
 * spring included, with the friction of paper.
 */
export interface ElementLoads {
  readonly element: string;
  /** by gear that slipped: the least part at which slip began, and the coldest fluid in which one began */
  readonly slipped: readonly { readonly gear: string; readonly part: number; readonly fluidC?: number | undefined }[];
  /** most that was held clean for half a second in one gear, by the fluid: from this temperature to {@link FLUID_STEP_C} above */
  readonly held: readonly { readonly fluidC?: number | undefined; readonly part: number }[];
}

/** A gear with the samples that it held cleanly, and the stretches in which it slipped. */
export interface DrivenGear {
  readonly gear: string;
  readonly clean: readonly number[];
  readonly slips: readonly Span[];
}

export const FLUID_STEP_C = 10;

/**
 * What each element of a planetary unit was asked for where it held and where its gear slipped.
 * @returns empty without torque, line pressure, or the train and pistons in the unit file
 * Shares come from the balance of torques in the gear train; what a pack holds from T = z·μ·(p·A − F)·r.
 */
export function elementLoads(frame: Frame, gears: readonly DrivenGear[]): ElementLoads[] {
  const { unit, inputTorqueNm, linePressureKpa, fluidC, timeS, rateHz } = frame;
  if (unit.kind !== "planetary" || !inputTorqueNm || !linePressureKpa) return [];
  const part = new Float64Array(timeS.length);
  const driven = gears.map(({ gear, clean, slips }) => {
    const byFluid = new Map<number | undefined, number[]>();
    for (const i of clean) {
      const c = finite(fluidC?.[i]);
      const from = c === undefined ? undefined : Math.floor(c / FLUID_STEP_C) * FLUID_STEP_C;
      const list = byFluid.get(from);
      if (list) list.push(i);
      else byFluid.set(from, [i]);
    }
    return {
      gear,
      clean,
      slips,
      byFluid,
      needs: [0, 1].map((nm) => elementPressuresKpa(unit, gear, nm, PAPER_FRICTION)),
    };
  });
  return unit.elements.flatMap(({ id }): ElementLoads[] => {
    const slipped: ElementLoads["slipped"][number][] = [];
    const held = new Map<number | undefined, number>();
    for (const { gear, clean, slips, byFluid, needs } of driven) {
      const [springKpa, withOneNm] = needs.map((n) => n.get(id));
      if (springKpa === undefined || withOneNm === undefined) continue;
      const kpaPerNm = withOneNm - springKpa;
      const partAt = (i: number) =>
        (springKpa + kpaPerNm * Math.abs(inputTorqueNm[i] as number)) / (linePressureKpa[i] as number);
      for (const i of clean) part[i] = partAt(i);
      for (const [from, index] of byFluid) {
        const most = topHeld(part, index, rateHz);
        if (most !== undefined) held.set(from, Math.max(held.get(from) ?? 0, most));
      }
      for (const s of slips) for (let i = s.start; i < s.end; i++) part[i] = partAt(i);
      const least = lowestOnset(timeS, part, slips);
      const coldestC = Math.min(...slips.flatMap((s) => finite(fluidC?.[s.start]) ?? []));
      if (least !== undefined) slipped.push({ gear, part: least, fluidC: finite(coldestC) });
    }
    return slipped.length > 0 || held.size > 0
      ? [{ element: id, slipped, held: [...held].map(([c, p]) => ({ fluidC: c, part: p })) }]
      : [];
  });
}
