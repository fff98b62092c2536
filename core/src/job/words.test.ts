// Guards: what a search finds in a timeline: what somebody wrote and stands, no ids and choices.
import { describe, expect, it } from "@jest/globals";
import { BODY, madeTimeline } from "../testing/index.ts";
import { wordsOf } from "./index.ts";

describe("words of a timeline", () => {
  it("are codes, notes, checks, parts and file names", () => {
    const { entries, write } = madeTimeline();
    write("code", BODY.code("P0733", "complaint"));
    write("note", { text: "Ferry at six" });
    write("work", { text: "Pan off", minutes: 60, parts: [{ name: "Gasket 12 hole", quantity: 1, cost: 4 }] });
    write("log", BODY.log("before"));
    const words = wordsOf(entries);
    for (const w of ["P0733", "Ferry at six", "Pan off", "Gasket 12 hole"]) expect(words).toContain(w);
    expect(words).not.toContain("complaint");
  });
  it("are not what was taken back or replaced", () => {
    const { entries, write } = madeTimeline();
    const wrong = write("note", { text: "wrong van" });
    write("retraction", { entryId: wrong.id, reason: "mistyped words" });
    write("level", { ...BODY.level("ok"), note: "first reading" });
    write("level", { ...BODY.level("ok"), note: "second reading" });
    expect(wordsOf(entries)).not.toMatch(/wrong van|mistyped|first reading/);
    expect(wordsOf(entries)).toContain("second reading");
  });
  it("are cut where nobody would search", () => {
    const { entries, write } = madeTimeline();
    for (let i = 0; i < 30; i++) write("note", { text: `${i} ${"x".repeat(1000)}` });
    expect(wordsOf(entries)).toHaveLength(20_000);
  });
});
