// Guards: what may be written on a timeline, and the words with which the rest is refused.

import { BODY, madeEntry } from "@gearsense/core/testing";
import { describe, expect, it } from "@jest/globals";
import { EntrySchema, TypedBodies } from "./entries.ts";
import { NewEntry } from "./new-entry.ts";

const refusal = (kind: string, body: unknown) => {
  const result = NewEntry.safeParse({ kind, body, baseSeq: 0 });
  return result.success ? "taken" : result.error.issues.map((i) => `${i.path.join(".")}: ${i.message}`).join("; ");
};
const bodies = {
  intake: BODY.intake,
  level: BODY.level("ok"),
  fluid: { colour: "amber", smell: "none", note: "" },
  observation: {
    rung: "battery",
    title: "Battery",
    outcome: "weak",
    outcomeLabel: "rest is weak",
    abnormal: true,
    method: "meter",
    sure: "fairly",
    values: { restV: 12.1 },
    minutes: 4,
    skipped: "",
    note: "",
  },
  identity: {
    name: "School minibus",
    plate: "SK 4 191",
    owner: "Northstead School",
    vin: "",
    unitId: "brae-p6",
    odometerKm: 132_700,
    reason: "mixed up with its twin",
  },
  pan: {
    drainedL: 3.9,
    drainedC: 60,
    kmSinceService: 40_000,
    filter: "clean",
    debris: [{ kind: "lining", amount: 2, sizeMm: 3 }],
    sure: "sure",
    note: "",
  },
  "fluid-plan": {
    way: "drain-and-fill",
    times: 3,
    litres: 12.3,
    fresh: 0.83,
    minutes: 160,
    cost: 310,
    fluid: "ATF",
    intervalKm: 48_000,
    reasons: ["tows"],
    followUps: [{ what: "Second fluid change", dueOn: "2027-02-01", dueKm: 120_000, why: "" }],
    note: "",
  },
  photo: {
    photoId: "11111111-1111-4111-8111-111111111111",
    sha256: "a".repeat(64),
    widthPx: 1600,
    heightPx: 1200,
    about: "magnet",
    caption: "",
    markers: [{ x: 0.2, y: 0.7, text: "flake" }],
  },
  code: BODY.code("P0730", "unclear"),
  "codes-read": { allModules: true, note: "" },
  check: BODY.check,
  felt: {
    by: "Driver",
    sure: "sure",
    marks: [
      { where: "4", outcome: "nothing", load: "any", temperature: "hot" },
      { where: "2-3", outcome: "flares", load: "hard", temperature: "any" },
      { where: "cruising", outcome: "shake", load: "light", temperature: "hot" },
      { where: "P", outcome: "rolls", load: "any", temperature: "any" },
    ],
    note: "",
  },
  sources: {
    have: ["exchange@spare"],
    titles: ["Exchange unit: spare from the shelf"],
    also: [{ repairId: "fluid", title: "Renew fluid and filter" }],
  },
  estimate: {
    optionId: "rebuild:HC@kit",
    title: "Rebuild",
    lines: [{ kind: "labour", what: "Labour", quantity: 12, each: 72 }],
    taxPercent: 23,
    validDays: 30,
    note: "",
  },
  tried: { repairId: "fluid", title: "Renew fluid and filter", outcome: "no-change", note: "" },
  decision: BODY.decision,
  plan: { ways: ["unit-out-longitudinal-two"] },
  tray: { step: "valve-body/strip", full: ["ball-1"] },
  emptied: {
    drainedL: 4.1,
    drainedC: 52,
    spiltL: 0.1,
    linesOpened: false,
    converterDrained: false,
    dry: false,
    prefilledL: 0,
  },
  filling: { deed: "poured", litres: 3.5, fluidC: null, saw: "ran-over", note: "" },
  supply: {
    parts: [{ name: "Filter set", quantity: 1, leadDays: 2, orderedOn: "2026-11-30", dueOn: null, cameOn: null }],
  },
  promise: { at: "2026-12-02T16:30", odds: 0.9, note: "" },
  learned: { values: { fill_TC: 150 }, how: "typed", note: "" },
  relearn: {
    procedureId: "fill-learn",
    title: "Fill times learned standing",
    how: "link",
    outcome: "failed",
    say: "A clutch does not fill (TC)",
    next: "Look for its leak.",
    ends: "repair",
    code: 33,
    element: "TC",
    stage: "Brake pressed",
    before: { fill_TC: 150 },
    after: {},
    note: "",
  },
  "break-in": { odometerKm: 140_400, inspected: { level: "ok", leaks: false, metal: false }, note: "" },
  comeback: { what: "slips in third again", odometerKm: 141_200, repairId: "rebuild:TC" },
  step: {
    step: "drain/measure",
    title: "Measure what came out",
    minutes: 6,
    values: [{ id: "drained", name: "Drained", value: "4,1" }],
    trouble: ["not all was caught"],
    note: "",
    overridden: "",
  },
  bench: {
    place: "pack:TC",
    title: "Third clutch, as it came out",
    values: [
      {
        ...{ id: "plate-1", name: "Friction plate 1", unit: "mm", readings: [1.82, 1.83], instrument: "Micrometer" },
        ...{ percent: 0, fixed: 0.006, from: 1.6 },
      },
    ],
    looks: [{ id: "colour", name: "Colour", outcome: "black", label: "Black", pass: false }],
    chosen: [
      { id: "selective", name: "Ring 2.40 mm", sizeMm: 2.4, quantity: 1, costEach: 9, why: "nearest its target" },
    ],
    note: "",
  },
  work: BODY.work(30),
  proof: {
    beforeLogId: "11111111-1111-4111-8111-111111111111",
    afterLogId: "22222222-2222-4222-8222-222222222222",
    sentence: "gone",
    note: "",
  },
  "road-test": {
    drives: [{ where: "4", times: 8, felt: 0, load: "hard", temperature: "hot" }],
    note: "",
  },
  assigned: { to: "Iona Tullo" },
  approval: {
    optionId: "rebuild:TC",
    title: "Rebuild TC",
    net: 600,
    withTax: 738,
    by: "Skerrow Library",
    how: "signed",
    signature: [[0, 10, 1000, 20]],
    deposit: null,
    terms: "",
    note: "",
  },
  handover: BODY.handover,
  caution: { about: "x", text: "y" },
  note: { text: "a note" },
  retraction: { entryId: "11111111-1111-4111-8111-111111111111", reason: "" },
} as const;

