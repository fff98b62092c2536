// Guards: of two elements that carry the slipping gears, the one that held more elsewhere than it would slip at is not the one.
import { describe, expect, it } from "@jest/globals";
import { libraryUnit } from "../../testing/units.ts";
import { elementPressuresKpa, elementsIn } from "../../unit/index.ts";
import type { AnalysedLog } from "../analysis.ts";
import { slipLoads, slipScope } from "./slip-load.ts";

const unit = libraryUnit("brae-p6");
/** A log in which gears slip at, or hold, so many N·m for every kPa. */
const log = (slips: Readonly<Record<string, number>>, holds: Readonly<Record<string, number>>): AnalysedLog => {
  const gears = [...new Set([...Object.keys(slips), ...Object.keys(holds)])].map((gear) => ({
    gear,
    slipping: slips[gear] === undefined ? [] : [{}],
    lowestSlipNmPerKpa: slips[gear],
    cleanNmPerKpa: holds[gear],
  }));
  return { logId: "a", entryId: "a", analysis: { held: { gears } } } as unknown as AnalysedLog;
};
const said = (...logs: AnalysedLog[]) =>
  Object.fromEntries(slipLoads(unit, logs).map((e) => [e.subject.component, e.outcome]));
/** N·m for every kPa at which an element is asked for a share of the line pressure. */
const load = (element: string, gear: string, share: number) =>
  (100 * share) / (elementPressuresKpa(unit, gear, 100, 0.13).get(element) ?? Number.NaN);

/** A gear with two elements of which each carries another gear as well. */
const [gear, [mine, other]] = unit.gears
  .map((g) => [g.name, elementsIn(unit, g.name)] as const)
  .find(([name, list]) => list.length === 2 && list.every((e) => elsewhere(e, name) !== undefined)) as readonly [
  string,
  readonly [string, string],
];
function elsewhere(element: string, but: string): string | undefined {
  return unit.gears.map((g) => g.name).find((n) => n !== but && elementsIn(unit, n).includes(element));
}

interface Worked {
  /** least part of the line pressure at which the gear slipped */
  readonly slips?: number;
  /** most that was held, by fluid temperature */
  readonly holds?: readonly (readonly [fluidC: number | undefined, part: number])[];
}
/** A log in which the gear slips at so many °C, by what each element was asked for. */
function worked(elements: Readonly<Record<string, Worked>>, slipsAtC: number | undefined = 70): AnalysedLog {
  const slips = Object.values(elements).some((e) => e.slips !== undefined);
  const base = log(slips ? { [gear]: 0.2 } : {}, slips ? {} : { [gear]: 0.2 });
  const list = Object.entries(elements).map(([element, { slips: part, holds = [] }]) => ({
    element,
    slipped: part === undefined ? [] : [{ gear, part, fluidC: slipsAtC }],
    held: holds.map(([fluidC, p]) => ({ fluidC, part: p })),
  }));
  return { ...base, analysis: { held: { ...base.analysis.held, elements: list } } } as unknown as AnalysedLog;
}

describe("slip against the load on each element", () => {
  it("the element that slips holds less than that everywhere; the other held more", () => {
    const drive = worked({ [mine]: { slips: 0.5, holds: [[70, 0.45]] }, [other]: { slips: 0.5, holds: [[70, 0.9]] } });
    expect(said(drive)).toEqual({ [mine]: "fits", [other]: "misfits" });
  });
  it("two drives count together, whichever shows the slip", () => {
    const slip = worked({ [mine]: { slips: 0.5 }, [other]: { slips: 0.5 } });
    const held = worked({ [mine]: { holds: [[70, 0.3]] }, [other]: { holds: [[70, 0.9]] } });
    expect(said(slip, held)).toEqual(said(held, slip));
    expect(said(slip, held)).toEqual({ [mine]: "fits", [other]: "misfits" });
  });
  it("who held a little and who held nothing both fit: neither contradicts itself", () => {
    const drive = worked({ [mine]: { slips: 0.5, holds: [[70, 0.4]] }, [other]: { slips: 0.5, holds: [[70, 0.05]] } });
    expect(said(drive)).toEqual({ [mine]: "fits", [other]: "fits" });
  });
  it("what was held in colder fluid than it slips in clears nothing: a leak holds cold", () => {
    const at = (fluidC: number | undefined) =>
      said(worked({ [mine]: { slips: 0.5, holds: [[fluidC, 0.9]] }, [other]: { slips: 0.5 } }))[mine];
    expect(at(20)).toBe("fits");
    expect(at(70)).toBe("misfits");
    expect(at(100)).toBe("misfits");
    expect(at(undefined)).toBe("misfits");
  });
  it("with nothing held elsewhere both fit, and without slip nothing is said", () => {
    const both = { [mine]: { slips: 0.4 }, [other]: { slips: 0.2 } };
    expect(Object.values(said(worked(both)))).toEqual(["fits", "fits"]);
    expect(Object.values(said(worked(both, undefined)))).toEqual(["fits", "fits"]);
    expect(said(worked({ [mine]: { holds: [[70, 0.2]] } }))).toEqual({});
  });
  it("a scale of all parts changes nothing", () => {
    const made = (k: number) =>
      said(
        worked({
          [mine]: { slips: 0.5 * k, holds: [[70, 0.45 * k]] },
          [other]: { slips: 0.4 * k, holds: [[70, 0.52 * k]] },
        }),
      );
    expect(made(1)).toEqual({ [mine]: "fits", [other]: "nearly" });
    for (const k of [0.1, 7]) expect(made(k)).toEqual(made(1));
  });
  it("of a dual clutch nothing is said: a gear has one clutch", () => {
    expect(slipLoads(libraryUnit("machair-d6"), [log({ "2": 0.2 }, {})])).toEqual([]);
  });
});

describe("does one place not hold, or nothing", () => {
  const scope = (slips: Readonly<Record<string, number>>, holds: Readonly<Record<string, number>>) =>
    slipScope(unit, [log(slips, holds)])?.outcome;
  /** Load at which the hardest-worked element of a gear needs a share of the line pressure. */
  const hardest = (g: string, share: number) => Math.min(...elementsIn(unit, g).map((e) => load(e, g, share)));
  it("gears that hold far more than what slips leave one place", () => {
    expect(scope({ "1": hardest("1", 0.4) }, { "4": hardest("4", 0.9) })).toBe("one-place");
    expect(scope({ "1": hardest("1", 0.7) }, { "4": hardest("4", 0.9) })).toBe("between");
  });
  it("where no gear held more, pressure may be low for all", () => {
    expect(scope({ "1": hardest("1", 0.6) }, { "3": hardest("3", 0.5), "4": hardest("4", 0.6) })).toBe("everywhere");
  });
  it("what the slipping gear itself held does not count, and without another gear nothing is said", () => {
    expect(scope({ "1": hardest("1", 0.4) }, { "1": hardest("1", 0.9) })).toBeUndefined();
    expect(scope({}, { "4": hardest("4", 0.9) })).toBeUndefined();
  });
});
