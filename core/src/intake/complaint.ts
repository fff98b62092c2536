import type { DutyKind, EventKind, HistoryKind, Symptom } from "../job/index.ts";
import { AFTER_START, first, LOAD, OFTEN, speedIn, TEMPERATURE } from "./conditions.ts";
import { placesIn } from "./gears-told.ts";
import { besideThePoint, type Sign, signsIn } from "./signs.ts";

/** Something a sentence may mean. It is offered with the words it was found in, never taken by itself. */
export type Offer = { readonly words: string } & (
  | { readonly about: "symptom"; readonly symptom: Symptom }
  | { readonly about: "history"; readonly kind: HistoryKind; readonly what: string }
  | { readonly about: "event"; readonly kind: EventKind; readonly what: string }
  | { readonly about: "duty"; readonly kind: DutyKind }
);

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

interface Clause {
  readonly text: string;
  readonly signs: readonly Sign[];
}

/** Where a sentence turns to something else. "And" turns only between two signs. */
const TURNS = /,|:|\bbut\b|\bthough\b|\bhowever\b|\bwhile\b|\bthen\b/g;

function clausesOf(sentence: string): Clause[] {
  const parts = sentence.replace(TURNS, "\n").split("\n");
  const out: Clause[] = [];
  for (const text of parts) {
    const ands = text.split(/\band\b/);
    let open = "";
    let signed = false;
    for (const [i, next] of ands.entries()) {
      const signs = signsIn(next).length > 0;
      if (signed && signs) {
        out.push({ text: open, signs: signsIn(open) });
        open = next;
      } else open = i === 0 ? next : `${open}and${next}`;
      signed ||= signs;
    }
    out.push({ text: open, signs: signsIn(open) });
  }
  return out.filter((c) => c.text.trim() !== "");
}

/** "… and then bangs": what it is said of was named before. */
function goesOn({ text, signs }: Clause): boolean {
  const [sign] = signs;
  return (
    sign !== undefined &&
    /^\s*(?:and |then |comes |in |with |an? )*$/.test(text.slice(0, sign.at)) &&
    placesIn(text).where.length === 0
  );
}

interface Found {
  symptom: Symptom;
  readonly words: string[];
}

/** What a clause says of when and where goes to signs. */
function addConditions(to: readonly Found[], clause: string, usual: "km/h" | "mph"): void {
  const { where, words } = placesIn(clause);
  const speed = speedIn(clause, usual);
  const load = first(clause, LOAD);
  const temperature = first(clause, TEMPERATURE);
  const afterStart = first(clause, AFTER_START);
  const howOften = first(clause, OFTEN);
  for (const t of to) {
    const s = t.symptom;
    t.symptom = {
      ...s,
      where: [...new Set([...s.where, ...where])],
      ...(speed && !s.speedKmh ? { speedKmh: speed.span } : {}),
      load: s.load === "any" ? (load?.value ?? "any") : s.load,
      temperature: s.temperature === "any" ? (temperature?.value ?? "any") : s.temperature,
      ...(afterStart && !s.afterStart ? { afterStart: afterStart.value } : {}),
      ...(howOften && !s.howOften ? { howOften: howOften.value } : {}),
    };
    t.words.push(...words, ...[speed, load, temperature, afterStart, howOften].flatMap((x) => (x ? [x.words] : [])));
  }
}

/** The same sign told twice is one: where both say when, and differ, it may be either. */
function together(list: readonly Found[]): Found[] {
  const out: Found[] = [];
  for (const f of list) {
    const same = out.find((o) => o.symptom.kind === f.symptom.kind);
    if (!same) {
      out.push(f);
      continue;
    }
    const [a, b] = [same.symptom, f.symptom];
    const either = <T extends string>(x: T, y: T): T | "any" => (x === "any" ? y : y === "any" || x === y ? x : "any");
    same.symptom = {
      ...b,
      ...a,
      where: [...new Set([...a.where, ...b.where])],
      load: either(a.load, b.load) as Symptom["load"],
      temperature: either(a.temperature, b.temperature) as Symptom["temperature"],
    };
    same.words.push(...f.words);
  }
  return out;
}

/**
 * Reads a customer's sentences with plain rules: what goes wrong, in which gear or shift, how fast, under which load, cold
 * or hot, how long after the start, how often, what helps; what was done, what happened, what the vehicle does for a
 * living. Conditions belong to the sign of their clause; in a clause without one to the sign before it in the sentence,
 * else to the one that follows, else to that of the sentence before. A sign that is denied, is over, or is of something
 * else on the vehicle doesn't count, nor does what a clause names that says all is well there.
 * @param usual - unit of a speed that is given without one
 * @returns in the order of the text
 */
export function readComplaint(text: string, usual: "km/h" | "mph" = "km/h"): Offer[] {
  const found: Found[] = [];
  const rest: Offer[] = [];
  for (const sentence of text.split(/(?<=[.;!?\n])(?!\d)/)) {
    const told = sentence.toLowerCase().replace(/[’]/g, "'");
    for (const [kind, rule] of HISTORY) {
      const hit = rule.exec(told);
      if (hit) rest.push({ about: "history", kind, what: hit[0].trim(), words: hit[0].trim() });
    }
    for (const [kind, rule] of EVENTS) {
      const hit = rule.exec(told);
      if (hit) rest.push({ about: "event", kind, what: hit[0].trim(), words: hit[0].trim() });
    }
    for (const [kind, rule] of DUTY) {
      const hit = rule.exec(told);
      if (hit) rest.push({ about: "duty", kind, words: hit[0].trim() });
    }
    let last: readonly Found[] = [];
    let waiting: string[] = [];
    for (const clause of clausesOf(told)) {
      if (clause.signs.length > 0) {
        const before = last.flatMap((f) => f.symptom.where);
        last = clause.signs.map((f) => ({ symptom: plain(f.kind), words: [f.words] }));
        found.push(...last);
        // which gears are gone says nothing of the rest
        const gone = last.filter((f) => f.symptom.kind === "no-drive");
        addConditions(gone.length > 0 ? gone : last, clause.text, usual);
        if (goesOn(clause)) for (const f of last) f.symptom = { ...f.symptom, where: before };
        for (const w of waiting) addConditions(last, w, usual);
        waiting = [];
      } else if (!besideThePoint(clause.text)) {
        if (last.length > 0) addConditions(last, clause.text, usual);
        else waiting.push(clause.text);
      }
    }
    for (const w of waiting) addConditions(found.slice(-1), w, usual);
    const helps = HELPS.exec(told)?.[0].trim();
    const helped = last.length > 0 ? last : found.slice(-1);
    if (helps)
      for (const t of helped)
        if (!t.symptom.helps) {
          t.symptom = { ...t.symptom, helps: helps.slice(0, 120) };
          t.words.push(helps);
        }
  }
  return [
    ...together(found).map(
      (s): Offer => ({ about: "symptom", symptom: s.symptom, words: [...new Set(s.words)].join(" … ") }),
    ),
    ...rest.filter(
      (r, i) => rest.findIndex((o) => o.about === r.about && "kind" in o && "kind" in r && o.kind === r.kind) === i,
    ),
  ];
}
