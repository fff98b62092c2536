import type { Symptom } from "../job/index.ts";
import { KM_PER_MILE } from "../quantity/index.ts";
import { NUMBER, numberOf } from "./gears-told.ts";

/** When a sign shows: speed, load, temperature, how long after the start, how often. All text here is in small letters. */

const UNIT = "(km\\/?h|kmh|kph|kilometres? an hour|km an hour|mph|miles an hour|k\\b)?";
/** Numbers that are no speed. */
const NO_SPEED =
  "(?!\\d|[.,]\\d| ?(?:min|sec|hour|000|\\d{3}\\b|°|deg|%|years|km\\b(?! an|\\/)|miles\\b(?! an)|revs|rpm|litres?|times|gears?|st\\b|nd\\b|rd\\b|th\\b|or\\b))";
const LEAST_KMH = 15;
const FASTEST_KMH = 320;
/** "At 70" is about 70. */
const ABOUT_KMH = 10;
/** "Over 80" goes so far. */
const ABOVE_KMH = 40;

export interface SpeedTold {
  readonly span: readonly [number, number];
  readonly words: string;
}

/** @param usual - unit of a speed that is given without one */
export function speedIn(clause: string, usual: "km/h" | "mph"): SpeedTold | undefined {
  const kmh = (said: string, unit: string | undefined) =>
    Math.round(numberOf(said) * ((unit ?? usual).startsWith("m") ? KM_PER_MILE : 1));
  const find = (pattern: string) => new RegExp(pattern).exec(clause) ?? undefined;
  const two = find(
    `(?<![\\d.,])\\b(between |from |at |around |about |between about )?(${NUMBER})\\s*(?:and|to|-|–)\\s*(${NUMBER})${NO_SPEED}\\s*${UNIT}`,
  );
  if (two) {
    const [a, b] = [two[2], two[3]].map((v) => kmh(v as string, two[4])).sort((x, y) => x - y) as [number, number];
    if (a >= LEAST_KMH) return { span: [a, b], words: two[0].trim() };
  }
  const above =
    find(`\\b(?:above|over|past|beyond|faster than|upwards of) (${NUMBER})${NO_SPEED}\\s*${UNIT}`) ??
    find(`\\bfrom (${NUMBER})\\s*${UNIT} (?:up|upwards|on|onwards)\\b`);
  if (above) {
    const v = kmh(above[1] as string, above[2]);
    if (v >= LEAST_KMH) return { span: [v, Math.min(FASTEST_KMH, v + ABOVE_KMH)], words: above[0].trim() };
  }
  const below = find(`\\b(?:below|under|slower than|up to) (${NUMBER})${NO_SPEED}\\s*${UNIT}`);
  if (below && kmh(below[1] as string, below[2]) >= LEAST_KMH)
    return { span: [0, kmh(below[1] as string, below[2])], words: below[0].trim() };
  const one =
    find(`\\b(?:at|around|about|roughly|near|steady|doing) (${NUMBER})${NO_SPEED}\\s*${UNIT}`) ??
    find(`(?<![\\d.,])\\b(${NUMBER}) ?(km\\/?h|kmh|kph|kilometres? an hour|km an hour|mph|miles an hour)\\b`) ??
    find(`^\\s*(${NUMBER})\\s*()$`);
  if (one) {
    const v = kmh(one[1] as string, one[2] || undefined);
    if (v >= LEAST_KMH)
      return { span: [Math.max(0, v - ABOUT_KMH), Math.min(FASTEST_KMH, v + ABOUT_KMH)], words: one[0].trim() };
  }
  const motorway = find("\\b(?:motorway|highway) speed\\w*|\\bon the (?:motorway|highway)\\b");
  return motorway ? { span: [90, 130], words: motorway[0] } : undefined;
}

export const first = <T>(
  clause: string,
  rules: readonly (readonly [T, RegExp])[],
): { value: T; words: string } | undefined => {
  for (const [value, rule] of rules) {
    const hit = rule.exec(clause);
    if (hit) return { value, words: hit[0].trim() };
  }
  return undefined;
};

export const LOAD: readonly (readonly [Symptom["load"], RegExp])[] = [
  [
    "coast",
    /\b(?:lift(?:s|ing)? off|letting off|foot off|off the (?:pedal|throttle)|overrun|coast\w*|slow(?:s|ing)? (?:down|for|from)|roll(?:s|ing)? (?:up )?to\b|brak(?:e|ing)\b|coming to (?:a )?(?:stop|rest)|stopping)/,
  ],
  [
    "hard",
    /\b(?:up ?hill|(?:up|on) (?:the|a) (?:\w+ )?hill|climb(?:s|ing) (?:the|a|to)|full throttle|(?:foot|pedal) (?:flat|hard|to the floor)|foot down|floor(?:ing)? it|pedal to the floor|overtak\w+|(?<!gently |gentle |light )accelerat\w+(?! (?:gently|lightly|softly))|heavy (?:foot|pedal)|under load|fully loaded|put (?:my|your) foot)\b|\bgoing up to\b/,
  ],
  [
    "light",
    /\b(?:light|lite|part|feather) (?:throttle|pedal|foot|load)\b|\bgentl[ey]\b|\blightly\b|\bbarely touching\b/,
  ],
  ["steady", /\b(?:cruis\w+|steady|constant speed|same speed)\b/],
];
const LATER =
  "after (?:about )?(?:\\d+|ten|twenty|thirty|forty|half an|an|a few) (?:min\\w*|hour\\w*|km|miles)|long(?:er)? (?:drive|trip|run)s?|running for (?:an hour|a while)";
export const TEMPERATURE: readonly (readonly [Symptom["temperature"], RegExp])[] = [
  [
    "cold",
    /\b(?:cold(?! air)|first thing|(?:in the|every|some|each) mornings?|overnight|frost\w*|(?:until|till) (?:it is |it's )?warm|first (?:few |two |three |five |\d+ )?(?:or four )?(?:minutes?|shifts?|drive))\b/,
  ],
  ["hot", new RegExp(`\\b(?:hot|warm(?:s|ed)?(?: up)?|(?:at|to) temperature|up to temperature|${LATER})\\b`)],
];
export const AFTER_START: readonly (readonly [NonNullable<Symptom["afterStart"]>, RegExp])[] = [
  [
    "first-minutes",
    /\b(?:first (?:few |two |five |\d+ )?minutes?|just after (?:start\w*|setting off)|when (?:i|we|you) (?:set off|start))\b/,
  ],
  ["later", new RegExp(`\\b(?:${LATER})\\b`)],
];
export const OFTEN: readonly (readonly [NonNullable<Symptom["howOften"]>, RegExp])[] = [
  [
    "sometimes",
    /\b(?:sometimes|now and then|every so often|occasional\w*|once in a while|on and off|intermittent\w*|some (?:mornings|days))\b/,
  ],
  ["always", /\b(?:always|every (?:time|cold start|morning)|each time|all the time)\b/],
  ["often", /\b(?:often|mostly|most of the time|usually)\b/],
  ["once", /\b(?:only once|just once|one time|it once|once it (?:would|did|was)\b)/],
];
