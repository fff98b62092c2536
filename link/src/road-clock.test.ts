// Guards: the time of a recording follows the lines, not the hour at which they came; a clock that is set in mid-drive is told and bridged.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { LEAP_S, RoadClock } from "./road-clock.ts";

describe("the time of a drive", () => {
  it("is that of its lines: four times the speed is four times the time", () => {
    const clock = new RoadClock(1000);
    expect(clock.at(50, 1200)).toBeCloseTo(0.2, 9);
    expect(clock.at(54, 2200)).toBeCloseTo(4.2, 9);
    expect(clock.jumps).toBe(0);
  });
  it("is that of this side when lines bear none", () => {
    const clock = new RoadClock(0);
    expect(clock.at(undefined, 500)).toBeCloseTo(0.5, 9);
    expect(clock.at(undefined, 1500)).toBeCloseTo(1.5, 9);
    expect(clock.at(7, 2000)).toBeCloseTo(2, 9);
    expect(clock.at(8, 2100)).toBeCloseTo(3, 9);
  });
  it("a leap just within what is believed is followed, just over it is a clock that was set; so is any step back", () => {
    const clock = new RoadClock(0);
    clock.at(100, 0);
    expect(clock.at(100 + LEAP_S + 1, 1000)).toBeCloseTo(LEAP_S + 1, 9);
    expect(clock.jumps).toBe(0);
    expect(clock.at(100 + 2 * LEAP_S + 2.01, 2000)).toBeCloseTo(LEAP_S + 2, 9);
    expect(clock.jumps).toBe(1);
    expect(clock.at(3, 2500)).toBeCloseTo(LEAP_S + 2.5, 9);
    expect(clock.jumps).toBe(2);
  });
  it("never runs backwards, whatever both clocks do", () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(
            fc.option(fc.double({ min: -1e6, max: 1e6, noNaN: true }), { nil: undefined }),
            fc.double({ min: -1e6, max: 1e6, noNaN: true }),
          ),
        ),
        (steps) => {
          const clock = new RoadClock(0);
          let last = 0;
          for (const [line, here] of steps) {
            const now = clock.at(line, here);
            expect(now).toBeGreaterThanOrEqual(last);
            last = now;
          }
        },
      ),
    );
  });
});
