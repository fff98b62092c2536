// Guards: the command line: exit codes, one clear line on bad input, and the documented structure.

import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { AnalysisFile, ImportReportSchema } from "@gearsense/contract";
import { channelOf, currentRamp, readScope, toothSignal } from "@gearsense/core/bench";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import { withPart } from "./evaluate.ts";
import { run } from "./main.ts";

let folder: string;
const path = (name: string) => join(folder, name);
beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), "gearsense-cli-"));
  const worn = ["--fault", "element-worn@TC", "--minutes", "5", "--rate", "10", "--vehicle", "6"];
  expect((await call("simulate", "--out", path("slip"), ...worn)).code).toBe(0);
});
afterAll(() => rmSync(folder, { recursive: true }));

async function call(...argv: string[]): Promise<{ code: number; out: string; err: string[] }> {
  let out = "";
  const err: string[] = [];
  const code = await run(
    argv,
    (l) => (out += `${l}\n`),
    (l) => err.push(l),
  );
  return { code, out, err };
}

describe("analyze", () => {
  it("prints findings for a person", async () => {
    const { code, out } = await call("analyze", path("slip/log.csv"), "--unit", "brae-p6");
    expect(code).toBe(0);
    expect(out).toMatch(/Slip in gear 3 \[fault, high\]/);
    expect(out).toMatch(/limit 45\u00a0rpm \(unit file\)/);
  });
  it("prints the documented structure, which keeps to its schema", async () => {
    const { code, out } = await call("analyze", path("slip/log.csv"), "--unit", "brae-p6", "--json");
    expect(code).toBe(0);
    const data = JSON.parse(out);
    expect(data).toMatchObject({ format: "gearsense-analyze", version: 1, file: path("slip/log.csv") });
    expect(AnalysisFile.parse(data.analysis)).toEqual(data.analysis);
    expect(ImportReportSchema.parse(data.importReport)).toEqual(data.importReport);
    const documented = readFileSync(new URL("../../docs/formats.md", import.meta.url), "utf8");
    for (const key of [...Object.keys(data), ...Object.keys(data.analysis)]) expect(documented).toContain(`\`${key}\``);
  });
  it("takes a unit file by its path", async () => {
    const file = new URL("../../library/units/brae-p6.unit.json", import.meta.url).pathname;
    expect((await call("analyze", path("slip/log.csv"), "--unit", file)).code).toBe(0);
  });
  it.each([
    ["no such log", () => ["analyze", path("none.csv"), "--unit", "brae-p6"], /cannot be read/],
    ["no unit", () => ["analyze", path("slip/log.csv")], /Name the unit/],
    [
      "an unknown unit",
      () => ["analyze", path("slip/log.csv"), "--unit", "zz"],
      /doesn’t have a unit "zz".*brae-p6, corran-w7/,
    ],
    ["an unknown flag", () => ["analyze", path("slip/log.csv"), "--fast"], /--fast/],
    [
      "the wrong unit",
      () => ["analyze", path("slip/log.csv"), "--unit", "corran-w7"],
      /fit Brae P6|does not suit Corran W7/,
    ],
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
        return ["analyze", path("slip/log.csv"), "--unit", path("u.json")];
      },
      /u\.json: format/,
    ],
    ["an unknown command", () => ["dance"], /gearsense analyze/],
  ])("%s: exit code 2 and a clear word", async (_name, argv, words) => {
    const { code, out, err } = await call(...argv());
    expect(code).toBe(2);
    expect(out).toBe("");
    expect(err).toHaveLength(1);
    expect(err[0]).toMatch(words);
  });
});

