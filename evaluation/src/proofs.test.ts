// Guards: a vehicle that was not repaired is not called cured on any road, at any rate, without any channel; a repaired one is.
import { describe, expect, it } from "@jest/globals";
import { proofCases, proofsPage, scoreProofs } from "./proofs.ts";
import { units } from "./testing/library.ts";

describe("the proof", () => {
  it.each(["element-worn", "solenoid-stuck-off", "launch-judder"])(
    "of %s: unrepaired it is never gone, repaired it is recognised",
    (kind) => {
      const spec = proofCases(units, 3).find((c) => c.fault.kind === kind);
      if (!spec) throw new Error(`no case of ${kind}`);
      const score = scoreProofs({ ...spec, durationS: 240 }, ["town", "mixed", "hill"]);
      expect(score.falselyGone).toEqual([]);
      expect(score.exercised).toBeGreaterThan(10);
      expect(score.repaired).toBeGreaterThan(0);
      expect(score.recognised / score.repaired).toBeGreaterThanOrEqual(0.9);
      expect(proofsPage([score], 3)).toContain(`recognised: ${score.recognised} of ${score.repaired}`);
    },
  );
});
