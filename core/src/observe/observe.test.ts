// Guards: quick checks, judging of readings, code reports of any layout, triage, debris, contradictions, what cannot be in a unit.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { type EntryBodies, type EntryKind, foldJob } from "../job/index.ts";
import { madeEntry } from "../testing/index.ts";
import { libraryKnowledge, libraryUnit } from "../testing/units.ts";
import {
  CodeTextError,
  checkAgainstUnit,
  type DebrisClass,
  debrisSources,
  drainedAs,
  findContradictions,
  firstLookSoFar,
  judgeBattery,
  judgeLeaks,
  judgeMisfire,
  judgePositions,
  pasteWithin,
  quickChecksFor,
  readCodes,
  suggestTriage,
} from "./index.ts";

const six = libraryUnit("brae-p6");
const dry = libraryUnit("machair-d6");
const wet = libraryUnit("corran-w7");
const { rungs, debris } = libraryKnowledge();
const symptom = (kind: "slip" | "shudder" | "limp" | "harsh") =>
  ({ kind, where: [], load: "any", temperature: "any", since: "" }) as const;

let seq = 0;
const entry = <K extends EntryKind>(kind: K, body: EntryBodies[K]) => madeEntry(++seq, kind, body);
const level = (patch: Partial<EntryBodies["level"]> = {}) =>
  entry("level", {
    state: "ok",
    method: "overflow",
    fluidC: 40,
    litresFromFull: 0,
    engineRunning: true,
    note: "",
    ...patch,
  });
const fluid = (patch: Partial<EntryBodies["fluid"]> = {}) =>
  entry("fluid", { colour: "amber", smell: "none", note: "", ...patch });
const pan = (patch: Partial<EntryBodies["pan"]> = {}) =>
  entry("pan", {
    drainedL: 4,
    drainedC: 40,
    kmSinceService: null,
    filter: "clean",
    debris: [],
    sure: "sure",
    note: "",
    ...patch,
  });
const intake = (patch: Partial<EntryBodies["intake"]> = {}) =>
  entry("intake", { complaint: "x", symptoms: [], doneAlready: "", recentEvents: "", ...patch });
const observation = (rung: string, outcome: string, patch: Partial<EntryBodies["observation"]> = {}) =>
  entry("observation", {
    rung,
    title: rung,
    outcome,
    outcomeLabel: outcome,
    abnormal: false,
    method: "",
    sure: "sure",
    values: {},
    minutes: 4,
    skipped: "",
    note: "",
    ...patch,
  });
const code = (c: string) => entry("code", { code: c, text: "", module: "", triage: "unclear", reason: "" });

describe("quick checks", () => {
  it("has what belongs to the kind of unit, the complaint's own rungs first, quickest first", () => {
    const steps = quickChecksFor(six, [symptom("shudder")], rungs);
    expect(steps.map((s) => s.rung.id)).not.toContain("clutch-housing");
    const own = steps.filter((s) => s.relevant);
    expect(own.map((s) => s.rung.id)).toEqual(
      expect.arrayContaining(["misfire", "mounts", "wheels", "battery", "leaks"]),
    );
    expect(steps.slice(0, own.length)).toEqual(own);
    const minutes = own.map((s) => s.rung.minutes);
    expect(minutes).toEqual([...minutes].sort((a, b) => a - b));
  });
  it("a dry clutch has its housing, and no engagement with a converter", () => {
    const ids = quickChecksFor(dry, [symptom("slip")], rungs).map((s) => s.rung.id);
    expect(ids).toContain("clutch-housing");
    expect(ids).not.toContain("engagement");
    expect(ids).not.toContain("cooler");
  });
  it("counts minutes, and says what stays open of what was left out", () => {
    const steps = quickChecksFor(six, [], rungs);
    const state = foldJob([
      level({ minutes: 12 }),
      observation("battery", "good"),
      observation("mounts", "skipped", { minutes: 0, skipped: "no helper" }),
    ]);
    expect(firstLookSoFar(state, steps)).toMatchObject({
      minutes: 16,
      done: 2,
      open: [{ reason: "no helper", leavesOpen: expect.stringMatching(/torn mount/) }],
    });
  });
});

