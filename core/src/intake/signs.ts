import type { Symptom } from "../job/index.ts";

/** What goes wrong, in the words it is told in. All text here is in small letters. */

const ONE_GEAR =
  "(?:first|second|third|fourth|fifth|sixth|seventh|eighth|ninth|tenth|(?:10|[1-9])(?:st|nd|rd|th)?|reverse|rev|top)";
const GEARS = `${ONE_GEAR}(?: gear)?(?:\\s*(?:,|and|&|\\+|or|nor)\\s*${ONE_GEAR}(?: gear)?){0,8}`;
const WONT =
  "(?:won'?t|will not|would ?n'?t|would not|does ?n'?t|does not|do not|don'?t|can'?t|cannot|refuses to|never)";

const SIGNS: readonly (readonly [Symptom["kind"], RegExp])[] = [
  [
    "no-drive",
    new RegExp(
      [
        "\\bno (?:drive|forward(?: gears?)?|movement)\\b",
        "\\bno go\\b",
        `\\b${WONT} (?:even )?(?:move|pull (?:away|off)|drive|pull in)\\b`,
        "\\b(?:lost|loses|losing|no more) (?:all )?drive\\b",
        "\\bnothing (?:happens|in (?:d|r|drive|reverse)\\b)",
        "\\bstopped pulling\\b|\\b(?:isn'?t|not|no longer) (?:moving|moves|drives|driving)\\b",
        `\\b${WONT} go (?:forwards?|backwards?|anywhere)\\b`,
        "\\b(?:pops|jumps|drops|falls|slides) out of (?:gear|drive)\\b|\\b(?:goes|drops|falls) into neutral\\b",
        `\\b(?:no|lost|loses|missing|without|neither|refuses|has no|got no) (?:the |a )?${GEARS}\\b(?! (?:problem|noise|slip|leak|trouble))`,
        `\\b${WONT} (?:go into|get into|gets into|select|take|engage|find)\\b`,
        `\\b${GEARS} (?:is|are|has|have|'?s)?\\s*(?:just |completely |simply )?(?:gone|dead|missing|lost|vanished|disappeared)\\b`,
        `\\b${GEARS} (?:${WONT}) (?:exist|work|pull|go in|engage)\\b`,
        `\\ball [a-z]+ gears (?:and ${ONE_GEAR} )?are gone\\b`,
        "\\bgears? [a-z0-9]+ (?:to|and|-) [a-z0-9]+ (?:are|is) gone\\b",
      ].join("|"),
    ),
  ],
  [
    "limp",
    new RegExp(
      [
        "\\blimp\\w*",
        "\\b(?:emergency|safe|fail-?safe) (?:mode|running|program\\w*)\\b|\\bfail-?safe\\b",
        `\\b(?:stuck|stays|sticks|locked(?: itself)?|locks|hangs|sits) in (?:gear )?(?:${ONE_GEAR}|one|two|three|four|five|six)\\b(?! (?:forever|far|until|for|to|too|before|till|longer))`,
        "\\bonly (?:has |gets |got |one )?(?:one |second |third |fourth )?gear\\b",
        "\\bone gear only\\b|\\b(?:holds|keeps|on) one gear\\b",
        `\\b(?:w(?:on'?t|ill not)|refuses to|does ?n'?t|does not) (?:change|shift|upshift)(?: out of| up| down| past| at all)?\\b(?![^,]{0,60}\\b(?:until|before|well|nicely|smoothly|properly)\\b)`,
        `\\b${WONT} go (?:above|past|beyond|higher than)\\b|\\bno upshifts?\\b`,
      ].join("|"),
    ),
  ],
  [
    "shudder",
    /\b(?:shudder|judder|vibrat|shak(?:e|es|ing|y)|trembl|tremor|shiver|quiver|wobbl|rumbl|pulsat)\w*|\bvibr\b|\brumble strip|\b(?:cobbles|washboard)\b/,
  ],
  [
    "slip",
    new RegExp(
      [
        "\\bslip(?:s|ped|ping|pin'?|page|py)?\\b",
        "\\bflar(?:e|es|ed|ing)\\b",
        "\\brev(?:s|ving)? (?:\\w+ ){0,2}(?:up|rise|rises|climbs?|shoots?|jumps?|wanders?|flares?|runs? away)\\b",
        "\\brev counter goes up\\b|\\bneedle (?:climbs|rises|jumps)\\b",
        "\\bengine (?:just )?(?:races|screams|howls|runs away)\\b|\\bit (?:just )?(?:races|screams|runs away)\\b",
        "\\bfree-?wheels?\\b|\\bspins up\\b|\\b(?:rpm|revs|tacho\\w*) (?:\\w+ )?(?:goes|go|shoots?|jumps?|climbs?|surges?|soars?)\\b",
        `\\brevs? (?:\\w+ )?(?:but|without) (?:it )?(?:${WONT} )?(?:going|go|accelerat\\w+|getting|speed\\w*) (?:any )?(?:faster|quicker)?`,
      ].join("|"),
    ),
  ],
  [
    "harsh",
    new RegExp(
      [
        "\\b(?:harsh|jerk|bang|thump|thud|clunk|lurch|jolt|slam|whack|snatch|shunt|roughly|abruptly)\\w*|\\bviolent\\w*",
        "\\b(?:bumps?|nudges?|kicks?)\\b(?! ?down)",
        "\\b(?:shift|change|downshift|upshift)s?\\b[^,]{0,40}\\b(?:hard|rough|jerky)\\b",
        "\\b(?:hard|rough|jerky) (?:\\S+ )?(?:shift|change|downshift|upshift)s?\\b",
        "(?<!\\bruns? )\\brough\\b(?! (?:idle|road|track))",
      ].join("|"),
    ),
  ],
  [
    "late",
    new RegExp(
      [
        "\\b(?:late|delay\\w*|hesitat\\w*)\\b",
        "\\btakes? (?:about |nearly |up to )?(?:a while|ages|an age|forever|long|\\w+ (?:(?:or|to) \\w+ )?seconds?)\\b",
        "\\breluctant to\\b|\\bslow to (?:engage|shift|change|take up|respond|kick|come|pull)\\b|\\b(?:slow|sluggish) (?:engagement|shifts?|changes?)\\b|\\blags?\\b",
        "\\b(?:waits?|gap|pause) (?:and waits?|of|for)?\\s*(?:\\w+ (?:or \\w+ )?seconds?|before)?",
        "\\bhangs? on to\\b|\\bhangs in \\w+ (?:to|until|before)\\b|\\bholds? (?:on to )?(?:the |its )?gears?\\b[^,]{0,60} (?:too )?long",
        "\\bstays in \\w+ (?:forever|far too long|too long|until|before)\\b",
      ].join("|"),
    ),
  ],
  [
    "noise",
    /\b(?:whin(?:e|es|ing)|hum(?:s|ming)?|growl|rattl|squeal|grind|howl|dron(?:e|es|ing)|moan|whirr|whistl|buzz|squeak|hiss|roar|rumbl(?!e strip))\w*|\bnois[ey]\w*|\bgear screams\b/,
  ],
  [
    "leak",
    new RegExp(
      [
        "\\b(?:leak|puddle|seep)\\w*|\\bdrip(?:s|ped|ping)?\\b|\\bweep(?:s|ing)?\\b",
        "\\b(?:oil|fluid|atf) (?:on|under\\w*|where|everywhere)\\b|\\bpatch of (?:oil|fluid)\\b",
        "\\bwet (?:under\\w*|along|around|all|at)\\b|\\b(?:is|are) wet\\b",
        "\\b(?:loses|losing|lost|drinks) (?:\\w+ ){0,3}(?:litre|fluid|oil|atf)\\b|\\bgoes somewhere\\b",
      ].join("|"),
    ),
  ],
  [
    "warning-light",
    /\b(?:warning|engine|gearbox|transmission|gear|fault|spanner|dash\w*) (?:light|lamp|message|symbol)s?\b|\b(?:light|lamp|message)(?:'s| is| came| comes)? on\b|\bcheck engine\b|\bwarning (?:on|in) the dash|\b(?:gearbox|transmission) fault\b/,
  ],
];

const DENIED =
  /\b(?:no|not|never|without|nor|nothing|does ?n[o']?t|doesn'?t|isn'?t|hasn'?t|haven'?t|wasn'?t|didn'?t|aren'?t|don'?t|rather than|free of|stopped)\s+(?:[\w']+\s+){0,3}$/;
/** What was and is no more, and what somebody only looked for. */
const PAST =
  /\bused to\b|\b(?:was|were|been|got) (?:cured|fixed|repaired|sorted)\b|\bwe (?:cured|fixed)\b|\bcured\b|\bprevious owner\b|\b(?:last|old|other) (?:car|van|one|vehicle)\b|\b(?:looked at|checked|look) for (?:a|any)\b|\bnot? (?:\w+ )*since\b/;
/** Of something else on the vehicle. */
const ELSEWHERE =
  /\b(?:wipers?|washer|coolant|tyres?|tires?|radio|heater|fans?|sunroof|carpet|windows?|windscreen|boot|steering|doors?|bonnet|(?<!in the )seat|silencer|exhaust|alternator|water|jack|sill|knob|discs?|pads?|brakes|belt|misfir\w+|coil|oxygen|air ?con\w*|teeth|suspension|clutch pedal|prop shaft|mirror|horn|trailer'?s|bumps in the road|over bumps)\b/;
const PHRASES = /\bslip ?roads?\b|\bslipway\b/g;

export interface Sign {
  readonly kind: Symptom["kind"];
  readonly at: number;
  readonly words: string;
}

/** Signs in a clause: one that is denied, is over, or is of something else on the vehicle doesn't count. */
export function signsIn(clause: string): Sign[] {
  const text = clause.replace(PHRASES, (s) => " ".repeat(s.length));
  if (ELSEWHERE.test(text) || PAST.test(text)) return [];
  return SIGNS.flatMap(([kind, rule]): Sign[] => {
    for (const hit of text.matchAll(new RegExp(rule, "g")))
      if (hit[0].trim() !== "" && !DENIED.test(text.slice(0, hit.index)))
        return [{ kind, at: hit.index, words: hit[0].trim() }];
    return [];
  }).sort((a, b) => a.at - b.at);
}

const FINE =
  /\b(?:fine|ok|okay|good|lovely|smooth|all right|alright|normal\w*|works|pulls?|quiet|dry|better|great|no (?:problem|trouble)s?|not|except|without|gone)\b/;

/** Says that all is well there, or speaks of something else: what such a clause names has nothing to do with a sign. */
export const besideThePoint = (clause: string): boolean =>
  FINE.test(clause) || ELSEWHERE.test(clause) || PAST.test(clause);
