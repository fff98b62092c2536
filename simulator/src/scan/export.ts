/** How the simulated scan tool writes its file. */
export interface ExportStyle {
  readonly delimiter: "," | ";" | "\t";
  readonly decimalComma: boolean;
  readonly headers: "canonical" | "long" | "short";
  readonly units: "header" | "row" | "none";
  readonly time: "s" | "ms" | "clock";
  readonly preamble: readonly string[];
  readonly newline: "\n" | "\r\n";
  readonly byteOrderMark: boolean;
  readonly imperial: boolean;
  /** channels polled in turn: each row fills this many groups' worth of columns; 1 = all */
  readonly roundRobin: number;
}

export const PLAIN_STYLE: ExportStyle = {
  delimiter: ",",
  decimalComma: false,
  headers: "long",
  units: "header",
  time: "s",
  preamble: [],
  newline: "\n",
  byteOrderMark: false,
  imperial: false,
  roundRobin: 1,
};

interface Heading {
  readonly long: string;
  readonly short: string;
  readonly unit: string;
  readonly decimals: number;
}

const h = (long: string, short: string, unit: string, decimals = 0): Heading => ({ long, short, unit, decimals });

const HEADINGS: Readonly<Record<string, Heading>> = {
  time_s: h("Time", "t", "s", 3),
  engine_rpm: h("Engine speed", "ENG SPD", "rpm"),
  turbine_rpm: h("Turbine speed", "TURB SPD", "rpm"),
  k1_rpm: h("K1 shaft speed", "K1 RPM", "rpm"),
  k2_rpm: h("K2 shaft speed", "K2 RPM", "rpm"),
  output_rpm: h("Output shaft speed", "OUT SPD", "rpm"),
  vehicle_kmh: h("Vehicle speed", "VEH SPD", "km/h", 1),
  gear_commanded: h("Commanded gear", "GEAR CMD", ""),
  range: h("Selector", "PRNDL", ""),
  pedal_pct: h("Accelerator pedal", "APP", "%", 1),
  throttle_pct: h("Throttle position", "TPS", "%", 1),
  engine_torque_nm: h("Engine torque", "ENG TRQ", "N·m"),
  brake_on: h("Brake switch", "BRAKE", ""),
  tcc_command: h("Converter clutch duty", "TCC CMD", "%"),
  line_pressure_kpa: h("Line pressure", "LINE PRESSURE", "kPa"),
  fluid_c: h("Transmission fluid temperature", "TFT", "°C"),
  clutch_c: h("Clutch temperature", "CLUTCH TEMP", "°C"),
};

const RANGE_WORDS = ["", "P", "R", "N", "D"];

/** Writes the columns of a simulated log the way a scan tool exports them. */
export function writeLog(columns: ReadonlyMap<string, Float64Array>, style: ExportStyle = PLAIN_STYLE): string {
  const ids = [...columns.keys()];
  const heading = (id: string): Heading =>
    HEADINGS[id] ?? h(id.startsWith("sol_") ? `Solenoid ${id.slice(4)}` : id, id.toUpperCase(), "%");
  const unitOf = (id: string) => {
    if (id === "time_s") return style.time === "clock" ? "" : style.time;
    const unit = heading(id).unit;
    if (!style.imperial) return unit;
    return { "km/h": "mph", "°C": "°F", kPa: "psi", N·m: "lb-ft" }[unit] ?? unit;
  };
  const quote = (text: string) =>
    text.includes(style.delimiter) || text.includes('"') ? `"${text.replaceAll('"', '""')}"` : text;
  const number = (value: number, decimals: number) => {
    const text = value.toFixed(decimals);
    return quote(style.decimalComma ? text.replace(".", ",") : text);
  };
  const convert = (id: string, v: number) => {
    const unit = heading(id).unit;
    if (!style.imperial) return v;
    if (unit === "km/h") return v / 1.609344;
    if (unit === "°C") return v * 1.8 + 32;
    if (unit === "kPa") return v / 6.894757;
    if (unit === "N·m") return v / 1.3558179;
    return v;
  };
  const clock = (s: number) => {
    const at = s + 9 * 3600 + 41 * 60;
    const two = (x: number) => String(Math.floor(x)).padStart(2, "0");
    return `${two(at / 3600)}:${two((at / 60) % 60)}:${(at % 60).toFixed(3).padStart(6, "0")}`;
  };
  const title = (id: string) => {
    const name = style.headers === "canonical" ? id : style.headers === "long" ? heading(id).long : heading(id).short;
    const unit = unitOf(id);
    return quote(style.units === "header" && unit !== "" && style.headers !== "canonical" ? `${name} (${unit})` : name);
  };
  const lines: string[] = [...style.preamble, ids.map(title).join(style.delimiter)];
  if (style.units === "row") lines.push(ids.map((id) => unitOf(id) || "-").join(style.delimiter));
  const rows = columns.get("time_s")?.length ?? 0;
  for (let r = 0; r < rows; r++) {
    const cells = ids.map((id, c) => {
      const v = (columns.get(id) as Float64Array)[r] as number;
      if (id === "time_s") {
        if (style.time === "clock") return clock(v);
        return style.time === "ms" ? String(Math.round(v * 1000)) : number(v, 3);
      }
      if (style.roundRobin > 1 && c % style.roundRobin !== r % style.roundRobin) return "";
      if (id === "range") return RANGE_WORDS[v] ?? "";
      if (id === "brake_on") return v > 0 ? "on" : "off";
      return number(
        convert(id, v),
        Math.max(heading(id).decimals, style.imperial && ["°C", "kPa", "N·m"].includes(heading(id).unit) ? 1 : 0),
      );
    });
    lines.push(cells.join(style.delimiter));
  }
  return (style.byteOrderMark ? "\ufeff" : "") + lines.join(style.newline) + style.newline;
}
