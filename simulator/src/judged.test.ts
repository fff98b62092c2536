// Guards: the analysis finds what was broken in the simulated vehicle, within stated tolerances of the truth, over seeds and
// dialects; and finds nothing in healthy logs.

import { type Analysis, analyseDrive, gearObservations } from "@gearsense/core/drive";
import { buildRecording, openLog, proposeMapping } from "@gearsense/core/log";
import { readObservations, type Unit } from "@gearsense/core/unit";
import { describe, expect, it } from "@jest/globals";
import {
  DIALECTS,
  type DialectName,
  exportLog,
  type ProfileName,
  type SimulatedFault,
  simulateDrive,
  type Truth,
} from "./index.ts";
import { load } from "./testing/units.ts";

const planetary = load("brae-p6");
const dual = load("corran-w7");
const SEEDS = [1, 2, 3, 4];

interface Case {
  readonly unit?: Unit;
  readonly seed: number;
  readonly vehicleSeed?: number;
  readonly profile?: ProfileName;
  readonly faults: SimulatedFault[];
  readonly rateHz?: number;
  readonly durationS?: number;
  readonly dialect?: DialectName;
}

function judged({
  unit = planetary,
  seed,
  vehicleSeed = seed,
  profile = "mixed",
  faults,
  rateHz = 20,
  durationS = 300,
  dialect = "plain",
}: Case): {
  analysis: Analysis;
  truth: Truth;
} {
  const { columns, truth } = simulateDrive({ unit, seed, vehicleSeed, rateHz, durationS, profile, faults });
  const { table } = openLog(exportLog(columns, DIALECTS[dialect]));
  return { analysis: analyseDrive(buildRecording(table, proposeMapping(table, unit)), unit, [planetary, dual]), truth };
}
const median = (values: number[]) => values.sort((a, b) => a - b)[values.length >> 1] ?? Number.NaN;

describe.each(["tarn-f4", "brae-p6", "holm-c6", "ness-x6", "fell-e8", "crag-t10", "corran-w7", "machair-d6"])(
  "healthy %s",
  (id) => {
    it.each(["mixed", "town", "steep-hill", "coast-road"] as const)("%s has no finding", (profile) => {
      const { analysis } = judged({ unit: load(id), seed: 1, profile, faults: [], durationS: 200 });
      expect(analysis.findings.map((f) => f.id)).toEqual([]);
    });
  },
);

it.each(SEEDS)(
  "shifts, seed %i: all found, inertia phase within 60 ms and delay within 80 ms in the median",
  (seed) => {
    const { analysis, truth } = judged({ seed, faults: [] });
    expect(analysis.shifts).toHaveLength(truth.shifts.length);
    const inertia: number[] = [];
    const delay: number[] = [];
    for (const t of truth.shifts) {
      const s = analysis.shifts.find((x) => x.name === t.name && Math.abs(x.commandS - t.commandS) < 0.1);
      expect(s).toBeDefined();
      if (!s?.measured) continue;
      inertia.push(Math.abs((s.inertiaS ?? 0) - (t.endS - t.startS)));
      delay.push(Math.abs((s.delayS ?? 0) - (t.startS - t.commandS)));
    }
    expect(inertia.length).toBeGreaterThan(truth.shifts.length / 2);
    expect(median(inertia)).toBeLessThan(0.06);
    expect(median(delay)).toBeLessThan(0.08);
  },
);

describe.each([
  ["plain", 30],
  ["semicolon-comma", 30],
  ["tab-imperial", 30],
  // half the readings of each channel
  ["in-turn", 90],
] as const)("a worn third clutch, written as %s", (dialect, withinRpm) => {
  it(`is found in its gears and nowhere else, with the peak within ${withinRpm} rpm, and the chart names it`, () => {
    const { analysis, truth } = judged({
      seed: 51,
      vehicleSeed: 12,
      durationS: 460,
      faults: [{ kind: "element-worn", component: "TC", severity: 0.6 }],
      dialect,
    });
    const slips = analysis.findings.filter((f) => f.kind === "slip");
    expect(slips.length).toBeGreaterThan(1);
    for (const f of slips) expect(["2", "3", "4"]).toContain(f.subject.gear);
    const strongest = Math.max(...slips.map((f) => f.measures[0].value));
    expect(Math.abs(strongest - Math.max(...truth.slips.map((s) => s.peakRpm)))).toBeLessThan(withinRpm);
    expect(readObservations(planetary, gearObservations(analysis)).explanations).toContainEqual(["TC"]);
  });
});

it.each(SEEDS)("a worn K2, seed %i: slips in gears of K2 only", (seed) => {
  const { analysis } = judged({
    unit: dual,
    seed,
    profile: "steep-hill",
    faults: [{ kind: "dual-clutch-worn", component: "K2", severity: 0.5 }],
  });
  const gears = analysis.findings.filter((f) => f.kind === "slip").map((f) => f.subject.gear);
  expect(gears.length).toBeGreaterThan(0);
  for (const g of gears) expect(["2", "4", "6"]).toContain(g);
  expect(readObservations(dual, gearObservations(analysis)).explanations).toContainEqual(["K2"]);
});

