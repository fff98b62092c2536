// Guards: bolts are tightened evenly and not side by side where that can be avoided, on all shipped patterns and on any other;
// torque in three units; a wrench with an extension; a bolt that does not fit is found by computation.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { seededRandom } from "../chance/index.ts";
import { UNITS } from "../procedure/testing/library.ts";
import type { Fastener } from "../unit/index.ts";
import {
  ENGAGEMENT,
  fitOf,
  type Hardware,
  isLong,
  meanPullMm,
  neighboursOf,
  orderOf,
  type PlaceMm,
  passesOf,
  sideBySide,
  threadOf,
  tighteningOrder,
  torqueUnits,
  wrenchSetting,
} from "./index.ts";

const ring = (n: number, a = 100, b = 100): PlaceMm[] =>
  Array.from({ length: n }, (_, i) => [a * Math.cos((2 * Math.PI * i) / n), b * Math.sin((2 * Math.PI * i) / n)]);
/** Going round: by the angle about the middle. */
const round = (places: readonly PlaceMm[]): number[] => {
  const [mx, my] = places.reduce(([x, y], p) => [x + p[0] / places.length, y + p[1] / places.length], [0, 0]);
  const angle = (i: number) => Math.atan2((places[i] as PlaceMm)[1] - my, (places[i] as PlaceMm)[0] - mx);
  return [...places.keys()].sort((a, b) => angle(a) - angle(b));
};
/** The fewest neighbours that can follow each other in any order: over every set of bolts that are done, and the last of them. */
function fewest(places: readonly PlaceMm[]): number {
  const near = neighboursOf(places);
  const n = places.length;
  const all = (1 << n) - 1;
  const best = new Float64Array((1 << n) * n).fill(Number.POSITIVE_INFINITY);
  for (let i = 0; i < n; i++) best[(1 << i) * n + i] = 0;
  for (let used = 1; used < all; used++)
    for (let last = 0; last < n; last++) {
      const so = best[used * n + last] as number;
      if (!Number.isFinite(so)) continue;
      for (let i = 0; i < n; i++) {
        if (used & (1 << i)) continue;
        const at = (used | (1 << i)) * n + i;
        best[at] = Math.min(best[at] as number, so + Number(near[last]?.has(i) ?? false));
      }
    }
  return Math.min(...best.subarray(all * n, all * n + n));
}
/** Five to eight bolts round an oval, unevenly spaced. */
function anyPattern(random: () => number): PlaceMm[] {
  const n = 5 + Math.floor(random() * 4);
  const [a, b] = [60 + 100 * random(), 60 + 100 * random()];
  return Array.from({ length: n }, (_, i): PlaceMm => {
    const t = (2 * Math.PI * (i + 0.6 * random())) / n;
    return [a * Math.cos(t), b * Math.sin(t)];
  });
}

