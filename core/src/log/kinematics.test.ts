// Guards: what the numbers say of a column, whatever it is called; ambiguity is shown; profiles keep what was settled.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { ratioOfGear, steadyDrive } from "../testing/drives.ts";
import { libraryUnit } from "../testing/units.ts";
import { applyProfile, type ImportProfile, matchProfile, openLog, proposeMapping } from "./index.ts";

const unit = libraryUnit("brae-p6");
const { channels } = steadyDrive(unit);
const bytes = (text: string) => new TextEncoder().encode(text);

/** The drive as a file, with headers of one's own. @param more - columns that the drive does not have */
function file(
  headers: Readonly<Record<string, string>>,
  scale: Readonly<Record<string, number>> = {},
  more: Readonly<Record<string, Float64Array>> = {},
): Uint8Array {
  const ids = Object.keys(headers);
  const readingOf = (id: string, i: number) => more[id]?.[i] ?? channels.get(id)?.values[i] ?? Number.NaN;
  const time = channels.get("engine_rpm")?.timeS ?? new Float64Array();
  const rows = Array.from(time, (t, i) =>
    [t.toFixed(3), ...ids.map((id) => (readingOf(id, i) * (scale[id] ?? 1)).toFixed(2))].join(","),
  );
  return bytes(`T,${Object.values(headers).join(",")}\n${rows.join("\n")}\n`);
}
const guess = (data: Uint8Array, withUnit = true) =>
  new Map(proposeMapping(openLog(data).table, withUnit ? unit : undefined).map((g) => [g.header, g]));

const STRANGE = {
  engine_rpm: "PID 12",
  turbine_rpm: "PID 13",
  output_rpm: "PID 14",
  vehicle_kmh: "PID 15",
  gear_commanded: "PID 16",
};

describe("columns by how they move together", () => {
  it("a column that equals turbine over ratio in every gear is the output speed, whatever it is called", () => {
    const found = guess(file(STRANGE));
    for (const [id, header] of Object.entries(STRANGE))
      expect([header, found.get(header)?.channel]).toEqual([header, id]);
    expect(found.get("PID 14")?.reason).toMatch(/"PID 13" over it is a ratio of Brae P6/);
  });
  it("without the unit nothing is made of such names", () => {
    expect([...guess(file(STRANGE), false).values()].filter((g) => g.channel !== null).map((g) => g.channel)).toEqual([
      "time_s",
    ]);
  });
  it("tells miles from kilometres by final drive and tyre", () => {
    const found = guess(file({ ...STRANGE, vehicle_kmh: "PID 15" }, { vehicle_kmh: 1 / 1.609344 }));
    expect(found.get("PID 15")).toMatchObject({ channel: "vehicle_kmh", unit: "mph" });
  });
  it("a name that the numbers contradict is trusted less, and both readings are shown", () => {
    const found = guess(file({ engine_rpm: "Engine speed", turbine_rpm: "Output speed", output_rpm: "Turbine speed" }));
    const wrong = found.get("Output speed");
    expect(wrong?.channel).toBe("turbine_rpm");
    expect(wrong?.confidence).toBeLessThan(0.95);
    expect(found.get("Turbine speed")?.channel).toBe("output_rpm");
  });
  describe("a shaft inside the train that agrees even better than the output", () => {
    const values = (id: string) => channels.get(id)?.values ?? new Float64Array();
    const [turbine, gear, output] = ["turbine_rpm", "gear_commanded", "output_rpm"].map(values) as [
      Float64Array,
      Float64Array,
      Float64Array,
    ];
    // always one of the unit's ratios, though never that of the gear; the output's own reading is spoilt now and then
    const inner = turbine.map((t, i) => t / ratioOfGear(unit, (gear[i] as number) % 6 || 6));
    const swapped = turbine.map((t, i) => t / ratioOfGear(unit, ((gear[i] as number) % 6) + 1));
    const spoilt = output.map((o, i) => (i % 33 === 0 ? o * 1.1 : o));
    const more = { inner: swapped, output_rpm: spoilt };
    it("is not the output: the road speed belongs to another", () => {
      const found = guess(file({ inner: "PID 20", ...STRANGE }, {}, more));
      expect(found.get("PID 14")?.channel).toBe("output_rpm");
      expect(found.get("PID 20")?.channel).not.toBe("output_rpm");
    });
    it("is not the output either where the output bears its name and no road speed was logged", () => {
      const found = guess(
        file(
          { inner: "Intermediate shaft speed", turbine_rpm: "Turbine speed", output_rpm: "Output speed" },
          {},
          { ...more, inner },
        ),
      );
      expect(found.get("Output speed")?.channel).toBe("output_rpm");
      expect(found.get("Turbine speed")?.channel).toBe("turbine_rpm");
    });
  });
  it("a noisy turbine sensor keeps its name though the engine agrees better while the converter is locked", () => {
    const turbine = channels.get("turbine_rpm")?.values ?? new Float64Array();
    const noisy = turbine.map((v, i) => (i % 12 === 0 ? v * 0.9 : v));
    const named = { engine_rpm: "Engine speed", turbine_rpm: "Turbine speed", output_rpm: "Output speed" };
    const found = guess(file(named, {}, { engine_rpm: turbine.map((v) => v + 1), turbine_rpm: noisy }));
    for (const [id, header] of Object.entries(named))
      expect([header, found.get(header)?.channel]).toEqual([header, id]);
  });
  it("much driving backwards does not turn turbine and output of gears that are nearly each other's inverse", () => {
    const ness = libraryUnit("ness-x6");
    const gears = ["R", "6", "5", "4"];
    const rows = Array.from({ length: 1200 }, (_, i) => {
      const gear = gears[Math.floor(i / 300)] as string;
      const output = (gear === "R" ? 260 : 1400) + (i % 300);
      const turbine = output * Math.abs(ratioOfGear(ness, gear));
      return [i * 0.1, turbine + 60, turbine, output].map((v) => v.toFixed(1)).join();
    });
    const file = bytes(`Time,Engine speed,Turbine speed,Output shaft speed\n${rows.join("\n")}\n`);
    const found = new Map(proposeMapping(openLog(file).table, ness).map((g) => [g.header, g.channel]));
    expect(found.get("Turbine speed")).toBe("turbine_rpm");
    expect(found.get("Output shaft speed")).toBe("output_rpm");
  });
  it("agreement makes a plain name surer", () => {
    const named = { turbine_rpm: "Turbine speed", output_rpm: "Output speed" };
    expect(guess(file(named)).get("Output speed")?.confidence).toBeGreaterThan(
      guess(file(named), false).get("Output speed")?.confidence ?? 1,
    );
  });
  it("numbers that only look like speeds are not taken for them", () => {
    const time = Array.from({ length: 600 }, (_, i) => i / 10);
    const noise = time.map((t, i) => `${t},${1500 + 900 * Math.sin(t)},${1300 + 800 * Math.cos(1.7 * t + i)}`);
    const found = guess(bytes(`T,PID 1,PID 2\n${noise.join("\n")}\n`));
    expect(found.get("PID 1")?.channel).toBeNull();
    expect(found.get("PID 2")?.channel).toBeNull();
  });
  it("the order of the columns does not matter", () => {
    fc.assert(
      fc.property(fc.shuffledSubarray(Object.entries(STRANGE), { minLength: 5 }), (entries) => {
        const found = guess(file(Object.fromEntries(entries)));
        for (const [id, header] of entries) expect(found.get(header)?.channel).toBe(id);
      }),
      { numRuns: 8 },
    );
  });
  it("solenoids and learned values are written as the unit writes them", () => {
    const time = Array.from({ length: 60 }, (_, i) => `${i / 5},10,110`).join("\n");
    const found = guess(bytes(`time_s,Solenoid hc,Adaptation FILL_LC\n${time}\n`));
    expect(found.get("Solenoid hc")?.channel).toBe("sol_HC");
    expect(found.get("Adaptation FILL_LC")?.channel).toBe("adapt_fill_LC");
  });
});