describe("simulate", () => {
  it.each([
    [["--fault", "gremlins"], /"gremlins" isn’t a fault/],
    [["--fault", "element-worn:9"], /severity over 0 up to 1/],
    [["--fault", "element-worn@ZZ"], /needs one of: TC, .*not "ZZ"/],
    [["--fault", "launch-judder"], /Brae P6 cannot have "launch-judder"/],
    [["--drive", "moon"], /"moon" isn’t a drive/],
    [["--dialect", "runes"], /"runes" isn’t a dialect/],
    [["--channels", "engine_rpm,aura"], /no channel "aura".*turbine_rpm/],
    [["--minutes", "soon"], /--minutes needs a number/],
  ])("refuses %j and writes nothing", async (flags, words) => {
    const { code, err } = await call("simulate", "--out", path("x"), ...flags);
    expect(code).toBe(2);
    expect(err[0]).toMatch(words);
    expect(existsSync(path("x"))).toBe(false);
  });
  it("writes log, truth and codes; the same seed the same bytes, another seed others", async () => {
    const make = async (name: string, seed: string) => {
      const flags = ["--fault", "sensor-dead@sen_output:0.5", "--fault", "fluid-low:0.3", "--minutes", "1"];
      const { code, out } = await call(
        "simulate",
        "--out",
        path(name),
        "--seed",
        seed,
        "--dialect",
        "semicolon-comma",
        ...flags,
      );
      expect(code).toBe(0);
      expect(out).toMatch(/codes P0722/);
      return ["log.csv", "truth.json", "codes.csv"].map((f) => readFileSync(path(`${name}/${f}`), "utf8"));
    };
    const [log, truth, codes] = (await make("one", "4")) as [string, string, string];
    expect(await make("two", "4")).toEqual([log, truth, codes]);
    expect((await make("three", "5"))[0]).not.toBe(log);
    const parsed = JSON.parse(truth);
    expect(parsed).toMatchObject({ format: "gearsense-truth", version: 1, unitId: "brae-p6", seed: 4 });
    expect(parsed.faults.map((f: { kind: string }) => f.kind)).toEqual(["sensor-dead", "fluid-low"]);
    const documented = readFileSync(new URL("../../docs/formats.md", import.meta.url), "utf8");
    for (const key of Object.keys(parsed)) expect(documented).toContain(`\`${key}\``);
    expect(codes).toMatch(/^code,text,time_s,engine_rpm.*\nP0722,"Output speed signal absent",/);
  });
  it("records a scope at a solenoid or a sensor, that the bench reads; refuses parts and faults that are not there", async () => {
    const scope = (name: string, ...flags: string[]) => call("simulate", "--out", path(name), "--scope", ...flags);
    expect(await scope("coil", "sol_TC", "--fault", "slow")).toMatchObject({ code: 0 });
    const ramp = readScope(readFileSync(path("coil/scope.csv"), "utf8"));
    const { landsMs } = JSON.parse(readFileSync(path("coil/truth.json"), "utf8"));
    expect(Math.abs((currentRamp(ramp.timeS, channelOf(ramp)).pullInMs ?? 0) - landsMs)).toBeLessThan(3);
    expect(await scope("wheel", "sen_turbine", "--fault", "missing-tooth")).toMatchObject({ code: 0 });
    const wheel = readScope(readFileSync(path("wheel/scope.csv"), "utf8"));
    expect(toothSignal(wheel.timeS, channelOf(wheel), 40).missing).toBe(1);
    expect((await scope("wheel", "sen_turbine")).err[0]).toMatch(/is there already/);
    expect((await scope("none", "pump")).err[0]).toMatch(/no solenoid and no tooth sensor "pump".*sol_TC/);
    expect((await scope("none", "sol_TC", "--fault", "run-out")).err[0]).toMatch(
      /isn’t a fault that a scope at sol_TC shows/,
    );
    expect(existsSync(path("none"))).toBe(false);
  });
  it("does not write over a drive", async () => {
    expect(await call("simulate", "--out", path("slip"))).toMatchObject({
      code: 2,
      err: [expect.stringMatching(/is there already/)],
    });
  });
  it("names what can be had", async () => {
    const { out } = await call("simulate", "--list", "--unit", "corran-w7");
    expect(out).toMatch(/launch-judder@K1\|K2/);
    expect(out).not.toMatch(/converter-glazed/);
    expect(out).toMatch(/Drives: .*kick-down.*\nDialects: plain/s);
  });
});