describe("the order of tightening", () => {
  it("is crosswise on a ring: each next one lies across", () => {
    const order = tighteningOrder(ring(8));
    expect([...order].sort()).toEqual([0, 1, 2, 3, 4, 5, 6, 7]);
    expect(Math.abs((order[0] as number) - (order[1] as number))).toBe(4);
    expect(Math.abs((order[2] as number) - (order[3] as number))).toBe(4);
  });
  it("goes from the middle outwards on a long pattern", () => {
    const places: PlaceMm[] = [-150, -90, -30, 30, 90, 150].flatMap((x): PlaceMm[] => [
      [x, -20],
      [x, 20],
    ]);
    expect(isLong(places)).toBe(true);
    const out = tighteningOrder(places).map((i) => Math.abs((places[i] as PlaceMm)[0]));
    expect(out.slice(0, 4)).toEqual([30, 30, 30, 30]);
    expect(out.slice(-4)).toEqual([150, 150, 150, 150]);
  });
  it("knows a long pattern from a round one, however it is turned", () => {
    const turned = (p: PlaceMm[], t: number) =>
      p.map(([x, y]): PlaceMm => [x * Math.cos(t) - y * Math.sin(t), x * Math.sin(t) + y * Math.cos(t)]);
    for (const t of [0, 0.4, 1.2]) {
      expect(isLong(turned(ring(12, 199, 100), t))).toBe(false);
      expect(isLong(turned(ring(12, 201, 100), t))).toBe(true);
    }
  });
  it("of every shipped pattern pulls nearer the middle than going round, side by side only where it must be", () => {
    const bolts = UNITS.flatMap((u) => u.fasteners ?? []).filter((f) => f.positionsMm);
    expect(bolts.length).toBeGreaterThanOrEqual(24);
    const patterns = new Map(bolts.map((f) => [JSON.stringify(f.positionsMm), f.positionsMm as readonly PlaceMm[]]));
    for (const places of patterns.values()) {
      const order = tighteningOrder(places);
      expect(new Set(order).size).toBe(places.length);
      expect(meanPullMm(places, order)).toBeLessThan(meanPullMm(places, round(places)));
      expect(sideBySide(places, order)).toBe(fewest(places));
    }
  });
  it("of any pattern is each bolt once, pulls nearer the middle than going round, side by side only where it must be", () => {
    const random = seededRandom(5);
    for (let i = 0; i < 500; i++) {
      const places = anyPattern(random);
      const order = tighteningOrder(places);
      expect([...order].sort((a, b) => a - b)).toEqual([...places.keys()]);
      expect(meanPullMm(places, order)).toBeLessThanOrEqual(meanPullMm(places, round(places)) + 1e-9);
      expect(sideBySide(places, order)).toBe(isLong(places) ? sideBySide(places, order) : fewest(places));
    }
  });
  it("pulls hardly more than the best order with as few side by side, by trying every one", () => {
    const random = seededRandom(9);
    for (let k = 0; k < 40; k++) {
      const places = anyPattern(random).slice(0, 6);
      if (isLong(places)) continue;
      const ours = tighteningOrder(places);
      const side = sideBySide(places, ours);
      let best = Number.POSITIVE_INFINITY;
      const go = (made: number[]) => {
        if (made.length === places.length) {
          if (sideBySide(places, made) <= side) best = Math.min(best, meanPullMm(places, made));
          return;
        }
        for (let i = 0; i < places.length; i++) if (!made.includes(i)) go([...made, i]);
      };
      go([]);
      expect(meanPullMm(places, ours)).toBeLessThanOrEqual(best * 1.02 + 1e-9);
    }
  });
  it("does not ask where the unit lies: moved and turned patterns are the same", () => {
    const places = ring(7, 120, 90).map(([x, y], i): PlaceMm => [x + 3 * i, y - 2 * i]);
    const moved = places.map(([x, y]): PlaceMm => [x + 500, y - 300]);
    expect(tighteningOrder(moved)).toEqual(tighteningOrder(places));
    expect(meanPullMm(moved, round(moved))).toBeCloseTo(meanPullMm(places, round(places)), 6);
    expect(isLong(moved)).toBe(isLong(places));
  });
  it("takes three in a row for long, and two for nothing yet", () => {
    expect(
      isLong([
        [0, 0],
        [1, 0],
      ]),
    ).toBe(false);
    expect(
      isLong([
        [0, 0],
        [50, 0],
        [100, 0],
      ]),
    ).toBe(true);
  });
  it("knows neighbours by distance: just within three tenths more than the nearest, and just beyond", () => {
    const at = (third: number): PlaceMm[] => [
      [0, 0],
      [100, 0],
      [0, third],
      [300, 300],
    ];
    expect(neighboursOf(at(130))[0]?.has(2)).toBe(true);
    expect(
      neighboursOf([
        [0, 0],
        [100, 0],
        [0, 131],
        [0, 200],
      ])[0]?.has(2),
    ).toBe(false);
  });
  it("of few bolts is what there is", () => {
    expect(tighteningOrder([])).toEqual([]);
    expect(tighteningOrder([[0, 0]])).toEqual([0]);
    expect([...tighteningOrder(ring(3))].sort()).toEqual([0, 1, 2]);
  });
  it("is the maker's where the file has one", () => {
    const bolt = { positionsMm: ring(4), order: [3, 1, 0, 2] } as unknown as Fastener;
    expect(orderOf(bolt)).toEqual({ order: [3, 1, 0, 2], by: "maker" });
    expect(orderOf({ ...bolt, order: undefined })?.by).toBe("places");
    expect(orderOf({ ...bolt, positionsMm: undefined })).toBeUndefined();
    for (const f of UNITS.flatMap((u) => u.fasteners ?? []))
      if (f.order) expect([...f.order].sort((a, b) => a - b)).toEqual([...(f.positionsMm ?? []).keys()]);
  });
});

