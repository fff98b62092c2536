import { gearStates } from "./gears.ts";
import type { Sensor, Unit } from "./unit.ts";

/**
 * Speed of a sensor's shaft over that of the input, by gear: as the unit file states it, else from the train.
 * @returns gears in which the shaft turns and is held; empty where nothing tells it
 */
export function shaftPerInput(
  unit: Unit,
  { perInput, shaft }: Pick<Sensor, "perInput" | "shaft">,
): ReadonlyMap<string, number> {
  if (perInput) return new Map(Object.entries(perInput).filter(([, x]) => x > 0));
  if (shaft === undefined) return new Map();
  return new Map(
    (gearStates(unit) ?? []).flatMap(({ gear, state }) => {
      const speed = state.kind === "gear" ? Math.abs(state.speeds.get(shaft) ?? 0) : 0;
      return speed > 0 ? [[gear, speed] as const] : [];
    }),
  );
}
