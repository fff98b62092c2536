// Guards: what a shop is scored by: the expected cost of a way of working is exact, least for who believes what is true, and one shop is the same each time.

import { believe, Planner, SuspectModel } from "@gearsense/core/suspect";
import { describe, expect, it } from "@jest/globals";
import { costOf, type ShopScore, scoreShop, summariseShops } from "./shops.ts";
import { knowledge, unitOf, units } from "./testing/library.ts";

const model = new SuspectModel(unitOf("tarn-f4"), knowledge);

describe("cost to the cure", () => {
  const whole = new Planner(model, { hourlyRate: 72 }).space(believe(model, []));
  // a repair alone, no check: in closed form
  const at = whole.repairs.findIndex((r) => r.id === "mount");
  const space = whole.narrowed([], [at]);
  const mount = space.sets.findIndex(
    (s) => s.members.length === 1 && model.faults[s.members[0] as number]?.id === "mount",
  );
  const only = Float64Array.from(space.sets, (_, k) => Number(k === mount));
  it("of one fault whose repair is known is its price, and the comeback of what it does not cure", () => {
    expect(mount).toBeGreaterThanOrEqual(0);
    const cures = space.cures[0]?.[mount] as number;
    const price = space.prices(0)[0] as number;
    const cost = costOf(space, only, only);
    expect(cost).toBeGreaterThanOrEqual(price + (1 - cures) * knowledge.comebackCost);
    expect(cost).toBeLessThan(price + (1 - cures) * (3 * knowledge.comebackCost + space.lastResort + price));
  });
});

it("a shop by its number is the same each time, and has proved 20 to 200 jobs", () => {
  const [a, b] = [0, 1].map(() => scoreShop(units.slice(0, 2), knowledge, 7, 2, 1)) as [ShopScore, ShopScore];
  expect(a).toEqual(b);
  expect(a.jobs).toBeGreaterThanOrEqual(20);
  expect(a.jobs).toBeLessThanOrEqual(200);
  expect(a.own).toBeGreaterThan(0);
});

it("the summary counts the shops that rise by more than one in a hundred", () => {
  const shop = (own: number) => ({ jobs: 20, library: 1000, own });
  expect(summariseShops([shop(1010), shop(1010.1), shop(900)])).toMatchObject({ over: 1, fall: -0.1, library: 1000 });
});