describe("pull", () => {
  it("is nothing for opposite bolts and the radius for one alone", () => {
    expect(meanPullMm(ring(2), [0, 1])).toBeCloseTo(100, 9);
    // after one bolt 100 mm, after two 0, after three a third of the way to the fourth
    expect(meanPullMm(ring(4), [0, 2, 1, 3])).toBeCloseTo((100 + 0 + 100 / 3) / 3, 9);
  });
});

describe("torque", () => {
  it("stands in three units: 10 N·m are 7.376 lbf·ft and 88.51 lbf·in", () => {
    const { poundFoot, poundInch } = torqueUnits(10);
    expect(poundFoot).toBeCloseTo(7.37562, 4);
    expect(poundInch).toBeCloseTo(88.5075, 3);
  });
  it("is set lower with an extension in line, T·L/(L+E), and higher with one that points back", () => {
    expect(wrenchSetting(60, 300, 100)).toBeCloseTo(45, 9);
    expect(wrenchSetting(60, 300, 0)).toBe(60);
    expect(wrenchSetting(60, 300, -60)).toBeCloseTo(75, 9);
    expect(() => wrenchSetting(60, 300, -300)).toThrow(RangeError);
    expect(() => wrenchSetting(60, 0, 10)).toThrow(RangeError);
    expect(wrenchSetting(60, 0.5, 0)).toBe(60);
    expect(wrenchSetting(60, 300, -299.5)).toBeCloseTo(36000, 6);
  });
  it("the bolt feels the same moment however the wrench is extended", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 1, max: 300, noNaN: true }),
        fc.double({ min: 50, max: 900, noNaN: true }),
        fc.double({ min: -40, max: 400, noNaN: true }),
        (t, l, e) => {
          const force = wrenchSetting(t, l, e) / l;
          expect(force * (l + e)).toBeCloseTo(t, 6);
        },
      ),
    );
  });
  it("comes in passes: by hand, snug, 30, 60, 100 %, once round; by angle at last where the file says so", () => {
    const passes = passesOf({ torqueNm: 10, count: 14 });
    expect(passes.map((p) => [p.id, p.torqueNm])).toEqual([
      ["hand", undefined],
      ["snug", undefined],
      ["first", 3],
      ["second", 6],
      ["full", 10],
      ["round", 10],
    ]);
    expect(passesOf({ torqueNm: 15, count: 9, angleDeg: 45 }).at(-1)).toMatchObject({
      id: "angle",
      torqueNm: undefined,
    });
    expect(passesOf({ torqueNm: 28, count: 1 }).map((p) => p.id)).toEqual(["hand", "snug", "full", "round"]);
  });
});

