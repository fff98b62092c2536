import { KM_PER_MILE } from "../quantity/index.ts";
import { gearCode, type Unit } from "../unit/index.ts";
import type { Column, Table } from "./table.ts";

/** What the numbers themselves say of a column, whatever it is called. */
export interface KinematicClaim {
  readonly channel: string;
  /** 0…1 of the samples that agree */
  readonly share: number;
  readonly reason: string;
  /** unit of measure that the numbers show, when the file does not say */
  readonly unit?: string;
}

const SAMPLES = 1500;
const RATIO_TOLERANCE = 0.015;
const MIN_SHARE = 0.6;
const MIN_SAMPLES = 60;
const MIN_GEARS = 3;
const PROPORTIONAL = 0.03;
/** Shares nearer than this are equal. */
const TIE = 0.05;
/** A pair whose columns are called what they should be is believed before one that agrees better by less than this. */
const NAMED_TIE = 0.15;
const ROAD_SHARE = 0.85;
const ROAD_TOLERANCE = 0.08;
const ROAD_UNITS = [
  ["km/h", 1],
  ["mph", KM_PER_MILE],
  ["m/s", 3.6],
] as const;

/** The last value of a column at or before each of some rows. */
function held(column: Column, rows: Int32Array): Float64Array {
  const out = new Float64Array(rows.length).fill(Number.NaN);
  const { numbers, rowOf } = column;
  let last = Number.NaN;
  let k = 0;
  for (let i = 0; i < rows.length; i++) {
    const row = rows[i] as number;
    for (; k < numbers.length && (rowOf ? (rowOf[k] as number) : k) <= row; k++) {
      const v = numbers[k] as number;
      if (!Number.isNaN(v)) last = v;
    }
    out[i] = last;
  }
  return out;
}

interface Series {
  readonly column: Column;
  readonly values: Float64Array;
  readonly highest: number;
}

const isSpeed = ({ column, values, highest }: Series): boolean => {
  const unit = column.unitText?.toLowerCase();
  if (unit && !/rpm|min|km\/h|kmh|kph|mph|m\/s|rad\/s/.test(unit)) return false;
  if (column.wordCells > 0 || column.clockCells > 0 || !(highest > 25 && highest < 20000)) return false;
  for (const v of values) if (v < 0) return false;
  return true;
};

/** Share of samples in which a/b is one of the ratios; 0 when too few gears or samples were met. */
function gearedShare(a: Float64Array, b: Float64Array, ratios: readonly number[]): number {
  const hits = new Int32Array(ratios.length);
  let seen = 0;
  let agreed = 0;
  for (let i = 0; i < a.length; i++) {
    const [x, y] = [a[i] as number, b[i] as number];
    if (!(x > 900 && y > 200)) continue;
    seen++;
    const r = x / y;
    for (let g = 0; g < ratios.length; g++) {
      if (!(Math.abs(r / (ratios[g] as number) - 1) < RATIO_TOLERANCE)) continue;
      hits[g] = (hits[g] as number) + 1;
      agreed++;
      break;
    }
  }
  if (seen < MIN_SAMPLES || hits.filter((h) => h > 0.03 * seen).length < Math.min(MIN_GEARS, ratios.length)) return 0;
  return agreed / seen;
}

const meanOf = (values: Float64Array) => {
  let sum = 0;
  let n = 0;
  for (const v of values) {
    if (Number.isNaN(v)) continue;
    sum += v;
    n++;
  }
  return sum / n;
};

/** Does a speed stay up while the output rests? */
function idlesAtRest({ values }: Series, output: Series): boolean {
  let [resting, idling] = [0, 0];
  for (let i = 0; i < values.length; i++) {
    if (!((output.values[i] as number) < 20)) continue;
    resting++;
    if ((values[i] as number) > 400) idling++;
  }
  return resting >= 20 && idling / resting > 0.8;
}

/** The constant k with b ≈ k·a in most samples. @returns undefined when there is none */
function proportion(a: Float64Array, b: Float64Array, floor: number): { factor: number; share: number } | undefined {
  const all = new Float64Array(a.length);
  let n = 0;
  for (let i = 0; i < a.length; i++) if ((a[i] as number) > floor) all[n++] = (b[i] as number) / (a[i] as number);
  if (n < MIN_SAMPLES) return undefined;
  const quotients = all.subarray(0, n).sort();
  const factor = quotients[n >> 1] as number;
  if (!(factor > 0)) return undefined;
  let near = 0;
  for (const q of quotients) if (Math.abs(q / factor - 1) < PROPORTIONAL) near++;
  return { factor, share: near / n };
}

interface Pair {
  readonly input: Series;
  readonly output: Series;
  readonly share: number;
}

/**
 * The pair that agrees best. A shaft inside the train may agree as well as the output over a few gears: the output is the
 * one that the road speed belongs to. With the converter locked the engine agrees as well as the turbine: the turbine is
 * the one that is never above it. The shafts of a dual clutch agree as well as its engine: the engine idles at rest.
 * @param pairs - best first, at least one
 */
function bestByNumbers(pairs: readonly Pair[], planetary: boolean, hasRoad: (output: Series) => boolean): Pair {
  const top = pairs[0] as Pair;
  const near = pairs.filter((p) => p.share > top.share - TIE);
  const outputs = [...new Set(near.map((p) => p.output))];
  const output = (outputs.length > 1 && outputs.find(hasRoad)) || top.output;
  const rivals = pairs.filter((p) => p.output === output);
  const first = rivals[0] as Pair;
  return planetary
    ? rivals
        .filter((p) => p.share > first.share - TIE)
        .reduce((a, b) => (meanOf(b.input.values) < meanOf(a.input.values) ? b : a))
    : (rivals.find((p) => idlesAtRest(p.input, p.output)) ?? first);
}

