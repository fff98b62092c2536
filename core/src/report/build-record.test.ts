// Guards: the build on paper and as a file: every value with its author, instrument and verdict, what is open, the earlier build beside it.
import { describe, expect, it } from "@jest/globals";
import { benchPlaces } from "../bench/index.ts";
import type { BenchValue, Entry, EntryBodies } from "../job/index.ts";
import { madeEntry } from "../testing/index.ts";
import { libraryKnowledge, libraryUnit } from "../testing/units.ts";
import { type BuildInput, buildFile, buildRecord, openMeasures, placeSays, readText } from "./index.ts";

const unit = libraryUnit("brae-p6");
const { bench: knowledge } = libraryKnowledge();
let seq = 0;
const value = (id: string, reading: number, more: Partial<BenchValue> = {}): BenchValue => ({
  ...{ id, name: id, unit: "mm", readings: [reading], instrument: "Micrometer", percent: 0, fixed: 0.006 },
  ...more,
});
const body = (place: string, more: Partial<EntryBodies["bench"]> = {}): EntryBodies["bench"] => ({
  ...{ place, title: `Place ${place}`, values: [], looks: [], chosen: [], note: "" },
  ...more,
});
const at = (place: string, more: Partial<EntryBodies["bench"]> = {}, author = "Iona") =>
  ({ ...madeEntry(++seq, "bench", body(place, more)), author }) as Entry;
const input = (entries: readonly Entry[], more: Partial<BuildInput> = {}): BuildInput => ({
  ...{ shopName: "Shop", jobNumber: "0431", vehicle: { name: "Van", plate: "SK 1" }, odometer: "1 km", unit, entries },
  ...{ knowledge, causes: [], earlier: [], system: "metric", standingCaution: "Mind the maker." },
  ...more,
});
const plates = (mm: number) => [
  ...[1, 2, 3, 4].map((i) => value(`plate-${i}`, mm, { from: 1.6 })),
  ...[1, 2, 3, 4].map((i) => value(`steel-${i}`, 1.85, { from: 1.7 })),
];
const text = (sections: readonly { readonly paragraphs: readonly string[] }[]) =>
  sections.flatMap((s) => s.paragraphs).join(" ");

describe("a reading in words", () => {
  it("has two figures of its uncertainty, in the reader's units", () => {
    expect(readText(value("a", 1.8237), "metric")).toBe("1.824 ± 0.012 mm");
    expect(readText(value("a", 1.8237, { fixed: 0.2 }), "metric")).toBe("1.82 ± 0.40 mm");
    expect(readText(value("a", 25.4, { fixed: 0.254 }), "imperial")).toBe("1.000 ± 0.020 in");
    expect(readText(value("a", 5.2, { unit: "Ω", fixed: 0.2 }), "metric")).toBe("5.20 ± 0.40 Ω");
  });
});

describe("a build record", () => {
  it("stands in the order of the bench, with verdict, author and instrument, and its stack-up drawn", () => {
    const report = buildRecord(
      input([
        at(
          "cooler",
          { values: [value("flow", 3, { unit: "l/min", from: 2, fixed: 0.05, instrument: "Can" })] },
          "Marl",
        ),
        at("pack-in:TC", { values: [...plates(1.95), value("fitted", 2.4)] }),
        at("pack:TC", {
          values: [value("plate-1", 1.42, { from: 1.6 })],
          looks: [{ id: "colour", name: "Colour", outcome: "black", label: "Black", pass: false }],
        }),
      ]),
    );
    expect(report.sections.map((s) => s.title)).toEqual([
      "Place pack:TC: fail",
      "Place pack-in:TC: pass",
      "Place cooler: pass",
      "What broke it",
      "After the build",
    ]);
    const [out, into, cooler] = report.sections;
    expect(out?.table?.rows[0]).toEqual([
      "plate-1",
      "1.420 ± 0.012 mm",
      "at least 1.6",
      expect.stringMatching(/^out, /),
      "Iona, micrometer",
    ]);
    expect(out?.table?.rows[1]).toEqual(["Colour", "Black", "–", "fail", "Iona, by eye"]);
    expect(text(out ? [out] : [])).toMatch(/Open: Friction plate 2, Friction plate 3/);
    expect(into?.drawings).toHaveLength(1);
    expect(text(into ? [into] : [])).toMatch(/Clearance by sum 1\.25 .*Ring 2\.40 mm sets 1\.25/);
    expect(cooler?.table?.rows[0]?.at(-1)).toBe("Marl, can");
    expect(text(report.sections)).toMatch(/Open: nobody has said yet.*Driven gently for 500 km/);
  });
  it("says what broke it and would again, and shows the earlier build beside", () => {
    const cause = at("cause", {
      looks: [{ id: "cause", name: "", outcome: "cooler", label: "Cooler blocked", pass: null }],
      note: "0.4 l",
    });
    const earlier = [{ jobNumber: "0300", places: [body("pack:TC", { values: [value("plate-1", 1.71)] })] }];
    const report = buildRecord(
      input([at("pack:TC", { values: [value("plate-1", 1.9, { from: 1.6 })] }), cause], { earlier }),
    );
    expect(report.sections[0]?.table?.columns).toContain("Job 0300");
    expect(report.sections[0]?.table?.rows[0]).toContain("1.710 ± 0.012 mm");
    expect(text(report.sections)).toMatch(
      /Cooler blocked\. 0\.4 l.*What would break it again: A cooler that blocks again/,
    );
    const unknown = at("cause", {
      looks: [{ id: "cause", name: "", outcome: "unknown", label: "Not known", pass: null }],
    });
    expect(text(buildRecord(input([unknown])).sections)).toMatch(/Named unknown/);
  });
  it("as a file keeps readings and verdicts with their authors", () => {
    const first = at("pack:TC", { values: [value("plate-1", 1.9, { from: 1.6 })] }, "Iona");
    const later = at(
      "pack:TC",
      { values: [value("plate-1", 1.9, { from: 1.6 }), value("plate-2", 1.61, { from: 1.6 })] },
      "Marl",
    );
    const file = buildFile(input([first, later]));
    expect(file.places).toHaveLength(1);
    expect(file.places[0]?.values).toMatchObject([
      { id: "plate-1", author: "Iona", call: "in", mean: 1.9 },
      { id: "plate-2", author: "Marl", call: "in", uncertainty: 0.006 },
    ]);
    expect(file).toMatchObject({ cause: null, breakInKm: null, watch: [] });
  });
  it("every kind of place says something of its own", () => {
    const says = (place: string, more: Partial<EntryBodies["bench"]>) =>
      placeSays(unit, knowledge, body(place, more)).join(" ");
    expect(says("converter-fit", { values: [value("home", 19.5), value("flexplate", 16.5)] })).toMatch(
      /Comes forward 3\.0 mm/,
    );
    expect(
      says("converter-open", {
        looks: [{ id: "splines", name: "Splines", outcome: "gone", label: "Stripped", pass: false }],
      }),
    ).toMatch(/No drive in any gear/);
    expect(
      says("pressure", { values: [value("idle-D", 200, { unit: "kPa" }), value("command-D", 500, { unit: "kPa" })] }),
    ).toMatch(/300 kPa too little/);
    expect(says("teardown", {})).toBe("");
    const pack = benchPlaces(unit, knowledge).find((p) => p.id === "pack-in:TC");
    expect(openMeasures(pack, { values: plates(1.9), looks: [] })).toEqual([]);
    expect(openMeasures(undefined, { values: [], looks: [] })).toEqual([]);
  });
});
