import { F_AT_0_C, F_PER_C, KM_PER_MILE, KPA_PER_PSI, NM_PER_LBF_FT } from "@gearsense/core/quantity";
import { gzipSync, strToU8, zipSync } from "fflate";
import { writeCapture } from "./capture.ts";

/** How the simulated scan tool writes its file. */
export interface ExportStyle {
  readonly delimiter: "," | ";" | "\t";
  readonly decimalComma: boolean;
  /** strange: names that say nothing of what is meant */
  readonly headers: "canonical" | "long" | "short" | "joined" | "strange";
  readonly units: "header" | "row" | "none";
  readonly time: "s" | "ms" | "us" | "clock" | "iso" | "epoch-s" | "epoch-ms";
  readonly preamble: readonly string[];
  readonly newline: "\n" | "\r\n";
  readonly byteOrderMark: boolean;
  readonly imperial: boolean;
  /** channels polled in turn: each row fills this many groups' worth of columns; 1 = all */
  readonly roundRobin: number;
  /** long: a line a reading; capture: frames of a bus, see {@link writeCapture} */
  readonly layout: "wide" | "long" | "capture";
  readonly encoding: "utf-8" | "utf-16le" | "utf-16be" | "latin-1";
  readonly container: "none" | "gzip" | "zip";
  readonly quoteAll: boolean;
  /** the header again after so many rows; 0 = never */
  readonly repeatHeaderEvery: number;
  /** the last line is cut off */
  readonly truncated: boolean;
  /** now and then a speed could not be read */
  readonly lost: "never" | "sentinel" | "text";
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
  layout: "wide",
  encoding: "utf-8",
  container: "none",
  quoteAll: false,
  repeatHeaderEvery: 0,
  truncated: false,
  lost: "never",
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
  middle_rpm: h("Intermediate shaft speed", "INT SPD", "rpm"),
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
  line_pressure_measured_kpa: h("Line pressure measured", "LINE PRESSURE ACTUAL", "kPa"),
  k1_kpa: h("K1 pressure", "K1 PRESSURE", "kPa"),
  k2_kpa: h("K2 pressure", "K2 PRESSURE", "kPa"),
  fluid_c: h("Transmission fluid temperature", "TFT", "°C"),
  clutch_c: h("Clutch temperature", "CLUTCH TEMP", "°C"),
};

const RANGE_WORDS = ["", "P", "R", "N", "D"];

const LOST_EVERY = 211;
const SENTINEL = "65535";
const STARTED_S = 1_790_000_000;

