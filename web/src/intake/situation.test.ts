// Guards: touching the picture of a situation: speed bands stay one span, places are those of the unit.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { bandsOf, placesOf, SPEED_EDGES_KMH, symptomText, touchBand } from "./situation.ts";

describe("speed bands", () => {
  it.each<[string, [number, number] | undefined, number, [number, number] | undefined]>([
    ["the first touch", undefined, 3, [60, 80]],
    ["above: stretches", [60, 80], 5, [60, 120]],
    ["below: stretches", [60, 80], 1, [20, 80]],
    ["the only one: takes it away", [60, 80], 3, undefined],
    ["the first of several: shortens", [20, 80], 1, [40, 80]],
    ["the last of several: shortens", [20, 80], 3, [20, 60]],
    ["one in the middle: becomes all of it", [20, 100], 2, [40, 60]],
  ])("%s", (_, span, band, expected) => {
    expect(touchBand(span, band)).toEqual(expected);
  });
  it("whatever is touched, what is lit is one run, and the touched band is lit or was lit", () => {
    const band = fc.nat(SPEED_EDGES_KMH.length - 2);
    fc.assert(
      fc.property(fc.array(band, { maxLength: 12 }), (touches) => {
        let span: [number, number] | undefined;
        for (const b of touches) {
          const was = bandsOf(span)[b];
          span = touchBand(span, b);
          const on = bandsOf(span);
          expect(on[b] || was).toBe(true);
          const lit = on.flatMap((v, i) => (v ? [i] : []));
          expect(lit).toEqual(lit.map((_, i) => (lit[0] as number) + i));
          if (span) expect(span[1]).toBeGreaterThan(span[0]);
        }
      }),
    );
  });
});

it("places are the gears and the shifts between neighbours, reverse first", () => {
  expect(placesOf(["1", "2", "3", "R"])).toEqual({
    gears: ["R", "1", "2", "3"],
    up: ["1-2", "2-3"],
    down: ["2-1", "3-2"],
  });
});

it("a sign reads as one line, without what was not said", () => {
  const plain = { kind: "slip", where: [], load: "any", temperature: "any", since: "" } as const;
  const speed = (a: number, b: number) => `${a} to ${b} km/h`;
  expect(symptomText(plain as never, "slips", speed)).toBe("slips");
  expect(
    symptomText(
      {
        ...plain,
        where: ["4", "3-4"],
        load: "hard",
        speedKmh: [60, 80],
        temperature: "hot",
        howOften: "often",
      } as never,
      "slips",
      speed,
    ),
  ).toBe("slips in 4, 3-4, hard load, 60 to 80 km/h, hot, often");
});
