// Guards: what a proof drive has to meet again, and when enough of it was driven.
import { describe, expect, it } from "@jest/globals";
import { libraryUnit } from "../testing/units.ts";
import type { Analysis } from "./analysis.ts";
import { conditionInWords, hotDriving, LiveDrive, metConditions, sameConditions } from "./index.ts";

const unit = libraryUnit("brae-p6");
const found = (
  subject: object,
  torqueNm: readonly [number, number] | undefined,
  fluidC: readonly [number, number] | undefined,
  severity = "fault",
) => ({ subject, severity, conditions: { gears: [], torqueNm, fluidC } });
const drive = (findings: object[], hotSeconds = 0) => ({ findings, coverage: { hotSeconds } }) as unknown as Analysis;

describe("the same conditions", () => {
  it("are those of every finding, faults first, each once, in words", () => {
    const list = sameConditions(unit, [
      // 420 N·m: 0.6 of it is 252
      drive([found({ gear: "3" }, [240, 260], [60, 70], "notice"), found({ gear: "4" }, [260, 300], [92, 96])]),
      drive([
        found({ shift: "2-3" }, [80, 90], [40, 44]),
        found({ gear: "4" }, [270, 290], [91, 97]),
        found({}, undefined, undefined),
      ]),
    ]);
    expect(list.map(conditionInWords)).toEqual([
      "gear 4, hard load, hot",
      "shift 2-3, light load, cold",
      "gear 3, medium load, warm",
    ]);
    expect(list.map((c) => c.needed)).toEqual([6, 5, 6]);
  });
  it("that are not known are met by anything", () => {
    const [c] = sameConditions(unit, [drive([found({ gear: "4" }, undefined, undefined)])]);
    expect(c && conditionInWords(c)).toBe("gear 4");
    const groups = [{ gear: "4", load: "coast", temperature: "cold", seconds: 2 }];
    expect(metConditions(c ? [c] : [], { groups, shifts: [] })[0]?.driven).toBe(2);
  });
  it("count seconds of a gear and times of a shift, of that load and temperature only", () => {
    const gear = { where: "4", load: "hard", temperature: "hot", needed: 6 } as const;
    const shift = { where: "2-3", load: "light", temperature: "cold", needed: 5 } as const;
    const [g, s] = metConditions([gear, shift], {
      groups: [
        { gear: "4", load: "hard", temperature: "hot", seconds: 4 },
        { gear: "4", load: "hard", temperature: "warm", seconds: 9 },
        { gear: "3", load: "hard", temperature: "hot", seconds: 9 },
        { gear: "4", load: "hard", temperature: "hot", seconds: 1.5 },
      ],
      shifts: [
        { name: "2-3", load: 0.1, fluidC: 40 },
        { name: "2-3", load: 0.7, fluidC: 40 },
        { name: "2-3", load: 0.1, fluidC: 50 },
        { name: "3-2", load: 0.1, fluidC: 40 },
      ],
    });
    expect([g?.driven, s?.driven]).toEqual([5.5, 1]);
  });
});

describe("a drive under way", () => {
  const wanted = [{ where: "3", load: "medium", temperature: "warm", needed: 6 }] as const;
  const driven = (seconds: number, list: ConstructorParameters<typeof LiveDrive>[2] = wanted) => {
    const live = new LiveDrive(unit, [], list);
    const ratio = unit.gears.find((g) => g.name === "3")?.ratio ?? 1;
    for (let t = 0; t <= seconds + 1.3; t += 0.1)
      live.take(
        t,
        new Map(
          Object.entries({
            gear_commanded: 3,
            output_rpm: 1000,
            turbine_rpm: 1000 * ratio,
            engine_rpm: 1000 * ratio + 40,
            engine_torque_nm: 150,
            fluid_c: 75,
          }),
        ),
      );
    return live.state();
  };
  it("is enough once all is met, not just before, and never where nothing was asked for", () => {
    expect(driven(5.5)).toMatchObject({ enough: false });
    expect(driven(6.3)).toMatchObject({ enough: true });
    expect(driven(20, []).enough).toBe(false);
    expect(driven(20).companion[0]?.driven).toBeGreaterThan(19);
  });
});

it("hot driving counts all drives against the unit file, or a quarter of an hour", () => {
  expect(hotDriving(unit, [drive([], 400), drive([], 200)])).toEqual({ neededS: 900, drivenS: 600 });
  const own = { ...unit, fluid: { ...unit.fluid, hotDrivingMin: 5 } };
  expect(hotDriving(own, [])).toEqual({ neededS: 300, drivenS: 0 });
});
