// Guards: the report says what the timeline and the analyses say, in the chosen units, and leaves out what was not done.
import { describe, expect, it } from "@jest/globals";
import { analyseDrive, compareDrives } from "../drive/index.ts";
import { type Entry, foldJob } from "../job/index.ts";
import type { UnitSystem } from "../quantity/index.ts";
import { steadyDrive } from "../testing/drives.ts";
import { BODY, madeTimeline } from "../testing/index.ts";
import { libraryUnit } from "../testing/units.ts";
import { beforeAfterBars, buildReport } from "./index.ts";

const unit = libraryUnit("brae-p6");
const slipping = (k: number) =>
  analyseDrive(
    steadyDrive(unit, (g, torque) => (g >= 4 ? k * Math.max(0, torque - 140) : 0)),
    unit,
  );
const [before, after] = [slipping(2), slipping(0)];
const comparison = compareDrives([before], [after, { ...after, durationS: after.durationS + 1 }]);

function report(entries: Entry[], system: UnitSystem = "metric", proved = false) {
  return buildReport({
    shopName: "Harbour Road",
    currency: "EUR",
    jobNumber: "0430",
    openedOn: "25 Nov 2026",
    vehicle: { name: "Library van", plate: "SK 1 001", owner: "Skerrow Library" },
    odometerKm: 100000,
    unit,
    state: foldJob(entries),
    before: proved ? before : undefined,
    after: proved ? after : undefined,
    comparison: proved ? comparison : undefined,
    ranking: undefined,
    system,
    standingCaution: "Follow the maker's instructions.",
  });
}
const flat = (text: string) => text.replace(/[\u00a0\u2009\u202f]/g, " ");
const section = (r: ReturnType<typeof report>, id: string) => {
  const s = r.sections.find((x) => x.id === id);
  return s && flat([...s.paragraphs, ...(s.table?.rows.map((row) => row.join(" | ")) ?? [])].join("\n"));
};

