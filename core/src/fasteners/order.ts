export type PlaceMm = readonly [number, number];

/** Bolts that lie within this multiple of the nearest distance of either are neighbours. */
const NEAR = 1.3;
/** A pattern so much longer than wide is tightened from the middle outwards. */
const LONG = 2;
/** From the middle outwards: what lies at most so much of the half length further out than the innermost that is left may come next. */
const BAND = 0.3;
/** So many unfinished orders are kept side by side. */
const KEPT = 60;

const distance = (a: PlaceMm, b: PlaceMm) => Math.hypot(a[0] - b[0], a[1] - b[1]);

export function middleOf(places: readonly PlaceMm[]): PlaceMm {
  const sum = places.reduce(([x, y], p) => [x + p[0], y + p[1]] as const, [0, 0] as const);
  return [sum[0] / places.length, sum[1] / places.length];
}

/** Which bolts sit side by side: for each the indices of its neighbours. */
export function neighboursOf(places: readonly PlaceMm[]): ReadonlySet<number>[] {
  const nearest = places.map((p, i) =>
    Math.min(...places.map((q, k) => (k === i ? Number.POSITIVE_INFINITY : distance(p, q)))),
  );
  return places.map(
    (p, i) =>
      new Set(
        places.flatMap((q, k) =>
          k !== i && distance(p, q) <= NEAR * Math.max(nearest[i] as number, nearest[k] as number) ? [k] : [],
        ),
      ),
  );
}

/** Whether a pattern is long: length over width, along the axes of its own spread (principal axes of the places). */
export function isLong(places: readonly PlaceMm[]): boolean {
  if (places.length < 3) return false;
  const [mx, my] = middleOf(places);
  let [xx, yy, xy] = [0, 0, 0];
  for (const [x, y] of places) {
    xx += (x - mx) ** 2;
    yy += (y - my) ** 2;
    xy += (x - mx) * (y - my);
  }
  const root = Math.sqrt(((xx - yy) / 2) ** 2 + xy ** 2);
  const [large, small] = [(xx + yy) / 2 + root, (xx + yy) / 2 - root];
  return small <= 0 || Math.sqrt(large / small) >= LONG;
}

interface Made {
  readonly order: readonly number[];
  readonly used: ReadonlySet<number>;
  readonly sum: PlaceMm;
  /** neighbours that follow each other */
  readonly side: number;
  readonly pull: number;
}

/**
 * How far the tightened bolts pull to one side: distance of their middle from that of all, mean over every stage before the last
 * bolt, mm.
 * @param order - indices into `places`, each once
 */
export function meanPullMm(places: readonly PlaceMm[], order: readonly number[]): number {
  const middle = middleOf(places);
  let [x, y, total] = [0, 0, 0];
  order.slice(0, -1).forEach((at, k) => {
    x += (places[at] as PlaceMm)[0];
    y += (places[at] as PlaceMm)[1];
    total += distance([x / (k + 1), y / (k + 1)], middle);
  });
  return order.length < 2 ? 0 : total / (order.length - 1);
}

/** How often a neighbour follows a neighbour in an order. */
export function sideBySide(places: readonly PlaceMm[], order: readonly number[]): number {
  const near = neighboursOf(places);
  return order.slice(1).filter((at, k) => near[order[k] as number]?.has(at)).length;
}

/**
 * The order in which bolts are tightened: crosswise, so that neighbours do not follow each other where that can be avoided and
 * the middle of the tightened ones stays near that of all; a long pattern from the middle outwards. Orders grow side by side and
 * the best are kept (beam search).
 * @param places - of the bolts, mm
 * @returns indices into `places`
 */
export function tighteningOrder(places: readonly PlaceMm[]): number[] {
  if (places.length === 0) return [];
  const middle = middleOf(places);
  const near = neighboursOf(places);
  const out = places.map((p) => distance(p, middle));
  const long = isLong(places);
  const band = BAND * Math.max(...out);
  let beam: Made[] = [{ order: [], used: new Set(), sum: [0, 0], side: 0, pull: 0 }];
  for (let n = 0; n < places.length; n++) {
    const grown = beam.flatMap((m) => {
      const left = [...places.keys()].filter((i) => !m.used.has(i));
      const innermost = Math.min(...left.map((i) => out[i] as number));
      const may = long ? left.filter((i) => (out[i] as number) <= innermost + band) : left;
      return may.map((i): Made => {
        const p = places[i] as PlaceMm;
        const sum: PlaceMm = [m.sum[0] + p[0], m.sum[1] + p[1]];
        const last = m.order.at(-1);
        return {
          order: [...m.order, i],
          used: new Set(m.used).add(i),
          sum,
          side: m.side + Number(last !== undefined && near[last]?.has(i)),
          pull: m.pull + distance([sum[0] / (n + 1), sum[1] / (n + 1)], middle),
        };
      });
    });
    grown.sort((a, b) => a.side - b.side || a.pull - b.pull);
    // of orders with the same bolts done and the same last one, the best goes on
    const seen = new Set<string>();
    beam = [];
    for (const m of grown) {
      const like = `${[...m.used].sort((a, b) => a - b).join()}|${m.order.at(-1)}`;
      if (seen.has(like)) continue;
      seen.add(like);
      beam.push(m);
      if (beam.length >= KEPT) break;
    }
  }
  return [...(beam[0]?.order ?? [])];
}
