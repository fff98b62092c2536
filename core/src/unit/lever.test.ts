// Guards: the speeds of a set lie on one line over the places of its lever, in every gear of every unit.
import { expect, it } from "@jest/globals";
import { libraryUnit } from "../testing/units.ts";
import { gearStates, leverOf } from "./index.ts";

it.each(["tarn-f4", "brae-p6", "holm-c6", "ness-x6", "fell-e8", "crag-t10"])("%s", (id) => {
  const unit = libraryUnit(id);
  let judged = 0;
  for (const { state } of gearStates(unit) ?? [])
    for (const set of unit.gearTrain?.sets ?? []) {
      const points = leverOf(set, state);
      const by = Object.fromEntries(points.map((p) => [p.member, p]));
      const [sun, ring, carrier] = [by.sun?.speed, by.ring?.speed, by.carrier?.speed];
      if (sun === undefined || ring === undefined || carrier === undefined) continue;
      judged++;
      expect(sun + (ring - sun) * (by.carrier?.at ?? 0)).toBeCloseTo(carrier, 9);
      expect(points.map((p) => p.at)).toEqual(points.map((p) => p.at).toSorted((a, b) => a - b));
    }
  expect(judged).toBeGreaterThan(unit.gears.length);
});
