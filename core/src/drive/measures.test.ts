// Guards: converter clutch, oscillation and derived channels against closed forms.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { type Channels, ratioOfGear, steadyDrive } from "../testing/drives.ts";
import { recordingOf, timesOf } from "../testing/recordings.ts";
import { libraryUnit } from "../testing/units.ts";
import { analyseConverter } from "./converter/converter.ts";
import { analyseOscillation } from "./driveline/oscillation.ts";
import { analyseDrive } from "./index.ts";
import { buildFrame, type Frame } from "./signal/frame.ts";

const unit = libraryUnit("brae-p6");
const limitRpm = 50;
const zeros = (frame: Frame) => new Uint8Array(frame.timeS.length);

/** One gear at one speed; the clutch is commanded from 10 s to 40 s; slip falls from 300 rpm as e^(−t/τ) to its rest. */
function clutchDrive(tauS: number, restRpm: number, patch: (c: Channels, t: Float64Array) => Channels = (c) => c) {
  const t = timesOf(60, 20);
  const turbine = t.map(() => 1500 * ratioOfGear(unit, 5));
  const slip = t.map((s) =>
    s < 10 || s > 40 ? 300 : restRpm + (300 - restRpm) * Math.exp(-(s - 10) / Math.max(tauS, 1e-6)),
  );
  const channels = {
    turbine_rpm: turbine,
    engine_rpm: turbine.map((v, i) => v + (slip[i] as number)),
    output_rpm: t.map(() => 1500),
    gear_commanded: t.map(() => 5),
    engine_torque_nm: t.map(() => 120),
    fluid_c: t.map(() => 80),
    tcc_command: t.map((s) => (s >= 10 && s <= 40 ? 85 : 0)),
  };
  return buildFrame(recordingOf(t, patch(channels, t)), unit);
}

describe("converter clutch", () => {
  it("applies in τ·ln((300 − rest)/(limit − rest)), then holds its rest", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.1, max: 1.2, noNaN: true }),
        fc.double({ min: 0, max: 40, noNaN: true }),
        (tauS, restRpm) => {
          const frame = clutchDrive(tauS, restRpm);
          const [episode] = analyseConverter(frame, zeros(frame), zeros(frame), limitRpm)?.episodes ?? [];
          const expectedS = tauS * Math.log((300 - restRpm) / (limitRpm - restRpm));
          expect(Math.abs((episode?.applyS ?? 0) - expectedS)).toBeLessThan(0.051);
          expect(Math.abs((episode?.residualSlipRpm ?? 0) - restRpm)).toBeLessThan(1);
          expect(episode?.gears).toEqual(["5"]);
        },
      ),
    );
  });
  it.each([
    [5, "locked", true],
    [30, "controlled slip", true],
    [120, "slipping", false],
  ])("at %d rpm it is %s", (restRpm, state, applies) => {
    const frame = clutchDrive(0.2, restRpm);
    const [episode] = analyseConverter(frame, zeros(frame), zeros(frame), limitRpm)?.episodes ?? [];
    expect(episode?.state).toBe(state);
    expect(episode?.applyS !== undefined).toBe(applies);
  });
  it("open, applying and applied add up to the drive", () => {
    const frame = clutchDrive(0.5, 10);
    const c = analyseConverter(frame, zeros(frame), zeros(frame), limitRpm);
    expect((c?.secondsOpen ?? 0) + (c?.secondsApplying ?? 0) + (c?.secondsApplied ?? 0)).toBeCloseTo(60, 6);
    expect(c?.secondsApplied).toBeGreaterThan(28);
    expect(c?.byGear["5"]).toBeCloseTo(c?.secondsApplied ?? 0, 6);
  });
  describe("hunting", () => {
    /** Applied from 5 s on, let go for `openS` every `everyS`, `times` times. */
    const hunting = (times: number, everyS: number, openS: number, patch: (c: Channels, t: Float64Array) => Channels) =>
      clutchDrive(0.01, 5, (c, t) =>
        patch(
          {
            ...c,
            tcc_command: t.map((s) => {
              const k = Math.floor((s - 5) / everyS);
              const letGo = k >= 1 && k <= times && s - 5 - k * everyS < openS;
              return s > 5 && !letGo ? 85 : 0;
            }),
            vehicle_kmh: t.map(() => 70),
            pedal_pct: t.map(() => 15),
          },
          t,
        ),
      );
    const as = (c: Channels) => c;
    const spans = (frame: Frame) => analyseConverter(frame, zeros(frame), zeros(frame), limitRpm)?.hunting ?? [];

    it.each([
      [3, 4, 1],
      [6, 5, 2],
      [9, 4, 0.5],
    ])("%d times, every %d s, %d s open: so many cycles at that rate", (times, everyS, openS) => {
      const [span, ...rest] = spans(hunting(times, everyS, openS, as));
      expect(rest).toEqual([]);
      expect(span?.cycles).toBe(times);
      expect(span?.startS).toBeCloseTo(5 + everyS, 0);
      // from the first time let go to the last time taken again
      expect(span?.cyclesPerMin).toBeCloseTo((60 * times) / ((times - 1) * everyS + openS), -1);
      expect(span?.gear).toBe("5");
    });
    it.each<[string, Frame]>([
      ["twice", hunting(2, 6, 1, as)],
      ["open for longer than 8 s each time", hunting(3, 12, 9, as)],
      ["as the pedal moves", hunting(5, 5, 1, (c, t) => ({ ...c, pedal_pct: t.map((s) => 20 + 15 * Math.sin(s)) }))],
      ["as the speed changes", hunting(5, 5, 1, (c, t) => ({ ...c, vehicle_kmh: t.map((s) => 40 + 3 * s) }))],
      [
        "as the gear changes each time",
        hunting(5, 5, 1, (c, t) => ({ ...c, gear_commanded: t.map((s) => 4 + (Math.floor(s / 5) % 2)) })),
      ],
    ])("%s is none", (_, frame) => {
      expect(spans(frame)).toEqual([]);
    });
    it("is a notice of its own, with its gear", () => {
      const t = timesOf(120, 20);
      const a = analyseDrive(
        steadyDrive(
          unit,
          () => 0,
          (c) => ({
            ...c,
            tcc_command: t.map((s) => (s > 82 && s < 98 && Math.floor(s * 2) % 4 > 0 ? 85 : 0)),
          }),
        ),
        unit,
      );
      expect(a.findings.find((f) => f.kind === "hunting")).toMatchObject({
        id: "hunting",
        severity: "notice",
        conditions: { gears: ["5"] },
        limit: { source: "typical" },
      });
    });
  });
  it("is not judged without the engine speed", () => {
    const frame = clutchDrive(0.2, 10, ({ engine_rpm: _, ...rest }) => rest as Channels);
    expect(analyseConverter(frame, zeros(frame), zeros(frame), limitRpm)).toBeUndefined();
  });
});

