import type { BenchKnowledge } from "../knowledge/index.ts";
import type { Unit } from "../unit/index.ts";
import { type BenchMeasure, type BenchPlace, lookFor, wide } from "./place.ts";

/** Fit, choice and inside of a converter; none of a unit without one. */
export function converterPlaces(unit: Unit, k: BenchKnowledge): BenchPlace[] {
  const { converter } = unit;
  if (!converter) return [];
  const places: BenchPlace[] = [];
  const { fit, homeDepthMm } = converter;
  const bolt = unit.fasteners?.find((f) => f.id === "converter");
  if (fit && homeDepthMm) {
    const one = (
      id: string,
      name: string,
      span: readonly [number, number] | undefined,
      instrument: string,
      optional = true,
      points = 1,
    ): BenchMeasure => ({
      id,
      name,
      unit: "mm",
      instrument,
      ...(span ? { expected: wide(span[0], span[1]) } : {}),
      points,
      optional,
    });
    places.push({
      id: "converter-fit",
      kind: "converter-fit",
      title: "Converter fit",
      how: "A straight edge over each face, four points round; a spanner that just fits will do where nothing else goes in.",
      measures: [
        one("home", "Bell face to pads, converter home", homeDepthMm, "depth-micrometer", false, 4),
        one("flexplate", "Engine’s bell face to flexplate", fit.flexplateMm, "depth-micrometer", false, 4),
        one("adapter", "Adapter between engine and bell", undefined, "caliper"),
        one("gasket", "Gasket", undefined, "caliper"),
        one("spacer", "Spacer on the pads", undefined, "caliper"),
        one("crankSpacer", "Spacer behind the flexplate", undefined, "caliper"),
        one("pilotDiameter", "Pilot, diameter", fit.pilotDiameterMm, "micrometer"),
        one("pilotBore", "Bore in the crankshaft", fit.pilotBoreMm, "caliper"),
        one("pilotLength", "Pilot, length to its step", fit.pilotLengthMm, "caliper"),
        one("pilotRoom", "Depth of the bore", fit.pilotRoomMm, "depth-micrometer"),
        one("pumpEngaged", "Hub in the pump, converter home", fit.pumpEngagedMm, "caliper"),
        one("boltCircle", "Bolt circle", [fit.boltCircleMm, fit.boltCircleMm], "caliper"),
        one("boltLength", "Bolt, length under its head", [12, 30], "caliper"),
        one("flexplateThickness", "Flexplate, thickness", [2, 6], "caliper"),
      ],
      looks: bolt
        ? [
            {
              id: "thread",
              name: `Thread of the bolts against ${bolt.thread}`,
              options: [
                { id: "fits", label: "Runs in by hand", pass: true },
                { id: "other", label: "Another thread", pass: false },
              ],
            },
          ]
        : [],
      cautions: ["lifting", "turning-engine"],
    });
  }
  if (converter.stallTorqueNm) {
    const number = (id: string, name: string, unitOf: string, value: number): BenchMeasure => ({
      id,
      name,
      unit: unitOf,
      instrument: "maker",
      expected: wide(value, value),
      points: 1,
    });
    places.push({
      id: "converter-choice",
      kind: "converter-choice",
      title: "Choosing a converter",
      how: "The new converter as its maker rates it, behind this engine’s full-load torque.",
      measures: [
        number("stall", "New converter: stall speed", "rpm", converter.stallRpm),
        number("at", "rated at an engine torque of", "N·m", converter.stallTorqueNm),
        number("ratio", "torque ratio at stall", "", converter.stallTorqueRatio),
      ],
      looks: [],
      cautions: [],
    });
  }
  places.push({
    id: "converter-open",
    kind: "converter-open",
    title: "Converter",
    how: "From outside and through the hub; cut open only where that pays and by who is trained for it.",
    measures: [],
    looks: lookFor(k, unit, "converter"),
    cautions: ["cutting", "running-on-stands", "used-fluid"],
  });
  return places;
}
