/**
 * Writes the drives of other programs that the flows import, from one made-up drive of a Brae P6 whose third clutch slips:
 *   npx tsx --conditions=gearsense-source e2e/files/make.ts
 * Run it when the gear ratios of the unit change. `harbour.bus.json` says how the frames of the capture are laid out.
 */
import { readFileSync, writeFileSync } from "node:fs";
import { gzipSync } from "node:zlib";
import { simulateDrive } from "@gearsense/simulator";
import { strToU8, zipSync } from "fflate";
import { unitFile, WORN_THIRD_CLUTCH } from "../support.ts";

const ROWS = 1500;
const STEP_S = 0.1;
const path = (name: string) => new URL(name, import.meta.url);
const { columns } = simulateDrive({
  unit: unitFile("brae-p6"),
  seed: 71,
  vehicleSeed: 6,
  durationS: ROWS * STEP_S,
  rateHz: 1 / STEP_S,
  startFluidC: 60,
  profile: "mixed",
  faults: [WORN_THIRD_CLUTCH],
});
const at = (channel: string, row: number): number => {
  const column = columns.get(channel);
  if (!column) throw new Error(`the drive has no channel ${channel}`);
  return column[row] as number;
};
const rows = Array.from({ length: ROWS }, (_, i) => i);

// a spreadsheet of a harbour workshop: clock over midnight, decimal commas, units in a line of their own, windows-1252
const comma = (x: number, digits: number) => x.toFixed(digits).replace(".", ",");
const clock = (s: number) => {
  const ms = Math.round((23 * 3600 + 59 * 60 + s) * 1000) % 86_400_000;
  const two = (x: number) => `${Math.floor(x)}`.padStart(2, "0");
  return `${two(ms / 3_600_000)}:${two((ms / 60_000) % 60)}:${two((ms / 1000) % 60)},${`${ms % 1000}`.padStart(3, "0")}`;
};
const harbour = [
  "Werkstatt-Aufzeichnung;Hafen",
  "Getriebeöl geprüft",
  "",
  "Uhr;Engine speed;Turbine speed;Output shaft speed;Gear;Engine torque;Fluid temperature;Line pressure;Converter clutch duty;Vehicle speed",
  "hh:mm:ss;1/min;1/min;1/min;;Nm;°C;bar;%;km/h",
  ...rows.map((i) =>
    [
      clock(i * STEP_S),
      ...["engine_rpm", "turbine_rpm", "output_rpm", "gear_commanded", "engine_torque_nm", "fluid_c"].map((c) =>
        at(c, i).toFixed(0),
      ),
      comma(at("line_pressure_kpa", i) / 100, 2),
      at("tcc_command", i).toFixed(0),
      comma(at("vehicle_kmh", i), 1),
    ].join(";"),
  ),
  "",
].join("\r\n");
writeFileSync(path("harbour.csv.gz"), gzipSync(Buffer.from(harbour, "latin1"), { level: 9 }));

// one reading a line, milliseconds since 1970, foot-pounds and Fahrenheit
const SENSORS: readonly [string, string, string, (x: number) => number][] = [
  ["engine_rpm", "Engine RPM", "rpm", (x) => x],
  ["turbine_rpm", "Trans input speed", "rpm", (x) => x],
  ["output_rpm", "Trans output speed", "rpm", (x) => x],
  ["gear_commanded", "Requested gear", "", (x) => x],
  ["engine_torque_nm", "Engine torque", "lb-ft", (x) => x / 1.355818],
  ["fluid_c", "Trans fluid temp", "°F", (x) => (x * 9) / 5 + 32],
  ["tcc_command", "TCC duty", "%", (x) => x],
];
const long = [
  '"epoch","sensor","value","unit"',
  ...rows.flatMap((i) =>
    SENSORS.map(([channel, name, unit, of], k) => {
      const value = of(at(channel, i));
      return `"${1_770_000_000_000 + i * 100 + 3 * k}","${name}","${unit ? value.toFixed(1) : value}","${unit}"`;
    }),
  ),
  "",
].join("\n");
writeFileSync(
  path("quarry-long.zip"),
  zipSync({ "export/readings.txt": strToU8(long) }, { level: 9, mtime: "2026-01-01" }),
);

// columns without names, UTF-16, miles an hour
const unnamed = [
  "T\tA1\tA2\tA3\tA4\tA5\tA6",
  ...rows.map((i) =>
    [
      (i * STEP_S).toFixed(2),
      ...["engine_rpm", "turbine_rpm", "output_rpm", "gear_commanded"].map((c) => at(c, i).toFixed(0)),
      (at("vehicle_kmh", i) / 1.609344).toFixed(1),
      at("fluid_c", i).toFixed(0),
    ].join("\t"),
  ),
  "",
].join("\n");
writeFileSync(path("unnamed.txt"), Buffer.from(`\uFEFF${unnamed}`, "utf16le"));

// frames of a bus as the definition lays them out, with others between them
interface Field {
  readonly channel: string;
  readonly id: string;
  readonly startBit: number;
  readonly lengthBits: number;
  readonly byteOrder: "big" | "little";
  readonly scale: number;
  readonly offset: number;
}
const { channels } = JSON.parse(readFileSync(path("harbour.bus.json"), "utf8")) as { channels: Field[] };
function frame(id: string, row: number): string {
  const bytes = Buffer.alloc(7);
  for (const f of channels.filter((c) => c.id === id)) {
    const raw = Math.round((at(f.channel, row) - f.offset) / f.scale);
    const first = f.startBit >> 3;
    if (f.lengthBits === 8) bytes.writeUInt8(raw, first);
    else if (f.byteOrder === "big") bytes.writeUInt16BE(raw & 0xffff, first);
    else bytes.writeUInt16LE(raw & 0xffff, first);
  }
  return bytes.toString("hex").toUpperCase();
}
const line = (i: number, afterMs: number, id: string, data: string) =>
  `(${(1_770_000_000 + i * STEP_S + afterMs / 1000).toFixed(6)}) can0 ${id}#${data}`;
const capture = rows.flatMap((i) => [
  line(i, 0, "0CF", frame("0x0CF", i)),
  line(i, 1.1, "2B1", frame("0x2B1", i)),
  ...(i % 5 === 0 ? [line(i, 2, "7FF", "00")] : []),
]);
writeFileSync(path("bus-capture.log"), `${capture.join("\n")}\n`);
