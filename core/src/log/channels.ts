import { F_AT_0_C, F_PER_C, KM_PER_MILE, KPA_PER_PSI, NM_PER_LBF_FT, type Quantity } from "../quantity/index.ts";

/** A canonical channel: what a column of a log may mean. The unit of the stored values stands in the id. */
export interface ChannelSpec {
  readonly id: string;
  readonly label: string;
  readonly quantity: Quantity;
  /** values outside aren't readings but sentinels or faults */
  readonly range: readonly [number, number];
  /** discrete values are held, not interpolated */
  readonly discrete?: boolean;
  /** what it is called; abbreviations and the order of words do not matter, see header-words.ts */
  readonly names: readonly string[];
  /** a header with one of these words means something else */
  readonly never?: readonly string[];
}

/** Codes of the channel `tcc_state`, where the file says it in words. */
export const TCC_STATE = { open: 0, applying: 1, slipping: 2, locked: 3, releasing: 4 } as const;

const spec = (
  id: string,
  label: string,
  quantity: Quantity,
  range: readonly [number, number],
  names: readonly string[],
  discrete = false,
  never: readonly string[] = [],
): ChannelSpec => ({ id, label, quantity, range, names, discrete, never });

export const CHANNELS: readonly ChannelSpec[] = [
  spec(
    "time_s",
    "Time",
    "duration",
    [-1e13, 1e13],
    [
      "time",
      "t",
      "timestamp",
      "elapsed",
      "elapsed time",
      "clock",
      "date time",
      "datetime",
      "time stamp",
      "epoch",
      "log time",
    ],
  ),
  spec("engine_rpm", "Engine speed", "speed-rpm", [0, 12000], ["engine speed", "engine"], false, [
    "torque",
    "temperature",
    "coolant",
    "load",
    "run",
    "idle",
    "commanded",
    "slip",
    "transmission",
  ]),
  spec(
    "turbine_rpm",
    "Turbine speed",
    "speed-rpm",
    [0, 12000],
    ["turbine speed", "turbine", "turbine shaft speed", "input speed", "input shaft speed", "transmission input speed"],
    false,
    ["1", "2", "torque", "k1", "k2"],
  ),
  spec(
    "middle_rpm",
    "Intermediate shaft speed",
    "speed-rpm",
    [0, 12000],
    ["intermediate shaft speed", "intermediate speed", "counter shaft speed"],
  ),
  spec(
    "output_rpm",
    "Output speed",
    "speed-rpm",
    [0, 12000],
    ["output speed", "output shaft speed", "transmission output speed"],
    false,
    ["torque", "engine"],
  ),
  spec(
    "k1_rpm",
    "K1 shaft speed",
    "speed-rpm",
    [0, 12000],
    ["k1 speed", "k1 shaft speed", "k1 rpm", "input shaft 1 speed", "shaft 1 speed", "clutch 1 speed"],
  ),
  spec(
    "k2_rpm",
    "K2 shaft speed",
    "speed-rpm",
    [0, 12000],
    ["k2 speed", "k2 shaft speed", "k2 rpm", "input shaft 2 speed", "shaft 2 speed", "clutch 2 speed"],
  ),
  spec("vehicle_kmh", "Vehicle speed", "vehicle-speed", [0, 320], ["vehicle speed", "speed", "wheel speed"], false, [
    "engine",
    "turbine",
    "input",
    "output",
    "shaft",
    "fan",
    "cruise",
    "limit",
    "idle",
    "slip",
    "intermediate",
    "clutch",
  ]),
  spec(
    "gear_commanded",
    "Gear commanded",
    "none",
    [-2, 12],
    [
      "gear commanded",
      "commanded gear",
      "gear cmd",
      "gear command",
      "target gear",
      "desired gear",
      "requested gear",
      "gear requested",
      "gear",
    ],
    true,
    ["ratio", "preselected", "next", "slip", "transmission", "actual"],
  ),
  spec(
    "gear_reported",
    "Gear reported",
    "none",
    [-2, 12],
    ["gear reported", "actual gear", "current gear", "gear actual", "engaged gear", "gear"],
    true,
    ["ratio", "preselected", "next", "slip", "transmission"],
  ),
  spec(
    "gear_preselected",
    "Gear laid ready",
    "none",
    [-2, 12],
    ["gear preselected", "next gear", "gear laid ready"],
    true,
    ["ratio"],
  ),
  spec(
    "range",
    "Range",
    "none",
    [0, 9],
    [
      "range",
      "selector",
      "selector position",
      "selector lever",
      "lever position",
      "shift lever",
      "shift lever position",
      "selected range",
      "range switch",
    ],
    true,
  ),
  spec("pedal_pct", "Pedal", "percent", [0, 101], ["pedal", "pedal position"], false, ["brake", "clutch", "switch"]),
  spec("throttle_pct", "Throttle", "percent", [0, 101], ["throttle", "throttle position", "throttle angle"], false, [
    "commanded",
  ]),
  spec(
    "engine_torque_nm",
    "Engine torque",
    "torque",
    [-500, 3000],
    ["engine torque", "torque", "actual torque", "engine torque actual", "indicated torque"],
    false,
    ["converter", "clutch", "ratio", "limit", "loss", "friction", "commanded", "maximum", "max", "reduction"],
  ),
  spec(
    "brake_on",
    "Brake",
    "none",
    [0, 1],
    ["brake", "brake switch", "brake on", "stop lamp", "brake pedal switch", "brake pedal"],
    true,
  ),
  spec(
    "tcc_command",
    "Converter clutch command",
    "percent",
    [0, 101],
    ["tcc command", "tcc duty", "tcc solenoid duty", "tcc solenoid"],
    false,
    ["pressure", "slip", "temperature"],
  ),
  spec("tcc_state", "Converter clutch state", "none", [0, 15], ["tcc state", "tcc status", "tcc mode", "tcc"], true, [
    "pressure",
    "slip",
    "temperature",
    "duty",
    "solenoid",
  ]),
  spec("tcc_pressure_kpa", "Converter clutch pressure", "pressure", [0, 3000], ["tcc pressure", "tcc apply pressure"]),
  spec(
    "tcc_slip_rpm",
    "Converter slip",
    "speed-rpm",
    [-6000, 6000],
    ["tcc slip", "converter slip", "slip speed", "tcc slip speed"],
    false,
    ["gear", "k1", "k2", "clutch"],
  ),
  spec("gear_slip_rpm", "Slip in gear", "speed-rpm", [-6000, 6000], []),
  spec(
    "line_pressure_kpa",
    "Line pressure",
    "pressure",
    [0, 4000],
    ["line pressure", "line pressure commanded", "epc pressure"],
    false,
    ["actual", "tcc"],
  ),
  spec("line_pressure_measured_kpa", "Line measured", "pressure", [0, 4000], ["line pressure measured"]),
  spec(
    "fluid_c",
    "Fluid temperature",
    "temperature",
    [-50, 200],
    [
      "fluid temperature",
      "trans fluid temp",
      "transmission fluid temperature",
      "tft",
      "atf temp",
      "oil temp",
      "fluid temp",
      "transmission temperature",
      "trans temp",
    ],
    false,
    ["engine", "coolant", "ambient", "intake", "air", "clutch", "k1", "k2", "exhaust"],
  ),
  spec(
    "clutch_c",
    "Clutch temperature",
    "temperature",
    [-50, 400],
    ["clutch temperature", "clutch fluid temperature", "clutch 1 temperature", "k1 temperature"],
    false,
    ["2", "k2"],
  ),
  spec("k1_kpa", "K1 pressure", "pressure", [0, 3000], ["k1 pressure", "clutch 1 pressure", "k1 actual pressure"]),
  spec("k2_kpa", "K2 pressure", "pressure", [0, 3000], ["k2 pressure", "clutch 2 pressure", "k2 actual pressure"]),
  spec(
    "coolant_c",
    "Coolant temperature",
    "temperature",
    [-50, 200],
    ["coolant temperature", "engine coolant temperature"],
  ),
  spec(
    "battery_v",
    "Supply voltage",
    "voltage",
    [0, 60],
    ["battery", "battery voltage", "supply voltage", "control module voltage", "system voltage"],
  ),
  spec("mark", "Mark of the driver", "none", [0, 1e6], ["mark", "marker", "event marker", "driver mark"], true),
  spec("code", "Trouble code", "none", [0, 1e9], ["code", "dtc", "trouble code", "fault code"], true),
];

