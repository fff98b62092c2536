import type { DutyKind, EventKind, HistoryKind, Symptom } from "../job/index.ts";

/** Something a sentence may mean. It is offered with the words it was found in, never taken by itself. */
export type Offer = { readonly words: string } & (
  | { readonly about: "symptom"; readonly symptom: Symptom }
  | { readonly about: "history"; readonly kind: HistoryKind; readonly what: string }
  | { readonly about: "event"; readonly kind: EventKind; readonly what: string }
  | { readonly about: "duty"; readonly kind: DutyKind }
);

const SYMPTOMS: readonly (readonly [Symptom["kind"], RegExp])[] = [
  [
    "no-drive",
    /\bno (?:drive|forward|reverse)\b|\b(?:won'?t|will not|does ?n[o']t|doesn't) (?:move|pull away|drive)\b/,
  ],
  [
    "limp",
    /\blimp\w*|\bstuck in (?:gear )?\w+|\bstays in (?:gear )?\w+|\bonly (?:has )?(?:one|second|third|fourth) gear\b/,
  ],
  ["shudder", /\b(?:shudder|judder|vibrat|shak|rumbl)\w*/],
  [
    "slip",
    /\bslip\w*|\brev(?:s|ving)? (?:up|rise|climb|shoot|go)\w*|\brevs (?:\w+ )?(?:rise|climb|shoot|jump)\w*|\bflar\w+|\bengine (?:races|screams|howls)/,
  ],
  [
    "harsh",
    /\b(?:harsh|jerk|bang|thump|clunk|lurch|jolt)\w*|\b(?:shift|change)s? (?:very |too )?(?:hard|rough)\w*|\b(?:hard|rough) (?:shift|change)s?|\bkicks?\b/,
  ],
  [
    "late",
    /\b(?:late|delay\w*|hesitat\w*)\b|\btakes (?:a while|ages|long|\w+ seconds?)\b|\bslow to (?:engage|shift|change|take up)\b/,
  ],
  ["noise", /\b(?:whin|humm?|growl|rattl|squeal|grind|howl)\w*|\bnois\w+/],
  ["leak", /\b(?:leak|drip|puddle)\w*|\b(?:oil|fluid|wet) (?:on the (?:floor|ground|drive)|under\w*)/],
  [
    "warning-light",
    /\b(?:warning|engine|gearbox|dash\w*) (?:light|lamp|message)s?\b|\b(?:light|lamp|message) (?:is |came |comes )?on\b/,
  ],
];
const NEGATED = /\b(?:no|not|never|without|does ?n[o']t|doesn't|isn't|hasn't)\s+(?:\w+\s+){0,2}$/;

const ORDINALS = ["first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth"];
const GEAR_WORD = `(?:${ORDINALS.join("|")}|\\d{1,2}(?:st|nd|rd|th)|reverse|[1-9]|10)`;
const gearOf = (word: string): string => {
  if (word === "reverse") return "R";
  const at = ORDINALS.indexOf(word);
  return at >= 0 ? String(at + 1) : String(Number.parseInt(word, 10));
};

/** Shifts and gears of a clause; a gear that is part of a shift is not named again. */
function placesIn(clause: string): { where: string[]; words: string[] } {
  const where: string[] = [];
  const words: string[] = [];
  const shift = new RegExp(
    `\\b(?:from |between |the )?(${GEAR_WORD})\\s*(?:to|into|and|-|–|→)\\s*(${GEAR_WORD})(?: gear| shift| change)?\\b`,
    "g",
  );
  let rest = clause.replace(shift, (all, a: string, b: string, at: number) => {
    // "between 50 and 70" is a speed, and "third and fourth" two gears
    const between = /^between /.test(all) || /\s(?:to|into)\s|[-–→]/.test(all);
    const [from, to] = [gearOf(a), gearOf(b)];
    const speed = /^\s*(?:km|mph|k\b)/.test(clause.slice(at + all.length));
    if (speed || Math.abs(Number(from) - Number(to)) > 3) return all;
    words.push(all.trim());
    if (between && from !== to) where.push(`${from}-${to}`);
    else where.push(from, to);
    return " ".repeat(all.length);
  });
  const gear = new RegExp(
    `\\b(?:gear (${GEAR_WORD})|(${GEAR_WORD}) gear|in (?:the )?(${ORDINALS.join("|")}|\\d{1,2}(?:st|nd|rd|th)|reverse)|(reverse))\\b`,
    "g",
  );
  rest = rest.replace(gear, (all, ...groups) => {
    const word = groups.slice(0, 4).find((g) => typeof g === "string") as string;
    where.push(gearOf(word));
    words.push(all.trim());
    return " ".repeat(all.length);
  });
  return { where: [...new Set(where)], words };
}

const MPH = 1.609344;

function speedIn(clause: string, usual: "km/h" | "mph"): { span: [number, number]; words: string } | undefined {
  const unit = "(km\\/?h|kmh|kph|k|mph|miles an hour|kilometres an hour)?";
  const kmh = (v: string, u: string | undefined) => Math.round(Number(v) * ((u ?? usual).startsWith("m") ? MPH : 1));
  const two = new RegExp(`\\b(?:between|from) (\\d{2,3})\\s*(?:and|to|-|–)\\s*(\\d{2,3})\\s*${unit}`).exec(clause);
  if (two) return { span: [kmh(two[1] as string, two[3]), kmh(two[2] as string, two[3])], words: two[0] };
  const above = new RegExp(`\\b(?:above|over|faster than) (\\d{2,3})\\s*${unit}`).exec(clause);
  if (above) {
    const v = kmh(above[1] as string, above[2]);
    return { span: [v, Math.min(320, v + 40)], words: above[0] };
  }
  const below = new RegExp(`\\b(?:below|under|slower than) (\\d{2,3})\\s*${unit}`).exec(clause);
  if (below) return { span: [0, kmh(below[1] as string, below[2])], words: below[0] };
  const one = new RegExp(
    `\\b(?:at|around|about|roughly) (\\d{2,3})(?! ?\\d)\\s*${unit}(?! ?(?:min|sec|000|°|deg|%|years|km\\b))`,
  ).exec(clause);
  if (one) {
    const v = kmh(one[1] as string, one[2]);
    return { span: [Math.max(0, v - 10), Math.min(320, v + 10)], words: one[0] };
  }
  const motorway = /\b(?:motorway|highway) speed\w*|\bon the (?:motorway|highway)/.exec(clause);
  return motorway ? { span: [90, 130], words: motorway[0] } : undefined;
}

const first = <T>(
  clause: string,
  rules: readonly (readonly [T, RegExp])[],
): { value: T; words: string } | undefined => {
  for (const [value, rule] of rules) {
    const hit = rule.exec(clause);
    if (hit) return { value, words: hit[0].trim() };
  }
  return undefined;
};

const LOAD: readonly (readonly [Symptom["load"], RegExp])[] = [
  [
    "coast",
    /\b(?:lift\w* off|letting off|coast\w*|slow\w* down|roll\w* to (?:a )?(?:stop|rest)|brak\w+|coming to a stop)\b/,
  ],
  [
    "hard",
    /\b(?:up ?hill|up (?:the|a) \w*\s?hill|climb\w* (?:the|a)|full throttle|foot (?:flat |to the )?(?:down|floor)|overtak\w+|hard acceleration|accelerat\w+ hard|under load|fully loaded)\b/,
  ],
  ["light", /\b(?:light (?:throttle|pedal|foot|load)|gentl\w+|barely touching)\b/],
  ["steady", /\b(?:cruis\w+|steady|constant speed|same speed)\b/],
];
const TEMPERATURE: readonly (readonly [Symptom["temperature"], RegExp])[] = [
  ["cold", /\b(?:cold|first thing|in the morning|overnight|frost\w*)\b/],
  [
    "hot",
    /\b(?:hot|warm(?:ed)?(?: up)?|up to temperature|after (?:\d+|ten|twenty|thirty|half an|an) (?:min\w*|hour\w*|km|miles)|long(?:er)? (?:drive|trip|run)s?)\b/,
  ],
];
const AFTER_START: readonly (readonly [NonNullable<Symptom["afterStart"]>, RegExp])[] = [
  [
    "first-minutes",
    /\b(?:first (?:few |two |five |\d+ )?minutes|just after (?:start\w*|setting off)|when (?:I|we|you) (?:set off|start))\b/i,
  ],
  [
    "later",
    /\bafter (?:\d+|ten|twenty|thirty|half an|an) (?:min\w*|hour\w*|km|miles)|\blong(?:er)? (?:drive|trip|run)s?\b/,
  ],
];
const OFTEN: readonly (readonly [NonNullable<Symptom["howOften"]>, RegExp])[] = [
  ["always", /\b(?:always|every time|each time|all the time)\b/],
  ["often", /\b(?:often|mostly|most of the time|usually)\b/],
  ["sometimes", /\b(?:sometimes|now and then|occasional\w*|once in a while|on and off|intermittent\w*)\b/],
  ["once", /\b(?:only once|just once|one time)\b/],
];
const HELPS =
  /\b(?:goes away|is (?:fine|better|gone)|gets better|stops|it helps|helped)\b(?:\s+(?:when|if|after|once|by)\b[^.;,]*)?/;

const HISTORY: readonly (readonly [HistoryKind, RegExp])[] = [
  [
    "fluid",
    /\b(?:fluid|oil|atf) (?:was |has been |got )?(?:changed|renewed|topped up|replaced)|\bnew (?:gearbox |transmission )?(?:fluid|oil|atf)\b|\b(?:fluid|oil) change\b/,
  ],
  ["service", /\bserviced\b|\blast service\b|\bhad (?:a|its) service\b/],
  [
    "codes-cleared",
    /\bcodes? (?:was |were |has been |have been |got )?(?:cleared|erased|wiped|deleted)|\bcleared (?:the |all )?codes?\b/,
  ],
  [
    "battery",
    /\bbattery (?:was |has been |got |went |is )?(?:off|disconnected|changed|replaced|flat|dead|new)|\bnew battery\b|\bjump[- ]?start\w*/,
  ],
  ["fuse", /\bfuses? (?:was |were |got )?(?:pulled|changed|replaced|blown|blew)|\bpulled (?:a |the )?fuse/],
  [
    "part",
    /\b(?:replaced|changed|swapped|fitted|new) (?:the |a |an )?(?:solenoid|sensor|valve body|mechatronic\w*|mount|converter|control unit|filter|gearbox|transmission)s?\b|\b(?:solenoid|sensor|valve body|mount|converter|control unit)s? (?:was |were |got )?(?:replaced|changed|swapped)\b/,
  ],
];
const EVENTS: readonly (readonly [EventKind, RegExp])[] = [
  ["tow", /\b(?:was|been|got) towed|\btowed (?:home|in|here|to)\b/],
  ["impact", /\bhit (?:a|the) \w+|\b(?:crash|accident|kerb|curb|pothole)\w*|\bran over\b|\brail strike\b/],
  ["flood", /\bflood\w*|\bdrove through (?:deep )?water|\b(?:ford|high tide|sea water)\b/],
  [
    "engine-work",
    /\bengine (?:was |has been |got )?(?:rebuilt|replaced|out|repaired|swapped)|\bnew engine\b|\bengine work\b/,
  ],
  ["more-power", /\b(?:remap\w*|tuned|chipped|tuning box|more power|bigger turbo)\b/],
];
const DUTY: readonly (readonly [DutyKind, RegExp])[] = [
  [
    "tow",
    /\btow(?:s|ing)? (?:a|the|our|my|his|her)?\s*(?:trailer|boat|caravan|horse\w*|plough)\b|\bwith (?:a|the) (?:trailer|caravan|boat)\b|\bpulls? (?:a|the) (?:trailer|boat|caravan)\b/,
  ],
  ["taxi", /\b(?:taxi|deliver\w*|school run|post round|stop[- ]and[- ]go|town traffic)\b/],
  ["hills", /\b(?:hilly|mountain\w*|steep roads?|hills)\b/],
];

const plain = (kind: Symptom["kind"]): Symptom => ({ kind, where: [], load: "any", temperature: "any", since: "" });

/**
 * Reads a customer's sentences with plain rules: what goes wrong, in which gear or shift, how fast, under which load, cold
 * or hot, how long after the start, how often, what helps; what was done, what happened, what the vehicle does for a
 * living. Conditions in a clause without a sign belong to the sign before it. A sign that is denied doesn't count.
 * @param usual - unit of a speed that is given without one
 * @returns in the order of the text
 */
export function readComplaint(text: string, usual: "km/h" | "mph" = "km/h"): Offer[] {
  const symptoms: { symptom: Symptom; words: string[] }[] = [];
  const rest: Offer[] = [];
  for (const sentence of text.split(/(?<=[.;!?\n])/)) {
    const clause = sentence.toLowerCase().replace(/[’]/g, "'");
    for (const [kind, rule] of HISTORY) {
      const hit = rule.exec(clause);
      if (hit) rest.push({ about: "history", kind, what: hit[0].trim(), words: hit[0].trim() });
    }
    for (const [kind, rule] of EVENTS) {
      const hit = rule.exec(clause);
      if (hit) rest.push({ about: "event", kind, what: hit[0].trim(), words: hit[0].trim() });
    }
    for (const [kind, rule] of DUTY) {
      const hit = rule.exec(clause);
      if (hit) rest.push({ about: "duty", kind, words: hit[0].trim() });
    }
    const found = SYMPTOMS.flatMap(([kind, rule]) => {
      const hit = rule.exec(clause);
      return hit && !NEGATED.test(clause.slice(0, hit.index)) ? [{ kind, at: hit.index, words: hit[0].trim() }] : [];
    }).sort((a, b) => a.at - b.at);
    const fresh = found.map((f) => ({ symptom: plain(f.kind), words: [f.words] }));
    symptoms.push(...fresh);
    const targets = fresh.length > 0 ? fresh : symptoms.slice(-1);
    if (targets.length === 0) continue;
    const { where, words } = placesIn(clause);
    const speed = speedIn(clause, usual);
    const load = first(clause, LOAD);
    const temperature = first(clause, TEMPERATURE);
    const afterStart = first(clause, AFTER_START);
    const howOften = first(clause, OFTEN);
    const helps = HELPS.exec(clause)?.[0].trim();
    for (const t of targets) {
      const s = t.symptom;
      t.symptom = {
        ...s,
        where: [...new Set([...s.where, ...where])],
        ...(speed && !s.speedKmh ? { speedKmh: speed.span } : {}),
        load: s.load === "any" ? (load?.value ?? "any") : s.load,
        temperature: s.temperature === "any" ? (temperature?.value ?? "any") : s.temperature,
        ...(afterStart && !s.afterStart ? { afterStart: afterStart.value } : {}),
        ...(howOften && !s.howOften ? { howOften: howOften.value } : {}),
        ...(helps && !s.helps ? { helps: helps.slice(0, 120) } : {}),
      };
      t.words.push(
        ...words,
        ...[speed, load, temperature, afterStart, howOften].flatMap((x) => (x ? [x.words] : [])),
        ...(helps ? [helps] : []),
      );
    }
  }
  return [
    ...symptoms.map((s): Offer => ({ about: "symptom", symptom: s.symptom, words: [...new Set(s.words)].join(" … ") })),
    ...rest.filter(
      (r, i) => rest.findIndex((o) => o.about === r.about && "kind" in o && "kind" in r && o.kind === r.kind) === i,
    ),
  ];
}
