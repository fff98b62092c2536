// Guards: a labelled log is scored by what really happened: right labels score high, wrong ones low, a refusal misses all.

import { exportLog, PLAIN_STYLE, simulateDrive } from "@gearsense/simulator";
import { describe, expect, it } from "@jest/globals";
import { type LabelledLog, type Labels, scoreLabelled } from "./labelled.ts";
import { labelledFigures, labelledPage } from "./labelled-page.ts";
import { knowledge, units } from "./testing/library.ts";

const unit = units.find((u) => u.id === "brae-p6") as (typeof units)[number];
const { columns, truth } = simulateDrive({
  unit,
  seed: 11,
  durationS: 420,
  profile: "mixed",
  rateHz: 20,
  faults: [{ kind: "element-worn", component: "TC", severity: 0.8 }],
});
const labels: Labels = {
  healthy: false,
  fault: { kind: "clutch_worn", components: ["TC"], places: ["element-worn"] },
  observability: { observable: true },
  log: { rateHz: 20 },
  events: {
    shifts: truth.shifts.map(({ name, commandS }) => {
      const [from, to] = name.split("-") as [string, string];
      return { from, to, commandS };
    }),
    shudder: [],
    slip: truth.slips.map((s) => ({ gear: s.gear, startS: s.startS, endS: s.endS, maxRpm: s.peakRpm })),
    dropouts: [],
    limp: null,
  },
};
const log: LabelledLog = { name: "one", unit, labels, bytes: exportLog(columns, PLAIN_STYLE) };
const score = (change: Partial<LabelledLog> = {}) => scoreLabelled({ ...log, ...change }, units, knowledge);
const figure = (name: RegExp, ...scores: ReturnType<typeof score>[]) => {
  const [found, more] = labelledFigures(scores).filter((f) => name.test(f.name));
  expect(more).toBeUndefined();
  return found?.value;
};

describe("a labelled log", () => {
  it("is scored as right where the labels say what happened", () => {
    const right = score();
    expect(right.refused).toBeUndefined();
    expect(right.slipRight).toBe(true);
    expect(right.leading).toMatchObject({ right: true });
    expect(figure(/Commanded shifts/, right)).toBeGreaterThan(0.97);
    expect(figure(/Right place first/, right)).toBe(1);
    expect(figure(/Healthy logs/, right)).toBeUndefined();
  });
  it("is scored as wrong where they say something else", () => {
    const healthy = score({
      labels: {
        ...labels,
        healthy: true,
        fault: { kind: "none", components: [], places: ["nothing"] },
        events: { ...labels.events, slip: [], shifts: [{ from: "1", to: "2", commandS: 1 }] },
      },
    });
    expect(figure(/Healthy logs/, healthy)).toBe(1);
    expect(figure(/nothing wrong first/, healthy)).toBe(0);
    expect(figure(/Commanded shifts/, healthy)).toBe(0);
    const elsewhere = score({
      labels: { ...labels, fault: { kind: "clutch_worn", components: ["LB"], places: ["LB"] } },
    });
    expect(elsewhere.slipRight).toBe(false);
    expect(elsewhere.leading.right).toBe(false);
    expect(figure(/Right place first/, score(), elsewhere)).toBe(0.5);
  });
  it("misses everything when it is refused", () => {
    const refused = score({ bytes: new TextEncoder().encode("nothing") });
    expect(refused.refused).toMatch(/./);
    expect(refused.shifts).toEqual({ hit: 0, wrong: 0, missed: labels.events.shifts.length });
    expect(refused.placeRank).toBe(Number.POSITIVE_INFINITY);
    expect(figure(/Analysed/, refused)).toBe(0);
    expect(labelledPage([refused])).toContain(`- one: clutch worn, 20 Hz: ${refused.refused}`);
  });
  it("counts gaps by their sensor, and not those too short to be seen", () => {
    const gap = (startS: number, s: number, sensor = "sen_output") => ({ startS, endS: startS + s, sensor });
    const with_ = (...dropouts: ReturnType<typeof gap>[]) =>
      score({ labels: { ...labels, events: { ...labels.events, dropouts } } }).dropouts;
    expect(with_()).toEqual({ hit: 0, wrong: 0, missed: 0 });
    expect(with_(gap(60, 1))).toEqual({ hit: 0, wrong: 0, missed: 1 });
    // three readings of 20 a second
    expect(with_(gap(60, 0.151)).missed).toBe(1);
    expect(with_(gap(60, 0.149)).missed).toBe(0);
    expect(with_(gap(60, 1, "sen_other"))).toEqual({ hit: 0, wrong: 0, missed: 0 });
  });
});
