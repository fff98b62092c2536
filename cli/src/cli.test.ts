// Guards: the command line: exit codes, one clear line on bad input, and the documented structure.
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { AnalysisFile, ImportReportSchema } from "@gearsense/contract";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import { run } from "./main.ts";

let folder: string;
const path = (name: string) => join(folder, name);
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), "gearsense-cli-"));
  expect(call("simulate", "--out", path("slip.csv"), "--seconds", "300", "--rate", "10").code).toBe(0);
});
afterAll(() => rmSync(folder, { recursive: true }));

function call(...argv: string[]): { code: number; out: string; err: string[] } {
  let out = "";
  const err: string[] = [];
  const code = run(
    argv,
    (l) => (out += `${l}\n`),
    (l) => err.push(l),
  );
  return { code, out, err };
}

describe("analyze", () => {
  it("prints findings for a person", () => {
    const { code, out } = call("analyze", path("slip.csv"), "--unit", "brae-p6");
    expect(code).toBe(0);
    expect(out).toMatch(/Slip in gear 5 \[fault, high\]/);
    expect(out).toMatch(/limit 45\u00a0rpm \(unit file\)/);
  });
  it("prints the documented structure, which keeps to its schema", () => {
    const { code, out } = call("analyze", path("slip.csv"), "--unit", "brae-p6", "--json");
    expect(code).toBe(0);
    const data = JSON.parse(out);
    expect(data).toMatchObject({ format: "gearsense-analyze", version: 1, file: path("slip.csv") });
    expect(AnalysisFile.parse(data.analysis)).toEqual(data.analysis);
    expect(ImportReportSchema.parse(data.importReport)).toEqual(data.importReport);
    const documented = readFileSync(new URL("../../docs/formats.md", import.meta.url), "utf8");
    for (const key of [...Object.keys(data), ...Object.keys(data.analysis)]) expect(documented).toContain(`\`${key}\``);
  });
  it("takes a unit file by its path", () => {
    const file = new URL("../../library/units/brae-p6.unit.json", import.meta.url).pathname;
    expect(call("analyze", path("slip.csv"), "--unit", file).code).toBe(0);
  });
  it.each([
    ["no such log", () => ["analyze", path("none.csv"), "--unit", "brae-p6"], /cannot be read/],
    ["no unit", () => ["analyze", path("slip.csv")], /Name the unit/],
    ["an unknown unit", () => ["analyze", path("slip.csv"), "--unit", "zz"], /no unit "zz".*brae-p6, corran-w7/],
    ["an unknown flag", () => ["analyze", path("slip.csv"), "--fast"], /--fast/],
    ["the wrong unit", () => ["analyze", path("slip.csv"), "--unit", "corran-w7"], /fit Brae P6/],
    [
      "an empty log",
      () => {
        writeFileSync(path("empty.csv"), "");
        return ["analyze", path("empty.csv"), "--unit", "brae-p6"];
      },
      /0 bytes/,
    ],
    [
      "a broken unit file",
      () => {
        writeFileSync(path("u.json"), "{}");
        return ["analyze", path("slip.csv"), "--unit", path("u.json")];
      },
      /u\.json: format/,
    ],
    ["an unknown command", () => ["dance"], /gearsense analyze/],
  ])("%s: exit code 2 and a clear word", (_name, argv, words) => {
    const { code, out, err } = call(...argv());
    expect(code).toBe(2);
    expect(out).toBe("");
    expect(err).toHaveLength(1);
    expect(err[0]).toMatch(words);
  });
});

it.each([
  [["--fault", "gremlins"], /no fault "gremlins"/],
  [["--profile", "moon"], /no profile "moon"/],
  [["--seconds", "soon"], /--seconds needs a number/],
])("simulate refuses %j", (flags, words) => {
  const { code, err } = call("simulate", "--out", path("x.csv"), ...flags);
  expect(code).toBe(2);
  expect(err[0]).toMatch(words);
});

describe("every unit of the library", () => {
  it.each([
    ["brae-p6", /Slip in gear [456]/],
    ["corran-w7", /Slip in gear [246]/],
    ["tarn-f4", /Slip in gear [34]/],
    ["holm-c6", /Slip in gear [456]/],
    ["ness-x6", /Slip in gear [456]/],
    ["fell-e8", /Slip in gear/],
    ["crag-t10", /Slip in gear/],
    ["machair-d6", /Slip in gear [246]/],
  ])("%s is simulated and judged: sound when sound, slipping when worn", (unit, slips) => {
    const drive = (fault: string) => {
      const file = path(`${unit}-${fault}.csv`);
      const made = ["--unit", unit, "--fault", fault, "--seconds", "300", "--rate", "10", "--seed", "5"];
      expect(call("simulate", "--out", file, ...made).code).toBe(0);
      return call("analyze", file, "--unit", unit).out;
    };
    expect(drive("none")).not.toMatch(/\[fault/);
    expect(drive("element-slip")).toMatch(slips);
  });
});

describe("unit", () => {
  const library = (id: string) => new URL(`../../library/units/${id}.unit.json`, import.meta.url).pathname;
  it("says what the gear train of a sound file gives", () => {
    const { code, out } = call("unit", "check", library("brae-p6"));
    expect(code).toBe(0);
    expect(out).toMatch(/Brae P6 \(brae-p6, version 1\) is consistent/);
    // 1 + 35/73, the front set alone
    expect(out).toMatch(/gear {2}3 {2}ratio {3}1\.4795 {2}torque shares LC /);
  });
  it("names every place that is wrong, each on its line", () => {
    const unit = JSON.parse(readFileSync(library("brae-p6"), "utf8"));
    unit.gearTrain.sets[0].ringTeeth = 72;
    unit.limp.gear = "9";
    writeFileSync(path("bad.unit.json"), JSON.stringify(unit));
    const { code, err } = call("unit", "check", path("bad.unit.json"));
    expect(code).toBe(2);
    expect(err.join("\n")).toMatch(
      /bad\.unit\.json: limp\.gear: no gear "9"\n.*gearTrain\.sets\.0\.ringTeeth: .*no whole planet/s,
    );
  });
  it("prints the published schema, which takes the library's own files", () => {
    const { code, out } = call("unit", "schema");
    expect(code).toBe(0);
    const schema = JSON.parse(out);
    expect(schema.$schema).toMatch(/2020-12/);
    expect(schema.properties.gearTrain.type).toBe("object");
  });
  it("says what to do without a file", () => {
    expect(call("unit", "check")).toMatchObject({ code: 2, err: [expect.stringMatching(/unit check FILE/)] });
  });
});
