/**
 * Headers in one vocabulary: scan tools shorten, join and reorder the same few words. `Eng_Spd`, `EngineSpeed` and
 * `speed, engine` all read "engine speed".
 */
const PHRASES: readonly (readonly [RegExp, string])[] = [
  [/\btorque converter clutch\b|\bconverter clutch\b|\block up( clutch)?\b|\blockup( clutch)?\b|\btcc\b/g, "tcc"],
  [/\btorque converter\b|\bconv\b/g, "converter"],
  [/\b(accelerator|accel|acc|gas) (pedal|ped)\b/g, "pedal"],
  [/\baccelerator\b|\bapp\b/g, "pedal"],
  [/\bduty cycle\b/g, "duty"],
  [/\bgear ?box\b/g, "transmission"],
  [/\bcrank ?shaft\b|\bcrank\b/g, "engine"],
  [/\bprnd[l0-9]*\b/g, "range"],
  [/\btft\b/g, "transmission fluid temperature"],
  [/\biss\b/g, "input shaft speed"],
  [/\boss\b/g, "output shaft speed"],
  [/\bvss\b/g, "vehicle speed"],
  [/\btps\b/g, "throttle position"],
  [/\bect\b/g, "coolant temperature"],
  [/\brevolutions\b|\brevs\b/g, "rpm"],
];

const WORDS: Readonly<Record<string, string>> = {
  spd: "speed",
  rpm: "speed",
  velocity: "speed",
  press: "pressure",
  prs: "pressure",
  pres: "pressure",
  temp: "temperature",
  tmp: "temperature",
  pos: "position",
  posn: "position",
  eng: "engine",
  motor: "engine",
  trans: "transmission",
  xmsn: "transmission",
  gbx: "transmission",
  cmd: "commanded",
  command: "commanded",
  desired: "commanded",
  des: "commanded",
  target: "commanded",
  tgt: "commanded",
  requested: "commanded",
  req: "commanded",
  setpoint: "commanded",
  act: "actual",
  current: "actual",
  curr: "actual",
  present: "actual",
  engaged: "actual",
  reported: "actual",
  measured: "actual",
  sw: "switch",
  brk: "brake",
  trq: "torque",
  tq: "torque",
  turb: "turbine",
  outp: "output",
  out: "output",
  tailshaft: "output",
  propshaft: "output",
  inp: "input",
  veh: "vehicle",
  car: "vehicle",
  road: "vehicle",
  clu: "clutch",
  pwm: "duty",
  ped: "pedal",
  throt: "throttle",
  thr: "throttle",
  sel: "selector",
  atf: "fluid",
  oil: "fluid",
  int: "intermediate",
  middle: "intermediate",
  mid: "intermediate",
  preselected: "preselected",
  presel: "preselected",
  pre: "preselected",
  ready: "preselected",
  principal: "line",
  main: "line",
  volt: "voltage",
  volts: "voltage",
  vbat: "voltage battery",
  batt: "battery",
  long: "longitudinal",
  lat: "lateral",
};

/** Words that tell nothing apart. */
const FILLERS: ReadonlySet<string> = new Set(["the", "of", "sensor", "value", "reading", "signal", "n", "no"]);

/** A header in plain words, lower case. */
export const plainWords = (header: string): string =>
  header
    .replace(/([a-z0-9])([A-Z])/g, "$1 $2")
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, " ")
    .replace(/\b(shaft|clutch|input)(\d)\b/g, "$1 $2")
    .trim();

/** The words of a header, abbreviations written out, in their order. */
export function headerWords(header: string): string[] {
  let text = plainWords(header);
  for (const [pattern, word] of PHRASES) text = text.replace(pattern, word);
  const words = text
    .split(" ")
    .flatMap((w) => (WORDS[w] ?? w).split(" "))
    .filter((w) => w !== "" && !FILLERS.has(w));
  return [...new Set(words)];
}