describe("oscillation", () => {
  const shaking = (hz: number, pp: number, always: boolean) =>
    clutchDrive(0.05, 10, (c, t) => ({
      ...c,
      engine_rpm: (c.engine_rpm as Float64Array).map(
        (v, i) =>
          v +
          (always || ((t[i] as number) > 12 && (t[i] as number) < 40)
            ? (pp / 2) * Math.sin(2 * Math.PI * hz * (t[i] as number))
            : 0),
      ),
    }));
  it("is measured where the clutch works", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 3.6, max: 8.2, noNaN: true }),
        fc.double({ min: 35, max: 150, noNaN: true }),
        (hz, pp) => {
          const frame = shaking(hz, pp, false);
          const { clutchWorking, openPeakToPeakRpm } = analyseOscillation(frame, zeros(frame), zeros(frame), {
            value: 30,
            source: "typical",
          });
          expect(clutchWorking).toHaveLength(1);
          expect(Math.abs((clutchWorking[0]?.frequencyHz ?? 0) - hz)).toBeLessThan(0.1);
          expect(Math.abs((clutchWorking[0]?.peakToPeakRpm ?? 0) / pp - 1)).toBeLessThan(0.08);
          expect(openPeakToPeakRpm ?? 0).toBeLessThan(5);
        },
      ),
      { numRuns: 30 },
    );
  });
  it("of the engine itself, clutch open or not, is an oscillation, and no shudder: that makes the turbine vibrate", () => {
    const drive = (engine: boolean) =>
      analyseDrive(
        steadyDrive(
          unit,
          () => 0,
          (c, t) => {
            const vibration = t.map((s) => (engine || s > 67 ? 40 * Math.sin(2 * Math.PI * 6 * s) : 0));
            const turbine = (c.turbine_rpm as Float64Array).map((v, i) => v + (engine ? 0 : (vibration[i] as number)));
            return {
              ...c,
              tcc_command: t.map((s) => (s > 65 ? 85 : 0)),
              engine_rpm: (c.turbine_rpm as Float64Array).map(
                (v, i) => v + ((t[i] as number) > 65 ? 20 : 500) + (engine ? (vibration[i] as number) : 0),
              ),
              turbine_rpm: turbine,
              // the shafts behind it vibrate with the turbine
              output_rpm: (c.output_rpm as Float64Array).map(
                (o, i) => (o * (turbine[i] as number)) / ((c.turbine_rpm as Float64Array)[i] as number),
              ),
            };
          },
        ),
        unit,
      ).findings.map((f) => f.id);
    expect(drive(false)).toEqual(["shudder"]);
    expect(drive(true)).toEqual(["oscillation:engine"]);
  });
  it("a log of five readings a second can’t tell, and says so", () => {
    const t = timesOf(60, 5);
    const turbine = t.map(() => 1500 * ratioOfGear(unit, 5));
    const analysis = analyseDrive(
      recordingOf(t, {
        turbine_rpm: turbine,
        engine_rpm: turbine.map((v, i) => v + 10 + 40 * Math.sin(2 * Math.PI * 6 * (t[i] as number))),
        output_rpm: t.map(() => 1500),
        gear_commanded: t.map(() => 5),
        tcc_command: t.map(() => 85),
      }),
      unit,
    );
    expect(analysis.oscillation.highestHz).toBeUndefined();
    expect(analysis.findings.some((f) => f.kind === "shudder")).toBe(false);
    expect(analysis.notes.join(" ")).toMatch(/can’t tell a shudder \(3–20 Hz\)/);
  });
});

describe("derived channels", () => {
  it("turbine = engine − converter slip; output = wheel speed · final drive", () => {
    const whole = steadyDrive(unit);
    const channels = new Map(whole.channels);
    const engine = whole.channels.get("engine_rpm");
    if (!engine) throw new Error("no engine speed");
    channels.delete("turbine_rpm");
    channels.delete("output_rpm");
    channels.set("tcc_slip_rpm", { ...engine, id: "tcc_slip_rpm", values: engine.values.map(() => 20) });
    const frame = buildFrame({ ...whole, channels }, unit);
    const own = buildFrame(whole, unit);
    expect(frame.derived).toEqual(["turbine_rpm", "output_rpm"]);
    for (let i = 0; i < frame.timeS.length; i += 97) {
      expect(frame.inputRpm[i]).toBeCloseTo(own.inputRpm[i] as number, 6);
      expect(frame.outputRpm[i]).toBeCloseTo(own.outputRpm[i] as number, 6);
    }
  });
});
