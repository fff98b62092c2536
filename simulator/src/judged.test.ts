// Guards: the analysis finds what the generator put into the log, within stated tolerances, over seeds and dialects; and
// finds nothing in healthy logs. The generator is pure: one seed, one log.

import { type Analysis, analyseDrive, gearOutcomes } from "@gearsense/core/drive";
import { buildRecording, decodeLog, proposeMapping, readTable, sniffDialect } from "@gearsense/core/log";
import { readChart, type Unit } from "@gearsense/core/unit";
import { describe, expect, it } from "@jest/globals";
import {
  type ExportStyle,
  PLAIN_STYLE,
  type ProfileName,
  type SimulatedFault,
  simulateDrive,
  type Truth,
  writeLog,
} from "./index.ts";
import { load } from "./testing/units.ts";

const planetary = load("brae-p6");
const dual = load("corran-w7");
const SEEDS = [1, 2, 3, 4];

interface Case {
  readonly unit?: Unit;
  readonly seed: number;
  readonly profile?: ProfileName;
  readonly faults: SimulatedFault[];
  readonly rateHz?: number;
  readonly style?: Partial<ExportStyle>;
}

function judged({ unit = planetary, seed, profile = "mixed", faults, rateHz = 20, style = {} }: Case): {
  analysis: Analysis;
  truth: Truth;
  text: string;
} {
  const { columns, truth } = simulateDrive({
    unit,
    seed,
    rateHz,
    durationS: 420,
    profile,
    startFluidC: 50,
    finalFluidC: 98,
    faults,
  });
  const text = writeLog(columns, { ...PLAIN_STYLE, ...style });
  const table = readTable(decodeLog(new TextEncoder().encode(text)).text, sniffDialect(text));
  return { analysis: analyseDrive(buildRecording(table, proposeMapping(table)), unit, [planetary, dual]), truth, text };
}

it("one seed gives one log, another seed another", () => {
  const text = (seed: number) => judged({ seed, faults: [] }).text;
  expect(text(7)).toBe(text(7));
  expect(text(7)).not.toBe(text(8));
});

describe.each([planetary, dual])("healthy $name", (unit) => {
  it.each([1, 2])("seed %i has no finding", (seed) => {
    for (const profile of ["mixed", "town", "hill", "coast-road", "steep-hill"] as const) {
      const { analysis } = judged({ unit, seed, profile, faults: [] });
      expect(analysis.findings.map((f) => `${profile} ${f.id}`)).toEqual([]);
    }
  });
});

it.each(SEEDS)("shifts, seed %i: all found, inertia phase within 60 ms, delay within 80 ms", (seed) => {
  const { analysis, truth } = judged({ seed, faults: [] });
  expect(analysis.shifts).toHaveLength(truth.shifts.length);
  for (const t of truth.shifts) {
    const s = analysis.shifts.find((x) => x.name === t.name && Math.abs(x.commandS - t.commandS) < 0.1);
    expect(s?.measured).toBe(true);
    expect(Math.abs((s?.inertiaS ?? 0) - (t.endS - t.startS))).toBeLessThan(0.06);
    expect(Math.abs((s?.delayS ?? 0) - (t.startS - t.commandS))).toBeLessThan(0.08);
  }
});

const DIALECTS: readonly (readonly [string, Partial<ExportStyle>])[] = [
  ["plain", {}],
  [
    "semicolons, decimal comma, unit row, clock, mark, CRLF",
    {
      delimiter: ";",
      decimalComma: true,
      units: "row",
      time: "clock",
      preamble: ["Recording"],
      byteOrderMark: true,
      newline: "\r\n",
    },
  ],
  ["tabs, short names, imperial, milliseconds", { delimiter: "\t", headers: "short", imperial: true, time: "ms" }],
  ["polled in turn", { roundRobin: 2 }],
];

describe.each(DIALECTS)("a worn high clutch, written with %s", (_name, style) => {
  it("is found in its gears and nowhere else, with onset within 12 N·m and peak within 15 rpm", () => {
    const fault = { kind: "element-slip", element: "HC", onsetTorqueNm: 125, rpmPerNm: 1.3 } as const;
    const { analysis, truth } = judged({ seed: 11, faults: [fault], style });
    const slips = analysis.findings.filter((f) => f.kind === "slip");
    expect(slips.map((f) => f.subject.gear)).toEqual(["4", "5", "6"]);
    const strongest = slips.reduce((a, b) => (b.measures[0].value > a.measures[0].value ? b : a));
    expect(Math.abs(strongest.measures[0].value - Math.max(...truth.slips.map((s) => s.peakRpm)))).toBeLessThan(15);
    const five = slips.find((f) => f.subject.gear === "5");
    expect(
      Math.abs((five?.measures.find((m) => m.name === "begins at")?.value ?? 0) - fault.onsetTorqueNm),
    ).toBeLessThan(12);
    expect(readChart(planetary, gearOutcomes(analysis)).explanations).toEqual([["HC"]]);
  });
});

