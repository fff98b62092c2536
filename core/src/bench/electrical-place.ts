import type { Unit } from "../unit/index.ts";
import { type BenchMeasure, type BenchPlace, wide } from "./place.ts";

/** Least insulation, the bus between its lines, most voltage drop: rules of the trade, as in the checks. */
const INSULATION_MOHM = 1;
const BUS_OHM = [55, 65] as const;
const SUPPLY_DROP_MV = 200;
const GROUND_DROP_MV = 50;
/** A wheel that runs out by more changes a signal's swing visibly, %. */
const RUN_OUT_PCT = 20;

/** Coils, their insulation and pull-in, tooth wheels, drops and the bus. */
export function electricalPlace(unit: Unit): BenchPlace {
  return {
    id: "electrical",
    kind: "electrical",
    title: "Coils, wires and sensors",
    how: "Plug off. The coil’s own temperature beside its reading: copper rises 4 % in 10 °C.",
    measures: [
      ...unit.solenoids.flatMap((s): BenchMeasure[] => [
        {
          id: `coil-${s.id}`,
          name: s.name,
          unit: "Ω",
          instrument: "ohmmeter",
          from: s.resistanceOhmAt20C[0],
          to: s.resistanceOhmAt20C[1],
          expected: wide(s.resistanceOhmAt20C[0], s.resistanceOhmAt20C[1]),
          points: 1,
          copper: true,
          optional: true,
        },
        {
          id: `case-${s.id}`,
          name: `${s.name} against the case`,
          unit: "MΩ",
          instrument: "megohm",
          from: INSULATION_MOHM,
          points: 1,
          optional: true,
        },
        {
          id: `pull-${s.id}`,
          name: `${s.name}: pull-in time`,
          unit: "ms",
          instrument: "scope-time",
          expected: [1, 80],
          points: 1,
          optional: true,
        },
      ]),
      ...unit.sensors
        .filter((s) => s.teeth)
        .flatMap((s): BenchMeasure[] => [
          {
            id: `missing-${s.id}`,
            name: `${s.name}: teeth missing a turn`,
            unit: "teeth",
            instrument: "counted",
            to: 0.5,
            points: 1,
            optional: true,
          },
          {
            id: `runout-${s.id}`,
            name: `${s.name}: run-out of the wheel`,
            unit: "%",
            instrument: "scope-share",
            to: RUN_OUT_PCT,
            points: 1,
            optional: true,
          },
        ]),
      {
        id: "supply-drop",
        name: "Voltage drop of the supply under load",
        unit: "mV",
        instrument: "millivoltmeter",
        to: SUPPLY_DROP_MV,
        points: 1,
        optional: true,
      },
      {
        id: "ground-drop",
        name: "Voltage drop of the ground under load",
        unit: "mV",
        instrument: "millivoltmeter",
        to: GROUND_DROP_MV,
        points: 1,
        optional: true,
      },
      {
        id: "bus",
        name: "Between the two lines of the bus",
        unit: "Ω",
        instrument: "ohmmeter",
        from: BUS_OHM[0],
        to: BUS_OHM[1],
        points: 1,
        optional: true,
      },
    ],
    looks: [],
    cautions: ["battery-off", "test-lamp"],
  };
}
