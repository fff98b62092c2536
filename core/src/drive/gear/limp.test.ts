// Guards: limp mode from its start and its signs; what it swallows accuses nothing; a sound drive in the default gear isn't one.
import { describe, expect, it } from "@jest/globals";
import { ratioOfGear } from "../../testing/drives.ts";
import { recordingOf, timesOf } from "../../testing/recordings.ts";
import { libraryUnit } from "../../testing/units.ts";
import { analyseDrive } from "../index.ts";

const unit = libraryUnit("brae-p6");
const dual = libraryUnit("corran-w7");
const ratio = (gear: string) => ratioOfGear(unit, gear);

describe("limp", () => {
  it("is told from its start, with its signs and what came before", () => {
    const t = timesOf(80, 20);
    const limpAt = 40;
    const gear = t.map((s) => (s < 20 ? 2 : s < limpAt ? 5 : 4));
    const output = t.map((s) => (s < limpAt ? 1300 : Math.max(200, 1300 - 60 * (s - limpAt))));
    const recording = recordingOf(t, {
      turbine_rpm: output.map((o, i) => o * ratio(String(gear[i]))),
      output_rpm: output.map((o, i) => ((t[i] as number) > 38.4 && (t[i] as number) < 39.2 ? 0 : o)),
      vehicle_kmh: output.map((o) => o / 30),
      gear_commanded: gear,
      engine_torque_nm: t.map(() => 60),
      line_pressure_kpa: t.map((s) => (s < limpAt ? 600 : 1700)),
    });
    const { limp, findings } = analyseDrive(recording, unit);
    expect(limp?.gear).toBe("4");
    expect(limp?.startS).toBeCloseTo(40, 0);
    expect(limp?.signs).toEqual(expect.arrayContaining(["line pressure at its maximum"]));
    expect(limp?.preceded?.sensor).toBe("sen_output");
    expect(findings[0]?.title).toMatch(/after output speed sensor lost its signal/);
    expect(limp?.certain).toBe(true);
  });

  /** Second, then the limp gear: how slowly it is held at the end is given, in rpm of the input shaft. */
  const endsIn = (slowestInputRpm: number, upTo = 1300) => {
    const t = timesOf(80, 20);
    const gear = t.map((s) => (s < 20 ? 2 : 4));
    const output = t.map((s) => (s < 50 ? upTo : Math.max(slowestInputRpm / ratio("4"), upTo - 60 * (s - 50))));
    return analyseDrive(
      recordingOf(t, {
        turbine_rpm: output.map((o, i) => o * ratio(String(gear[i]))),
        output_rpm: output,
        vehicle_kmh: output.map((o) => o / 30),
        gear_commanded: gear,
        engine_torque_nm: t.map(() => 60),
      }),
      unit,
    ).limp;
  };
  it("a sound drive that ends in the limp gear isn't one, unless it is held where any other had changed down", () => {
    expect(endsIn(1000)).toBeUndefined();
    expect(endsIn(615)).toBeUndefined();
    expect(endsIn(585)?.signs).toEqual(["gear 4 held from near standstill"]);
  });

  describe("with other gears commanded", () => {
    /** From 40 s the fourth stays, whatever is commanded; the pressure goes to its maximum for good at 65 s only. */
    const disobeyed = (patch: (c: Record<string, Float64Array>, t: Float64Array) => Record<string, Float64Array>) => {
      const t = timesOf(90, 20);
      const [limpAt, risenAt] = [40, 65];
      const commanded = t.map((s) => (s < limpAt ? (s < 20 ? 2 : 5) : s < 50 ? 3 : s < 60 ? 2 : 4));
      const output = t.map((s) => 1100 + 150 * Math.sin(s / 4));
      const channels = {
        turbine_rpm: output.map((o, i) => o * ratio((t[i] as number) < limpAt ? String(commanded[i]) : "4")),
        output_rpm: output,
        vehicle_kmh: output.map((o) => (o / unit.finalDrive) * 2 * Math.PI * unit.tyreRadiusM * 0.06),
        gear_commanded: commanded,
        engine_torque_nm: t.map(() => 60),
        line_pressure_kpa: t.map((s) => (s < risenAt ? 600 : 1700)),
      };
      return analyseDrive(recordingOf(t, patch(channels, t)), unit);
    };
    it("it begins where they are no longer obtained, not where the pressure rises; none of them slips", () => {
      const { limp, findings } = disobeyed((c) => c);
      expect(Math.abs((limp?.startS ?? 0) - 40)).toBeLessThan(0.5);
      expect(limp?.byPressure).toBe(true);
      expect(findings.filter((f) => ["slip", "wrong-gear", "failed-shift"].includes(f.kind))).toEqual([]);
    });
    it("the gears that never came say nothing of the shifts before it", () => {
      const { usual: _, ...bare } = unit;
      const t = timesOf(150, 20);
      const limpAt = 70;
      const [before, since] = [
        [2, 3, 4],
        [1, 2, 3, 1, 3],
      ];
      const commandAt = (s: number) =>
        s < limpAt ? (before[Math.floor(s / 5) % 3] as number) : (since[Math.floor((s - limpAt) / 5) % 5] as number);
      const output = t.map(() => 1100);
      // every shift comes after 0.35 s and takes 0.3 s, until none is made any more
      const turbine = t.map((s) => {
        if (s >= limpAt) return 1100 * ratio("4");
        const [from, to] = [commandAt(Math.max(0, s - (s % 5) - 0.1)), commandAt(s)].map((g) => ratio(String(g)));
        const share = Math.min(1, Math.max(0, ((s % 5) - 0.35) / 0.3));
        return 1100 * ((from as number) + share * ((to as number) - (from as number)));
      });
      const { limp, findings } = analyseDrive(
        recordingOf(t, {
          turbine_rpm: turbine,
          output_rpm: output,
          vehicle_kmh: output.map((o) => o / 30),
          gear_commanded: t.map(commandAt),
          engine_torque_nm: t.map(() => 60),
          fluid_c: t.map(() => 80),
        }),
        bare,
      );
      expect(Math.abs((limp?.startS ?? 0) - limpAt)).toBeLessThan(1);
      expect(findings.filter((f) => f.kind === "late-shift")).toEqual([]);
    });
    it("an output speed that stands still in it shows no other gear", () => {
      const { limp, findings } = disobeyed((c, t) => ({
        ...c,
        // it freezes while the vehicle slows down, as the ratio of another gear
        output_rpm: (c.output_rpm as Float64Array).map((o, i) => {
          const s = t[i] as number;
          return [52, 58].some((at) => s > at && s < at + 1.5) ? 900 : o;
        }),
      }));
      expect(findings.map((f) => f.kind)).toContain("drop-out");
      expect(Math.abs((limp?.startS ?? 0) - 40)).toBeLessThan(0.5);
    });
  });

  describe("of a dual clutch that drives in its limp gear already", () => {
    /** Second until 20 s, third from there on; what else happens is laid over. */
    const drive = (patch: (c: Record<string, Float64Array>, t: Float64Array) => Record<string, Float64Array>) => {
      const t = timesOf(80, 20);
      const gear = t.map((s) => (s < 20 ? 2 : 3));
      // down to walking pace at the end: third held there is the sign of limp mode
      const output = t.map((s) => (s < 50 ? 900 + 10 * s : Math.max(250, 1400 - 60 * (s - 50))));
      const engine = output.map((o, i) => o * ratioOfGear(dual, String(gear[i])));
      const channels = {
        engine_rpm: engine,
        output_rpm: output,
        vehicle_kmh: output.map((o) => (o / dual.finalDrive) * 2 * Math.PI * dual.tyreRadiusM * 0.06),
        gear_commanded: gear,
        engine_torque_nm: t.map(() => 60),
      };
      return analyseDrive(recordingOf(t, patch(channels, t)), dual);
    };
    it("the gear alone tells no moment, and the finding says so", () => {
      const { limp, findings } = drive((c) => c);
      expect(limp?.startS).toBeCloseTo(20, 0);
      expect(limp?.certain).toBe(false);
      expect(findings.find((f) => f.kind === "limp")?.confidence).toMatchObject({
        level: "medium",
        reason: expect.stringMatching(/may have begun later/),
      });
    });
    it("a speed signal that is lost in it tells the moment", () => {
      const { limp } = drive((c, t) => ({
        ...c,
        output_rpm: (c.output_rpm as Float64Array).map((o, i) => ((t[i] as number) > 33 ? 0 : o)),
      }));
      expect(Math.abs((limp?.startS ?? 0) - 33)).toBeLessThan(0.6);
      expect(limp?.certain).toBe(true);
    });
    it("an engine that runs away from its closed clutch tells the moment", () => {
      const { limp } = drive((c, t) => ({
        ...c,
        engine_rpm: (c.engine_rpm as Float64Array).map((e, i) => ((t[i] as number) > 40 ? e + 900 : e)),
      }));
      expect(Math.abs((limp?.startS ?? 0) - 40)).toBeLessThan(0.6);
    });
  });
});
