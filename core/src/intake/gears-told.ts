/** Gears, shifts and numbers as people say them. All text here is in small letters. */

const ORDINALS = ["first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth"];
const ONES = ["one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten"];
const TENS = ["twenty", "thirty", "forty", "fifty", "sixty", "seventy", "eighty", "ninety"];

/** A number of two or three digits, or its words: "eighty", "forty five", "a hundred and twenty". */
export const NUMBER = `(?:\\d{1,3}|(?:a |one )?hundred(?: and)?(?: (?:ten|${TENS.join("|")}))?|(?:${TENS.join("|")})(?:[ -](?:${ONES.slice(0, 9).join("|")}))?)`;

/** @param said - what {@link NUMBER} matched */
export function numberOf(said: string): number {
  if (/^\d/.test(said)) return Number(said);
  let sum = 0;
  for (const word of said.split(/[ -]/)) {
    if (word === "hundred") sum += 100;
    else if (word === "ten") sum += 10;
    else if (TENS.includes(word)) sum += 10 * (TENS.indexOf(word) + 2);
    else if (ONES.includes(word) && sum > 0) sum += ONES.indexOf(word) + 1;
  }
  return sum;
}

/** "third", "3rd", "reverse": a gear by itself. */
const NAMED = `(?:${ORDINALS.join("|")}|(?:10|[1-9])(?:st|nd|rd|th)|reverse)`;
/** Beside another gear, or after "in", a mere number is one as well. */
const GEAR = `(?:${NAMED}|${ONES.join("|")}|10|[1-9]|r|d|p|n)`;

function gearOf(said: string): string | undefined {
  if (said === "reverse" || said === "r") return "R";
  if (/^[dpn]$/.test(said)) return undefined;
  const at = Math.max(ORDINALS.indexOf(said), ONES.indexOf(said));
  return at >= 0 ? String(at + 1) : String(Number.parseInt(said, 10));
}

/** Not gears: times, counts, and the word "first" of time. */
const NO_GEAR = new RegExp(
  [
    "\\bfirst (?:thing|time|few|minutes?|drive|start|of all|or \\w+|one|two|three|four|five|\\d+)\\b",
    "\\bat first\\b",
    "\\b(?:a|one|split|every|each|per) second\\b(?! gear)",
    "\\bsecond (?:hand|time)\\b",
    `\\b(?:${ONES.join("|")}|\\d+)(?:(?: or | to |-)(?:${ONES.join("|")}|\\d+))? (?:seconds?|minutes?|hours?|days?|weeks?|months?|years?|times|litres?|km|miles|revs|rpm)\\b`,
  ].join("|"),
  "g",
);

export interface Places {
  readonly where: readonly string[];
  readonly words: readonly string[];
}

const JOINT = "\\s*(?:->|-|–|→|>|\\/|\\bto\\b|\\binto\\b|\\bstraight to\\b)\\s*";
const LIST = "\\s*(?:,|&|\\+|\\band\\b|\\bor\\b|\\bnor\\b)\\s*(?:in )?(?:and )?";

/**
 * Gears and shifts that a clause names: "from third to fourth" is a shift, "third and fourth" are two gears, "gears 3 to 5"
 * three. A gear that is part of a shift is not named again.
 */
export function placesIn(clause: string): Places {
  const where: string[] = [];
  const words: string[] = [];
  const blank = (s: string) => " ".repeat(s.length);
  const take = (all: string, gears: readonly (string | undefined)[]) => {
    const known = gears.flatMap((g) => g ?? []);
    if (known.length === 0) return all;
    where.push(...known);
    words.push(all.trim());
    return blank(all);
  };
  let rest = clause.replace(NO_GEAR, blank);
  const each = (pattern: string, of: (all: string, groups: string[]) => string) => {
    rest = rest.replace(new RegExp(pattern, "g"), (all: string, ...groups: unknown[]) =>
      of(
        all,
        groups.slice(0, -2).filter((g): g is string => typeof g === "string"),
      ),
    );
  };
  const shift = (all: string, groups: string[]) => {
    const [from, to] = groups.map(gearOf);
    if (!from || !to) return take(all, [to === "R" || from === "R" ? "R" : undefined]);
    const speed = Number(from) > 10 || Number(to) > 10 || Math.abs(Number(from) - Number(to)) > 4;
    return speed || from === to ? all : take(all, [`${from}-${to}`]);
  };
  each(
    `\\b(?:in |into |on to )(${GEAR})\\b[^,]{0,60}?\\b(?:before|until|(?:to )?drops? to|(?:before )?(?:it )?changes to)\\s+(${GEAR})\\b`,
    (all, groups) => shift(all, groups),
  );
  each(`\\bgears (${GEAR})(?:${JOINT}|\\s+through\\s+)(${GEAR})\\b`, (all, [a, b]) => {
    const [low, high] = [gearOf(a as string), gearOf(b as string)].map(Number) as [number, number];
    return take(
      all,
      Array.from({ length: Math.max(0, high - low + 1) }, (_, i) => String(low + i)),
    );
  });
  each(`\\binto (${GEAR}) from (${GEAR})\\b`, (all, [to, from]) =>
    take(all, [`${gearOf(from as string)}-${gearOf(to as string)}`]),
  );
  each(
    `(?<![\\d.])\\b(?:from |the )?(${GEAR})${JOINT}(?:the )?(${GEAR})\\b(?!\\d|\\s*(?:km|mph|k\\b|%|seconds))`,
    shift,
  );
  each(`\\b(?:between|from) (${GEAR}) and (${GEAR})\\b(?!\\d)`, shift);
  // a list counts when one of it is surely a gear, or it is said that it is about gears
  each(
    `\\b((?:in |gears? |no |lost )?)(${GEAR}(?:${LIST}${GEAR}){1,8})\\b(?!\\d|\\s*(?:km|mph|k\\b|%))`,
    (all, groups) => {
      const [lead = "", list = ""] = groups.length > 1 ? groups : ["", groups[0]];
      const gears = list.split(new RegExp(LIST)).map((g) => g.trim());
      const sure = lead !== "" || gears.some((g) => new RegExp(`^${NAMED}$`).test(g)) || /^[rd]\b.*\b[rd]$/.test(list);
      return sure ? take(all, gears.map(gearOf)) : all;
    },
  );
  each(
    `\\b(?:(?:in|into|gear) (?:the )?(${GEAR})(?! ?(?:km|mph|min|sec|h\\b|%))|(${NAMED})(?: gear)?|(?:select|selecting|engage|engages|no) (r))\\b(?!\\d)`,
    (all, [said]) => take(all, [gearOf(said as string)]),
  );
  return { where: [...new Set(where)], words };
}
