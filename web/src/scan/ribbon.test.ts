// Guards: the ribbon's spans tell which of them a finding lies in; the driver's marks are steps up.
import type { Analysis } from "@gearsense/core/drive";
import { buildPyramid } from "@gearsense/core/log";
import { expect, it } from "@jest/globals";
import { hitSpans, marksIn } from "./ribbon.ts";

const analysis = (kind: string, occurrences: readonly [number, number][]) =>
  ({
    gearSpans: [
      { gear: 1, startS: 0, endS: 10 },
      { gear: 2, startS: 10, endS: 20 },
      { gear: 3, startS: 20, endS: 30 },
    ],
    findings: [{ kind, occurrences: occurrences.map(([startS, endS]) => ({ startS, endS, value: 1 })) }],
  }) as unknown as Analysis;
const hit = (a: Analysis) => hitSpans(a).map((s) => s.hit);

it.each<[string, [number, number][], boolean[]]>([
  ["within one gear", [[12, 14]], [false, true, false]],
  ["over a shift", [[8, 12]], [true, true, false]],
  ["that ends where a gear begins", [[5, 10]], [true, false, false]],
  ["none", [], [false, false, false]],
])("a finding %s", (_, occurrences, expected) => {
  expect(hit(analysis("slip", occurrences))).toEqual(expected);
});
it("limp mode has a mark of its own: it does not colour the gears", () => {
  expect(hit(analysis("limp", [[0, 30]]))).toEqual([false, false, false]);
});
it("no analysis, no spans", () => {
  expect(hitSpans(undefined)).toEqual([]);
});
it("marks of the drive are where the channel steps up, not where it falls back", () => {
  const timeS = Float64Array.of(0, 1, 2, 3, 4, 5);
  const strip = { id: "mark", pyramid: buildPyramid(timeS, Float64Array.of(0, 1, 1, 0, 0, 1)) };
  expect(marksIn([strip])).toEqual([1, 5]);
  expect(marksIn([{ ...strip, id: "pedal_pct" }])).toEqual([]);
});
