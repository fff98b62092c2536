import { type EntryBodies, type FeltMark, type FeltOutcome, outcomesAt, type Sureness } from "../job/index.ts";
import type { GearObservation, Unit } from "../unit/index.ts";

type Felt = EntryBodies["felt"];

/** What was felt, as it is said of its place. */
export const FELT_WORDS: Readonly<Record<FeltOutcome, string>> = {
  pulls: "pulls",
  slips: "slips",
  nothing: "no drive",
  clean: "clean",
  flares: "flares",
  harsh: "harsh",
  late: "late",
  missing: "does not come",
  holds: "holds",
  rolls: "rolls away",
  free: "stands free",
  creeps: "creeps",
  quiet: "quiet",
  noise: "noise",
  shake: "shakes",
};

const SITUATION_WORDS: Readonly<Record<string, string>> = {
  P: "Park",
  N: "Neutral",
  standing: "Standing in park or neutral",
  "in-gear": "Standing in gear",
  "pulling-away": "Pulling away",
  "pulling-hard": "Pulling hard",
  cruising: "Steady speed",
  coasting: "Rolling in neutral",
  "load-change": "On and off the throttle",
};

/** A place in words: "Gear 4", "Shift 2-3", "Steady speed". */
export function placeWords(where: string): string {
  return (
    SITUATION_WORDS[where] ?? (where.includes("-") ? `Shift ${where}` : where === "R" ? "Reverse" : `Gear ${where}`)
  );
}

const nameAlone = (where: string) => (SITUATION_WORDS[where] ? placeWords(where).toLowerCase() : where);

/** A road test in one line, alike marks together: "pulls 1, 2, 3 (hot, steady); no drive 4, R (hot, steady)". */
export function feltText(marks: readonly FeltMark[]): string {
  const groups = new Map<string, { readonly outcome: string; readonly at: string; readonly places: string[] }>();
  for (const m of marks) {
    const outcome = FELT_WORDS[m.outcome];
    const at = [m.temperature, m.load].filter((w) => w !== "any").join(", ");
    const key = `${outcome}|${at}`;
    const group = groups.get(key) ?? { outcome, at, places: [] };
    group.places.push(nameAlone(m.where));
    groups.set(key, group);
  }
  return [...groups.values()].map((g) => `${g.outcome} ${g.places.join(", ")}${g.at && ` (${g.at})`}`).join("; ");
}

/** Share of the greatest input torque that a load on the road stands for; "any" says nothing of it. */
const LOAD_SHARE: Readonly<Record<FeltMark["load"], number | undefined>> = {
  any: undefined,
  coast: 0,
  light: 0.25,
  steady: 0.5,
  hard: 0.9,
};

/** Fluid that somebody calls cold or hot, °C. */
const HEAT_C: Readonly<Record<FeltMark["temperature"], number | undefined>> = {
  any: undefined,
  cold: 30,
  hot: 90,
};

/** How far "it pulls" is believed of a gear that was driven so: a small slip is not felt at light throttle. */
const SHOWS: Readonly<Record<FeltMark["load"], number>> = { hard: 1, steady: 0.8, any: 0.6, light: 0.4, coast: 0.1 };

/** The good outcome of a place stands first. */
export const isGood = (m: Pick<FeltMark, "where" | "outcome">): boolean => outcomesAt(m.where)?.[0] === m.outcome;

/** What one person says of one place. */
export interface FeltPlace {
  readonly where: string;
  /** the worst that was felt there */
  readonly outcome: FeltMark["outcome"];
  readonly by: string;
  readonly sure: Sureness;
  /** 0…1 beside the person's own sureness: how far the drive could have shown the contrary */
  readonly shows: number;
  readonly marks: readonly FeltMark[];
  /** bad hot and good cold, or bad and never good */
  readonly heat: "only-hot" | "cold-too" | undefined;
}

/** By place, in the order of the marks. */
export function feltPlaces({ by, sure, marks }: Felt): FeltPlace[] {
  const places = [...new Set(marks.map((m) => m.where))];
  return places.map((where) => {
    const here = marks.filter((m) => m.where === where);
    const rank = (m: FeltMark) => outcomesAt(where)?.indexOf(m.outcome) ?? 0;
    const worst = here.reduce((a, b) => (rank(b) > rank(a) ? b : a));
    const bad = here.filter((m) => !isGood(m));
    const at = (list: readonly FeltMark[], t: FeltMark["temperature"]) => list.some((m) => m.temperature === t);
    const goodCold = at(
      here.filter((m) => isGood(m)),
      "cold",
    );
    return {
      where,
      outcome: worst.outcome,
      by,
      sure,
      shows: bad.length > 0 ? 1 : Math.max(...here.map((m) => SHOWS[m.load])),
      marks: here,
      heat:
        bad.length > 0 && !at(bad, "cold") && at(bad, "hot") && goodCold
          ? "only-hot"
          : at(bad, "cold")
            ? "cold-too"
            : undefined,
    };
  });
}

/** Is the good word of one person no answer to the bad word of another: driven softer, or not as hot or cold? */
export function otherConditions(good: FeltPlace, bad: FeltPlace): boolean {
  const failing = bad.marks.filter((m) => !isGood(m));
  return good.marks.every((g) =>
    failing.every(
      (b) =>
        (b.temperature !== "any" && g.temperature !== "any" && b.temperature !== g.temperature) ||
        SHOWS[g.load] < SHOWS[b.load],
    ),
  );
}

/**
 * Gears as somebody drove them, for the application chart. Torque is the share of the unit's greatest input torque that
 * the load stands for (light a quarter, steady half, hard nine tenths), N·m; fluid 30 °C cold and 90 °C hot.
 */
export function feltObservations(unit: Unit, tests: readonly Felt[]): GearObservation[] {
  return tests.flatMap(({ marks }) =>
    marks
      .filter((m) => unit.gears.some((g) => g.name === m.where))
      .map((m): GearObservation => {
        const share = LOAD_SHARE[m.load];
        const good = isGood(m);
        return {
          gear: m.where,
          outcome: good ? "good" : "bad",
          torqueNm: share === undefined ? undefined : share * unit.maxInputTorqueNm,
          fluidC: HEAT_C[m.temperature],
          under: m.load === "coast" ? "coast" : "drive",
          slips: m.outcome === "slips",
          comesAndGoes:
            !good &&
            marks.some(
              (o) =>
                o !== m &&
                o.where === m.where &&
                isGood(o) &&
                o.temperature === m.temperature &&
                SHOWS[o.load] >= SHOWS[m.load],
            ),
        };
      }),
  );
}
