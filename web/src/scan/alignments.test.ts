// Guards: two logs are laid over each other on events that both have, never on one of another kind.
import type { Analysis, Finding, Shift } from "@gearsense/core/drive";
import { describe, expect, it } from "@jest/globals";
import { alignments } from "./alignments.ts";

const shift = (name: string, commandS: number, completed = true) => ({ name, commandS, completed }) as Shift;
const finding = (id: string, startS: number) => ({ id, title: `about ${id}`, startS }) as Finding;
const log = (shifts: readonly Shift[], findings: readonly Finding[]) => ({ shifts, findings }) as unknown as Analysis;

describe("alignments", () => {
  it("the starts are always offered, and add nothing", () => {
    expect(alignments(log([], []), log([], []))).toEqual([{ id: "start", label: "their starts", shiftS: 0 }]);
  });
  it("a shift: the first that was made in each log falls on the same moment", () => {
    const own = log([shift("2-3", 12), shift("2-3", 40)], []);
    const other = log([shift("2-3", 3, false), shift("2-3", 20)], []);
    const way = alignments(own, other).find((a) => a.id === "shift:2-3");
    expect(20 + (way?.shiftS ?? 0)).toBe(12);
  });
  it("what only one log has is not offered", () => {
    const own = log([shift("2-3", 12)], [finding("slip:4", 8)]);
    const other = log([shift("3-4", 12)], [finding("slip:5", 8)]);
    expect(alignments(own, other).map((a) => a.id)).toEqual(["start"]);
  });
  it("laid over the other way round the times move back by as much", () => {
    const own = log([shift("2-3", 12)], [finding("slip:4", 30)]);
    const other = log([shift("2-3", 5)], [finding("slip:4", 70)]);
    const there = alignments(own, other);
    const back = new Map(alignments(other, own).map((a) => [a.id, a.shiftS]));
    expect(there.length).toBe(3);
    for (const a of there) expect(a.shiftS + (back.get(a.id) ?? Number.NaN)).toBe(0);
  });
});
