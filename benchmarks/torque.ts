// Orders of tightening: every shipped pattern and 500 drawn ones against going round. usage: npm run bench:torque [-- SEED]
// Aim: the pull of the tightened bolts stays nearer the middle than going round, and no neighbours follow each other where that can
// be avoided.
import { readdirSync, readFileSync } from "node:fs";
import { seededRandom } from "../core/src/chance/index.ts";
import { orderOf } from "../core/src/fasteners/index.ts";
import { isLong, meanPullMm, middleOf, neighboursOf } from "../core/src/fasteners/order.ts";
import type { Fastener, Unit } from "../core/src/unit/index.ts";

type Places = readonly (readonly [number, number])[];
const FOLDER = new URL("../library/units/", import.meta.url);
const seed = Number(process.argv[2] ?? 1);
const DRAWN = 500;

/** As somebody would go who goes round: by angle about the middle. */
const round = (places: Places): number[] => {
  const [mx, my] = middleOf(places);
  const angle = (i: number) => Math.atan2((places[i]?.[1] ?? 0) - my, (places[i]?.[0] ?? 0) - mx);
  return places.map((_, i) => i).sort((a, b) => angle(a) - angle(b));
};
const sideBySide = (places: Places, order: readonly number[]): number => {
  const near = neighboursOf(places);
  return order.slice(1).filter((b, k) => near[order[k] as number]?.has(b)).length;
};
/** The fewest that can follow each other in any order: over every set of bolts and the last of them. */
function fewest(places: Places): number {
  const near = neighboursOf(places);
  const n = places.length;
  let at = new Map<number, number>(places.map((_, i) => [(1 << i) * 32 + i, 0]));
  for (let k = 1; k < n; k++) {
    const next = new Map<number, number>();
    for (const [key, cost] of at) {
      const last = key % 32;
      const mask = Math.floor(key / 32);
      for (let i = 0; i < n; i++) {
        if (mask & (1 << i)) continue;
        const to = (mask | (1 << i)) * 32 + i;
        const c = cost + Number(near[last]?.has(i));
        if (c < (next.get(to) ?? 99)) next.set(to, c);
      }
    }
    at = next;
  }
  let least = Number.POSITIVE_INFINITY;
  for (const c of at.values()) least = Math.min(least, c);
  return least;
}
function judge(name: string, patterns: readonly Places[]): void {
  let nearer = 0;
  let avoided = 0;
  let share = 0;
  let long = 0;
  for (const places of patterns) {
    const bolt = {
      id: "x",
      name: "x",
      thread: "M6 × 1.0",
      lengthMm: 20,
      count: places.length,
      torqueNm: 10,
      positionsMm: places,
    } as Fastener;
    const { order } = orderOf(bolt) as { order: readonly number[] };
    const [own, plain] = [meanPullMm(places, order), meanPullMm(places, round(places))];
    if (own < plain) nearer++;
    share += own / plain;
    if (sideBySide(places, order) <= fewest(places)) avoided++;
    // from the middle outwards what lies side by side comes one after the other
    else if (isLong(places)) long++;
  }
  console.log(
    `${name}: ${patterns.length} patterns, pull nearer the middle than going round in ${nearer} (${(share / patterns.length).toFixed(2)} of it on average), no more neighbours after each other than in the best of all orders in ${avoided}; of the others ${long} are long ones, from the middle outwards`,
  );
}

const shipped = readdirSync(FOLDER).flatMap((f) =>
  ((JSON.parse(readFileSync(new URL(f, FOLDER), "utf8")) as Unit).fasteners ?? []).flatMap((x) =>
    x.positionsMm && x.positionsMm.length > 3 ? [x.positionsMm as Places] : [],
  ),
);
judge("shipped, crosswise by their places", shipped);
const random = seededRandom(seed);
judge(
  `drawn, seed ${seed}`,
  Array.from({ length: DRAWN }, (): Places => {
    const n = 5 + Math.floor(random() * 8);
    const [w, h] = [100 + 300 * random(), 100 + 200 * random()];
    return Array.from({ length: n }, (_, i): [number, number] => {
      const a = (2 * Math.PI * (i + 0.6 * (random() - 0.5))) / n;
      return [Math.round(w * Math.cos(a)), Math.round(h * Math.sin(a))];
    });
  }),
);
