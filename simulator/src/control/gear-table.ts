import { gearCode, sharesByGear, type Unit } from "@gearsense/core/unit";
import { type Pack, pressureFor } from "../physics/hydraulics.ts";

/** A gear as a controller keeps it. */
export interface GearRow {
  readonly name: string;
  /** 1…n, reverse −1 */
  readonly code: number;
  /** input over output, positive for reverse too: sensors do not tell the sense */
  readonly ratio: number;
  /** by pack: 1 when applied */
  readonly applied: Uint8Array;
  /** by pack: share of the input torque, 0 when not applied */
  readonly shares: Float64Array;
  /** forks that must be in, `fork:gear` */
  readonly forks: readonly string[];
  /** held by a one-way clutch: drives only, coasts free */
  readonly driveOnly: boolean;
}

/** Where the train does not settle how elements share a torque. */
const UNSETTLED_SHARE = 0.6;

/** All gears of a unit by their name. */
export function gearRows(unit: Unit, packs: readonly Pack[]): ReadonlyMap<string, GearRow> {
  const shares = sharesByGear(unit);
  return new Map(
    unit.gears.map((g) => {
      const chart = unit.application[g.name] ?? [];
      const applied = Uint8Array.from(packs, (p) => Number(chart.some((a) => a.element === p.id)));
      return [
        g.name,
        {
          name: g.name,
          code: gearCode(g.name),
          ratio: Math.abs(g.ratio),
          applied,
          shares: Float64Array.from(packs, (p, i) =>
            applied[i] ? (shares.get(g.name)?.get(p.id) ?? UNSETTLED_SHARE) : 0,
          ),
          forks: chart.flatMap((a) => (a.towards === undefined ? [] : [`${a.element}:${a.towards}`])),
          driveOnly: chart.some((a) => a.driveOnly),
        },
      ];
    }),
  );
}

/** Line pressure that every element of a gear needs at an input torque, kPa. */
export function linePressureFor(packs: readonly Pack[], gear: GearRow, torqueNm: number): number {
  let most = 0;
  for (let i = 0; i < packs.length; i++)
    if (gear.applied[i])
      most = Math.max(most, pressureFor(packs[i] as Pack, (gear.shares[i] as number) * Math.abs(torqueNm)));
  return most;
}