describe("judging", () => {
  it.each([
    [12.6, 10.4, 14.2, "good"],
    [12.1, 10.4, 14.2, "weak"],
    [12.6, 9.2, 14.2, "weak"],
    [12.6, 10.4, 12.9, "not-charging"],
    [12.6, 10.4, 15.4, "not-charging"],
    [null, null, 14.2, "good"],
    [null, null, null, undefined],
  ])("battery %s V at rest, %s V cranking, %s V charging: %s", (restV, crankingV, chargingV, outcome) => {
    expect(judgeBattery({ restV, crankingV, chargingV })).toBe(outcome);
  });
  it("lever: all positions must agree; one that is off is enough", () => {
    expect(judgePositions({ P: "agrees", R: "agrees", N: "agrees" })).toBeUndefined();
    expect(judgePositions({ P: "agrees", R: "agrees", N: "agrees", D: "agrees" })).toBe("agrees");
    expect(judgePositions({ R: "other" })).toBe("one-off");
    expect(judgePositions({ P: "agrees", R: "sticks" })).toBe("sticks");
  });
  it("misfire: stray counts are none", () => {
    expect(judgeMisfire([0, 2, 0, 1])).toBe("none");
    expect(judgeMisfire([0, 0, 48, 0])).toBe("counted");
    expect(judgeMisfire([null, null])).toBeUndefined();
  });
  it("leaks: the worst place counts", () => {
    expect(judgeLeaks({ pan: "dry", output: "drip", breather: "seep" })).toBe("drip");
    expect(judgeLeaks({ pan: "dry" })).toBe("dry");
    expect(judgeLeaks({})).toBeUndefined();
  });
});

const REPORTS: readonly (readonly [string, string, readonly (readonly [string, string, string | undefined])[]])[] = [
  [
    "headings of modules, state behind the text",
    `VEHICLE REPORT\nModule: Engine\nP0301 Cylinder 1 misfire detected (stored)\n\nModule: Transmission\nP0722 - Output speed sensor no signal [pending]\nP0730: Incorrect gear ratio\n`,
    [
      ["P0301", "Engine", "stored"],
      ["P0722", "Transmission", "pending"],
      ["P0730", "Transmission", undefined],
    ],
  ],
  [
    "framed headings, text on its own line, suffix of the failure type",
    `=== Gearbox control ===\nU0101-00\n  Lost communication\n  Status: confirmed\n[Brakes]\nno codes\n`,
    [["U0101", "Gearbox control", "stored"]],
  ],
  [
    "module in front of each code",
    "TCM   P0741   Converter clutch stuck off   permanent\nABS  C1234  Wheel sensor\n",
    [
      ["P0741", "TCM", "permanent"],
      ["C1234", "ABS", undefined],
    ],
  ],
  [
    "a table with semicolons",
    "System;DTC;Description;Status;Engine speed\nTransmission;p0730;Incorrect ratio;Active;2105 rpm\n",
    [["P0730", "Transmission", "stored"]],
  ],
  [
    "counted headings",
    "Transmission (2 codes)\n P0715\n P0720\n",
    [
      ["P0715", "Transmission", undefined],
      ["P0720", "Transmission", undefined],
    ],
  ],
];
describe("code reports", () => {
  it.each(REPORTS)("%s", (_, text, expected) => {
    const { codes } = readCodes(text);
    expect(codes.map((c) => [c.code, c.module, c.status])).toEqual(expected);
  });
  it("keeps the freeze frame with its code", () => {
    const { codes, unread } = readCodes(
      "P0730 Incorrect ratio\nFreeze frame\nEngine speed: 2140 rpm\nFluid temperature = 96 °C\nP0720\nSpeed: 51 km/h\n",
    );
    expect(codes[0]?.freezeFrame).toEqual({ "Engine speed": "2140 rpm", "Fluid temperature": "96 °C" });
    expect(codes[1]?.freezeFrame).toEqual({ Speed: "51 km/h" });
    expect(unread).toEqual([]);
    const [row] = readCodes(REPORTS[3]?.[1] ?? "").codes;
    expect(row?.freezeFrame).toEqual({ "Engine speed": "2105 rpm" });
  });
  it.each<[string, string[]]>([
    ["P0750 / P0755 / P0760", ["P0750:", "P0755:", "P0760:"]],
    ["Codes: P0730, P0741 and U0101", ["P0730:", "P0741:", "U0101:"]],
    ["TCM: P0730 Gear ratio; P0741 Converter clutch", ["P0730:Gear ratio", "P0741:Converter clutch"]],
    ["3) yesterday uphill: P0730 gear ratio", ["P0730:3) yesterday uphill gear ratio"]],
  ])("several in one line, and what stands before one: %j", (text, expected) => {
    expect(readCodes(text).codes.map((c) => `${c.code}:${c.text}`)).toEqual(expected);
  });
  it("the same code in two modules is two entries", () => {
    const { codes } = readCodes("[Transmission]\nP0730 ratio\n[Engine]\nP0730 ratio\n");
    expect(codes.map((c) => c.module)).toEqual(["Transmission", "Engine"]);
    const bodies = codes.map(
      ({ code, text, module }) => ({ code, text, module, triage: "unclear", reason: "" }) as const,
    );
    const state = foldJob(bodies.map((b, i) => madeEntry(i + 1, "code", b)) as never);
    expect(state.codes.map((c) => c.body.module)).toEqual(["Transmission", "Engine"]);
  });
  it("returns what it made nothing of, with the line", () => {
    expect(readCodes("Skerrow garage, bay 2\nP0730\nIncorrect ratio\nthank you for your visit\n").unread).toEqual([
      { line: 1, text: "Skerrow garage, bay 2" },
      { line: 4, text: "thank you for your visit" },
    ]);
  });
  it.each([
    ["", "empty"],
    ["nothing wrong here", "no-code"],
    ["x".repeat(400_001), "too-long"],
    [Array.from({ length: 600 }, (_, i) => `P0${String(300 + (i % 99))}`).join("\n"), "too-long"],
  ])("%#: refused as %s", (text, expected) => {
    let refused: unknown;
    try {
      readCodes(text);
    } catch (e) {
      refused = e;
    }
    expect(refused instanceof CodeTextError && refused.code).toBe(expected);
  });
  it("any text gives a report or a typed refusal, and loses no line with a code", () => {
    const line = fc.oneof(
      fc.string(),
      fc.constantFrom("P0730 x", "U0100", "Module: A", "a: b", "P0301,,;;", "----", "C0035-14 pending"),
    );
    fc.assert(
      fc.property(fc.array(line, { maxLength: 40 }), (lines) => {
        const text = lines.join("\n");
        try {
          const { codes, unread } = readCodes(text);
          const all = text.split(/\r\n|\r|\n/).length;
          expect(codes.length + unread.length).toBeLessThanOrEqual(all);
          for (const c of codes) expect(c.code).toMatch(/^[PCBU][0-3][0-9A-F]{3}$/);
        } catch (e) {
          expect(e).toBeInstanceOf(CodeTextError);
        }
      }),
    );
  });
});

