// Guards: a view never leaves the drive, keeps its span when panned, and zooms around the point under the hand.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { around, pan, show, type View, whole, zoom } from "./view.ts";

const duration = fc.double({ min: 10, max: 3600, noNaN: true });
const views = duration.chain((durationS) =>
  fc
    .tuple(fc.double({ min: 0, max: 1, noNaN: true }), fc.double({ min: 0, max: 1, noNaN: true }))
    .map(([a, b]) => ({ durationS, view: show(a * durationS, b * durationS, durationS) })),
);
const inside = (v: View, durationS: number) => {
  expect(v.startS).toBeGreaterThanOrEqual(-1e-9);
  expect(v.endS).toBeLessThanOrEqual(durationS + 1e-9);
  expect(v.endS - v.startS).toBeGreaterThan(0.49);
};

describe("view", () => {
  it("stays inside the drive whatever is done to it", () => {
    fc.assert(
      fc.property(
        views,
        fc.double({ min: 0.01, max: 100, noNaN: true }),
        fc.double({ min: -5000, max: 5000, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        ({ durationS, view }, factor, byS, at) => {
          inside(view, durationS);
          inside(zoom(view, factor, view.startS + at * (view.endS - view.startS), durationS), durationS);
          inside(pan(view, byS, durationS), durationS);
          inside(around(at * durationS, at * durationS + 1, durationS), durationS);
        },
      ),
    );
  });
  it("keeps its span when panned", () => {
    fc.assert(
      fc.property(views, fc.double({ min: -5000, max: 5000, noNaN: true }), ({ durationS, view }, byS) => {
        const moved = pan(view, byS, durationS);
        expect(moved.endS - moved.startS).toBeCloseTo(view.endS - view.startS, 6);
      }),
    );
  });
  it("zooms around the time under the hand, and back", () => {
    const view = show(100, 200, 600);
    const near = zoom(view, 0.25, 150, 600);
    expect(near).toEqual({ startS: 137.5, endS: 162.5 });
    expect(zoom(near, 4, 150, 600)).toEqual(view);
    expect((130 - 100) / 100).toBeCloseTo((130 - zoom(view, 0.5, 130, 600).startS) / 50, 9);
  });
  it("shows a span dragged from right to left, and the whole drive", () => {
    expect(show(40, 20, 100)).toEqual({ startS: 20, endS: 40 });
    expect(zoom(show(40, 60, 100), 1000, 50, 100)).toEqual(whole(100));
  });
  it("gives a short finding room on both sides", () => {
    expect(around(50, 51, 100)).toEqual({ startS: 46.5, endS: 54.5 });
    expect(around(0.2, 0.4, 100).startS).toBe(0);
  });
});
