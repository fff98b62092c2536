// Guards: the command of the converter clutch is read from its duty, its state in words or codes, its pressure, or from
// where it plainly holds; turbine and output that were not recorded are made from what was, and said to be.
import { describe, expect, it } from "@jest/globals";
import type { Recording } from "../../log/index.ts";
import { type Channels, steadyDrive } from "../../testing/drives.ts";
import { libraryUnit } from "../../testing/units.ts";
import { shaftPerInput, type Unit } from "../../unit/index.ts";
import { analyseDrive } from "../index.ts";
import { COMMANDED_PCT } from "./clutch-command.ts";
import { buildFrame } from "./frame.ts";

const unit = libraryUnit("brae-p6");
const drive = (patch: (c: Channels, t: Float64Array) => Channels) => steadyDrive(unit, () => 0, patch);
const without =
  (...ids: string[]) =>
  (c: Channels): Channels =>
    Object.fromEntries(Object.entries(c).filter(([id]) => !ids.includes(id)));
/** Converter open for the first half of each gear, then holding. */
const halves = (t: Float64Array) => t.map((s) => (s % 20 < 10 ? 0 : 1));
const slipOf = (t: Float64Array) => halves(t).map((on) => (on ? 8 : 260));
const engineOver = (c: Channels, t: Float64Array) =>
  (c.turbine_rpm as Float64Array).map((v, i) => v + (slipOf(t)[i] as number));
const inWords = (r: Recording): Recording => ({
  ...r,
  channels: new Map([...r.channels].map(([id, c]) => [id, id === "tcc_state" ? { ...c, inWords: true } : c])),
});
const agrees = (r: Recording, from: string, gears = [3, 4, 5, 6]) => {
  const frame = buildFrame(r, unit);
  expect(frame.tccFrom).toBe(from);
  const on = halves(frame.timeS);
  let [right, all] = [0, 0];
  frame.timeS.forEach((s, i) => {
    // the edge itself belongs to neither
    if (Math.abs((s % 10) - 0) < 1.3 || !gears.includes(frame.gear[i] as number)) return;
    all++;
    if ((frame.tccCommandPct?.[i] as number) >= COMMANDED_PCT === (on[i] === 1)) right++;
  });
  expect(right / all).toBeGreaterThan(0.97);
};

describe("what the converter clutch is told", () => {
  it("by words", () => {
    agrees(
      inWords(
        drive((c, t) => ({
          ...without("tcc_command")(c),
          engine_rpm: engineOver(c, t),
          tcc_state: halves(t).map((x) => 2 * x),
        })),
      ),
      "state",
    );
  });
  it("by codes of a tool: what happens while they stand tells them", () => {
    // 7 while it holds, 9 for a second before it is let go
    const codes = (t: Float64Array) => t.map((s) => (s % 20 < 10 ? 0 : s % 20 > 19 ? 9 : 7));
    const r = drive((c, t) => ({ ...without("tcc_command")(c), engine_rpm: engineOver(c, t), tcc_state: codes(t) }));
    const frame = buildFrame(r, unit);
    const at = (s: number) => frame.tccCommandPct?.[frame.timeS.findIndex((x) => x >= s)];
    expect(at(35)).toBe(100);
    expect(at(39.5)).toBeLessThan(COMMANDED_PCT);
    expect(at(25)).toBe(0);
  });
  it("by pressure", () => {
    agrees(
      drive((c, t) => ({
        ...without("tcc_command")(c),
        engine_rpm: engineOver(c, t),
        tcc_pressure_kpa: halves(t).map((x) => 20 + 600 * x),
      })),
      "pressure",
    );
  });
  it("by where it holds, when nothing else was recorded: then nothing is said of how it holds", () => {
    const r = drive((c, t) => ({
      ...without("tcc_command")(c),
      engine_rpm: engineOver(c, t),
      engine_torque_nm: t.map(() => 120),
    }));
    agrees(r, "slip", unit.converter?.clutchGears.map(Number));
    const { converter, findings } = analyseDrive(r, unit);
    expect(converter?.from).toBe("slip");
    expect(findings.filter((f) => f.kind === "converter-slip")).toEqual([]);
  });
});

describe("speeds that were not recorded", () => {
  it("road speed stands in for the output, on tyres of another size", () => {
    const r = drive((c) => ({
      ...without("output_rpm")(c),
      vehicle_kmh: (c.vehicle_kmh as Float64Array).map((v) => v * 1.04),
    }));
    const frame = buildFrame(r, unit);
    expect(frame.derived).toEqual(["output_rpm"]);
    const off = frame.inputRpm.map(
      (n, i) => n / ((frame.ratios[(frame.gear[i] as number) + 1] as number) * (frame.outputRpm[i] as number)),
    );
    expect(Math.max(...off.slice(50, 350).map((x) => Math.abs(x - 1)))).toBeLessThan(0.005);
  });
  it("with neither turbine nor slip a log is analysed, and neither slip nor the times of shifts are measured", () => {
    const analysis = analyseDrive(drive(without("turbine_rpm")), unit);
    expect(analysis.derived).toEqual(["turbine_rpm"]);
    expect(analysis.shifts.map((s) => [s.name, s.measured])).toEqual(
      ["1-2", "2-3", "3-4", "4-5", "5-6"].map((n) => [n, false]),
    );
    expect(analysis.held.gears).toEqual([]);
    expect(analysis.notes.join(" ")).toMatch(/turbine/);
  });
  it("a shaft inside the train tells the turbine where the unit file says how it turns", () => {
    const perInput = { "1": 0.5, "2": 0.7, "3": 1, "4": 1.2, "5": 1.3, "6": 1.5 };
    const inside: Unit = {
      ...unit,
      sensors: [
        { id: "sen_middle", name: "Shaft", channel: "middle_rpm", perInput, validGears: "all" },
        ...unit.sensors.filter((s) => s.channel !== "turbine_rpm"),
      ],
    };
    const r = drive((c) => ({
      ...without("turbine_rpm")(c),
      middle_rpm: (c.turbine_rpm as Float64Array).map(
        (v, i) => v * (perInput[String(c.gear_commanded?.[i]) as keyof typeof perInput] ?? Number.NaN),
      ),
    }));
    const frame = buildFrame(r, inside);
    const plain = buildFrame(
      drive((c) => c),
      unit,
    );
    frame.inputRpm.forEach((v, i) => {
      expect(v).toBeCloseTo(plain.inputRpm[i] as number, 6);
    });
    expect(frame.derived).toEqual(["turbine_rpm"]);
  });
  it("the train tells it where the sensor names a shaft of it", () => {
    expect(shaftPerInput(unit, { shaft: "input" }).get("3")).toBeCloseTo(1, 9);
    const output = shaftPerInput(unit, { shaft: "output" });
    for (const g of unit.gears) expect(output.get(g.name)).toBeCloseTo(1 / Math.abs(g.ratio), 2);
    expect(shaftPerInput(unit, {}).size).toBe(0);
  });
});