describe("report", () => {
  it("of an empty job has no section but the level that is missing, and always the caution", () => {
    const r = report([]);
    expect(r.sections.map((s) => s.id)).toEqual(["first-look"]);
    expect(section(r, "first-look")).toBe("The fluid level was not recorded.");
    expect(r.caution).toBe("Follow the maker's instructions.");
    expect(r.bars).toEqual([]);
  });
  it("tells what was seen, what was left out and why, and what lay in the pan", () => {
    const { entries, write } = madeTimeline();
    const rung = { method: "", sure: "sure", values: {}, minutes: 3, skipped: "", note: "" } as const;
    write("intake", {
      ...BODY.intake,
      history: [{ kind: "fluid", what: "" }],
      events: [{ kind: "impact", what: "hit a rock in May" }],
    });
    write("observation", {
      ...rung,
      rung: "leaks",
      title: "Leaks",
      outcome: "seep",
      outcomeLabel: "damp",
      abnormal: true,
      sure: "doubtful",
    });
    write("observation", {
      ...rung,
      rung: "mounts",
      title: "Mounts",
      outcome: "skipped",
      outcomeLabel: "left out",
      abnormal: false,
      skipped: "no helper",
    });
    write("pan", {
      drainedL: 3.9,
      drainedC: 60,
      kmSinceService: null,
      filter: "lining",
      debris: [
        { kind: "lining", amount: 2, sizeMm: 3 },
        { kind: "clip", amount: 0, sizeMm: null },
      ],
      sure: "sure",
      note: "",
    });
    const r = report(entries);
    expect(section(r, "complaint")).toMatch(/Before: fluid\nEvents: hit a rock in May/);
    expect(section(r, "first-look")).toMatch(/Leaks: damp \(doubtful\)\.\nMounts: not looked at \(no helper\)\./);
    expect(section(r, "pan")).toBe("Drained 3.9 l.\nDebris: some lining to 3 mm.\nFilter cut open: lining.");
  });
  it("tells complaint, level, codes, checks, decision, work and follow-ups from the timeline", () => {
    const { entries, write } = madeTimeline();
    write("intake", {
      ...BODY.intake,
      symptoms: [{ kind: "slip", where: ["4"], load: "hard", temperature: "hot", since: "spring", speedKmh: [60, 80] }],
      recentEvents: "towed once",
    });
    write("level", { ...BODY.level("low"), litresFromFull: -0.6 });
    write("code", { ...BODY.code("P0730", "complaint"), text: "Ratio" });
    write("check", BODY.check);
    write("decision", {
      ...BODY.decision,
      levelKnown: false,
      odds: [{ title: "High clutch worn", probability: 0.734 }],
    });
    write("work", { ...BODY.work(90), parts: [{ name: "Clutch pack", quantity: 2, cost: 41.5 }] });
    write("work", BODY.work(30));
    write("handover", { remarks: "Drive gently", followUps: [{ what: "Level", dueOn: "2026-12-24", dueKm: 101000 }] });
    const r = report(entries);
    expect(section(r, "complaint")).toMatch(/slips in 4, hard load, hot, 60 – 80 km\/h, since spring/);
    expect(section(r, "complaint")).toMatch(/Recent events: towed once/);
    expect(section(r, "first-look")).toMatch(
      /level low \(−0.6 l from full\), read by overflow at 40 °C, engine running/,
    );
    expect(section(r, "first-look")).toMatch(/P0730 \| Ratio \| {2}\| complaint/);
    expect(section(r, "checks")).toBe("Pan | Clean | 1 | ");
    expect(section(r, "decision")).toMatch(/High clutch worn 73 %[\s\S]*without a recorded fluid level/);
    expect(section(r, "work")).toMatch(/Labour 2.0 h; parts 83.00 EUR/);
    expect(section(r, "follow-ups")).toMatch(/Level \| 2026-12-24 \| 101 000 km/);
  });
  it("tells road tests by feel with whose words they are, freeze frames and photos", () => {
    const { entries, write } = madeTimeline();
    const hot = { load: "any", temperature: "hot" } as const;
    write("felt", {
      by: "Owner",
      sure: "doubtful",
      marks: [
        { where: "4", outcome: "nothing", ...hot },
        { where: "R", outcome: "nothing", ...hot },
        { where: "cruising", outcome: "shake", ...hot, temperature: "any" },
      ],
      note: "on the pass",
    });
    write("code", { ...BODY.code("P0730", "complaint"), text: "Ratio", freezeFrame: { Gear: "4", Speed: "62 km/h" } });
    write("photo", {
      photoId: "p",
      sha256: "a",
      widthPx: 1,
      heightPx: 1,
      about: "magnet",
      caption: "from the pan",
      markers: [{ x: 0, y: 0, text: "clip" }],
    });
    const r = report(entries);
    expect(section(r, "road-test")).toBe("Owner (doubtful): no drive 4, R (hot); shakes steady speed. on the pass");
    expect(section(r, "first-look")).toContain("P0730 | Ratio | Gear 4; Speed 62 km/h | complaint");
    expect(section(r, "photos")).toBe("magnet | from the pan | clip");
    expect(r.photos).toEqual([{ photoId: "p", caption: "from the pan" }]);
  });
  it("shows six photos: those with a caption or a mark first, then the newest, as they were taken", () => {
    const { entries, write } = madeTimeline();
    const photo = (n: number, more: object = {}) =>
      write("photo", {
        photoId: `p${n}`,
        sha256: "a",
        widthPx: 1,
        heightPx: 1,
        about: "other",
        caption: "",
        markers: [],
        ...more,
      });
    photo(1, { caption: "told" });
    photo(2, { markers: [{ x: 0, y: 0, text: "clip" }] });
    for (let n = 3; n <= 8; n++) photo(n);
    expect(report(entries).photos?.map((p) => p.photoId)).toEqual(["p1", "p2", "p5", "p6", "p7", "p8"]);
  });
  it("tells what a relearn came to, with the values before and after, and what the sign-off leaves open", () => {
    const { entries, write } = madeTimeline();
    const how = "typed" as const;
    const relearn = {
      ...{ procedureId: "fill-learn", title: "Fill times learned standing", how, code: null, element: null },
      ...{ stage: "", note: "", before: { fill_TC: 163 }, after: {} },
    } as const;
    write("relearn", {
      ...relearn,
      outcome: "aborted",
      say: "The brake was released",
      next: "Start again.",
      ends: "again",
    });
    expect(section(report(entries), "relearn")).toBe(
      "Fill times learned standing: The brake was released. Start again.\nDone with another tool, values typed.\nFill time TC | 163 | – | 60 to 180 ms",
    );
    write("relearn", {
      ...relearn,
      outcome: "done",
      say: "The routine is done",
      next: "Drive.",
      ends: "done",
      after: { fill_TC: 109 },
    });
    const told = section(report(entries), "relearn");
    expect(told).toContain("The routine is done.\nStarted 2 times.");
    expect(told).toContain("Fill time TC | 163 | 109");
    write("proof", { ...BODY.proof, notShown: ["not driven: gear 4, hot"], note: "no hill here" });
    expect(section(report(entries, "metric", true), "proof")).toContain("Not signed off: not driven: gear 4, hot.");
  });
  it("says since once, whether or not the customer did", () => {
    const told = (since: string) => {
      const { entries, write } = madeTimeline();
      write("intake", {
        ...BODY.intake,
        symptoms: [{ kind: "slip", where: ["4"], load: "any", temperature: "any", since }],
      });
      return section(report(entries), "complaint");
    };
    for (const since of ["since the holidays", "Since the holidays", "the holidays"])
      expect(told(since)).toContain("slips in 4, since the holidays.");
  });
  it("says less once an entry is taken back", () => {
    const { entries, write } = madeTimeline();
    const check = write("check", BODY.check);
    write("retraction", { entryId: check.id, reason: "" });
    expect(report(entries).sections.some((s) => s.id === "checks")).toBe(false);
  });
  it("shows the chosen units of measure everywhere", () => {
    const { entries, write } = madeTimeline();
    write("level", { ...BODY.level("low"), litresFromFull: -0.6 });
    const r = report(entries, "imperial", true);
    const all = flat(JSON.stringify(r));
    expect(all).toMatch(/62 137 mi/);
    expect(section(r, "first-look")).toMatch(/−0.6 qt from full.*104 °F/);
    expect(section(r, "findings")).toMatch(/lbf·ft/);
    expect(all).not.toMatch(/ km\b| °C| N·m/);
  });
});

