// Guards: what is recorded next is what parts the suspects at hand: other suspects, other channels; never more than a link reads fast.
import { describe, expect, it } from "@jest/globals";
import { CHANNELS, channelSpec } from "../../log/index.ts";
import { libraryKnowledge, libraryUnit, libraryUnits } from "../../testing/units.ts";
import { SuspectModel } from "../index.ts";
import { PROPOSED_CHANNELS, proposeChannels } from "./channels.ts";

const knowledge = libraryKnowledge();
const models = new Map(libraryUnits().map((u) => [u.id, new SuspectModel(u, knowledge)]));
const proposed = (unitId: string, likely: Record<string, number>, most?: number) => {
  const model = models.get(unitId) as SuspectModel;
  const p = Float64Array.from(model.faults, (f) => likely[f.id] ?? 1e-9);
  for (const id of Object.keys(likely)) expect(model.faults.map((f) => f.id)).toContain(id);
  return proposeChannels(model, p, most);
};
const ids = (list: ReturnType<typeof proposed>) => list.map((c) => c.channel);

describe("channels that part the suspects", () => {
  it.each(libraryUnits().map((u) => u.id))(
    "of %s: at most eight, known, each once, speeds first, with a reason",
    (id) => {
      const model = models.get(id) as SuspectModel;
      const list = proposeChannels(model, model.priors.slice(0, model.faults.length));
      expect(list.length).toBeLessThanOrEqual(PROPOSED_CHANNELS);
      expect(list.length).toBeGreaterThan(5);
      expect(new Set(ids(list)).size).toBe(list.length);
      for (const c of list) {
        expect(channelSpec(c.channel)).toBeDefined();
        expect(c.why.length).toBeGreaterThan(10);
      }
      expect(list.findLastIndex((c) => c.need === "must")).toBeLessThan(list.findIndex((c) => c.need === "good"));
      for (const c of ["output_rpm", "gear_commanded"]) expect(ids(list)).toContain(c);
      expect(CHANNELS.length).toBeGreaterThan(10);
    },
  );
  it("follow who is suspected", () => {
    const slips = ids(proposed("brae-p6", { "element-worn:TC": 0.5, "element-leak:TC": 0.5 }));
    expect(slips).toEqual(expect.arrayContaining(["engine_torque_nm", "fluid_c"]));
    const shakes = ids(proposed("brae-p6", { "converter-lining:converter-clutch": 0.5, nothing: 0.5 }, 5));
    expect(shakes).toEqual(expect.arrayContaining(["engine_rpm", "tcc_command"]));
    expect(shakes).not.toContain("fluid_c");
  });
  it("where nobody is to be parted are those that any drive is judged by", () => {
    const list = proposed("brae-p6", { "element-worn:TC": 1 });
    expect(ids(list).slice(0, 3)).toEqual(["turbine_rpm", "output_rpm", "gear_commanded"]);
    expect(ids(list)).toEqual(expect.arrayContaining(["engine_rpm", "engine_torque_nm", "fluid_c"]));
    expect(list).toHaveLength(PROPOSED_CHANNELS);
  });
  it("a dual clutch gives both its shafts", () => {
    const unit = libraryUnit("corran-w7");
    const model = models.get(unit.id) as SuspectModel;
    const list = ids(proposeChannels(model, model.priors.slice(0, model.faults.length)));
    expect(list).toEqual(expect.arrayContaining(["engine_rpm", "k1_rpm", "k2_rpm", "output_rpm"]));
  });
});
