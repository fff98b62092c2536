import type { BenchKnowledge } from "../knowledge/index.ts";
import type { Element, SelectivePart, Unit } from "../unit/index.ts";
import { converterPlaces } from "./converter-places.ts";
import { electricalPlace } from "./electrical-place.ts";
import { hydraulicPlaces } from "./hydraulic-places.ts";
import { type BenchMeasure, type BenchPlace, lookFor, wide } from "./place.ts";

/** Every place of the bench that a unit has, in the order of a teardown. */
export function benchPlaces(unit: Unit, k: BenchKnowledge): BenchPlace[] {
  const places: BenchPlace[] = [];
  const packs = unit.elements.filter((e) => e.bench && e.plates);
  places.push({
    id: "teardown",
    kind: "teardown",
    title: "As it comes apart",
    how: "Look before you wash: what lies loose, what is blue, what earlier work has left.",
    measures: [],
    looks: lookFor(k, unit, "teardown"),
    cautions: ["lifting", "springs", "hot-fluid"],
  });
  for (const e of packs) places.push(packPlace(unit, e, k, "pack"));
  for (const e of packs) places.push(packPlace(unit, e, k, "pack-in"));
  for (const p of unit.bench?.endPlays ?? [])
    places.push({
      id: `end-play:${p.id}`,
      kind: "end-play",
      title: `End play, ${p.name.toLowerCase()}`,
      about: p.id,
      how: p.load,
      measures: [
        {
          id: "play",
          name: "End play by dial",
          unit: "mm",
          instrument: "dial",
          from: p.windowMm[0],
          to: p.windowMm[1],
          expected: wide(0.05, 2 * p.windowMm[1]),
          points: 3,
        },
        fittedMeasure(p.washer, "micrometer"),
      ],
      looks: [],
      cautions: ["lifting"],
    });
  if (unit.bench?.dualClutches?.length) places.push(dualPlace(unit));
  if (unit.converter) places.push(...converterPlaces(unit, k));
  places.push(...hydraulicPlaces(unit, k), electricalPlace(unit));
  places.push({
    id: "cause",
    kind: "cause",
    title: "What broke it",
    how: "A failed part is a question. The build is finished when it has an answer, or is named unknown.",
    measures: [],
    looks: [],
    cautions: [],
  });
  return places;
}

const fittedMeasure = (part: SelectivePart, instrument: string): BenchMeasure => ({
  id: "fitted",
  name: `Fitted ${part.kind}`,
  unit: "mm",
  instrument,
  expected: wide(Math.min(...part.sizesMm), Math.max(...part.sizesMm)),
  points: 1,
  optional: true,
});