describe("before and after", () => {
  it("gives finding, verdict and both values for every condition", () => {
    const proof = section(report([], "metric", true), "proof") ?? "";
    for (const f of comparison.findings) {
      expect(proof).toContain(`${f.title} | gone`);
      for (const g of f.groups) expect(proof).toContain(g.label);
    }
    expect(proof).toMatch(/All 3 findings from before the repair are gone/);
  });
  it("bars carry the compared values, worst first, never more than eight", () => {
    const bars = beforeAfterBars(comparison, "metric");
    const groups = comparison.findings.flatMap((f) => f.groups);
    expect(bars).toHaveLength(Math.min(8, groups.length));
    expect(bars.map((b) => b.before)).toEqual(bars.map((b) => b.before).toSorted((a, b) => b - a));
    for (const b of bars) expect(groups.some((g) => g.before === b.before && g.after === b.after)).toBe(true);
  });
  it("a condition that was not driven again says so", () => {
    const undriven = {
      ...comparison.findings[0],
      groups: [{ label: "x", before: 90, after: undefined, secondsAfter: 0 }],
    };
    const [bar] = beforeAfterBars({ ...comparison, findings: [undriven] } as typeof comparison, "metric");
    expect(bar).toMatchObject({ after: undefined, afterText: "not driven" });
  });
});
