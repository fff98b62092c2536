import { channelSpec } from "@gearsense/core/log";
import { type Quantity, toDisplay, type UnitSystem, unitLabel } from "@gearsense/core/quantity";
import type { StripData } from "../worker/messages.ts";
import type { Strip } from "./painter.ts";

interface Group {
  readonly id: string;
  readonly label: string;
  readonly channels: readonly string[];
  /** the strip's axis begins at zero */
  readonly fromZero?: boolean;
}

/** Strips of several channels, as a technician reads them together. */
const GROUPS: readonly Group[] = [
  { id: "speeds", label: "Engine and turbine", channels: ["engine_rpm", "turbine_rpm"], fromZero: true },
  { id: "shafts", label: "Engine, K1 and K2 shaft", channels: ["engine_rpm", "k1_rpm", "k2_rpm"], fromZero: true },
  { id: "gear-slip", label: "Slip in gear (derived)", channels: ["gear_slip_rpm"] },
  { id: "converter-slip", label: "Converter slip", channels: ["tcc_slip_rpm"] },
  { id: "torque", label: "Engine torque", channels: ["engine_torque_nm"] },
  { id: "output", label: "Output speed", channels: ["output_rpm"], fromZero: true },
  {
    id: "pressure",
    label: "Line pressure",
    channels: ["line_pressure_kpa", "line_pressure_measured_kpa"],
    fromZero: true,
  },
  { id: "clutch-pressure", label: "K1 and K2 pressure", channels: ["k1_kpa", "k2_kpa"], fromZero: true },
  { id: "temperature", label: "Fluid and clutch temperature", channels: ["fluid_c", "clutch_c"] },
  { id: "road", label: "Vehicle speed", channels: ["vehicle_kmh"], fromZero: true },
  { id: "foot", label: "Pedal and throttle", channels: ["pedal_pct", "throttle_pct"], fromZero: true },
  { id: "converter-command", label: "Converter clutch command", channels: ["tcc_command"], fromZero: true },
  { id: "gear", label: "Gear", channels: ["gear_commanded", "gear_reported"], fromZero: true },
];
const GROUPED = new Set(GROUPS.flatMap((g) => g.channels));
/** Told by words, not by height. */
const NOT_DRAWN = new Set(["range", "brake_on", "code", "mark"]);

/** Which strips answer a question, from the top. */
export const PRESETS = {
  overview: ["speeds", "shafts", "gear-slip", "converter-slip", "torque", "output", "pressure", "temperature"],
  shudder: ["converter-slip", "speeds", "output", "torque", "converter-command", "temperature"],
  "shift quality": ["speeds", "shafts", "output", "gear-slip", "torque", "pressure"],
  limp: ["speeds", "shafts", "gear", "pressure", "road", "temperature"],
  launch: ["shafts", "speeds", "output", "torque", "foot", "temperature"],
  heat: ["temperature", "converter-slip", "gear-slip", "torque", "road"],
} as const satisfies Record<string, readonly string[]>;
export type PresetName = keyof typeof PRESETS;

/** In core units. */
const LEAST_SPAN: Partial<Record<Quantity, number>> = { "speed-rpm": 90, torque: 40, pressure: 120, temperature: 6 };

const COLOURS = ["--trace-1", "--trace-2", "--trace-3", "--trace-4"];

export interface NamedStrip extends Strip {
  readonly id: string;
  readonly channels: readonly { readonly id: string; readonly label: string; readonly colour: string }[];
  readonly quantity: Quantity;
}

const groupOf = (id: string): Group =>
  GROUPS.find((g) => g.id === id) ?? { id, label: channelSpec(id)?.label ?? id, channels: [id] };

/** Strips that a recording offers: the groups that have a channel in it, then every channel that is in none. */
export function offeredStrips(data: readonly StripData[]): { id: string; label: string }[] {
  const has = new Set(data.map((d) => d.id));
  const dual = has.has("k1_rpm") || has.has("k2_rpm");
  const groups = GROUPS.filter(
    (g) => g.channels.some((c) => has.has(c)) && !(g.id === "speeds" && dual) && !(g.id === "shafts" && !dual),
  );
  const others = data.filter((d) => !GROUPED.has(d.id) && !NOT_DRAWN.has(d.id));
  return [...groups, ...others.map((d) => groupOf(d.id))].map(({ id, label }) => ({ id, label }));
}

/**
 * The chosen strips in their order; one without a recorded channel is left out.
 * @param other - of a log that is laid over it, with what is added to its times
 */
export function makeStrips(
  data: readonly StripData[],
  system: UnitSystem,
  colour: (token: string) => string,
  chosen: readonly string[] = PRESETS.overview,
  other?: { readonly data: readonly StripData[]; readonly shiftS: number },
): NamedStrip[] {
  const byId = new Map(data.map((d) => [d.id, d]));
  const otherById = new Map((other?.data ?? []).map((d) => [d.id, d]));
  const offered = new Set(offeredStrips(data).map((o) => o.id));
  const out: NamedStrip[] = [];
  for (const id of chosen) {
    const g = groupOf(id);
    const present = g.channels.flatMap((c) => byId.get(c) ?? []);
    if (present.length === 0 || !offered.has(id)) continue;
    const over = present.flatMap((d, i) => {
      const twin = otherById.get(d.id);
      return twin ? [{ twin, i }] : [];
    });
    const quantity = channelSpec(present[0]?.id ?? "")?.quantity ?? "none";
    const pyramids = [...present, ...over.map((o) => o.twin)].map((d) => d.pyramid);
    const low = Math.min(...pyramids.map((p) => p.low));
    const high = Math.max(...pyramids.map((p) => p.high));
    const room = Math.max(1, (high - low) * 0.06);
    const line = (d: StripData, i: number, shiftS: number, pale: boolean) => ({
      pyramid: d.pyramid,
      colour: colour(COLOURS[i] as string),
      step: channelSpec(d.id)?.discrete ?? false,
      shiftS,
      pale,
    });
    out.push({
      id,
      label:
        present.length === 1 && g.channels.length > 1 ? (channelSpec(present[0]?.id ?? "")?.label ?? g.label) : g.label,
      unit: unitLabel(quantity, system),
      quantity,
      weight: present.length > 1 && quantity === "speed-rpm" ? 1.7 : 1,
      low: g.fromZero ? Math.min(0, low) : low - room,
      high: high + room,
      leastSpan: Math.max((high - low) * 0.03, LEAST_SPAN[quantity] ?? 0),
      toShown: (v) => toDisplay(v, quantity, system),
      channels: present.map((d, i) => ({
        id: d.id,
        label: channelSpec(d.id)?.label ?? d.id,
        colour: COLOURS[i] as string,
      })),
      lines: [
        ...over.map(({ twin, i }) => line(twin, i, other?.shiftS ?? 0, true)),
        ...present.map((d, i) => line(d, i, 0, false)),
      ],
    });
  }
  return out;
}
