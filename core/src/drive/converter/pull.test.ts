// Guards: a stator that slips is told from a weak engine by where the torque is lacking, each limit from both sides.
import { describe, expect, it } from "@jest/globals";
import { ratioOfGear } from "../../testing/drives.ts";
import { recordingOf, timesOf } from "../../testing/recordings.ts";
import { libraryKnowledge, libraryUnit } from "../../testing/units.ts";
import { type Converter, converterTorques } from "../../unit/index.ts";
import { analyseDrive, compareDrives } from "../index.ts";
import { pullOutcome } from "./pull.ts";

const unit = libraryUnit("brae-p6");
const converter = unit.converter as Converter;
const of = (share: number, startShare?: number, couplingShare?: number) =>
  pullOutcome({ share, seconds: 20, startShare, couplingShare });

describe("engine torque against the converter", () => {
  it.each([
    ["fits", 0.76, undefined, undefined],
    ["low", 0.74, undefined, undefined],
    // near stall under 0.7 of what is taken near coupling
    ["from-rest", 0.9, 0.62, 0.9],
    ["fits", 0.9, 0.64, 0.9],
    ["low", 0.73, 0.64, 0.9],
    // near coupling all has to be there
    ["from-rest", 0.7, 0.5, 0.76],
    ["low", 0.7, 0.53, 0.74],
    ["low", 0.5, 0.5, undefined],
  ] as const)("is %s at %d, %d near stall, %d near coupling", (outcome, share, start, coupling) => {
    expect(of(share, start, coupling)).toBe(outcome);
  });

  /** Ten seconds near stall, then ten near coupling, with so much of the reported torque taken in each. */
  const pulled = (start: number, coupling: number) => {
    const t = timesOf(40, 20);
    const slow = [...t].map((s) => s < 20);
    const engine = 2000;
    const turbine = t.map((_, i) => (slow[i] ? 0.25 : 0.84) * engine);
    return analyseDrive(
      recordingOf(t, {
        engine_rpm: t.map(() => engine),
        turbine_rpm: turbine,
        output_rpm: turbine.map((v) => v / ratioOfGear(unit, 2)),
        gear_commanded: t.map(() => 2),
        pedal_pct: t.map(() => 50),
        engine_torque_nm: turbine.map(
          (v, i) => converterTorques(converter, engine, v).pumpNm / (slow[i] ? start : coupling),
        ),
        tcc_command: t.map(() => 0),
      }),
      unit,
    );
  };
  const finding = (a: ReturnType<typeof pulled>) => a.findings.find((f) => f.kind === "engine-pull");
  it("names the stator, and measures what is missing from rest", () => {
    const a = pulled(0.5, 0.97);
    expect(a.pull?.startShare).toBeCloseTo(0.5, 6);
    expect(a.pull?.couplingShare).toBeCloseTo(0.97, 6);
    expect(finding(a)).toMatchObject({
      title: expect.stringMatching(/stator slips/),
      subject: { component: "stator" },
    });
    expect(finding(a)?.measures[0].value).toBeCloseTo(50, 4);
    expect(finding(pulled(0.5, 0.5))?.title).toMatch(/engine is weak/);
    expect(finding(pulled(0.95, 0.97))).toBeUndefined();
  });
  it("a quarter of the torque may be missing: reported torque and rated converter are both only about right", () => {
    expect(finding(pulled(0.76, 0.76))).toBeUndefined();
    expect(finding(pulled(0.74, 0.74))?.title).toMatch(/engine is weak/);
  });
  it("the proof looks where it was lacking", () => {
    const [bad, good] = [pulled(0.5, 0.97), pulled(0.98, 0.97)];
    const verdict = (after: typeof bad) =>
      compareDrives([bad], [after]).findings.find((f) => f.findingId === "engine-pull")?.verdict;
    expect(verdict(good)).toBe("gone");
    expect(verdict(pulled(0.5, 0.98))).toBe("same");
  });
  it("what an engine lacks has to fall to a third before it is gone: it differs from road to road", () => {
    const verdict = (taken: number) =>
      compareDrives([pulled(0.7, 0.7)], [pulled(taken, taken)]).findings.find((f) => f.findingId === "engine-pull");
    expect(verdict(0.89)).toMatchObject({ verdict: "not shown yet", reason: expect.stringMatching(/not far enough/) });
    expect(verdict(0.91)?.verdict).toBe("gone");
  });
  it("a clutch that does not let go takes hardly any of it; a weak engine half; the limit is 30 %", () => {
    const staysOn = (share: number) => pulled(share, share).findings.some((f) => f.kind === "converter-stays-on");
    expect(staysOn(0.29)).toBe(true);
    expect(staysOn(0.31)).toBe(false);
    expect(finding(pulled(0.45, 0.45))).toBeDefined();
    // what holds on measures no torque
    expect(pulled(0.29, 0.29).pull).toBeUndefined();
  });
  it("every outcome has its likelihood for every fault", () => {
    const table = libraryKnowledge().evidence.find((t) => t.evidence === "engine-pull");
    for (const p of [table?.otherwise ?? {}, ...(table?.rows ?? []).map((r) => r.p)])
      expect(Object.keys(p).sort()).toEqual(["fits", "from-rest", "low"]);
  });
});
