// Guards: what a column is called leads to its channel however it is shortened, joined or ordered; what only looks like it does not.
import { describe, expect, it } from "@jest/globals";
import { headerWords } from "./header-words.ts";
import { buildRecording, openLog, proposeMapping, TCC_STATE } from "./index.ts";

const channelOf = (header: string) => {
  const text = `time_s,${header}\n${Array.from({ length: 40 }, (_, i) => `${i},${1 + (i % 3)}`).join("\n")}\n`;
  return proposeMapping(openLog(new TextEncoder().encode(text)).table)[1]?.channel ?? null;
};

describe("words of a header", () => {
  it.each([
    ["Eng_Spd", ["engine", "speed"]],
    ["EngineSpeed", ["engine", "speed"]],
    ["Trans. fluid temp", ["transmission", "fluid", "temperature"]],
    ["Torque converter clutch PWM", ["tcc", "duty"]],
    ["Acc_Pedal", ["pedal"]],
  ])("%s", (header, words) => {
    expect(headerWords(header)).toEqual(words);
  });
});

describe("headers and their channels", () => {
  it.each([
    ["RPM", "engine_rpm"],
    ["InputSpd", "turbine_rpm"],
    ["OutputSpd", "output_rpm"],
    ["Trans output RPM", "output_rpm"],
    ["Input shaft 1 RPM", "k1_rpm"],
    ["Shaft2_Spd", "k2_rpm"],
    ["Gear engaged", "gear_reported"],
    ["Gear_Act", "gear_reported"],
    ["TgtGear", "gear_commanded"],
    ["Preselected gear", "gear_preselected"],
    ["PRND", "range"],
    ["Brk_Sw", "brake_on"],
    ["Line_Press", "line_pressure_kpa"],
    ["TCC apply pressure", "tcc_pressure_kpa"],
    ["TCC PWM", "tcc_command"],
    ["Lock-up clutch status", "tcc_state"],
    ["Converter clutch slip", "tcc_slip_rpm"],
    ["ECT", "coolant_c"],
    ["Gearbox oil temperature", "fluid_c"],
    ["Control module voltage", "battery_v"],
  ])("%s is %s", (header, channel) => {
    expect(channelOf(header)).toBe(channel);
  });
  it.each([
    ["Engine oil temperature", "fluid_c"],
    ["Gear ratio", "gear_commanded"],
    ["Idle speed", "vehicle_kmh"],
    ["Clutch slip", "tcc_slip_rpm"],
    ["Torque limit", "engine_torque_nm"],
    ["Clutch pedal switch", "pedal_pct"],
  ])("%s is no %s", (header, channel) => {
    expect(channelOf(header)).not.toBe(channel);
  });
  it("beside a commanded gear a plain gear is the one reported", () => {
    const text = `time_s,Gear,Commanded gear\n${Array.from({ length: 40 }, (_, i) => `${i},1,2`).join("\n")}\n`;
    expect(proposeMapping(openLog(new TextEncoder().encode(text)).table).map((g) => g.channel)).toEqual([
      "time_s",
      "gear_reported",
      "gear_commanded",
    ]);
  });
});

describe("states in words", () => {
  const values = (header: string, words: readonly string[]) => {
    const text = `time_s,${header}\n${Array.from({ length: 60 }, (_, i) => `${i},${words[i % words.length]}`).join("\n")}\n`;
    const { table } = openLog(new TextEncoder().encode(text));
    const [channel] = buildRecording(table, proposeMapping(table)).channels.values();
    return { id: channel?.id, inWords: channel?.inWords, of: Array.from(channel?.values.slice(0, words.length) ?? []) };
  };
  const { open, applying, slipping, locked, releasing } = TCC_STATE;
  it.each([
    [
      ["Open", "Applying", "Slipping", "Locked", "Releasing"],
      [open, applying, slipping, locked, releasing],
    ],
    [
      ["Unlocked", "Partial", "Locked"],
      [open, slipping, locked],
    ],
    [
      ["Released", "Slip control", "Applied"],
      [open, slipping, locked],
    ],
    [
      ["OFF", "ON"],
      [open, locked],
    ],
  ])("of the converter clutch: %j", (words, codes) => {
    expect(values("TCC status", words)).toEqual({ id: "tcc_state", inWords: true, of: codes });
  });
  it("P/N is neutral, for the gear and for the range", () => {
    expect(values("Gear commanded", ["P/N", "R", "D3"]).of).toEqual([0, -1, 3]);
    expect(values("Range", ["P/N", "R", "D"]).of).toEqual([3, 2, 4]);
  });
});
