// Guards: wear, stack, clearance, the choice of selective parts against trying every combination, what is said when none fits.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { seededRandom } from "../chance/index.ts";
import type { SelectivePart } from "../unit/index.ts";
import {
  chooseSelective,
  chooseWasher,
  clearanceOf,
  comparePlates,
  plateState,
  selectionText,
  stackOf,
  taperMm,
  wearShare,
} from "./index.ts";

const exact = (value: number) => ({ value, uncertainty: 0 });
const shims = (sizesMm: readonly number[], kind: SelectivePart["kind"] = "shim"): SelectivePart => ({
  kind,
  sizesMm,
  toleranceMm: 0.02,
  costEach: 6,
});

describe("plates", () => {
  it("lose nothing when new, all at the limit, half in between", () => {
    expect(wearShare(2, 2, 1.6)).toBe(0);
    expect(wearShare(1.6, 2, 1.6)).toBe(1);
    expect(wearShare(1.8, 2, 1.6)).toBeCloseTo(0.5, 12);
    expect(wearShare(1.5, 2, 1.6)).toBeGreaterThan(1);
    expect(() => wearShare(1.8, 1.6, 1.6)).toThrow(/thicker/);
    expect(taperMm([1.9, 1.84, 1.88])).toBeCloseTo(0.06, 12);
  });
  it("are named below their least, thicker than new and with taper, each just over and just under", () => {
    const limits = { leastMm: 1.6, newMm: 2, taperMostMm: 0.06 };
    const at = (mm: number, points = [mm]) => plateState({ value: mm, uncertainty: 0.006 }, points, limits).faults;
    expect(at(1.594)).toEqual(["below-least"]);
    expect(at(1.6)).toEqual([]);
    // new, 0.05 for how new ones differ, twice the micrometer
    expect(at(2.063)).toEqual(["thicker-than-new"]);
    expect(at(2.061)).toEqual([]);
    expect(at(1.9, [1.87, 1.931])).toEqual(["taper"]);
    expect(at(1.9, [1.87, 1.929])).toEqual([]);
  });
  it("stack up with uncertainties as root of the squares", () => {
    const s = stackOf([
      { value: 2, uncertainty: 0.03 },
      { value: 1.8, uncertainty: 0.04 },
    ]);
    expect(s.value).toBeCloseTo(3.8, 12);
    expect(s.uncertainty).toBeCloseTo(0.05, 12);
    const c = clearanceOf(
      { value: 10, uncertainty: 0.06 },
      { value: 6, uncertainty: 0.06 },
      { value: 2.5, uncertainty: 0.03 },
    );
    expect(c.value).toBeCloseTo(1.5, 12);
    expect(c.uncertainty).toBeCloseTo(0.09, 12);
  });
  it("of two ends differ surely or not", () => {
    const list = (...mm: number[]) => mm.map((value) => ({ value, uncertainty: 0.006 }));
    expect(comparePlates([], list(1))).toBeUndefined();
    const same = comparePlates(list(1.8, 1.81), list(1.81, 1.8));
    expect(same?.sure).toBeLessThan(0.01);
    const apart = comparePlates(list(1.8, 1.8), list(1.7, 1.7));
    expect(apart?.differenceMm).toBeCloseTo(0.1, 12);
    expect(apart?.sure).toBeGreaterThan(0.999);
  });
});

