/** Where a channel lies in the frames of the simulated vehicle's bus. */
interface Place {
  readonly id: number;
  readonly bytes: number;
  readonly startByte: number;
  readonly big: boolean;
  readonly signed?: boolean;
  readonly scale: number;
  readonly offset: number;
  readonly unit?: string;
}

const place = (
  id: number,
  startByte: number,
  bytes: number,
  scale: number,
  unit?: string,
  more: Partial<Place> = {},
): Place => ({
  id,
  startByte,
  bytes,
  scale,
  offset: 0,
  big: false,
  ...(unit ? { unit } : {}),
  ...more,
});

const PLACES: Readonly<Record<string, Place>> = {
  engine_rpm: place(0x0c8, 0, 2, 0.25, "rpm", { big: true }),
  engine_torque_nm: place(0x0c8, 2, 2, 0.5, "N·m", { signed: true }),
  pedal_pct: place(0x0c8, 4, 1, 0.4, "%"),
  throttle_pct: place(0x0c8, 5, 1, 0.4, "%"),
  turbine_rpm: place(0x1a0, 0, 2, 0.25, "rpm"),
  output_rpm: place(0x1a0, 2, 2, 0.25, "rpm"),
  k1_rpm: place(0x1a0, 4, 2, 0.25, "rpm"),
  k2_rpm: place(0x1a0, 6, 2, 0.25, "rpm"),
  gear_commanded: place(0x1a4, 0, 1, 1, undefined, { signed: true }),
  range: place(0x1a4, 1, 1, 1),
  tcc_command: place(0x1a4, 2, 1, 0.5, "%"),
  fluid_c: place(0x1a4, 3, 1, 1, "°C", { offset: -60 }),
  line_pressure_kpa: place(0x1a4, 4, 2, 1, "kPa"),
  clutch_c: place(0x1a4, 6, 2, 0.1, "°C", { offset: -60 }),
  line_pressure_measured_kpa: place(0x1a6, 0, 2, 1, "kPa"),
  k1_kpa: place(0x1a6, 2, 2, 1, "kPa"),
  k2_kpa: place(0x1a6, 4, 2, 1, "kPa"),
  vehicle_kmh: place(0x0f1, 0, 2, 0.01, "km/h"),
  brake_on: place(0x0f1, 2, 1, 1),
};
const FRAME_BYTES = 8;

/** What says which bits of which frame hold which channel: a `gearsense-bus` file for {@link writeCapture}. */
export function captureDefinition(columns: ReadonlyMap<string, Float64Array>, name = "Simulated vehicle") {
  return {
    format: "gearsense-bus" as const,
    version: 1 as const,
    name,
    channels: [...columns.keys()].flatMap((channel) => {
      const p = PLACES[channel];
      if (!p) return [];
      return [
        {
          channel,
          id: `0x${p.id.toString(16).toUpperCase()}`,
          // the lowest bit of a little-endian value, the highest of a big-endian one
          startBit: p.startByte * 8 + (p.big ? 7 : 0),
          lengthBits: p.bytes * 8,
          byteOrder: p.big ? ("big" as const) : ("little" as const),
          signed: p.signed ?? false,
          scale: p.scale,
          offset: p.offset,
          ...(p.unit ? { unit: p.unit } : {}),
        },
      ];
    }),
  };
}

/** The log as frames of the vehicle's bus, in the text format of the common tools; solenoids are not on the bus. */
export function writeCapture(columns: ReadonlyMap<string, Float64Array>): string {
  const time = columns.get("time_s") ?? new Float64Array();
  const frames = new Map<number, { values: Float64Array; place: Place }[]>();
  for (const [channel, values] of columns) {
    const p = PLACES[channel];
    if (p) frames.set(p.id, [...(frames.get(p.id) ?? []), { values, place: p }]);
  }
  const lines: string[] = [];
  const ids = [...frames.keys()].sort((a, b) => a - b);
  for (let r = 0; r < time.length; r++)
    ids.forEach((id, k) => {
      const data = new Uint8Array(FRAME_BYTES);
      for (const { values, place: p } of frames.get(id) ?? []) {
        let raw = Math.round(((values[r] as number) - p.offset) / p.scale);
        if (raw < 0) raw += 2 ** (8 * p.bytes);
        for (let b = 0; b < p.bytes; b++)
          data[p.startByte + (p.big ? p.bytes - 1 - b : b)] = Math.floor(raw / 256 ** b) % 256;
      }
      const hex = [...data].map((b) => b.toString(16).padStart(2, "0").toUpperCase()).join("");
      // frames follow one another on the bus
      const at = 1_790_000_000 + (time[r] as number) + k * 0.0004;
      lines.push(`(${at.toFixed(6)}) can0 ${id.toString(16).toUpperCase().padStart(3, "0")}#${hex}`);
    });
  return `${lines.join("\n")}\n`;
}
