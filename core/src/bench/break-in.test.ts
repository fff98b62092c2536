// Guards: the kilometres of a fresh build, counted from logs and odometer; what was too hard or too hot; when to inspect.
import { describe, expect, it } from "@jest/globals";
import type { AnalysedLog } from "../drive/index.ts";
import { type EntryBodies, foldJob } from "../job/index.ts";
import { BODY, madeTimeline } from "../testing/index.ts";
import { libraryUnit } from "../testing/units.ts";
import { breakInOf } from "./index.ts";

const unit = libraryUnit("brae-p6");
const wantedKm = unit.bench?.breakInKm ?? 0;
const build: EntryBodies["bench"] = { place: "pack-in:TC", title: "TC", values: [], looks: [], chosen: [], note: "" };
const BEGAN_KM = 140_000;

interface Made {
  km: number;
  fullPedalS?: number;
  highestC?: number;
  gears?: Record<string, number>;
}
const analysed = (logId: string, { km, fullPedalS = 0, highestC = 80, gears = {} }: Made): AnalysedLog =>
  ({
    logId,
    entryId: logId,
    analysis: {
      road: { km, fullPedalS },
      heat: { highestC },
      coverage: { gears: Object.entries(gears).map(([gear, s]) => ({ gear, seconds: [0, s, 0, 0] })) },
    },
  }) as unknown as AnalysedLog;

/** A build, and then drives; entries on the way. */
function made(drives: readonly Made[], entries: readonly EntryBodies["break-in"][] = [], before: readonly Made[] = []) {
  const t = madeTimeline();
  const list = [...before, ...drives];
  for (const i of before.keys()) t.write("log", BODY.log("before", `log-${i}`));
  t.write("bench", build);
  for (const i of drives.keys()) t.write("log", BODY.log("after", `log-${before.length + i}`));
  for (const e of entries) t.write("break-in", e);
  return breakInOf(
    unit,
    foldJob(t.entries),
    BEGAN_KM,
    list.map((d, i) => analysed(`log-${i}`, d)),
  );
}
const at = (km: number, inspected: EntryBodies["break-in"]["inspected"] = null) => ({
  odometerKm: BEGAN_KM + km,
  inspected,
  note: "",
});
const SOUND = { level: "ok", leaks: false, metal: false } as const;

it("without fresh linings there is none", () => {
  expect(wantedKm).toBeGreaterThan(100);
  expect(breakInOf(unit, foldJob([]), BEGAN_KM, [])).toBeUndefined();
});

describe("the distance", () => {
  it("is that of the logs since the build, or of the odometer where that is further", () => {
    expect(made([{ km: 12 }, { km: 30 }], [], [{ km: 900 }])).toMatchObject({ drivenKm: 42, from: "logs" });
    expect(made([{ km: 12 }], [at(11)])).toMatchObject({ drivenKm: 12, from: "logs" });
    expect(made([{ km: 12 }], [at(180)])).toMatchObject({ drivenKm: 180, from: "odometer" });
  });
  it("is gentle just under what is wanted, then asks for the look, then is normal", () => {
    expect(made([{ km: wantedKm - 0.1 }])?.stage).toBe("gentle");
    expect(made([{ km: wantedKm }])?.stage).toBe("inspect");
    expect(made([{ km: wantedKm }], [at(wantedKm, SOUND)])?.stage).toBe("normal");
  });
  it.each([
    { ...SOUND, level: "low" as const },
    { ...SOUND, leaks: true },
    { ...SOUND, metal: true },
  ])("a look that finds something is trouble: %j", (seen) => {
    expect(made([{ km: wantedKm }], [at(wantedKm, seen)])?.stage).toBe("trouble");
  });
});

it.each([
  [{ fullPedalS: 2 }, []],
  [{ fullPedalS: 2.1 }, ["pedal"]],
  [{ highestC: 110 }, []],
  [{ highestC: 110.1 }, ["heat"]],
] as const)("a drive with %j was too much: %j", (drive, tooMuch) => {
  expect(made([{ km: 5, ...drive }])?.drives[0]?.tooMuch).toEqual(tooMuch);
});

it("all gears are asked for: one that was held for a second counts", () => {
  expect(made([{ km: 5, gears: { "1": 1, "2": 0.9, "3": 20 } }])?.gearsMissing).toEqual(["2", "4", "5", "6"]);
});