/**
 * Claims by agreement between columns: turbine over output is a gear's ratio in every gear, vehicle speed is output over
 * final drive and tyre, the gear is the one whose ratio is seen, the engine idles while the output rests.
 * @param named - the channel whose name a column bears outright, if any
 * @returns by column index; empty when no pair of columns agrees with the unit
 * Cost: pairs of speed columns × 1500 samples.
 */
export function kinematicClaims(
  table: Table,
  unit: Unit,
  named: (column: Column) => string | undefined = () => undefined,
): Map<number, KinematicClaim[]> {
  const claims = new Map<number, KinematicClaim[]>();
  const claim = (column: Column, c: KinematicClaim) =>
    claims.set(column.index, [...(claims.get(column.index) ?? []), c]);
  const step = Math.max(1, Math.floor(table.rows / SAMPLES));
  const rows = Int32Array.from({ length: Math.floor(table.rows / step) }, (_, i) => i * step);
  const series = table.columns
    .filter((c) => c.clockCells === 0 && c.filled > c.wordCells)
    .map((column): Series => {
      const values = held(column, rows);
      let highest = -Infinity;
      for (const v of values) if (v > highest) highest = v;
      return { column, values, highest };
    });
  const speeds = series.filter(isSpeed);
  const forward = unit.gears.filter((g) => g.ratio > 0);
  // backwards the speeds read the same
  const ratios = unit.gears.map((g) => Math.abs(g.ratio));
  const pairs: Pair[] = [];
  for (const input of speeds)
    for (const output of speeds) {
      if (input === output) continue;
      const share = gearedShare(input.values, output.values, ratios);
      if (share >= MIN_SHARE) pairs.push({ input, output, share });
    }
  pairs.sort((a, b) => b.share - a.share);
  const [first] = pairs;
  if (!first) return claims;
  const planetary = unit.kind === "planetary";
  const rpmPerKmh = (unit.finalDrive * 1000) / 60 / (2 * Math.PI * unit.tyreRadiusM);
  /** The unit in which a column is the road speed that belongs to an output. */
  const roadUnit = (s: Series, output: Series) => {
    const p = proportion(s.values, output.values, s.highest * 0.2);
    if (!p || p.share < ROAD_SHARE) return undefined;
    const label = ROAD_UNITS.find(([, k]) => Math.abs(p.factor / (rpmPerKmh * k) - 1) < ROAD_TOLERANCE)?.[0];
    return label && { label, share: p.share };
  };
  const inputId = planetary ? "turbine_rpm" : "engine_rpm";
  const best =
    pairs.find(
      (p) =>
        p.share > first.share - NAMED_TIE &&
        named(p.input.column) === inputId &&
        named(p.output.column) === "output_rpm",
    ) ?? bestByNumbers(pairs, planetary, (output) => series.some((s) => s !== output && roadUnit(s, output)));
  const { input, output, share } = best;
  claim(output.column, {
    channel: "output_rpm",
    share,
    reason: `"${input.column.header}" over it is a ratio of ${unit.name} in ${Math.round(share * 100)} % of the driving`,
  });
  claim(input.column, {
    channel: inputId,
    share,
    reason: `it over "${output.column.header}" is a ratio of ${unit.name} in ${Math.round(share * 100)} % of the driving`,
  });
  if (planetary) {
    for (const other of speeds) {
      if (other === input || other === output) continue;
      let [above, seen, idling, resting] = [0, 0, 0, 0];
      for (let i = 0; i < other.values.length; i++) {
        const [e, t, o] = [other.values[i], input.values[i], output.values[i]] as [number, number, number];
        if (o > 200) {
          seen++;
          if (e > t * 0.97) above++;
        } else if (o < 20) {
          resting++;
          if (e > 400) idling++;
        }
      }
      // the road's own speeds rest with it
      const proportional = proportion(output.values, other.values, 200);
      const engine = seen > MIN_SAMPLES && above / seen > 0.7 && (resting < 20 || idling / resting > 0.8);
      if (engine && !((proportional?.share ?? 0) > 0.8))
        claim(other.column, {
          channel: "engine_rpm",
          share: above / seen,
          reason: `runs at or above "${input.column.header}" and idles at rest`,
        });
    }
  }
  for (const s of series) {
    if (s === output || s === input || s.column.wordCells > 0) continue;
    const road = roadUnit(s, output);
    if (road)
      claim(s.column, {
        channel: "vehicle_kmh",
        share: road.share,
        reason: `follows "${output.column.header}" through final drive and tyre, in ${road.label}`,
        unit: road.label,
      });
  }
  const ratioOf = new Map(forward.map((f) => [gearCode(f.name), f.ratio]));
  for (const s of series) {
    if (s === output || s === input || s.column.wordCells > s.column.filled * 0.7) continue;
    let [seen, agreed] = [0, 0];
    const met = new Set<number>();
    for (let i = 0; i < s.values.length; i++) {
      const g = s.values[i] as number;
      if (!Number.isInteger(g)) continue;
      const [x, y] = [input.values[i] as number, output.values[i] as number];
      if (!(x > 900 && y > 200)) continue;
      const ratio = ratioOf.get(g);
      seen++;
      if (ratio !== undefined && Math.abs(x / y / ratio - 1) < 2 * RATIO_TOLERANCE) {
        agreed++;
        met.add(g);
      }
    }
    if (seen > MIN_SAMPLES && agreed / seen > MIN_SHARE && met.size >= Math.min(MIN_GEARS, ratios.length))
      claim(s.column, {
        channel: "gear_commanded",
        share: agreed / seen,
        reason: "it is the gear whose ratio is seen",
      });
  }
  return claims;
}
