// Guards: a job is shown with what waits on the device in its place, once, and without what its writer has yet to decide.
import type { JobView } from "@gearsense/contract";
import { foldJob } from "@gearsense/core/job";
import { describe, expect, it } from "@jest/globals";
import type { WaitingEntry } from "./entry-queue.ts";
import { isWaiting, waitingIdOf, withWaiting } from "./overlay.ts";

const LEVEL = { state: "low", method: "dipstick", fluidC: 40, litresFromFull: 1, engineRunning: true, note: "" };
const job = {
  id: "j",
  stage: "first-look",
  waitsFor: "the fluid level",
  entries: [{ id: "e1", seq: 1, at: "", author: "Iona", source: "typed", kind: "intake", slot: "intake", body: {} }],
} as unknown as JobView;
const waiting = (kind: string, body: object, more: object = {}) =>
  ({
    id: "w",
    jobId: "j",
    kind,
    body,
    title: "",
    seq: 1e12,
    baseSeq: 0,
    at: "",
    by: "a",
    name: "Marl",
    ...more,
  }) as WaitingEntry;
const shown = (...list: WaitingEntry[]) => withWaiting(job, list);

describe("a job with what waits", () => {
  it("has it in its slot, by its writer, and stands where it will", () => {
    const view = shown(waiting("level", LEVEL));
    const level = foldJob(view.entries as never).level;
    expect(level).toMatchObject({ author: "Marl", seq: 1e12, slot: "level", body: LEVEL });
    expect(level && isWaiting(level) && waitingIdOf(level)).toBe("w");
    expect([view.stage, view.waitsFor]).toEqual(["scan", "a scan log or a road test"]);
    expect(isWaiting({ id: "e1" })).toBe(false);
  });
  it("is the same job when nothing of its own waits", () => {
    expect(shown()).toBe(job);
    expect(shown(waiting("level", LEVEL, { jobId: "other" }))).toBe(job);
  });
  it("leaves out what was refused or met another, and what the work stop counts itself", () => {
    expect(shown(waiting("level", LEVEL, { refused: "no" }))).toBe(job);
    expect(shown(waiting("level", LEVEL, { theirs: "taken back" }))).toBe(job);
    expect(shown(waiting("level", LEVEL, { refused: "no" }), waiting("level", LEVEL, { id: "w2" }))).toBe(job);
    expect(shown(waiting("step", { step: "a/b" }))).toBe(job);
  });
});