describe("every unit of the library", () => {
  it.each([
    ["brae-p6", "element-worn@TC", /Slip in gear [234]/],
    ["corran-w7", "dual-clutch-worn@K2:0.5", /Slip in gear [246]/],
    ["tarn-f4", "element-worn@DC:0.7", /Slip in gear [34]/],
    ["holm-c6", "element-worn@EC:0.7", /Slip in gear [234]/],
    ["ness-x6", "element-worn@KB:0.7", /Slip in gear [234]/],
    ["fell-e8", "element-worn@C4:0.7", /Slip in gear [3456]/],
    ["crag-t10", "element-worn@KC:0.8", /Slip in gear [6-9]|Slip in gear 10/],
    ["machair-d6", "dual-clutch-worn@K2:0.5", /Slip in gear [246]/],
  ])("%s is simulated and judged: sound when sound, slipping when worn", async (unit, worn, slips) => {
    const drive = async (fault: string) => {
      const folder = path(`${unit}-${fault.replace(/[@:.]/g, "-")}`);
      const made = [
        "--unit",
        unit,
        "--fault",
        fault,
        "--minutes",
        "4",
        "--rate",
        "20",
        "--seed",
        "5",
        "--drive",
        "steep-hill",
      ];
      expect((await call("simulate", "--out", folder, ...made)).code).toBe(0);
      return (await call("analyze", join(folder, "log.csv"), "--unit", unit)).out;
    };
    expect(await drive("none")).not.toMatch(/\[fault/);
    expect(await drive(worn)).toMatch(slips);
  });
});

describe("unit", () => {
  const library = (id: string) => new URL(`../../library/units/${id}.unit.json`, import.meta.url).pathname;
  it("says what the gear train of a sound file gives", async () => {
    const { code, out } = await call("unit", "check", library("brae-p6"));
    expect(code).toBe(0);
    expect(out).toMatch(/Brae P6 \(brae-p6, version \d+\) is consistent/);
    // the first set alone, its ring held: 1 + 79/53
    expect(out).toMatch(/gear {2}2 {2}ratio {3}2\.4906 {2}torque shares TC /);
  });
  it("names every place that is wrong, each on its line", async () => {
    const unit = JSON.parse(readFileSync(library("brae-p6"), "utf8"));
    unit.gearTrain.sets[0].ringTeeth = 82;
    unit.limp.gear = "9";
    writeFileSync(path("bad.unit.json"), JSON.stringify(unit));
    const { code, err } = await call("unit", "check", path("bad.unit.json"));
    expect(code).toBe(2);
    expect(err.join("\n")).toMatch(
      /bad\.unit\.json: limp\.gear: no gear "9"\n.*gearTrain\.sets\.0\.ringTeeth: .*no whole planet/s,
    );
  });
  it("prints the published schema, which takes the library's own files", async () => {
    const { code, out } = await call("unit", "schema");
    expect(code).toBe(0);
    const schema = JSON.parse(out);
    expect(schema.$schema).toMatch(/2020-12/);
    expect(schema.properties.gearTrain.type).toBe("object");
  });
  it("says what to do without a file", async () => {
    expect(await call("unit", "check")).toMatchObject({ code: 2, err: [expect.stringMatching(/unit check FILE/)] });
  });
});

describe("captures and archives", () => {
  it.each([
    ["capture", "log.csv"],
    ["gzip-epoch", "log.csv.gz"],
    ["zip-epoch-ms", "log.zip"],
  ])("a drive written as %s is judged like any other", async (dialect, file) => {
    const folder = path(dialect);
    const made = ["--fault", "element-worn@TC:0.8", "--minutes", "5", "--rate", "20", "--dialect", dialect];
    expect((await call("simulate", "--out", folder, ...made)).code).toBe(0);
    const bus = dialect === "capture" ? ["--bus", join(folder, "bus.json")] : [];
    const { code, out } = await call("analyze", join(folder, file), "--unit", "brae-p6", ...bus);
    expect(code).toBe(0);
    expect(out).toMatch(/Slip in gear [234]/);
  });
  it("a capture without its definition, and a definition that is wrong, are refused with the place", async () => {
    const log = path("capture/log.csv");
    const { code, err } = await call("analyze", log, "--unit", "brae-p6");
    expect(code).toBe(2);
    expect(err[0]).toMatch(/raw bus capture.*0x1A0/);
    writeFileSync(path("bad.json"), JSON.stringify({ format: "gearsense-bus", version: 1, name: "x", channels: [] }));
    expect((await call("analyze", log, "--unit", "brae-p6", "--bus", path("bad.json"))).err[0]).toMatch(
      /bad\.json: channels/,
    );
  });
});

describe("evaluate", () => {
  it.each([
    [["--cases", "0"], /--cases needs a whole number/],
    [["--seed", "1.5"], /--seed needs a whole number/],
    [["--set", "all"], /--set is held-out or tuning/],
  ])("refuses %j", async (flags, words) => {
    const { code, err } = await call("evaluate", ...flags);
    expect(code).toBe(2);
    expect(err[0]).toMatch(words);
  });
});

describe("diagnose", () => {
  const file = (name: string, patch: object): string => {
    const whole = { format: "gearsense-evidence-of-a-vehicle", version: 1, evidence: [], ...patch };
    writeFileSync(path(name), JSON.stringify(whole));
    return path(name);
  };
  const gear = (name: string, outcome: string) => ({ table: "gear", gear: name, outcome });
  const thirdClutch = ["1", "5", "6"].map((g) => gear(g, "holds")).concat(["2", "3", "4"].map((g) => gear(g, "slips")));
  it("names the element that all failing gears share, what to check and what it would cost", async () => {
    const { code, out } = await call("diagnose", file("hc.json", { evidence: thirdClutch }), "--unit", "brae-p6");
    expect(code).toBe(0);
    expect(out).toMatch(/6 pieces of evidence counted/);
    expect(out).toMatch(/Suspects:\n +\d+\.\d % +Third clutch/);
    expect(out).toMatch(/Next check|Act:/);
    expect(out).toMatch(/cheapest check first/);
  });
  it("prints the documented structure, names what cannot be counted, and takes a fault of one's own", async () => {
    const evidence = [
      ...thirdClutch,
      gear("9", "slips"),
      { table: "check", of: "dowsing", outcome: "x" },
      { table: "fluid-level", outcome: "high" },
    ];
    const own = {
      id: "mouse",
      title: "A mouse",
      prior: 0.05,
      predicts: { "fluid-level": { low: 0.05, ok: 0.05, high: 0.9 } },
    };
    const { code, out } = await call(
      "diagnose",
      file("odd.json", { evidence, faults: [own], odometerKm: 90000 }),
      "--unit",
      "brae-p6",
      "--json",
    );
    expect(code).toBe(0);
    const d = JSON.parse(out);
    expect(d).toMatchObject({ format: "gearsense-diagnosis", version: 1, unit: "brae-p6", counted: 8 });
    expect(d.problems.map((p: { at: number; reason: string }) => [p.at, p.reason])).toEqual([
      [6, expect.stringMatching(/no gear "9"/)],
      [7, expect.stringMatching(/no check "dowsing"/)],
    ]);
    const sum = d.explanations.reduce((s: number, e: { probability: number }) => s + e.probability, 0);
    expect(sum).toBeLessThanOrEqual(1 + 1e-9);
    expect(d.checks[0].branches.reduce((s: number, b: { probability: number }) => s + b.probability, 0)).toBeCloseTo(
      1,
      6,
    );
  });
  it("what was seen after a repair speaks of what that has left", async () => {
    const lost = { table: "sensor", component: "sen_output", outcome: "dead" };
    const repair = { table: "tried", of: "harness:net_output", outcome: "better" };
    const since = [{ ...lost, outcome: "steady" }, ...thirdClutch].map((e) => ({ ...e, afterRepairs: 1 }));
    const leader = async (evidence: object[]) => {
      const { out } = await call("diagnose", file("since.json", { evidence }), "--unit", "brae-p6", "--json");
      const d = JSON.parse(out);
      return [d.suspects[0].id, d.problems.length];
    };
    expect(await leader([lost])).toEqual(["wire:net_output", 0]);
    expect(await leader([lost, repair, ...since])).toEqual(["element-worn:TC", 0]);
  });
  it("of nothing gives the priors, not an error", async () => {
    const { code, out } = await call("diagnose", file("none.json", {}), "--unit", "corran-w7");
    expect(code).toBe(0);
    expect(out).toMatch(/0 pieces of evidence/);
  });
  it.each([
    ["no file", undefined, /cannot|no such file|no readable/],
    ["another format", { format: "x" }, /format/],
    ["a field that there is not", { evidnce: [] }, /evidnce/i],
    ["a prior of one", { faults: [{ id: "m", title: "m", prior: 1, predicts: {} }] }, /between 0 and 1/],
    ["a prior of zero", { faults: [{ id: "m", title: "m", prior: 0, predicts: {} }] }, /between 0 and 1/],
    [
      "more repairs than it tells of",
      { evidence: [{ ...gear("2", "slips"), afterRepairs: 1 }] },
      /evidence\.0: afterRepairs is 1, but the file tells of 0 repairs/,
    ],
    ["less than no repair", { evidence: [{ table: "limp", outcome: "none", afterRepairs: -1 }] }, /afterRepairs/],
    [
      "likelihoods outside",
      { faults: [{ id: "m", title: "m", prior: 0.1, predicts: { limp: { limp: 1.2, none: -0.2 } } }] },
      /between 0 and 1/,
    ],
  ])("refuses %s with the reason", async (_name, patch, words) => {
    const { code, err } = await call(
      "diagnose",
      patch ? file("bad.json", patch) : path("gone.json"),
      "--unit",
      "brae-p6",
    );
    expect(code).toBe(2);
    expect(err.join("\n")).toMatch(words);
  });
  it("counts nothing for a class of fault that there is not", async () => {
    expect((await call("evaluate", "likelihoods", "--only", "gremlins")).err[0]).toMatch(
      /"gremlins" isn’t a class of fault/,
    );
    expect((await call("evaluate", "jobs", "--only", "stator-slips")).err[0]).toMatch(/--write and --only belong/);
  });
  it("refuses an unknown part of the evaluation", async () => {
    expect((await call("evaluate", "everything")).err[0]).toMatch(
      /"logs", "jobs", "folder", "proofs", "autopsies", "relearns", "channels", "shops" or "likelihoods"/,
    );
  });
});

describe("prove", () => {
  const sound = async (seed: number) => {
    const name = `sound-${seed}`;
    if (!existsSync(path(name)))
      await call(
        "simulate",
        "--out",
        path(name),
        "--minutes",
        "8",
        "--rate",
        "10",
        "--seed",
        `${seed}`,
        "--vehicle",
        "6",
      );
    return path(`${name}/log.csv`);
  };
  const slip = () => path("slip/log.csv");
  const unit = ["--unit", "brae-p6"];
  it("says that it is gone, pools what is named behind --after, and prints the documented structure", async () => {
    const [one, two] = [await sound(3), await sound(4)];
    const { code, out } = await call("prove", slip(), "--after", one, two, ...unit, "--json");
    expect(code).toBe(0);
    const proof = JSON.parse(out);
    expect(proof).toMatchObject({ format: "gearsense-proof", version: 1, before: [slip()], after: [one, two] });
    const slips = proof.findings.filter((f: { findingId: string }) => f.findingId.startsWith("slip:"));
    expect(slips.length).toBeGreaterThan(0);
    for (const f of slips) expect(f).toMatchObject({ severity: "fault", verdict: "gone", drive: null });
    // the flag may come again, and before the unit or behind it
    const again = await call("prove", ...unit, slip(), "--after", one, "--after", two, "--json");
    expect(again.out).toBe(out);
    const documented = readFileSync(new URL("../../docs/formats.md", import.meta.url), "utf8");
    for (const key of [...Object.keys(proof), ...Object.keys(proof.findings[0])])
      expect(documented).toContain(`\`${key}\``);
  });
  it("the same drive again proves nothing, and a short one asks for more", async () => {
    const same = await call("prove", slip(), "--after", slip(), ...unit);
    expect(same.out).toMatch(/Slip in gear 3 \[fault\]: same/);
    expect(same.out).toMatch(/ unchanged\.\n$/);
    await call("simulate", "--out", path("short"), "--minutes", "0.6", "--rate", "10");
    const short = await call("prove", slip(), "--after", path("short/log.csv"), ...unit);
    expect(short.out).toMatch(/not exercised|not shown yet/);
    expect(short.out).toMatch(/\n {4}Drive /);
    expect(short.out).not.toMatch(/\[fault\]: gone/);
  });
  it.each([
    ["nothing after", () => [slip(), ...unit], /Name the logs/],
    ["nothing before", () => ["--after", slip(), ...unit], /Name the logs/],
    ["no unit", () => [slip(), "--after", slip()], /Name the logs/],
    ["a log that is not there", () => [slip(), "--after", path("none.csv"), ...unit], /none\.csv cannot be read/],
  ])("%s: exit code 2 and a clear word", async (_name, argv, words) => {
    const { code, err } = await call("prove", ...argv());
    expect(code).toBe(2);
    expect(err).toEqual([expect.stringMatching(words)]);
  });
});

describe("evaluate folder", () => {
  const unitFile = readFileSync(new URL("../../library/units/brae-p6.unit.json", import.meta.url), "utf8");
  const labelled = (name: string, labels: object) => {
    mkdirSync(path(`${name}/first`), { recursive: true });
    writeFileSync(path(`${name}/first/log.csv`), readFileSync(path("slip/log.csv")));
    writeFileSync(path(`${name}/first/made-up.unit.json`), unitFile);
    writeFileSync(path(`${name}/first/labels.json`), JSON.stringify(labels));
    return path(name);
  };
  it.each([
    ["no folder", () => [], /Name one folder/],
    ["an empty folder", () => [path("slip")], /holds no labelled log/],
    ["one that is not there", () => [path("nowhere")], /is not a folder that can be read/],
    ["labels of another make", () => [labelled("odd", { schema: 2 })], /labels\.json: schema/],
    [
      "no unit file",
      () => {
        const folder = labelled("unitless", {});
        rmSync(join(folder, "first/made-up.unit.json"));
        return [folder];
      },
      /a \*\.unit\.json is missing/,
    ],
  ])("%s: exit code 2 and a clear word", async (_name, argv, words) => {
    const { code, err } = await call("evaluate", "folder", ...argv());
    expect(code).toBe(2);
    expect(err).toEqual([expect.stringMatching(words)]);
  });
});

describe("the page of the evaluation", () => {
  const jobs = "## From the complaint to the cure\n\nnew\n";
  const logs = "## Logs against their truth\n\nnew\n";
  it("gets one part anew and keeps the other, in either order of making", () => {
    const both = withPart(withPart("# Evaluation\n", "logs", logs), "jobs", jobs);
    expect(both).toMatch(/^# Evaluation\nHow good/);
    expect(both.endsWith(`\n\n${jobs}\n${logs}`)).toBe(true);
    expect(withPart(withPart("# Evaluation\n", "jobs", jobs), "logs", logs)).toBe(both);
    expect(withPart(both, "jobs", jobs.replace("new", "newer"))).toBe(both.replace("new", "newer"));
  });
  it("a part without its heading would be lost with the next: it is refused", () => {
    expect(() => withPart("# Evaluation\n", "jobs", "# Jobs\n")).toThrow(/does not begin with/);
  });
});