describe("triage, with the reason", () => {
  const own = six.codes[0]?.code ?? "";
  it.each<[string, Parameters<typeof intake>[0], string, RegExp]>([
    [
      "U0101",
      { history: [{ kind: "battery", what: "battery off for a week" }] },
      "earlier-work",
      /battery off for a week/,
    ],
    ["U0101", {}, "unclear", /measure the battery/],
    ["P0562", {}, "unclear", /system voltage/],
    ["P0302", { symptoms: [symptom("shudder")] }, "complaint", /engine first/],
    ["P0302", { symptoms: [symptom("limp")] }, "unclear", /engine first/],
    ["P0700", {}, "unclear", /a code of its own/],
    [own, {}, "complaint", /unit file: speaks of/],
    [own, { history: [{ kind: "codes-cleared", what: "" }] }, "complaint", /came back after/],
    ["P0798", {}, "complaint", /maker's instructions/],
    ["C0035", {}, "unclear", /stored by Brakes/],
  ])("%s after %j: %s", (c, history, expected, words) => {
    const t = suggestTriage(six, foldJob([intake(history)]), c, c.startsWith("C") ? "Brakes" : "");
    expect(t.triage).toBe(expected);
    expect(t.reason).toMatch(words);
  });
});

describe("debris", () => {
  const kind = (id: string) => debris.kinds.find((k) => k.id === id) as DebrisClass;
  it("lining comes from this unit's packs and its converter clutch; from a dry clutch none can be in the oil", () => {
    const packs = six.elements.filter((e) => ["clutch", "brake", "band"].includes(e.kind)).map((e) => e.name);
    expect(debrisSources(six, kind("lining"))).toEqual([...packs, "converter clutch"]);
    expect(debrisSources(wet, kind("lining"))).toEqual(
      wet.elements.filter((e) => e.kind === "dual-clutch").map((e) => e.name),
    );
    expect(debrisSources(dry, kind("lining"))).toEqual([]);
  });
  it("every kind has a source in at least one unit, and no part twice", () => {
    for (const k of debris.kinds) {
      const all = [six, wet, dry].map((u) => debrisSources(u, k));
      expect(all.some((s) => s.length > 0)).toBe(true);
      for (const s of all) expect(new Set(s).size).toBe(s.length);
    }
  });
  it.each([
    [1, 10_000, true],
    [2, 10_000, false],
    [2, 60_000, true],
    [3, 60_000, false],
    [3, 200_000, true],
    [3, null, undefined],
  ])("grey paste %s after %s km: within is %s", (amount, km, within) => {
    expect(pasteWithin(debris, amount, km)).toBe(within);
  });
  it.each([
    [0.8, "short"],
    [six.fluid.panDrainL, "as-expected"],
    [six.fluid.panDrainL * 1.4, "over"],
  ])("%d l out of the pan: %s", (litres, state) => {
    expect(drainedAs(six, litres, null)?.state).toBe(state);
  });
});

describe("contradictions", () => {
  const ids = (unit: typeof six, ...entries: ReturnType<typeof entry>[]) =>
    findContradictions(unit, foldJob(entries as never)).map((c) => c.id);
  it.each<[string, ReturnType<typeof entry>[], string[]]>([
    ["nothing known", [], []],
    ["a sound job", [intake(), level(), fluid(), pan(), observation("battery", "good")], []],
    ["full, and 0.8 l came out", [level(), pan({ drainedL: 0.8 })], ["full-but-short"]],
    [
      "low, and more came out than expected",
      [level({ state: "low", litresFromFull: -1 }), pan({ drainedL: 5.6 })],
      ["low-but-over"],
    ],
    ["full by word, low by number", [level({ litresFromFull: -0.9 })], ["level-converted"]],
    ["read with the engine off", [level({ engineRunning: false })], ["level-spoilt"]],
    ["fresh and burnt", [fluid({ colour: "fresh", smell: "burnt" })], ["fresh-but-burnt"]],
    ["milky by word only", [fluid({ colour: "milky", cloudiness: "clear" })], ["milky-or-not"]],
    [
      "changed lately and black",
      [intake({ history: [{ kind: "fluid", what: "changed in May" }] }), fluid({ colour: "black" })],
      ["changed-but-old"],
    ],
    [
      "limp and no code",
      [intake({ symptoms: [symptom("limp")] }), entry("codes-read", { allModules: true, note: "" })],
      ["limp-without-code"],
    ],
    [
      "limp, no code, but they were cleared",
      [
        intake({ symptoms: [symptom("limp")], history: [{ kind: "codes-cleared", what: "" }] }),
        entry("codes-read", { allModules: true, note: "" }),
      ],
      [],
    ],
    [
      "a good battery and a code of its voltage",
      [observation("battery", "good"), code("P0562")],
      ["battery-good-but-code"],
    ],
    [
      "low and dry all round",
      [level({ state: "low", litresFromFull: -1 }), observation("leaks", "dry")],
      ["low-but-dry"],
    ],
    [
      "low and dry, but leaks were not looked at",
      [level({ state: "low", litresFromFull: -1 }), observation("leaks", "skipped", { skipped: "rain" })],
      [],
    ],
    [
      "black by word, fresh in the photo",
      [
        fluid({
          colour: "black",
          photo: {
            photoId: "00000000-0000-4000-8000-000000000001",
            fluid: { x: 0, y: 0, w: 1, h: 1 },
            white: { x: 0, y: 0, w: 1, h: 1 },
            lab: [...(six.fluid.freshLab ?? [0, 0, 0])] as [number, number, number],
            uncertaintyDeltaE: 3,
          },
        }),
      ],
      ["word-against-photo"],
    ],
  ])("%s", (_, entries, expected) => {
    expect(ids(six, ...entries)).toEqual(expected);
  });
  it("names its entries and what would settle it, whatever the order", () => {
    const entries = [level(), pan({ drainedL: 0.8 }), fluid({ colour: "fresh", smell: "burnt" })];
    const found = findContradictions(six, foldJob(entries as never));
    expect(found[0]?.entryIds).toEqual([entries[0]?.id, entries[1]?.id]);
    for (const c of found) expect(c.settle.length).toBeGreaterThan(10);
    expect(findContradictions(six, foldJob([...entries].reverse() as never))).toEqual(found);
  });
});

describe("what cannot be in this unit", () => {
  it.each<[EntryKind, unknown, RegExp | undefined]>([
    ["level", level({ litresFromFull: -12 }).body, /holds 9.2 l/],
    ["level", level({ litresFromFull: -1 }).body, undefined],
    ["pan", pan({ drainedL: 14 }).body, /14.0 l cannot have come out/],
    ["pan", pan({ drainedL: 4.1 }).body, undefined],
    ["intake", intake({ symptoms: [{ ...symptom("slip"), where: ["9", "2-3"] }] }).body, /no gear 9/],
    ["note", { text: "x" }, undefined],
  ])("%s %#", (kind, body, words) => {
    const said = Object.values(checkAgainstUnit(kind, body as never, six)).join(" ");
    if (words) expect(said).toMatch(words);
    else expect(said).toBe("");
  });
});
