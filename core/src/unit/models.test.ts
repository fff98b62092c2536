// Guards: converter, packs and dual clutch against their textbook relations.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { libraryUnit } from "../testing/units.ts";
import {
  type Converter,
  canPreselect,
  clutchOf,
  clutchTorqueNm,
  converterEfficiency,
  converterTorques,
  gearPressureKpa,
  openSlipRpm,
  packCapacityNm,
  packPressureKpa,
  shaftRatios,
  slipPowerW,
  stallFactor,
  stallSpeedRpm,
  torqueRatio,
} from "./index.ts";

const six = libraryUnit("brae-p6");
const dual = libraryUnit("corran-w7");
const converter = six.converter as Converter;
const share = fc.double({ min: 0, max: 0.999, noNaN: true });
const rpm = fc.double({ min: 600, max: 5000, noNaN: true });

describe("converter", () => {
  it("multiplies by its stall ratio at stall and by one from the coupling point on", () => {
    expect(torqueRatio(converter, 0)).toBe(converter.stallTorqueRatio);
    expect(torqueRatio(converter, converter.couplingSpeedRatio ?? 0)).toBeCloseTo(1, 12);
    expect(torqueRatio(converter, 0.97)).toBe(1);
  });
  it("slips open by what its own torque says: the inverse of the torque at that slip", () => {
    fc.assert(
      fc.property(rpm, fc.double({ min: 0.2, max: 0.99, noNaN: true }), (engine, speedRatio) => {
        const { pumpNm } = converterTorques(converter, engine, engine * speedRatio);
        expect(openSlipRpm(converter, engine, pumpNm)).toBeCloseTo(engine * (1 - speedRatio), 4);
      }),
    );
    expect(openSlipRpm(converter, 1000, 9000)).toBe(1000);
    expect(openSlipRpm(converter, 1000, -20)).toBe(0);
    expect(openSlipRpm({ ...converter, stallTorqueNm: undefined }, 1000, 50)).toBeUndefined();
  });
  it("stalls at K·√T, and holds just that torque there", () => {
    fc.assert(
      fc.property(fc.double({ min: 40, max: 500, noNaN: true }), (torqueNm) => {
        const stall = stallSpeedRpm(converter, torqueNm);
        expect(stall).toBeCloseTo(stallFactor(converter) * Math.sqrt(torqueNm), 9);
        expect(converterTorques(converter, stall, 0).pumpNm).toBeCloseTo(torqueNm, 6);
      }),
    );
    expect(stallSpeedRpm(converter, converter.stallTorqueNm ?? 0)).toBeCloseTo(converter.stallRpm, 9);
  });
  it("never gives out more power than goes in, and an open one always slips", () => {
    fc.assert(
      fc.property(rpm, share, (engine, speedRatio) => {
        const { pumpNm, turbineNm } = converterTorques(converter, engine, engine * speedRatio);
        expect(pumpNm).toBeGreaterThan(0);
        expect(turbineNm * speedRatio).toBeLessThanOrEqual(pumpNm + 1e-9);
        expect(converterEfficiency(converter, speedRatio)).toBeLessThan(1);
      }),
    );
  });
  it("brakes the engine on the over-run, and carries nothing at equal speeds", () => {
    expect(converterTorques(converter, 1500, 1500).pumpNm).toBeCloseTo(0, 9);
    const { pumpNm, turbineNm } = converterTorques(converter, 900, 1500);
    expect(pumpNm).toBeLessThan(0);
    expect(turbineNm).toBe(pumpNm);
  });
  it("a stator that slips: weak at launch and a lower stall, sound at cruise; seized: sound at launch, poor at cruise", () => {
    expect(converterTorques(converter, 2000, 0, "slips").turbineNm).toBeLessThan(
      converterTorques(converter, 2000, 0).turbineNm,
    );
    expect(converterTorques(converter, 2000, 0, "slips").pumpNm).toBeGreaterThan(
      converterTorques(converter, 2000, 0).pumpNm,
    );
    // past the coupling point every stator runs free: the one that slips takes no more than a sound one
    const coupling = converter.couplingSpeedRatio ?? 0.87;
    const pump = (ratio: number, stator?: "slips") => converterTorques(converter, 2000, 2000 * ratio, stator).pumpNm;
    expect(pump(coupling, "slips")).toBeCloseTo(pump(coupling), 6);
    expect(pump(0.95, "slips")).toBeCloseTo(pump(0.95), 6);
    expect(pump(coupling - 0.01, "slips")).toBeGreaterThan(pump(coupling - 0.01));
    expect(torqueRatio(converter, 0, "seized")).toBe(converter.stallTorqueRatio);
    expect(torqueRatio(converter, 0.97, "seized")).toBeLessThan(0.95);
  });
  it("without the torque of its rating says that the factor is unknown", () => {
    const { stallTorqueNm: _, ...rest } = converter;
    expect(() => stallFactor(rest as Converter)).toThrow(/without its torque/);
  });
});

describe("packs", () => {
  const apply = { areaCm2: 120, returnSpringN: 900, meanRadiusMm: 70 };
  it("hold z·μ·F·r, and nothing below the spring", () => {
    // 1000 kPa on 120 cm² is 12 kN; less 900 N; ten faces, μ 0.12, 70 mm
    expect(packCapacityNm(apply, 5, 1000, 0.12)).toBeCloseTo(10 * 0.12 * 11100 * 0.07, 9);
    expect(packCapacityNm(apply, 5, 74, 0.12)).toBe(0);
  });
  it("pressure and capacity are inverse", () => {
    fc.assert(
      fc.property(fc.double({ min: 1, max: 900, noNaN: true }), fc.integer({ min: 1, max: 8 }), (torque, plates) => {
        expect(packCapacityNm(apply, plates, packPressureKpa(apply, plates, torque, 0.12), 0.12)).toBeCloseTo(
          torque,
          6,
        );
      }),
    );
  });
  it("a gear needs the pressure of its hardest worked element", () => {
    const own = gearPressureKpa(six, "4", 300, 0.12) ?? 0;
    expect(own).toBeGreaterThan(gearPressureKpa(six, "4", 100, 0.12) ?? 0);
    const { gearTrain: _, ...ratios } = six;
    expect(gearPressureKpa(ratios as typeof six, "4", 300, 0.12)).toBeUndefined();
  });
  it("slip power is torque times slip: 100 N·m at 955 rpm is 10 kW", () => {
    expect(slipPowerW(100, 954.93)).toBeCloseTo(10000, 0);
    expect(slipPowerW(-100, 954.93)).toBeCloseTo(10000, 0);
  });
});

describe("dual clutch", () => {
  it("each gear belongs to one clutch, and its shaft turns at the gear's ratio", () => {
    expect(dual.gears.map((g) => clutchOf(dual, g.name))).toEqual(["K1", "K2", "K1", "K2", "K1", "K2", "K1", "K2"]);
    expect(Object.fromEntries(shaftRatios(dual, "3", "4"))).toEqual({ K1: 1.5769, K2: 1.1379 });
    expect([...shaftRatios(dual, "3").keys()]).toEqual(["K1"]);
  });
  it("preselects on the other shaft only, and never with a fork that is in use", () => {
    for (const a of dual.gears)
      for (const b of dual.gears)
        expect(canPreselect(dual, a.name, b.name)).toBe(clutchOf(dual, a.name) !== clutchOf(dual, b.name));
  });
  it("bites at the touch point", () => {
    expect(clutchTorqueNm(200, 210, 0.5)).toBe(0);
    expect(clutchTorqueNm(410, 210, 0.5)).toBe(100);
  });
});