describe("the selective part", () => {
  it("is the best of all combinations on a thousand drawn packs", () => {
    const random = seededRandom(7);
    const kinds = new Map<string, number>();
    for (let n = 0; n < 1000; n++) {
      const sizes = Array.from({ length: 2 + Math.floor(8 * random()) }, (_, i) => 1 + 0.2 * i + 0.05 * random());
      const kind = random() < 0.3 ? "ring" : "plate";
      const window: [number, number] = [0.6 + 0.3 * random(), 0];
      window[1] = window[0] + 0.1 + 0.8 * random();
      const target = window[0] + (window[1] - window[0]) * random();
      const bare = 1 + 6 * random();
      const found = chooseSelective(exact(bare), window, target, shims(sizes, kind));
      const ok = (c: number) => c >= window[0] && c <= window[1];
      const ones = sizes.map((s) => bare - s).filter(ok);
      const pairs = kind === "ring" ? [] : sizes.flatMap((a, i) => sizes.slice(i).map((b) => bare - a - b)).filter(ok);
      const nearest = (list: number[]) => Math.min(...list.map((c) => Math.abs(c - target)));
      kinds.set(found.kind, (kinds.get(found.kind) ?? 0) + 1);
      if (ones.length > 0) {
        expect(found.kind).toBe("one");
        if (found.kind !== "none") expect(Math.abs(found.best.clearanceMm - target)).toBeCloseTo(nearest(ones), 9);
      } else if (pairs.length > 0) {
        expect(found.kind).toBe("pair");
        if (found.kind !== "none") expect(Math.abs(found.best.clearanceMm - target)).toBeCloseTo(nearest(pairs), 9);
      } else expect(found.kind).toBe("none");
    }
    // every failure was met
    for (const kind of ["one", "pair", "none"]) expect(kinds.get(kind)).toBeGreaterThan(50);
  });
  it("on the very end of the window fits, beyond it does not; a ring is never doubled", () => {
    const at = (bare: number, kind: SelectivePart["kind"] = "ring") =>
      chooseSelective(exact(bare), [0.5, 1.5], 1, shims([1, 2], kind));
    expect(at(3.5).kind).toBe("one");
    expect(at(3.501).kind).toBe("none");
    expect(at(3.501, "plate").kind).toBe("pair");
    expect(at(1.5).kind).toBe("one");
    const tight = at(1.49);
    expect(tight).toMatchObject({ kind: "none" });
    if (tight.kind === "none") expect(tight.outByMm).toBeCloseTo(-0.01, 9);
    expect(selectionText(tight, "ring", 4)).toMatch(/No ring fits.*0\.01 mm too little.*plate set is wrong/);
    expect(selectionText(at(3.9), "ring", 4)).toMatch(/0\.40 mm too much: the plates are worn or too few/);
    expect(selectionText(at(2), "ring", 4)).toMatch(/^Ring 1\.00 mm sets 1\.00 ± 0\.02 mm, 0\.25 a plate\.$/);
    expect(selectionText(at(3.9, "plate"), "plate", 0)).toMatch(
      /^No single plate does; two, 1\.00 mm and 2\.00 mm, set 0\.90/,
    );
    expect(() => chooseSelective(exact(2), [0.5, 1.5], 1, shims([]))).toThrow(/no size/);
  });
  it("carries the tolerance of each part into the odds", () => {
    const one = chooseSelective({ value: 2.5, uncertainty: 0.03 }, [0.5, 1.5], 1, shims([1]));
    if (one.kind === "none") throw new Error("it fits");
    expect(one.best.uncertaintyMm).toBeCloseTo(Math.hypot(0.03, 0.01), 12);
    expect(one.best.inside).toBeCloseTo(0.5, 6);
  });
  it("of an end play is the fitted one when the play is right, and thicker by what is too much", () => {
    fc.assert(
      fc.property(fc.double({ min: 1.2, max: 2.4, noNaN: true }), (fitted) => {
        const sizes = [1.4, 1.6, 1.8, 2, 2.2];
        const chosen = chooseWasher(exact(0.7), exact(fitted), [0.3, 0.7], shims(sizes, "washer"));
        if (chosen.kind === "none" || chosen.kind === "pair") return;
        expect(chosen.best.clearanceMm).toBeCloseTo(0.7 + fitted - (chosen.best.sizesMm[0] as number), 9);
      }),
    );
    const same = chooseWasher(exact(0.5), exact(1.8), [0.3, 0.7], shims([1.6, 1.8, 2], "washer"));
    expect(same).toMatchObject({ kind: "one", best: { sizesMm: [1.8] } });
    const loose = chooseWasher(exact(0.9), exact(1.6), [0.3, 0.7], shims([1.6, 1.8, 2], "washer"));
    expect(loose).toMatchObject({ kind: "one", best: { sizesMm: [2] } });
  });
});