describe("entries that a person writes", () => {
  it.each(Object.entries(bodies))("%s is taken as it is", (kind, body) => {
    expect(NewEntry.parse({ kind, body, baseSeq: 3 })).toEqual({ kind, body, baseSeq: 3 });
  });
  it("are all the kinds there are but those that only the server writes", () => {
    expect(Object.keys(TypedBodies).sort()).toEqual(Object.keys(bodies).sort());
    for (const kind of ["log", "analysis"]) expect(refusal(kind, {})).not.toBe("taken");
  });
  it.each([
    ["intake", { ...bodies.intake, complaint: "  " }, /complaint: The complaint is needed/],
    [
      "intake",
      { ...bodies.intake, symptoms: [{ kind: "slip", where: ["fourth"], load: "any", temperature: "any", since: "" }] },
      /symptoms\.0\.where\.0: .*a gear such as "4"/,
    ],
    ["level", { ...bodies.level, fluidC: 400 }, /fluidC: above 150 °C/],
    ["level", { ...bodies.level, state: undefined }, /state/],
    ["pan", { ...bodies.pan, drainedL: 44 }, /drainedL: over 30 l/],
    ["pan", { ...bodies.pan, drainedC: 230 }, /drainedC: above 150 °C/],
    ["pan", { ...bodies.pan, debris: [{ kind: "lining", amount: 7, sizeMm: 3 }] }, /debris\.0\.amount/],
    ["photo", { ...bodies.photo, markers: [{ x: 1.4, y: 0, text: "" }] }, /markers\.0\.x/],
    ["intake", { ...bodies.intake, vehicleValue: -5 }, /vehicleValue: a value is not negative/],
    ["observation", { ...bodies.observation, outcome: "" }, /outcome: say what was seen/],
    ["code", { ...bodies.code, code: "730" }, /code: a code has a letter/],
    ["step", { ...bodies.step, step: " " }, /step: The step is needed/],
    ["step", { ...bodies.step, minutes: -1 }, /minutes/],
    ["work", { ...bodies.work, minutes: Number.NaN }, /minutes: minutes are a number/],
    ["work", { ...bodies.work, parts: [{ name: "", quantity: 1, cost: 1 }] }, /parts\.0\.name: The part is needed/],
    [
      "handover",
      { remarks: "", followUps: [{ what: "Level", dueOn: "24.12.2026", dueKm: null }] },
      /followUps\.0\.dueOn/,
    ],
    ["estimate", { ...bodies.estimate, lines: [] }, /lines: an estimate needs a line/],
    [
      "estimate",
      { ...bodies.estimate, lines: [{ kind: "part", what: "Kit", quantity: 1, each: 5 }] },
      /lines: an estimate needs labour/,
    ],
    ["estimate", { ...bodies.estimate, taxPercent: 61 }, /taxPercent: over 60 %/],
    ["intake", { ...bodies.intake, keepYears: 41 }, /keepYears: over 40 years/],
    ["identity", { ...bodies.identity, odometerKm: -1 }, /odometerKm: the mileage cannot be negative/],
    ["identity", { ...bodies.identity, reason: "" }, /reason: The reason is needed/],
    ["felt", { ...bodies.felt, by: " " }, /by: Whose words these are is needed/],
    ["felt", { ...bodies.felt, marks: [] }, /marks: mark at least one/],
    ["felt", { ...bodies.felt, marks: [{ ...bodies.felt.marks[0], where: "fourth" }] }, /marks\.0\.where: a gear/],
    ["felt", { ...bodies.felt, marks: [{ ...bodies.felt.marks[0], outcome: "harsh" }] }, /marks\.0\.outcome/],
    ["decision", { ...bodies.decision, cures: 1.2 }, /cures/],
    ["bench", { ...bodies.bench, place: "Pack TC" }, /place: a place of the bench such as pack:TC/],
    ["bench", { ...bodies.bench, values: [{ ...bodies.bench.values[0], readings: [] }] }, /values\.0\.readings/],
    ["bench", { ...bodies.bench, values: [{ ...bodies.bench.values[0], fixed: -1 }] }, /values\.0\.fixed/],
    ["bench", { ...bodies.bench, chosen: [{ ...bodies.bench.chosen[0], sizeMm: 0 }] }, /chosen\.0\.sizeMm/],
    ["bench", { ...bodies.bench, curve: [[1000]] }, /curve\.0/],
    ["approval", { ...bodies.approval, by: " " }, /by: The customer’s name is needed/],
    ["approval", { ...bodies.approval, signature: [] }, /signature: the customer signs in the field/],
    ["approval", { ...bodies.approval, how: "told" }, /signature/],
    ["approval", { ...bodies.approval, signature: [[0, 10, 1000.1, 20]] }, /signature\.0\.2/],
    ["approval", { ...bodies.approval, signature: [[0, 10, 5]] }, /signature\.0: a stroke is made of pairs/],
    ["approval", { ...bodies.approval, deposit: -1 }, /deposit: an amount is not negative/],
    [
      "approval",
      { ...bodies.approval, signature: Array.from({ length: 6 }, () => Array.from({ length: 4000 }, () => 1)) },
      /signature: is too long/,
    ],
    ["retraction", { entryId: "e1", reason: "" }, /entryId/],
    ["note", { text: "x".repeat(2001) }, /text/],
  ])("%s is refused with place and reason", (kind, body, expected) => {
    expect(refusal(kind, body)).toMatch(expected);
  });
  it("need the version that the writer saw", () => {
    expect(NewEntry.safeParse({ kind: "note", body: bodies.note }).success).toBe(false);
    expect(NewEntry.safeParse({ kind: "note", body: bodies.note, baseSeq: -1 }).success).toBe(false);
  });
});

describe("entries that are handed out", () => {
  it("keep to the schema, those of the server included", () => {
    const log = madeEntry(2, "log", {
      ...BODY.log("before", "11111111-1111-4111-8111-111111111111"),
      sha256: "a".repeat(64),
    });
    for (const entry of [madeEntry(1, "intake", BODY.intake), log]) expect(EntrySchema.parse(entry)).toEqual(entry);
    expect(EntrySchema.safeParse({ ...log, body: { ...log.body, sha256: "short" } }).success).toBe(false);
    expect(EntrySchema.safeParse({ ...log, seq: 0 }).success).toBe(false);
  });
});
