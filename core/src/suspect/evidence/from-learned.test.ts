// Guards: learned values that were read speak of the element whose value stands out, once, and not after the unit was worked on.
import { describe, expect, it } from "@jest/globals";
import { type EntryBodies, type EntryKind, foldJob } from "../../job/index.ts";
import { madeEntry } from "../../testing/index.ts";
import { libraryKnowledge, libraryUnit } from "../../testing/units.ts";
import { believe, collectEvidence, SuspectModel, siftEvidence } from "../index.ts";

const unit = libraryUnit("brae-p6");
const knowledge = libraryKnowledge();
const NEW = Object.fromEntries((unit.adaptations ?? []).map((a) => [a.id, a.newValue]));
let seq = 0;
const entry = <K extends EntryKind>(kind: K, body: EntryBodies[K]) => madeEntry(++seq, kind, body);
const read = (values: Record<string, number>) =>
  entry("learned", { values: { ...NEW, ...values }, how: "typed", note: "" });
const relearn = (before: Record<string, number>, after: Record<string, number>) =>
  entry("relearn", {
    procedureId: "fill-learn",
    title: "Fill times learned standing",
    how: "link",
    outcome: "done",
    say: "",
    next: "",
    ends: "done",
    code: null,
    element: null,
    stage: "",
    before: { ...NEW, ...before },
    after: { ...NEW, ...after },
    note: "",
  });
const work = () => entry("work", { text: "Clutch", minutes: 60, parts: [] });
const seen = (...entries: ReturnType<typeof entry>[]) => collectEvidence(unit, foldJob(entries), [], knowledge.debris);
const of = (component: string, list: ReturnType<typeof seen>) => list.find((e) => e.subject.component === component);

describe("learned values that were read", () => {
  it("name the element whose value stands out, on either side", () => {
    // TC: 60 … 105 (new) … 180 ms; 0.3 of the way is 127.5
    expect(of("TC", seen(read({ fill_TC: 150 })))).toMatchObject({
      table: "adaptation",
      outcome: "high",
      abnormal: true,
    });
    expect(of("TC", seen(read({ fill_TC: 127.4 })))?.outcome).toBe("usual");
    expect(of("TC", seen(read({ fill_TC: 127.6 })))?.outcome).toBe("high");
    expect(of("TC", seen(read({ fill_TC: 70 })))?.outcome).toBe("low");
  });
  it("count by the newest reading before work or relearn; what comes after proves", () => {
    expect(of("TC", seen(read({ fill_TC: 110 }), read({ fill_TC: 160 })))?.outcome).toBe("high");
    expect(of("TC", seen(read({ fill_TC: 160 }), work(), read({ fill_TC: 106 })))?.outcome).toBe("high");
    expect(of("TC", seen(relearn({ fill_TC: 160 }, { fill_TC: 106 }), read({ fill_TC: 106 })))?.outcome).toBe("high");
    expect(seen(work(), read({ fill_TC: 160 })).filter((e) => e.table === "adaptation")).toEqual([]);
  });
  it("move the odds towards the element", () => {
    const model = new SuspectModel(unit, knowledge);
    const fault = model.faults.findIndex((f) => f.id === "element-worn:TC");
    const odds = (list: ReturnType<typeof seen>) =>
      believe(model, siftEvidence(model, list).used).marginals()[fault] as number;
    expect(odds(seen(read({ fill_TC: 165 })))).toBeGreaterThan(1.5 * odds(seen(read({}))));
  });
});
