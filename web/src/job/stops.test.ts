// Guards: the job line: the state and the figure of each stop, from the timeline.

import { type Entry, foldJob } from "@gearsense/core/job";
import { BODY, madeTimeline } from "@gearsense/core/testing";
import { describe, expect, it } from "@jest/globals";
import { entrySummary } from "./entry-text.ts";
import { stopsOf } from "./stops.ts";

const { write: entry } = madeTimeline();
const level = (state: Parameters<typeof BODY.level>[0]) => entry("level", BODY.level(state));
const log = (role: "before" | "after") => entry("log", BODY.log(role));
const analysis = (role: "before" | "after", findings: number) => entry("analysis", BODY.analysis(role, findings));
const work = (minutes: number) => entry("work", BODY.work(minutes));
const bench = (place: string, pass: boolean) =>
  entry("bench", {
    ...{ place, title: place, values: [], chosen: [], note: "" },
    looks: [{ id: "colour", name: "Colour of the linings", outcome: "x", label: "Black", pass }],
  });
const stop = (entries: Entry[], id: string, share?: number) =>
  stopsOf(foldJob(entries), share, "metric").find((s) => s.id === id);

describe("stops", () => {
  it("of a new job are untouched and without figures", () => {
    for (const s of stopsOf(foldJob([]), undefined, "metric"))
      expect(s).toMatchObject({ state: "untouched", figure: "" });
  });
  it("have a letter of their own each", () => {
    const keys = stopsOf(foldJob([]), undefined, "metric").map((s) => s.key);
    expect(new Set(keys).size).toBe(keys.length);
  });
  it.each([
    ["first-look", () => [level("low")], { state: "done", figure: "low" }],
    ["first-look", () => [level("low"), level("ok")], { state: "done", figure: "level ok" }],
    ["scan", () => [log("before")], { state: "in hand", figure: "" }],
    ["scan", () => [log("before"), analysis("before", 1)], { state: "done", figure: "1 finding" }],
    [
      "scan",
      () => [log("before"), analysis("before", 3), log("after"), analysis("after", 9)],
      { figure: "3 findings" },
    ],
    ["suspects", () => [log("before"), analysis("before", 3)], { state: "in hand", figure: "62 %" }],
    ["work", () => [work(90), work(45)], { state: "done", figure: "2.3 h" }],
    ["bench", () => [bench("pack:TC", false)], { state: "in hand", figure: "1 place" }],
    ["bench", () => [bench("pack:TC", true), bench("cooler", true)], { state: "done", figure: "2 places" }],
    ["proof", () => [work(5)], { state: "in hand", figure: "" }],
  ])("%s", (id, entries, expected) => {
    const s = stop(entries(), id, 0.62);
    expect({ ...s, figure: s?.figure.replaceAll("\u00a0", " ") }).toMatchObject(expected);
  });
  it("a log that was taken back leaves the scan untouched", () => {
    const file = log("before");
    const entries = [file, analysis("before", 2), entry("retraction", { entryId: file.id, reason: "" })];
    expect(stop(entries, "scan")).toMatchObject({ state: "untouched", figure: "" });
  });
});

describe("entries in one line", () => {
  it.each([
    [() => level("high"), /^fluid level overfilled, overflow at 40 °C$/],
    [() => log("after"), /"a.csv" stored unchanged \(after the repair\), hash abcd…89/],
    [() => work(20), /^work: Pan off \(20 min\)$/],
    [() => entry("retraction", { entryId: "x", reason: "wrong job" }), /^took back an entry: wrong job$/],
    [() => bench("pack:TC", false), /^bench: pack:TC, Colour of the linings Black$/],
    [() => entry("codes-read", { allModules: true, note: "" }), /all modules/],
  ])("%#", (make, expected) => {
    expect(entrySummary(make(), "metric").replaceAll("\u00a0", " ")).toMatch(expected);
  });
  it("and the figures of the job line are in the units of measure of the reader", () => {
    expect(entrySummary(level("ok"), "imperial").replaceAll("\u00a0", " ")).toContain("at 104 °F");
    const pan = entry("pan", {
      drainedL: 4,
      drainedC: 60,
      kmSinceService: null,
      filter: "clean",
      debris: [{ kind: "lining", amount: 2, sizeMm: 3 }],
      sure: "sure",
      note: "",
    });
    expect(entrySummary(pan, "imperial").replaceAll("\u00a0", " ")).toBe("pan: 4.2 qt drained, some lining to 0.12 in");
    expect(entrySummary(pan, "metric").replaceAll("\u00a0", " ")).toBe("pan: 4.0 l drained, some lining to 3 mm");
    const figure = (system: "metric" | "imperial") =>
      stopsOf(foldJob([pan]), undefined, system)
        .find((s) => s.id === "pan")
        ?.figure.replaceAll("\u00a0", " ");
    expect([figure("metric"), figure("imperial")]).toEqual(["4.0 l", "4.2 qt"]);
  });
});
