// Guards: what to record before a drive: every speed of the unit is needed, what parts the complaint is good to have, and
// every name is a channel that the import knows.
import { describe, expect, it } from "@jest/globals";
import { libraryUnit, libraryUnits } from "../testing/units.ts";
import { CHANNELS } from "./channels.ts";
import { channelsToRecord } from "./to-record.ts";

const ids = (unit: string, ...kinds: Parameters<typeof channelsToRecord>[1]) =>
  channelsToRecord(libraryUnit(unit), kinds).map((c) => c.channel);

describe("channels to record", () => {
  it("hold every speed sensor of the unit among the needed ones, each once", () => {
    for (const unit of libraryUnits()) {
      const list = channelsToRecord(unit, ["slip", "shudder", "limp", "no-drive"]);
      expect(new Set(list.map((c) => c.channel)).size).toBe(list.length);
      const must = list.filter((c) => c.need === "must").map((c) => c.channel);
      for (const s of unit.sensors.filter((x) => x.channel.endsWith("_rpm"))) expect(must).toContain(s.channel);
      for (const c of ["engine_rpm", "gear_commanded", "engine_torque_nm", "fluid_c"]) expect(must).toContain(c);
      for (const c of list) expect(CHANNELS.map((x) => x.id)).toContain(c.channel);
      // needed ones first
      expect(list.map((c) => c.need)).toEqual(
        [...list.map((c) => c.need)].sort((a, b) => (a === b ? 0 : a === "must" ? -1 : 1)),
      );
    }
  });
  it("follow the complaint and the kind of unit", () => {
    expect(ids("brae-p6", "shudder")).toContain("tcc_command");
    expect(ids("corran-w7", "shudder")).not.toContain("tcc_command");
    expect(ids("corran-w7", "slip")).toEqual(expect.arrayContaining(["k1_rpm", "k2_rpm", "k1_kpa", "clutch_c"]));
    expect(ids("brae-p6", "slip")).not.toContain("battery_v");
    expect(ids("brae-p6", "limp")).toContain("battery_v");
  });
});
