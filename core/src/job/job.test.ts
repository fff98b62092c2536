// Guards: the fold of the append-only timeline: newest of a slot counts, retractions undo, the order of reading doesn't matter.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { BODY, entryId, madeEntry } from "../testing/index.ts";
import { currentInSlot, foldJob, supersededIds } from "./index.ts";

const id = entryId;
const entry = madeEntry;
const intake = (seq: number) => entry(seq, "intake", BODY.intake);
const level = (seq: number, state: Parameters<typeof BODY.level>[0]) => entry(seq, "level", BODY.level(state));
const retract = (seq: number, target: number) => entry(seq, "retraction", { entryId: id(target), reason: "" });
const log = (seq: number, logId: string, role: "before" | "after") => entry(seq, "log", BODY.log(role, logId));
const analysis = (seq: number, logId: string) => entry(seq, "analysis", BODY.analysis(logId));
const check = (seq: number) => entry(seq, "check", BODY.check);
const decision = (seq: number) => entry(seq, "decision", BODY.decision);
const work = (seq: number) => entry(seq, "work", BODY.work(30));
const proof = (seq: number) => entry(seq, "proof", BODY.proof);
const comeback = (seq: number) => entry(seq, "comeback", { what: "slips again", odometerKm: 141_000, repairId: null });
const handover = (seq: number) => entry(seq, "handover", BODY.handover);

describe("slots", () => {
  it("the newest entry of a slot counts, the earlier is replaced", () => {
    const list = [level(1, "low"), level(2, "ok")];
    expect(foldJob(list).level?.body.state).toBe("ok");
    expect([...supersededIds(list).replaced]).toEqual([id(1)]);
  });
  it("a retraction brings the earlier version back, and may itself be taken back", () => {
    const list = [level(1, "low"), level(2, "ok"), retract(3, 2)];
    expect(currentInSlot(list, "level")?.seq).toBe(1);
    expect(foldJob([...list, retract(4, 3)]).level?.body.state).toBe("ok");
  });
  it("work piles up, codes stand one by one", () => {
    const code = (seq: number, c: string) =>
      entry(seq, "code", { code: c, text: "", module: "", triage: "unclear", reason: "" });
    const state = foldJob([work(1), work(2), code(3, "P0730"), code(4, "P0722"), code(5, "P0730")]);
    expect(state.work).toHaveLength(2);
    expect(state.codes.map((c) => c.seq)).toEqual([4, 5]);
  });
  it("an analysis goes with its log", () => {
    const state = foldJob([log(1, "a", "before"), analysis(2, "a"), retract(3, 1)]);
    expect(state.logs).toEqual([]);
    expect(state.analyses).toEqual([]);
  });
});

it.each([
  ["first-look", [intake(1)]],
  ["scan", [intake(1), level(2, "ok")]],
  ["scan", [intake(1), level(2, "ok"), log(3, "a", "before")]],
  ["suspects", [intake(1), level(2, "ok"), log(3, "a", "before"), analysis(4, "a")]],
  ["decide", [intake(1), level(2, "ok"), log(3, "a", "before"), analysis(4, "a"), check(5)]],
  ["work", [intake(1), decision(2)]],
  ["proof", [intake(1), decision(2), work(3)]],
  ["handover", [intake(1), decision(2), work(3), proof(4)]],
  ["closed", [intake(1), decision(2), work(3), proof(4), handover(5)]],
  ["handover", [intake(1), decision(2), work(3), proof(4), handover(5), retract(6, 5)]],
  // it came back: what was decided, done and proved before is history
  ["scan", [intake(1), level(2, "ok"), decision(3), work(4), proof(5), handover(6), comeback(7)]],
  ["work", [intake(1), decision(3), work(4), proof(5), handover(6), comeback(7), log(8, "a", "before"), decision(9)]],
  ["proof", [intake(1), decision(3), work(4), proof(5), handover(6), comeback(7), decision(9), work(10)]],
  ["closed", [intake(1), decision(3), work(4), proof(5), handover(6), comeback(7), handover(8)]],
  ["closed", [intake(1), decision(3), work(4), proof(5), handover(6), comeback(7), retract(8, 7)]],
] as const)("stage %s", (stage, list) => {
  const state = foldJob(list);
  expect(state.stage).toBe(stage);
  expect(state.waitsFor.length).toBeGreaterThan(5);
});

it("the fold does not depend on the order in which entries are read", () => {
  const list = [
    intake(1),
    level(2, "low"),
    level(3, "ok"),
    retract(4, 3),
    decision(5),
    work(6),
    retract(7, 4),
    handover(8),
  ];
  const whole = foldJob(list);
  fc.assert(
    fc.property(fc.shuffledSubarray(list, { minLength: list.length }), (shuffled) => {
      expect(foldJob(shuffled)).toEqual(whole);
    }),
  );
});

it("every entry is current, replaced or retracted", () => {
  const list = [level(1, "low"), level(2, "ok"), retract(3, 1), check(4), check(5)];
  const { retracted, replaced } = supersededIds(list);
  for (const e of list) {
    const current = currentInSlot(list, e.slot)?.id === e.id;
    expect([current, replaced.has(e.id), retracted.has(e.id)].filter(Boolean)).toHaveLength(1);
  }
});
