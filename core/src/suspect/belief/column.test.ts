// Guards: the quick ways to weigh all sets give what one set at a time gives.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { libraryKnowledge, libraryUnit } from "../../testing/units.ts";
import { SuspectModel } from "../index.ts";

const knowledge = libraryKnowledge();
const model = new SuspectModel(libraryUnit("tarn-f4"), knowledge);
const { sets } = model;
const everySet = Array.from({ length: sets.count }, (_, k) => k);
/** Every outcome of every table of the drive, with a gear, shift, code or part where it needs one. */
const pieces = knowledge.evidence
  .filter((t) => t.drive)
  .flatMap((t) =>
    t.outcomes.map((outcome) => ({
      table: t.evidence,
      outcome,
      subject: { gear: "2", shift: "1-2", code: "P0730", component: "sen_output", components: ["FC"] },
    })),
  );

describe("likelihoods of sets", () => {
  it("all at once, some out of all, and one by one are the same", () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...pieces),
        fc.double({ min: 0.3, max: 1, noNaN: true }),
        fc.double({ min: 0.2, max: 1, noNaN: true }),
        fc.uniqueArray(fc.integer({ min: 0, max: sets.count - 1 }), { minLength: 5, maxLength: 25 }),
        (piece, power, weight, some) => {
          const column = model.column({ ...piece, power, weight });
          const members = (list: readonly number[]) => list.map((k) => sets.membersOf(k));
          const all = column.ofSets(everySet, members(everySet), sets);
          const few = column.ofSets(some, members(some), sets);
          some.forEach((k, n) => {
            const plain = column.of(sets.membersOf(k));
            expect(all[k]).toBeCloseTo(plain, 10);
            expect(few[n]).toBeCloseTo(plain, 10);
            expect(plain).toBeGreaterThan(0);
            expect(plain).toBeLessThanOrEqual(1);
          });
        },
      ),
      { numRuns: 60 },
    );
  });
});