describe.each(["brae-p6", "holm-c6", "fell-e8"])("shudder that a falling friction curve drives, %s", (id) => {
  it.each([
    ["fluid-spoiled", 0.6],
    ["converter-glazed", 0.8],
  ])("%s: found, frequency within 0.4 Hz of the truth, and only while it lasts", (kind, severity) => {
    const { analysis, truth } = judged({
      unit: load(id),
      seed: 3,
      profile: "coast-road",
      rateHz: 40,
      faults: [{ kind, severity }],
    });
    const f = analysis.findings.find((x) => x.kind === "shudder");
    const long = truth.shudder.filter((s) => s.endS - s.startS > 4);
    const hz = f?.measures.find((m) => m.name === "frequency")?.value ?? 0;
    // the finding is one figure for all spans: it lies among theirs
    expect(hz).toBeGreaterThan(Math.min(...long.map((s) => s.frequencyHz)) - 0.4);
    expect(hz).toBeLessThan(Math.max(...long.map((s) => s.frequencyHz)) + 0.4);
    expect(long.length).toBeGreaterThan(0);
    expect(hz).toBeGreaterThan(3);
    expect(hz).toBeLessThan(20);
    // shorter vibrations than 2 s are left out of the truth
    for (const o of (f?.occurrences ?? []).filter((x) => x.endS - x.startS >= 2))
      expect(truth.shudder.some((t) => t.startS < o.endS && t.endS > o.startS)).toBe(true);
  });
});

it("at 10 rows a second no shudder is claimed, and the note says what to do", () => {
  const { analysis } = judged({ seed: 5, rateHz: 10, profile: "coast-road", faults: [{ kind: "fluid-spoiled" }] });
  expect(analysis.notes.join(" ")).toMatch(/At 10 readings a second this log can’t tell a shudder/);
  expect(analysis.findings.filter((x) => x.kind === "shudder")).toEqual([]);
  for (const f of analysis.findings.filter((x) => x.kind === "oscillation")) {
    expect(f.confidence.reason).toMatch(/fold down/);
    expect(f.confidence.level).toBe("low");
    expect(f.severity).toBe("notice");
  }
});

it.each(["misfire", "converter-imbalance", "wheel-imbalance"])("%s is not taken for a shudder", (kind) => {
  const { analysis } = judged({ seed: 2, profile: "coast-road", rateHz: 40, faults: [{ kind, severity: 0.4 }] });
  expect(analysis.findings.filter((f) => f.kind === "shudder").map((f) => f.title)).toEqual([]);
});

it.each(SEEDS)(
  "a speed sensor that drops out and brings limp, seed %i: every drop-out, and limp within 1 s",
  (seed) => {
    const sensor = { kind: "sensor-drops-out", component: "sen_output" };
    const { analysis, truth } = judged({
      seed,
      faults: [
        { ...sensor, atS: [70, 112], lengthS: 0.4 },
        { ...sensor, atS: [150], lengthS: 1.2 },
      ],
    });
    expect(truth.dropouts).toHaveLength(3);
    expect(analysis.dropouts.map((d) => d.sensor)).toEqual(truth.dropouts.map((d) => d.sensor));
    truth.dropouts.forEach((t, i) => {
      expect(Math.abs((analysis.dropouts[i]?.startS ?? 0) - t.startS)).toBeLessThan(0.15);
      expect(Math.abs((analysis.dropouts[i]?.endS ?? 0) - t.endS)).toBeLessThan(0.15);
    });
    expect(Math.abs((analysis.limp?.startS ?? 0) - (truth.limpS ?? 0))).toBeLessThan(1);
    expect(analysis.limp?.preceded?.sensor).toBe("sen_output");
  },
);

it.each(SEEDS)("flares of a leaking clutch, seed %i: in its shifts only, within 35 rpm in the median", (seed) => {
  const { analysis, truth } = judged({
    seed,
    rateHz: 40,
    faults: [{ kind: "element-leak", component: "HC", severity: 0.65 }],
  });
  const flares = analysis.findings.filter((f) => f.kind === "flare");
  expect(flares.length).toBeGreaterThan(0);
  // shifts into or out of the gears that use it
  for (const f of flares) expect(f.subject.shift).toMatch(/[45]/);
  const errors = flares.flatMap((f) =>
    f.occurrences.map((o) =>
      Math.abs(o.value - (truth.shifts.find((s) => Math.abs(s.commandS - o.startS) < 0.1)?.flareRpm ?? 0)),
    ),
  );
  // sensors that smooth and a valve that plays: a short peak is read lower than it is
  expect(median(errors)).toBeLessThan(35);
});

it("shifts that a sticking valve makes late and a slipping converter clutch are measured", () => {
  const late = judged({ seed: 3, faults: [{ kind: "valve-sticks", component: "TC", severity: 0.3 }] }).analysis
    .findings;
  expect(late.map((f) => f.id)).toEqual(expect.arrayContaining(["late-shift:1-2", "flare:1-2"]));
  const converter = judged({ seed: 4, faults: [{ kind: "converter-worn", severity: 0.8 }] }).analysis.findings;
  expect(converter.map((f) => f.id)).toEqual(["converter-slip"]);
  // a clutch that does nothing slips as much as the open converter would
  const ratios = [1, 2, 3, 4, 5].map((seed) => {
    const { findings } = judged({ seed, faults: [{ kind: "converter-solenoid-stuck-off" }] }).analysis;
    const slip = findings.find((f) => f.kind === "converter-slip");
    const value = (name: string) => slip?.measures.find((m) => m.name === name)?.value ?? Number.NaN;
    return value("slip where it carries most") / value("with the clutch open it would be");
  });
  expect(ratios.every((r) => r > 0.7 && r < 1.4)).toBe(true);
  expect(Math.abs(median(ratios) - 1)).toBeLessThan(0.1);
});
