// Guards: elimination against what must hold of it: solutions solve, row space is kept, order of rows does not matter.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { reduceRows } from "./reduce.ts";

const entry = fc.integer({ min: -9, max: 9 });
const systems = fc.tuple(fc.integer({ min: 1, max: 5 }), fc.integer({ min: 1, max: 5 })).chain(([rows, unknowns]) =>
  fc.record({
    rows: fc.constant(rows),
    unknowns: fc.constant(unknowns),
    matrix: fc.array(entry, { minLength: rows * unknowns, maxLength: rows * unknowns }),
    answer: fc.array(entry, { minLength: unknowns, maxLength: unknowns }),
  }),
);

describe("reduceRows", () => {
  it("keeps every solution: an answer that solved the system solves what is left of it", () => {
    fc.assert(
      fc.property(systems, ({ rows, unknowns, matrix, answer }) => {
        const columns = unknowns + 1;
        const wide = new Float64Array(rows * columns);
        for (let r = 0; r < rows; r++) {
          let right = 0;
          for (let c = 0; c < unknowns; c++) {
            wide[r * columns + c] = matrix[r * unknowns + c] as number;
            right += (matrix[r * unknowns + c] as number) * (answer[c] as number);
          }
          wide[r * columns + unknowns] = right;
        }
        const pivot = reduceRows(wide, rows, columns);
        // it can be solved: the right side is never a pivot
        expect(pivot[unknowns]).toBe(-1);
        for (let r = 0; r < rows; r++) {
          let sum = 0;
          for (let c = 0; c < unknowns; c++) sum += (wide[r * columns + c] as number) * (answer[c] as number);
          expect(sum).toBeCloseTo(wide[r * columns + unknowns] as number, 6);
        }
      }),
      { numRuns: 300 },
    );
  });
  it("each pivot column has a one in its row and zeros elsewhere; pivots go down and right", () => {
    fc.assert(
      fc.property(systems, ({ rows, unknowns, matrix }) => {
        const m = Float64Array.from(matrix);
        const pivot = [...reduceRows(m, rows, unknowns)];
        const used = pivot.filter((p) => p >= 0);
        expect(used).toEqual(used.map((_, i) => i));
        pivot.forEach((p, c) => {
          if (p < 0) return;
          for (let r = 0; r < rows; r++) expect(m[r * unknowns + c]).toBeCloseTo(r === p ? 1 : 0, 9);
        });
      }),
      { numRuns: 300 },
    );
  });
  it("counts the same rank whatever the order of the rows", () => {
    fc.assert(
      fc.property(systems, ({ rows, unknowns, matrix }) => {
        const rank = (m: number[]) =>
          [...reduceRows(Float64Array.from(m), rows, unknowns)].filter((p) => p >= 0).length;
        const turned: number[] = [];
        for (let r = rows - 1; r >= 0; r--) turned.push(...matrix.slice(r * unknowns, (r + 1) * unknowns));
        expect(rank(turned)).toBe(rank(matrix));
      }),
      { numRuns: 300 },
    );
  });
});