it.each(SEEDS)("a worn K2, seed %i: slips in gears of K2 only", (seed) => {
  const { analysis } = judged({
    unit: dual,
    seed,
    profile: "steep-hill",
    faults: [{ kind: "element-slip", element: "K2", onsetTorqueNm: 105, rpmPerNm: 0.95 }],
  });
  const gears = analysis.findings.filter((f) => f.kind === "slip").map((f) => f.subject.gear);
  expect(gears.length).toBeGreaterThan(0);
  for (const g of gears) expect(["2", "4", "6"]).toContain(g);
  expect(readChart(dual, gearOutcomes(analysis)).explanations).toContainEqual(["K2"]);
});

it.each([
  [4.2, 45],
  [6.3, 58],
  [8, 90],
])(
  "shudder of %d Hz and %d rpm: frequency within 0.2 Hz, height within 10 %%, and only while it lasts",
  (frequencyHz, peakToPeakRpm) => {
    const { analysis, truth } = judged({
      seed: 5,
      profile: "coast-road",
      faults: [{ kind: "shudder", frequencyHz, peakToPeakRpm, minTorqueNm: 50, maxTorqueNm: 170 }],
    });
    const f = analysis.findings.find((x) => x.kind === "shudder");
    expect(Math.abs((f?.measures.find((m) => m.name === "frequency")?.value ?? 0) - frequencyHz)).toBeLessThan(0.2);
    expect(Math.abs((f?.measures[0].value ?? 0) / peakToPeakRpm - 1)).toBeLessThan(0.1);
    for (const o of f?.occurrences ?? [])
      expect(truth.shudder.some((t) => t.startS < o.endS && t.endS > o.startS)).toBe(true);
  },
);

it("at 10 rows a second a 8 Hz shudder is not claimed as one of 8 Hz, and the note says what can be seen", () => {
  const { analysis } = judged({
    seed: 5,
    rateHz: 10,
    profile: "coast-road",
    faults: [{ kind: "shudder", frequencyHz: 8, peakToPeakRpm: 80, minTorqueNm: 50, maxTorqueNm: 170 }],
  });
  expect(analysis.notes.join(" ")).toMatch(/up to 5 Hz only|up to 4 Hz only/);
  for (const f of analysis.findings.filter((x) => x.kind === "shudder")) {
    expect(f.confidence.reason).toMatch(/fold down/);
    expect(f.confidence.level).toBe("low");
  }
});

it.each(SEEDS)(
  "a speed sensor that drops out and brings limp, seed %i: every drop-out, and limp within 1 s",
  (seed) => {
    const { analysis, truth } = judged({
      seed,
      faults: [{ kind: "sensor-dropout", sensor: "sen_output", atS: [70, 118, 150], lengthS: 1.2, limpAfter: true }],
    });
    expect(analysis.dropouts.map((d) => d.sensor)).toEqual(truth.dropouts.map((d) => d.sensor));
    truth.dropouts.forEach((t, i) => {
      expect(Math.abs((analysis.dropouts[i]?.startS ?? 0) - t.startS)).toBeLessThan(0.15);
      expect(Math.abs((analysis.dropouts[i]?.endS ?? 0) - t.endS)).toBeLessThan(0.15);
    });
    expect(Math.abs((analysis.limp?.startS ?? 0) - (truth.limpS ?? 0))).toBeLessThan(1);
    expect(analysis.limp?.preceded?.sensor).toBe("sen_output");
  },
);

it.each([150, 240])("a flare of %d rpm in 2-3: within 20 rpm, in that shift only", (rpm) => {
  const { analysis } = judged({ seed: 3, faults: [{ kind: "flare", shift: "2-3", rpm }] });
  const flares = analysis.findings.filter((f) => f.kind === "flare");
  expect(flares.map((f) => f.subject.shift)).toEqual(["2-3"]);
  expect(Math.abs((flares[0]?.measures[0].value ?? 0) - rpm)).toBeLessThan(20);
});

it("a long shift and a slipping converter clutch are measured", () => {
  const slow = judged({ seed: 3, faults: [{ kind: "slow-shift", shift: "3-4", inertiaS: 1.1 }] }).analysis.findings;
  expect(slow.map((f) => f.id)).toEqual(["slow-shift:3-4"]);
  expect(Math.abs((slow[0]?.measures[0].value ?? 0) - 1.12)).toBeLessThan(0.06);
  const converter = judged({ seed: 3, faults: [{ kind: "converter-slip", rpm: 130 }] }).analysis.findings;
  expect(converter.map((f) => f.id)).toEqual(["converter-slip"]);
});
