// Guards: what a drive says as evidence, absence included, and that two drives count once.
import { describe, expect, it } from "@jest/globals";
import { analyseDrive } from "../drive/index.ts";
import { foldJob } from "../job/index.ts";
import { type Channels, steadyDrive } from "../testing/drives.ts";
import { libraryKnowledge, libraryUnit } from "../testing/units.ts";
import { type AnalysedLog, collectEvidence } from "./index.ts";

const unit = libraryUnit("brae-p6");
const { debris } = libraryKnowledge();
const none = foldJob([]);
const drive = (
  slip: (gear: number, torqueNm: number) => number,
  patch?: (c: Channels, t: Float64Array) => Channels,
  logId = "a",
): AnalysedLog => ({ logId, entryId: `entry-${logId}`, analysis: analyseDrive(steadyDrive(unit, slip, patch), unit) });
const outcomes = (...logs: AnalysedLog[]) =>
  Object.fromEntries(
    collectEvidence(unit, none, logs, debris).map((e) => [
      [e.table, ...Object.values(e.subject)].join(" "),
      `${e.outcome}${e.abnormal ? "" : " (sound)"}`,
    ]),
  );
const worn = (g: number, torque: number) => (g >= 4 ? 2 * Math.max(0, torque - 140) : 0);

describe("evidence of a drive", () => {
  it("accuses gears that slip, clears those that hold at that torque, and says how slip grows", () => {
    expect(outcomes(drive(worn))).toMatchObject({
      "gear 1": "holds (sound)",
      "gear 3": "holds (sound)",
      "gear 4": "slips",
      "gear 6": "slips",
      "slip-pattern": "grows-with-torque",
      "sensor sen_output": "steady (sound)",
      limp: "none (sound)",
    });
  });
  it("does not call a gear good that was never worked as hard as the bad ones", () => {
    const gentle = drive(worn, (c, t) => ({
      ...c,
      engine_torque_nm: (c.engine_torque_nm as Float64Array).map((v, i) => ((t[i] as number) < 20 ? 40 : v)),
    }));
    expect(outcomes(gentle)).not.toHaveProperty("gear 1");
    expect(outcomes(gentle)).toMatchObject({ "gear 2": "holds (sound)" });
  });
  it("says nothing about a sensor whose channel was derived", () => {
    const derived = drive(
      () => 0,
      ({ output_rpm: _, ...rest }) => rest,
    );
    expect(outcomes(derived)).not.toHaveProperty("sensor sen_output");
  });
  it("tells a sensor that drops out", () => {
    const lost = drive(
      () => 0,
      (c, t) => ({
        ...c,
        output_rpm: (c.output_rpm as Float64Array).map((v, i) => ((t[i] as number) % 30 > 28.5 ? 0 : v)),
      }),
    );
    expect(outcomes(lost)).toMatchObject({ "sensor sen_output": "drops-out", "sensor sen_turbine": "steady (sound)" });
  });
  it("has the converter clutch only once it worked long enough", () => {
    const clutch = (from: number) =>
      outcomes(
        drive(
          () => 0,
          (c, t) => ({ ...c, tcc_command: t.map((s) => (s > from ? 85 : 0)) }),
        ),
      );
    expect(clutch(60)).toMatchObject({ "converter-clutch": "holds (sound)", shudder: "smooth (sound)" });
    expect(clutch(115)).not.toHaveProperty("converter-clutch");
  });
});

describe("two drives of one vehicle", () => {
  it("count once, and the abnormal reading stays whichever comes first", () => {
    const good = drive(() => 0, undefined, "good");
    const bad = drive(worn, undefined, "bad");
    for (const logs of [
      [good, bad],
      [bad, good],
    ]) {
      const evidence = collectEvidence(unit, none, logs, debris);
      const gears = evidence.filter((e) => e.table === "gear");
      expect(gears.map((e) => e.subject.gear).sort()).toEqual(["1", "2", "3", "4", "5", "6"]);
      const four = gears.find((e) => e.subject.gear === "4");
      expect(four).toMatchObject({ outcome: "slips", entryId: "entry-bad" });
    }
  });
  it("the same drive twice says no more than once", () => {
    const once = collectEvidence(unit, none, [drive(worn)], debris);
    const twice = collectEvidence(unit, none, [drive(worn), drive(worn, undefined, "b")], debris);
    expect(twice).toEqual(once);
  });
});