function packPlace(unit: Unit, e: Element, k: BenchKnowledge, kind: "pack" | "pack-in"): BenchPlace {
  const b = e.bench;
  const plates = e.plates ?? 0;
  if (!b) throw new RangeError(`${e.id} has no limits of the bench`);
  const fresh = kind === "pack-in";
  const list = (
    id: string,
    name: string,
    count: number,
    least: number,
    most: number | undefined,
    optional = false,
  ): BenchMeasure[] =>
    Array.from({ length: count }, (_, i) => ({
      id: `${id}-${i + 1}`,
      name: `${name} ${i + 1}`,
      unit: "mm",
      instrument: "micrometer",
      from: least,
      expected: wide(least, most ?? least),
      points: 3,
      optional,
    }));
  const measures: BenchMeasure[] = [
    ...list("plate", "Friction plate", plates, b.frictionPlateMinMm, b.frictionPlateNewMm),
    ...list("steel", "Steel", b.steels ?? plates, b.steelPlateMinMm, b.steelPlateNewMm),
    ...(b.fixedPlates ?? []).map(
      (f, i): BenchMeasure => ({
        id: `fixed-${i + 1}`,
        name: f.name,
        unit: "mm",
        instrument: "micrometer",
        expected: wide(f.thicknessMm, f.thicknessMm),
        points: 1,
        optional: true,
      }),
    ),
    ...(b.depthMm === undefined
      ? []
      : [
          {
            id: "depth",
            name: "Depth of the drum",
            unit: "mm",
            instrument: "depth-micrometer",
            expected: wide(b.depthMm, b.depthMm),
            points: 2,
            optional: true,
          },
        ]),
    ...(b.selective ? [fittedMeasure(b.selective, "micrometer")] : []),
    {
      id: "clearance",
      name: "Clearance by feeler",
      unit: "mm",
      instrument: "feeler",
      from: b.clearanceMm[0],
      to: b.clearanceMm[1],
      expected: wide(b.clearanceMm[0] / 2, b.clearanceMm[1] * 1.5),
      points: 2,
      optional: true,
    },
    ...(b.springFreeMm && !fresh
      ? [
          {
            id: "spring",
            name: "Return spring, free length",
            unit: "mm",
            instrument: "caliper",
            from: b.springFreeMm[0],
            expected: wide(b.springFreeMm[0], b.springFreeMm[1]),
            points: 2,
            optional: true,
          },
        ]
      : []),
    ...(b.innerRadiusMm && b.outerRadiusMm && !fresh
      ? (["inner", "outer"] as const).map((side) => {
          const r = (side === "inner" ? b.innerRadiusMm : b.outerRadiusMm) as number;
          return {
            id: side,
            name: `Lining, ${side} radius`,
            unit: "mm",
            instrument: "caliper",
            expected: wide(r, r),
            points: 1,
            optional: true,
          };
        })
      : []),
  ];
  return {
    id: `${kind}:${e.id}`,
    kind,
    title: `${e.name}, ${fresh ? "as it goes in" : "as it came out"}`,
    about: e.id,
    how: fresh
      ? "Plates soaked in fresh fluid, counted, each measured at three points; then the selective part."
      : "Plate 1 lies at the hub. Three or four points round each plate, edges left out.",
    measures,
    looks: fresh ? [] : lookFor(k, unit, "pack"),
    cautions: ["springs", "compressed-air"],
  };
}

function dualPlace(unit: Unit): BenchPlace {
  const clutches = unit.bench?.dualClutches ?? [];
  const name = (id: string) => unit.elements.find((e) => e.id === id)?.name ?? id;
  return {
    id: "dual-clutch",
    kind: "dual-clutch",
    title: "Dual clutch and forks",
    how: "Heights over the hub with the clutch at rest; free play at the release bearing; forks by the scan tool or a dial.",
    measures: [
      ...clutches.flatMap((c): BenchMeasure[] => [
        {
          id: `height-${c.clutch}`,
          name: `${c.clutch}: height of the pack`,
          unit: "mm",
          instrument: "caliper",
          from: c.packHeightMm[0],
          to: c.packHeightMm[1],
          expected: wide(c.packHeightMm[0], c.packHeightMm[1]),
          points: 3,
        },
        {
          id: `diaphragm-${c.clutch}`,
          name: `${c.clutch}: height of the diaphragm fingers`,
          unit: "mm",
          instrument: "caliper",
          from: c.diaphragmMm[0],
          to: c.diaphragmMm[1],
          expected: wide(c.diaphragmMm[0], c.diaphragmMm[1]),
          points: 3,
        },
        {
          id: `play-${c.clutch}`,
          name: `${c.clutch}: free play`,
          unit: "mm",
          instrument: "dial",
          from: c.freePlayMm[0],
          to: c.freePlayMm[1],
          expected: wide(Math.max(0.05, c.freePlayMm[0] / 2), c.freePlayMm[1] * 2),
          points: 2,
        },
        {
          id: `learned-${c.clutch}`,
          name: `${c.clutch}: touch point learned before`,
          unit: "kPa",
          instrument: "scan-pressure",
          points: 1,
          optional: true,
        },
      ]),
      ...Object.entries(unit.bench?.forkTravelMm ?? {}).map(
        ([fork, [from, to]]): BenchMeasure => ({
          id: `fork-${fork}`,
          name: `${name(fork)}: travel`,
          unit: "mm",
          instrument: "scan-position",
          from,
          to,
          expected: wide(from, to),
          points: 2,
          optional: true,
        }),
      ),
    ],
    looks: [],
    cautions: ["springs", "stored-pressure"],
  };
}
