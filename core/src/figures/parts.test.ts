// Guards: which parts a job has fitted, for what, and whether that lasted.
import { describe, expect, it } from "@jest/globals";
import { BODY, madeTimeline } from "../testing/index.ts";
import { holdsWords, partsFitted } from "./index.ts";

const fitted = (...names: string[]) => ({
  text: "Fitted",
  minutes: 30,
  parts: names.map((name) => ({ name, quantity: 2, cost: 5 })),
});

describe("parts that were fitted", () => {
  it("are those that hold every word, with what they were fitted for and what became of it", () => {
    const { entries, write } = madeTimeline();
    write("intake", BODY.intake);
    write("decision", { ...BODY.decision, title: "Rebuild" });
    write("work", fitted("Seal kit red", "Filter"));
    const of = (find: string) => partsFitted({ entries }, 1000, find);
    expect(of("RED seal")).toMatchObject([
      { name: "Seal kit red", quantity: 2, repair: "Rebuild", since: "open", lastedKm: null },
    ]);
    expect(of("seal blue")).toEqual([]);
    write("proof", BODY.proof);
    expect(of("seal")[0]?.since).toBe("proved");
    write("handover", BODY.handover);
    write("comeback", { what: "Slips", odometerKm: 1850, repairId: "rebuild:TC" });
    expect(of("seal")[0]).toMatchObject({ since: "came back", lastedKm: 850 });
    // what is fitted then is of the stay after it
    write("decision", { ...BODY.decision, title: "Exchange" });
    write("work", fitted("Seal kit blue"));
    expect(of("seal").map((p) => [p.name, p.repair, p.since])).toEqual([
      ["Seal kit blue", "Exchange", "open"],
      ["Seal kit red", "Rebuild", "came back"],
    ]);
  });
  it("that came back for another trouble have lasted; what was taken back was never fitted", () => {
    const { entries, write } = madeTimeline();
    write("intake", BODY.intake);
    write("decision", BODY.decision);
    const wrong = write("work", fitted("Pump"));
    write("work", fitted("Seal"));
    write("retraction", { entryId: wrong.id, reason: "another job" });
    write("proof", BODY.proof);
    write("handover", BODY.handover);
    write("comeback", { what: "A noise", odometerKm: 1200, repairId: null });
    expect(partsFitted({ entries }, 1000, "pump")).toEqual([]);
    expect(partsFitted({ entries }, 1000, "seal")[0]).toMatchObject({ since: "proved", lastedKm: null });
  });
  it("words are found in any order and case", () => {
    expect(holdsWords("Seal kit RED", "red seal")).toBe(true);
    expect(holdsWords("Seal kit", "red seal")).toBe(false);
  });
});