const BY_ID = new Map(CHANNELS.map((c) => [c.id, c]));

/** The specification of a channel, also of the families `sol_…`, `element_…_kpa`, `adapt_…`. */
export function channelSpec(id: string): ChannelSpec | undefined {
  const known = BY_ID.get(id);
  if (known) return known;
  if (/^sol_\w+$/.test(id)) return spec(id, `Solenoid ${id.slice(4)}`, "percent", [0, 1100], []);
  if (/^element_\w+_kpa$/.test(id)) return spec(id, `${id.slice(8, -4)} pressure`, "pressure", [0, 4000], []);
  if (/^adapt_\w+$/.test(id)) return spec(id, `Adaptation ${id.slice(6)}`, "none", [-1e6, 1e6], []);
  return undefined;
}

/** Units of measure a file may use, with the way to the core unit: core = value · factor + offset. */
export interface MeasureUnit {
  readonly label: string;
  readonly quantity: Quantity;
  readonly spellings: readonly string[];
  readonly factor: number;
  readonly offset: number;
}

const mu = (
  label: string,
  quantity: Quantity,
  factor: number,
  offset: number,
  ...spellings: string[]
): MeasureUnit => ({
  label,
  quantity,
  factor,
  offset,
  spellings: [label.toLowerCase(), ...spellings],
});

