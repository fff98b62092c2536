// Guards: which stays of a job say what was wrong: proved, worked on, handed over and not come back.
import { expect, it } from "@jest/globals";
import { BODY, madeTimeline } from "../testing/index.ts";
import { libraryKnowledge, libraryUnit } from "../testing/units.ts";
import { provedBy } from "./index.ts";

const knowledge = libraryKnowledge();
const brae = libraryUnit("brae-p6");
const found = (kinds: readonly string[], repairId = "mount") => {
  const { entries, write } = madeTimeline();
  for (const kind of kinds) {
    if (kind === "decision") write("decision", { ...BODY.decision, repairId, odds: [] });
    else if (kind === "work") write("work", BODY.work(60));
    else if (kind === "comeback") write("comeback", { what: "Again.", odometerKm: 10, repairId: "mount" });
    else write(kind as "proof", BODY[kind as "proof"]);
  }
  return provedBy(brae, knowledge, { number: "1", customer: "", vehicle: "", entries }).map((p) => p.found);
};
const WHOLE = ["intake", "decision", "work", "proof", "handover"];

it("a stay with a proved repair says what that cures", () => {
  expect(found(WHOLE)).toEqual([{ mount: 1 }]);
});
it.each(["decision", "work", "proof", "handover"])("one without its %s says nothing", (missing) => {
  expect(found(WHOLE.filter((k) => k !== missing))).toEqual([]);
});
it("one that came back says nothing; the stay after it does", () => {
  expect(found([...WHOLE, "comeback"])).toEqual([]);
  expect(found([...WHOLE, "comeback", ...WHOLE.slice(1)])).toEqual([{ mount: 1 }]);
});
it("one that was handed back says nothing", () => {
  expect(found(WHOLE, "hand-back")).toEqual([]);
});