/** Writes the columns of a simulated log the way a scan tool exports them. */
export function writeLog(columns: ReadonlyMap<string, Float64Array>, style: ExportStyle = PLAIN_STYLE): string {
  if (style.layout === "capture") return writeCapture(columns);
  const ids = [...columns.keys()];
  const heading = (id: string): Heading => {
    const known = HEADINGS[id];
    if (known) return known;
    if (id.startsWith("adapt_")) return h(`Adaptation ${id.slice(6)}`, `ADAPT ${id.slice(6).toUpperCase()}`, "");
    return h(id.startsWith("sol_") ? `Solenoid ${id.slice(4)}` : id, id.toUpperCase(), "%");
  };
  const unitOf = (id: string) => {
    if (id === "time_s")
      return { s: "s", ms: "ms", us: "µs", clock: "", iso: "", "epoch-s": "s", "epoch-ms": "ms" }[style.time];
    const unit = heading(id).unit;
    if (!style.imperial) return unit;
    return { "km/h": "mph", "°C": "°F", kPa: "psi", N·m: "lb-ft" }[unit] ?? unit;
  };
  const quote = (text: string) =>
    style.quoteAll || text.includes(style.delimiter) || text.includes('"') ? `"${text.replaceAll('"', '""')}"` : text;
  const number = (value: number, decimals: number) => {
    const text = value.toFixed(decimals);
    return quote(style.decimalComma ? text.replace(".", ",") : text);
  };
  const convert = (id: string, v: number) => {
    const unit = heading(id).unit;
    if (!style.imperial) return v;
    if (unit === "km/h") return v / KM_PER_MILE;
    if (unit === "°C") return v * F_PER_C + F_AT_0_C;
    if (unit === "kPa") return v / KPA_PER_PSI;
    if (unit === "N·m") return v / NM_PER_LBF_FT;
    return v;
  };
  const two = (x: number) => String(Math.floor(x)).padStart(2, "0");
  const clock = (s: number) => {
    const at = s + 9 * 3600 + 41 * 60;
    return `${two(at / 3600)}:${two((at / 60) % 60)}:${(at % 60).toFixed(3).padStart(6, "0")}`;
  };
  const moment = (s: number): string => {
    switch (style.time) {
      case "s":
        return number(s, 3);
      case "ms":
        return quote(String(Math.round(s * 1000)));
      case "us":
        return quote(String(Math.round(s * 1e6)));
      case "clock":
        return quote(clock(s));
      case "iso":
        return quote(new Date((STARTED_S + s) * 1000).toISOString());
      case "epoch-s":
        return number(STARTED_S + s, 3);
      case "epoch-ms":
        return quote(String(Math.round((STARTED_S + s) * 1000)));
    }
  };
  const name = (id: string) => {
    switch (style.headers) {
      case "canonical":
        return id;
      case "long":
        return heading(id).long;
      case "short":
        return heading(id).short;
      case "joined":
        return heading(id).long.replace(/ (\w)/g, (_, c: string) => c.toUpperCase());
      case "strange":
        return id === "time_s" ? "T" : `MW ${ids.indexOf(id) * 17 + 101}`;
    }
  };
  const title = (id: string) => {
    const unit = unitOf(id);
    const shown = style.units === "header" && unit !== "" && style.headers !== "canonical";
    return quote(shown ? `${name(id)} (${unit})` : name(id));
  };
  const cell = (id: string, r: number, c: number): string => {
    const v = (columns.get(id) as Float64Array)[r] as number;
    // not asked for in this row
    if (Number.isNaN(v)) return "";
    if (id === "range") return quote(RANGE_WORDS[v] ?? "");
    if (id === "brake_on") return quote(v > 0 ? "on" : "off");
    if (style.lost !== "never" && id.endsWith("_rpm") && (r + c * 31) % LOST_EVERY === LOST_EVERY - 1)
      return quote(style.lost === "sentinel" ? SENTINEL : "---");
    const extra = style.imperial && ["°C", "kPa", "N·m"].includes(heading(id).unit) ? 1 : 0;
    return number(convert(id, v), Math.max(heading(id).decimals, extra));
  };
  const rows = columns.get("time_s")?.length ?? 0;
  const times = columns.get("time_s") ?? new Float64Array();
  const lines: string[] = [...style.preamble];
  if (style.layout === "long") {
    lines.push(["Time", "Parameter", "Value", "Unit"].join(style.delimiter));
    for (let r = 0; r < rows; r++)
      ids.forEach((id, c) => {
        if (id === "time_s") return;
        lines.push([moment(times[r] as number), quote(name(id)), cell(id, r, c), unitOf(id)].join(style.delimiter));
      });
  } else {
    const header = ids.map(title).join(style.delimiter);
    lines.push(header);
    if (style.units === "row") lines.push(ids.map((id) => unitOf(id) || "-").join(style.delimiter));
    for (let r = 0; r < rows; r++) {
      if (style.repeatHeaderEvery > 0 && r > 0 && r % style.repeatHeaderEvery === 0) lines.push(header);
      const cells = ids.map((id, c) => {
        if (id === "time_s") return moment(times[r] as number);
        if (style.roundRobin > 1 && c % style.roundRobin !== r % style.roundRobin) return "";
        return cell(id, r, c);
      });
      lines.push(cells.join(style.delimiter));
    }
  }
  if (style.truncated) lines.push((lines.at(-1) ?? "").slice(0, 9));
  return lines.join(style.newline) + (style.truncated ? "" : style.newline);
}

function encode(text: string, encoding: ExportStyle["encoding"], mark: boolean): Uint8Array {
  if (encoding === "utf-8") return strToU8(mark ? `\ufeff${text}` : text);
  const marked = mark && encoding !== "latin-1" ? `\ufeff${text}` : text;
  if (encoding === "latin-1") return strToU8(text, true);
  const bytes = new Uint8Array(marked.length * 2);
  const view = new DataView(bytes.buffer);
  for (let i = 0; i < marked.length; i++) view.setUint16(i * 2, marked.charCodeAt(i), encoding === "utf-16le");
  return bytes;
}

/** {@link writeLog} as the bytes of the file. */
export function exportLog(columns: ReadonlyMap<string, Float64Array>, style: ExportStyle = PLAIN_STYLE): Uint8Array {
  const plain = encode(writeLog(columns, style), style.encoding, style.byteOrderMark);
  if (style.container === "gzip") return gzipSync(plain, { mtime: STARTED_S * 1000 });
  // a date of its own, so that the same log gives the same bytes
  return style.container === "zip" ? zipSync({ "log.csv": [plain, { mtime: STARTED_S * 1000 }] }) : plain;
}
