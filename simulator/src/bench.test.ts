// Guards: what the bench predicts from clearance, friction radius and converter, the simulated vehicle then does, within 5 %.
import { fillTimeMs, heldNm, packBuilt, stallOnCurve, type TorqueCurve } from "@gearsense/core/bench";
import { type Converter, meanRadiusMm, stallFactor, type Unit } from "@gearsense/core/unit";
import { describe, expect, it } from "@jest/globals";
import { asDrawn } from "./build.ts";
import { FILL_KPA, Hydraulics, packsOf } from "./physics/hydraulics.ts";
import { DESIGN_FRICTION } from "./physics/lining.ts";
import { Powertrain } from "./physics/powertrain.ts";
import { asBuilt } from "./record.ts";
import { load } from "./testing/units.ts";

const units = ["tarn-f4", "brae-p6", "holm-c6", "ness-x6", "fell-e8", "crag-t10"].map(load);
const within = (got: number, predicted: number) => expect(Math.abs(got / predicted - 1)).toBeLessThan(0.05);

/** Time in which a piston has come to its plates, ms, at 70 °C and the filling pressure. */
function filledMs(unit: Unit, id: string, clearanceMm: number): number {
  const at = packsOf(unit).findIndex((p) => p.id === id);
  const h = new Hydraulics(unit, asBuilt(unit, asDrawn(packsOf(unit).length), { [id]: clearanceMm }));
  h.setFluid(70, 0);
  h.lineCommandKpa = 900;
  for (let i = 0; i < 2000; i++) h.step(0.0005, 2000);
  h.commandKpa[at] = FILL_KPA;
  let ms = 0;
  while ((h.stroke[at] as number) < 1 && ms < 2000) {
    h.step(0.0005, 2000);
    ms += 0.5;
  }
  return ms;
}

describe.each(units.map((u) => [u.id, u] as const))("%s", (_id, unit) => {
  const packs = unit.elements.filter((e) => e.bench && e.apply && fillTimeMs(unit, e.id, 1) !== undefined);
  it("fills in the time that its clearance says", () => {
    for (const e of packs)
      for (const share of [0.6, 1, 1.7]) {
        const clearance = share * (e.bench?.targetMm ?? 1);
        within(filledMs(unit, e.id, clearance), fillTimeMs(unit, e.id, clearance) ?? 0);
      }
  });
  it("holds what its measured radii say", () => {
    for (const e of packs) {
      const measured = { innerMm: (e.bench?.innerRadiusMm ?? 0) - 4, outerMm: (e.bench?.outerRadiusMm ?? 0) - 4 };
      const pack = packBuilt(e, measured);
      if (!pack || !e.apply) throw new Error("no pack");
      const built: Unit = {
        ...unit,
        elements: unit.elements.map((x) =>
          x.id === e.id && x.apply
            ? { ...x, apply: { ...x.apply, meanRadiusMm: meanRadiusMm(measured.innerMm, measured.outerMm) } }
            : x,
        ),
      };
      const h = new Hydraulics(built);
      const at = packsOf(built).findIndex((p) => p.id === e.id);
      h.setFluid(70, 0);
      h.lineCommandKpa = 1400;
      h.commandKpa[at] = 1200;
      for (let i = 0; i < 6000; i++) h.step(0.0005, 2500);
      within(h.capacityNm(at, pack.friction), heldNm(pack, h.pressureKpa[at] as number));
      // and less than before: the ring lies further in
      expect(h.capacityNm(at, DESIGN_FRICTION)).toBeLessThan(
        heldNm({ ...pack, apply: e.apply, friction: DESIGN_FRICTION }, h.pressureKpa[at] as number),
      );
    }
  });
  it.each([1, 1.25])("stalls where a converter of %s times its factor has to", (share) => {
    const converter = { ...(unit.converter as Converter), stallRpm: share * (unit.converter?.stallRpm ?? 0) };
    const p = new Powertrain({ ...unit, converter });
    const c = p.idleControls();
    c.brakeN = 90_000;
    c.pedal = 1;
    // first gear by its elements
    p.elements.forEach((id, i) => {
      c.capacityNm[i] = (unit.application["1"] ?? []).some((a) => a.element === id) ? 6000 : 0;
    });
    for (let i = 0; i < 4000; i++) p.step(0.001, c);
    // the full-load curve of the simulated engine: rising to 1900 rpm, even to 4200
    const most = p.engine.largestNm;
    const curve: TorqueCurve = [
      [600, 0.4 * most],
      [1900, most],
      [4200, most],
      [6600, 1],
    ];
    within(p.engineRpm, stallOnCurve(curve, stallFactor(converter)));
  });
});
