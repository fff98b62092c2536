import { channelSpec } from "@gearsense/core/log";
import { type Quantity, toDisplay, type UnitSystem, unitLabel } from "@gearsense/core/quantity";
import type { StripData } from "../worker/messages.ts";
import type { Strip } from "./painter.ts";

interface Group {
  readonly label: string;
  readonly channels: readonly string[];
  /** the strip's axis begins at zero */
  readonly fromZero?: boolean;
}

/** Strips from the top, as a technician reads them. One without a recorded channel is left out. */
const GROUPS: readonly Group[] = [
  { label: "Engine and turbine", channels: ["engine_rpm", "turbine_rpm"], fromZero: true },
  { label: "Engine, K1 and K2 shaft", channels: ["engine_rpm", "k1_rpm", "k2_rpm"], fromZero: true },
  { label: "Slip in gear (derived)", channels: ["gear_slip_rpm"] },
  { label: "Converter slip", channels: ["tcc_slip_rpm"] },
  { label: "Engine torque", channels: ["engine_torque_nm"] },
  { label: "Output speed", channels: ["output_rpm"], fromZero: true },
  { label: "Line pressure", channels: ["line_pressure_kpa", "line_pressure_measured_kpa"], fromZero: true },
  { label: "Fluid and clutch temperature", channels: ["fluid_c", "clutch_c"] },
];

/** In core units. */
const LEAST_SPAN: Partial<Record<Quantity, number>> = { "speed-rpm": 90, torque: 40, pressure: 120, temperature: 6 };

const COLOURS = ["--trace-1", "--trace-2", "--trace-3", "--trace-4"];

export interface NamedStrip extends Strip {
  readonly channels: readonly { readonly id: string; readonly label: string; readonly colour: string }[];
  readonly quantity: Quantity;
}

export function makeStrips(
  data: readonly StripData[],
  system: UnitSystem,
  colour: (token: string) => string,
): NamedStrip[] {
  const byId = new Map(data.map((d) => [d.id, d]));
  const dual = byId.has("k1_rpm") || byId.has("k2_rpm");
  const out: NamedStrip[] = [];
  for (const g of GROUPS) {
    if (g.channels.includes("turbine_rpm") && dual) continue;
    if (g.channels.includes("k1_rpm") && !dual) continue;
    const present = g.channels.flatMap((id) => byId.get(id) ?? []);
    if (present.length === 0) continue;
    const quantity = channelSpec(present[0]?.id ?? "")?.quantity ?? "none";
    const low = Math.min(...present.map((d) => d.pyramid.low));
    const high = Math.max(...present.map((d) => d.pyramid.high));
    const room = Math.max(1, (high - low) * 0.06);
    out.push({
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
      lines: present.map((d, i) => ({
        pyramid: d.pyramid,
        colour: colour(COLOURS[i] as string),
        step: channelSpec(d.id)?.discrete ?? false,
      })),
    });
  }
  return out;
}
