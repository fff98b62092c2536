import type { BenchKnowledge } from "../knowledge/index.ts";
import type { Unit } from "../unit/index.ts";
import { type BenchMeasure, type BenchPlace, copies, lookFor, wide } from "./place.ts";

/** Least vacuum that a bore holds, and flow through a cooler: rules of the trade, as in the checks. */
const VACUUM_KPA = 61;
const COOLER_L_MIN = 2;
/** Drill shanks and pins: what an orifice may be off, mm. */
const ORIFICE_MM = [-0.05, 0.1] as const;
/** Cold fluid raises what a pump makes: the upper ends are so much higher, lower ones stay. */
const COLD_SHARE = 1.2;

/** Line pressure, air checks, valve body and cooler. */
export function hydraulicPlaces(unit: Unit, k: BenchKnowledge): BenchPlace[] {
  const places: BenchPlace[] = [];
  const rows = unit.bench?.linePressure ?? [];
  const kpa = (id: string, name: string, window?: readonly [number, number]): BenchMeasure => ({
    id,
    name,
    unit: "kPa",
    instrument: "gauge",
    ...(window ? { from: window[0], to: window[1] } : {}),
    expected: [150, 5000],
    points: 1,
    optional: true,
  });
  if (rows.length > 0)
    places.push({
      id: "pressure",
      kind: "pressure",
      title: "Line pressure",
      how: "Gauge on the line port, range by range; on the stand or before it came out.",
      measures: rows.flatMap((r) => [
        { ...kpa(`idle-${r.range}`, `${r.range}, idle, warm`, r.idleKpa), optional: false },
        kpa(`command-${r.range}`, `${r.range}, commanded then`),
        kpa(`cold-${r.range}`, `${r.range}, idle, cold`, [r.idleKpa[0], r.idleKpa[1] * COLD_SHARE]),
        ...(r.stallKpa ? [kpa(`stall-${r.range}`, `${r.range}, stall, warm`, r.stallKpa)] : []),
      ]),
      looks: [],
      cautions: ["stall-test", "hot-fluid", "loaded-vehicle"],
    });
  const fed = unit.elements.filter((e) => e.bench && e.plates);
  const air = k.looks.find((l) => l.of === "air");
  if (air && unit.kind !== "dct-dry")
    places.push({
      id: "air",
      kind: "air",
      title: "Air checks",
      how: "Dry air, about 3 bar, into the channel of each element: a thud, then silence.",
      measures: [],
      looks: copies(air, fed),
      cautions: ["compressed-air"],
    });
  const valve = k.looks.find((l) => l.of === "valve");
  const tray = unit.trays?.find((t) => t.cells.some((c) => c.kind === "spring" && c.lengthMm !== undefined));
  const tolerance = (unit.bench?.springTolerancePct ?? 3) / 100;
  const springs = (tray?.cells ?? []).filter((c) => c.kind === "spring" && c.lengthMm !== undefined);
  const wear = unit.bench?.plateWearMostMm;
  places.push({
    id: "valve-body",
    kind: "valve-body",
    title: unit.kind === "planetary" ? "Valve body" : "Control unit",
    how: "One valve at a time; each falls out by its own weight, dry and clean. Springs stood beside a new one.",
    measures: [
      ...springs.map((c): BenchMeasure => {
        const length = c.lengthMm as number;
        return {
          id: c.id,
          name: c.name,
          unit: "mm",
          instrument: "caliper",
          from: length * (1 - tolerance),
          to: length * (1 + tolerance),
          expected: wide(length, length),
          points: 1,
          optional: true,
        };
      }),
      ...(unit.kind === "planetary" ? fed : []).map(
        (e): BenchMeasure => ({
          id: `vacuum-${e.id}`,
          name: `Vacuum held at the bore of ${e.id}`,
          unit: "kPa of vacuum",
          instrument: "vacuum-gauge",
          from: VACUUM_KPA,
          points: 1,
          optional: true,
        }),
      ),
      ...(wear === undefined
        ? []
        : [
            {
              id: "plate-wear",
              name: "Separator plate, deepest seat of a ball",
              unit: "mm",
              instrument: "dial",
              to: wear,
              expected: [0.005, 1] as const,
              points: 1,
              optional: true,
            },
          ]),
      ...(unit.bench?.orifices ?? []).map(
        (o): BenchMeasure => ({
          id: `orifice-${o.id}`,
          name: `Orifice, ${o.name.toLowerCase()}`,
          unit: "mm",
          instrument: "known-tool",
          from: o.diameterMm + ORIFICE_MM[0],
          to: o.diameterMm + ORIFICE_MM[1],
          expected: wide(o.diameterMm, o.diameterMm),
          points: 1,
          optional: true,
        }),
      ),
    ],
    looks: [
      ...(valve
        ? copies(
            valve,
            unit.solenoids.map((s) => ({ id: s.id, name: s.name })),
          )
        : []),
      ...lookFor(k, unit, "valve-body"),
    ],
    cautions: ["springs", "compressed-air"],
  });
  if (unit.kind !== "dct-dry")
    places.push({
      id: "cooler",
      kind: "cooler",
      title: "Cooler",
      how: "Return line into a can, engine at idle, half a minute; then flushed against the flow.",
      measures: [
        {
          id: "flow",
          name: "Flow through the cooler",
          unit: "l/min",
          instrument: "can",
          from: COOLER_L_MIN,
          expected: [0.05, 30],
          points: 1,
        },
      ],
      looks: lookFor(k, unit, "cooler"),
      cautions: ["hot-fluid", "used-fluid", "compressed-air"],
    });
  return places;
}