describe("a thread", () => {
  it.each<[string, ReturnType<typeof threadOf>]>([
    ["M10 × 1.25", { diameterMm: 10, pitchMm: 1.25 }],
    ["m8x1", { diameterMm: 8, pitchMm: 1 }],
    ["M4", { diameterMm: 4, pitchMm: 0.7 }],
    ["M5", { diameterMm: 5, pitchMm: 0.8 }],
    ["M6", { diameterMm: 6, pitchMm: 1 }],
    ["M7", { diameterMm: 7, pitchMm: 1 }],
    ["M8", { diameterMm: 8, pitchMm: 1.25 }],
    ["M10", { diameterMm: 10, pitchMm: 1.5 }],
    ["M12", { diameterMm: 12, pitchMm: 1.75 }],
    ["M14", { diameterMm: 14, pitchMm: 2 }],
    ["M16", { diameterMm: 16, pitchMm: 2 }],
    ["M18", { diameterMm: 18, pitchMm: 2.5 }],
    ["M20", { diameterMm: 20, pitchMm: 2.5 }],
    ["M7 × 1,0", { diameterMm: 7, pitchMm: 1 }],
    ["M9", undefined],
    ["M1 × 2", undefined],
    ["3/8-16", undefined],
  ])("%p is read", (text, thread) => {
    expect(threadOf(text)).toEqual(thread);
  });
  it("of every shipped fastener is read", () => {
    for (const f of UNITS.flatMap((u) => u.fasteners ?? [])) expect(threadOf(f.thread)).toBeDefined();
  });
});

describe("a bolt in its hole", () => {
  const m10 = { diameterMm: 10, pitchMm: 1.5 };
  const sound: Hardware = {
    hole: m10,
    bolt: m10,
    lengthMm: 60,
    gripMm: 38,
    threadDepthMm: 25,
    material: "aluminium",
  };
  const problems = (patch: Partial<Hardware>) => fitOf({ ...sound, ...patch }).problems;
  it("fits", () => {
    expect(fitOf(sound)).toEqual({ engagedMm: 22, diameters: 2.2, needed: 2, spareMm: 3, problems: [] });
  });
  it("of another pitch or diameter is found", () => {
    expect(problems({ bolt: { diameterMm: 10, pitchMm: 1.25 } })).toEqual([
      "Pitch 1.25 where the hole has 1.5: it starts by hand for some turns, then it tears the thread.",
    ]);
    expect(problems({ bolt: { diameterMm: 8, pitchMm: 1.25 } })).toContain("M8 where the hole is M10.");
  });
  it("needs its diameters by material: just enough, and just too little", () => {
    for (const material of ["steel", "cast-iron", "aluminium", "magnesium"] as const) {
      const enough = 38 + 10 * ENGAGEMENT[material];
      expect(problems({ material, lengthMm: enough })).toEqual([]);
      expect(problems({ material, lengthMm: enough - 0.1 })).toEqual([expect.stringMatching(/^Too short: /)]);
    }
  });
  it("keeps a turn of the thread free: just so, just not, and bottoms out beyond the end", () => {
    expect(problems({ lengthMm: 61.5 })).toEqual([]);
    expect(problems({ lengthMm: 61.6 })).toEqual(["Too long: 1.4 mm are left in the hole, less than a turn."]);
    expect(problems({ lengthMm: 65 })).toEqual(["Too long by 2.0 mm: it bottoms out and clamps nothing."]);
    expect(problems({ lengthMm: 65, threadDepthMm: undefined })).toEqual([]);
  });
  it("that does not reach the thread says by how much", () => {
    expect(problems({ lengthMm: 36 })).toEqual(["It ends 2.0 mm short of the thread."]);
    expect(fitOf({ ...sound, lengthMm: 36 })).toMatchObject({ engagedMm: 0, spareMm: 27 });
    expect(problems({ lengthMm: 38.5 })).toEqual([expect.stringMatching(/^Too short: 0\.5 mm of thread/)]);
    expect(problems({ lengthMm: 38 })).toEqual(["It ends 0.0 mm short of the thread."]);
  });
  it("has lengths that are some", () => {
    expect(() => fitOf({ ...sound, lengthMm: 0 })).toThrow(RangeError);
    expect(() => fitOf({ ...sound, gripMm: -1 })).toThrow(RangeError);
    expect(() => fitOf({ ...sound, threadDepthMm: 0 })).toThrow(RangeError);
    expect(() => fitOf({ ...sound, lengthMm: 0.5, gripMm: 0, threadDepthMm: 0.5 })).not.toThrow();
  });
});
