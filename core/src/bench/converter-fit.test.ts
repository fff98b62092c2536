// Guards: the stack-up against a hundred thousand draws, and what is said of every way a converter can fail to fit.
import { describe, expect, it } from "@jest/globals";
import { seededRandom } from "../chance/index.ts";
import { libraryUnit } from "../testing/units.ts";
import type { Converter } from "../unit/index.ts";
import { type FitMeasured, fitConverter, fitDrawing, stackUp } from "./index.ts";

/** Box and Muller. */
const normalFrom = (random: () => number) => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
const converter = libraryUnit("brae-p6").converter as Converter;
const u = (value: number, uncertainty = 0.02) => ({ value, uncertainty });
const line = (m: FitMeasured, id: string, diameter?: number) => {
  const found = fitConverter(converter, m, diameter).lines.find((l) => l.id === id);
  if (!found) throw new Error(id);
  return found;
};
/** home 19.5, flexplate 16.5: comes forward 3 */
const GOOD: FitMeasured = { homeMm: u(19.5), flexplateMm: u(16.5) };

describe("stack-up", () => {
  const parts = [
    { sign: 1 as const, mm: 19.5, plusMinusMm: 0.2 },
    { sign: -1 as const, mm: 14, plusMinusMm: 0.1 },
    { sign: -1 as const, mm: 2.5, plusMinusMm: 0.05 },
  ];
  it("adds up, at worst as the sum, by chance as the root of the squares", () => {
    const s = stackUp(parts);
    expect(s.mm).toBeCloseTo(3, 12);
    expect(s.worstMm).toBeCloseTo(0.35, 12);
    expect(s.rssMm).toBeCloseTo(Math.hypot(0.2, 0.1, 0.05), 12);
  });
  it("agrees with a hundred thousand draws", () => {
    const random = seededRandom(3);
    const s = stackUp(parts);
    let sum = 0;
    let squares = 0;
    let far = 0;
    let worst = 0;
    const n = 100_000;
    for (let i = 0; i < n; i++) {
      // half-width is two standard deviations
      const drawn = parts.reduce((a, p) => a + p.sign * (p.mm + (p.plusMinusMm / 2) * normalFrom(random)), 0);
      sum += drawn;
      squares += (drawn - s.mm) ** 2;
      if (Math.abs(drawn - s.mm) > s.rssMm) far++;
      const even = parts.reduce((a, p) => a + p.sign * (p.mm + p.plusMinusMm * (2 * random() - 1)), 0);
      worst = Math.max(worst, Math.abs(even - s.mm));
    }
    expect(sum / n).toBeCloseTo(s.mm, 2);
    expect(2 * Math.sqrt(squares / n)).toBeCloseTo(s.rssMm, 2);
    // outside two standard deviations lies 4.55 %
    expect(far / n).toBeGreaterThan(0.042);
    expect(far / n).toBeLessThan(0.049);
    // even draws never pass the worst case, and come near it
    expect(worst).toBeLessThanOrEqual(s.worstMm);
    expect(worst).toBeGreaterThan(0.97 * s.worstMm);
  });
});

