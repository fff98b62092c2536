import type { Symptom } from "../job/index.ts";
import type { Unit } from "../unit/index.ts";
import { CHANNELS } from "./channels.ts";

export interface ChannelToRecord {
  readonly channel: string;
  readonly label: string;
  readonly why: string;
  /** without it a drive tells little; the others part suspects that are left */
  readonly need: "must" | "good";
}

const labelOf = (channel: string): string => CHANNELS.find((c) => c.id === channel)?.label ?? channel;

/**
 * Channels to choose on the scan tool before a drive, the most telling first: the fewer are read, the faster it reads them.
 * @param kinds - what the customer complains of
 */
export function channelsToRecord(unit: Unit, kinds: readonly Symptom["kind"][]): ChannelToRecord[] {
  const has = (...k: Symptom["kind"][]) => k.some((x) => kinds.includes(x));
  const list = new Map<string, ChannelToRecord>();
  const add = (channel: string, need: ChannelToRecord["need"], why: string) => {
    if (!list.has(channel)) list.set(channel, { channel, label: labelOf(channel), need, why });
  };
  add("engine_rpm", "must", "slip is the engine or turbine against the output");
  if (unit.kind === "planetary") add("turbine_rpm", "must", "input side of every gear");
  for (const s of unit.sensors)
    if (s.channel.endsWith("_rpm")) add(s.channel, "must", `${s.name}: the ratio that is really driven`);
  add("output_rpm", "must", "output side of every gear");
  add("gear_commanded", "must", "which gear it should be, against the one it is");
  add("engine_torque_nm", "must", "how hard a gear was worked: no gear is cleared without it");
  add("fluid_c", "must", "cold and hot are told apart");
  add("pedal_pct", "good", "what the driver asked for; stands in for the torque where there is none");
  add("vehicle_kmh", "good", "a second witness for the output speed");
  if (unit.converter && has("shudder", "slip", "limp", "noise"))
    add("tcc_command", "good", "shudder and slip with the converter clutch, or without it");
  if (has("slip", "late", "harsh", "no-drive")) {
    add("line_pressure_kpa", "good", "pressure asked for, against slip");
    add("line_pressure_measured_kpa", "good", "pressure reached, where there is a sensor");
  }
  if (unit.kind !== "planetary") {
    add("clutch_c", "good", "heat of the clutches");
    add("k1_kpa", "good", "pressure of clutch 1");
    add("k2_kpa", "good", "pressure of clutch 2");
  }
  if (has("no-drive", "late", "harsh", "limp")) add("range", "good", "lever position as it is read");
  if (has("limp", "warning-light")) add("battery_v", "good", "controllers fall back at low voltage");
  return [...list.values()]
    .filter((c) => CHANNELS.some((x) => x.id === c.channel))
    .sort((a, b) => Number(b.need === "must") - Number(a.need === "must"));
}