export const MEASURE_UNITS: readonly MeasureUnit[] = [
  mu("s", "duration", 1, 0, "sec", "secs", "seconds"),
  mu("ms", "duration", 0.001, 0, "msec", "milliseconds"),
  mu("min", "duration", 60, 0, "minutes"),
  mu("µs", "duration", 1e-6, 0, "us", "usec", "μs", "microseconds"),
  mu("day", "duration", 86400, 0, "days"),
  mu("rpm", "speed-rpm", 1, 0, "1/min", "r/min", "min-1", "/min", "u/min"),
  mu("rad/s", "speed-rpm", 60 / (2 * Math.PI), 0),
  mu("km/h", "vehicle-speed", 1, 0, "kmh", "kph", "kmph"),
  mu("mph", "vehicle-speed", KM_PER_MILE, 0, "mi/h"),
  mu("m/s", "vehicle-speed", 3.6, 0),
  mu("%", "percent", 1, 0, "pct", "percent"),
  mu("N·m", "torque", 1, 0, "nm", "n.m", "n*m", "newton metre"),
  mu("lbf·ft", "torque", NM_PER_LBF_FT, 0, "lb-ft", "lbft", "ft-lb", "ftlb", "lb.ft", "ft·lb", "lbf-ft"),
  mu("kPa", "pressure", 1, 0),
  mu("bar", "pressure", 100, 0),
  mu("psi", "pressure", KPA_PER_PSI, 0),
  mu("MPa", "pressure", 1000, 0),
  mu("°C", "temperature", 1, 0, "c", "degc", "deg c", "celsius", "ºc"),
  mu("°F", "temperature", 1 / F_PER_C, -F_AT_0_C / F_PER_C, "f", "degf", "deg f", "fahrenheit", "ºf"),
  mu("K", "temperature", 1, -273.15, "kelvin"),
];

/** The unit of measure a spelling stands for. @returns undefined when the spelling is unknown */
export function measureUnit(spelling: string): MeasureUnit | undefined {
  const s = spelling.trim().toLowerCase();
  return MEASURE_UNITS.find((u) => u.spellings.includes(s));
}