describe("a converter", () => {
  it("fits as its file says, with what was not measured marked", () => {
    const fitted = fitConverter(converter, GOOD);
    expect(fitted.fits).toBe("fits");
    expect(fitted.parts.every((p) => !p.fromFile)).toBe(true);
    expect(fitConverter(converter, {}).parts.every((p) => p.fromFile)).toBe(true);
    expect(line(GOOD, "pull-up").text).toBe("Comes forward 3.0 mm, as it should.");
  });
  it("that bottoms out is told by how much, and what to take off", () => {
    const bottoms = line({ ...GOOD, spacerMm: u(3.8) }, "pull-up");
    expect(bottoms.state).toBe("does-not");
    // to the middle of 1.5 to 4.5 mm: 0.8 + 3.0
    expect(bottoms.text).toBe("Bottoms out by 0.8 mm: shorten the spacer by 3.8 mm, do not pull it in with the bolts.");
    const bare = line({ homeMm: u(15), flexplateMm: u(16.5) }, "pull-up");
    expect(bare.text).toMatch(/Bottoms out by 1\.5 mm: 4\.5 mm more room/);
    // machined
    expect(fitConverter(converter, { ...GOOD, spacerMm: u(0.4) }).fits).toBe("fits");
  });
  it.each([
    [1.45, "close"],
    [1.55, "close"],
    [1.4, "does-not"],
    [1.6, "fits"],
    [4.4, "fits"],
    [4.6, "does-not"],
  ] as const)("that comes forward %s mm: %s", (pull, state) => {
    expect(line({ homeMm: u(16.5 + pull, 0.05), flexplateMm: u(16.5, 0.05) }, "pull-up").state).toBe(state);
  });
  it("says too little and too much in words", () => {
    expect(line({ homeMm: u(17.5), flexplateMm: u(16.5) }, "pull-up").text).toMatch(
      /Comes forward 1\.0 mm, 0\.5 mm too little: 2\.0 mm more room/,
    );
    expect(line({ homeMm: u(17.5), flexplateMm: u(16), spacerMm: u(0.5) }, "pull-up").text).toMatch(
      /0\.5 mm too little: take 2\.0 mm off the spacer/,
    );
    expect(line({ homeMm: u(21.5), flexplateMm: u(16.5) }, "pull-up").text).toMatch(
      /0\.5 mm too much: a spacer of 2\.0 mm/,
    );
  });
  it("pulled too far leaves the pump", () => {
    const least = converter.fit?.pumpEngagedLeastMm ?? 0;
    expect(line({ ...GOOD, pumpEngagedMm: u(least + 3.3) }, "pump").state).toBe("fits");
    const off = line({ ...GOOD, pumpEngagedMm: u(least + 2.7) }, "pump");
    expect(off.state).toBe("does-not");
    expect(off.text).toMatch(/would break it/);
  });
  it("lands on its step, is loose in its bore, or too large for it", () => {
    expect(line({ ...GOOD, pilotLengthMm: u(20), pilotRoomMm: u(19.2) }, "pilot-length").text).toMatch(
      /lands 0\.8 mm before/,
    );
    expect(line({ ...GOOD, pilotLengthMm: u(18), pilotRoomMm: u(21) }, "pilot-length").state).toBe("fits");
    // a spacer keeps the step away, and the pilot out
    expect(
      line({ ...GOOD, pilotLengthMm: u(20), pilotRoomMm: u(19.2), crankSpacerMm: u(2) }, "pilot-length").state,
    ).toBe("fits");
    expect(line({ ...GOOD, pilotLengthMm: u(17), crankSpacerMm: u(12) }, "pilot-engaged").text).toMatch(/Only 5\.0 mm/);
    expect(line({ ...GOOD, pilotLengthMm: u(17), crankSpacerMm: u(10.9) }, "pilot-engaged").state).toBe("fits");
    const bore = (pilot: number) =>
      line({ ...GOOD, pilotBoreMm: u(38, 0.003), pilotDiameterMm: u(pilot, 0.003) }, "pilot-diameter");
    expect(bore(38.02)).toMatchObject({ state: "does-not", text: expect.stringMatching(/0\.02 mm larger/) });
    expect(bore(37.95).state).toBe("fits");
    expect(bore(37.84)).toMatchObject({ state: "does-not", text: expect.stringMatching(/runs out of true/) });
  });
  it("needs its bolt circle and bolts that grip and do not dent", () => {
    expect(line({ ...GOOD, boltCircleMm: u(262.2) }, "bolt-circle").state).toBe("fits");
    expect(line({ ...GOOD, boltCircleMm: u(264) }, "bolt-circle").text).toMatch(/no filed holes/);
    const bolts = (mm: number) => line({ ...GOOD, boltLengthMm: u(mm), flexplateThicknessMm: u(3) }, "bolt-length", 10);
    expect(bolts(12.9)).toMatchObject({ state: "does-not", text: expect.stringMatching(/longer ones/) });
    expect(bolts(13.1).state).toBe("fits");
    expect(bolts(17.9).state).toBe("fits");
    expect(bolts(18.1)).toMatchObject({ state: "does-not", text: expect.stringMatching(/dent/) });
  });
  it("whose file does not say how it sits is refused", () => {
    expect(() => fitConverter({ ...converter, fit: undefined }, GOOD)).toThrow(/add its fit/);
  });
  it("is drawn to scale: both rows end together", () => {
    for (const spacer of [0, 2, 5]) {
      const { parts, lines } = fitConverter(converter, { ...GOOD, spacerMm: u(spacer) });
      const pull = lines[0]?.sum.mm ?? 0;
      const drawing = fitDrawing(parts, pull);
      const end = (row: number) => Math.max(...(drawing.rows[row]?.parts ?? []).map((p) => p.fromMm + p.mm));
      expect(end(1)).toBeCloseTo(Math.max(end(0), end(1)), 9);
      expect(drawing.lengthMm).toBeCloseTo(Math.max(end(0), end(1)), 9);
      expect(drawing.caption).toMatch(pull < 0 ? /Bottoms out/ : /Comes forward/);
    }
  });
});