describe("units that the size of the values gives away", () => {
  const of = (header: string, value: number) => {
    const rows = Array.from({ length: 60 }, (_, i) => `${i / 5},${value}`).join("\n");
    return guess(bytes(`time_s,${header}\n${rows}\n`)).get(header);
  };
  it.each([
    ["Fluid temperature", 195, "°F"],
    ["Fluid temperature", 85, null],
    ["Line pressure", 8, "bar"],
    ["Line pressure", 140, "psi"],
    ["Line pressure", 900, null],
  ])("%s of %d: %s", (header, value, measure) => {
    const g = of(header, value);
    expect(g?.unit).toBe(measure);
    if (measure) expect(g?.confidence).toBeLessThanOrEqual(0.6);
  });
});

describe("profiles", () => {
  const guesses = proposeMapping(openLog(file(STRANGE)).table, unit);
  const profile: ImportProfile = {
    format: "gearsense-import-profile",
    version: 1,
    name: "bay 2",
    columns: guesses.map((g) => ({
      header: g.header,
      channel: g.header === "PID 16" ? null : g.channel,
      unit: g.unit,
    })),
  };
  it("the one that knows the columns is found, and its word goes before the guess", () => {
    const stranger = { ...profile, name: "other", columns: [{ header: "x", channel: null, unit: null }] };
    const found = matchProfile(guesses, [stranger, profile]);
    expect(found?.name).toBe("bay 2");
    const applied = applyProfile(guesses, profile);
    expect(applied.find((g) => g.header === "PID 16")?.channel).toBeNull();
    expect(applied.find((g) => g.header === "PID 13")).toMatchObject({ channel: "turbine_rpm", confidence: 1 });
  });
  it("none is taken that knows less than four fifths", () => {
    expect(
      matchProfile([...guesses, ...["a", "b"].map((header) => ({ header, unitText: undefined }))], [profile]),
    ).toBeUndefined();
  });
  it("a channel that it gives to one column is taken from a guess of another", () => {
    const [first] = guesses;
    const extra = {
      ...(first as (typeof guesses)[number]),
      header: "Turbine speed",
      column: 9,
      channel: "turbine_rpm",
    };
    const applied = applyProfile([...guesses, extra], profile);
    expect(applied.filter((g) => g.channel === "turbine_rpm").map((g) => g.header)).toEqual(["PID 13"]);
  });
});
