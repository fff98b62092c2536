import type { Unit } from "../unit/index.ts";
import { CHANNELS, channelSpec, MEASURE_UNITS, type MeasureUnit, measureUnit } from "./channels.ts";
import { headerWords, plainWords } from "./header-words.ts";
import { type KinematicClaim, kinematicClaims } from "./kinematics.ts";
import type { Column, Table } from "./table.ts";

/** What a column of the file means. `channel` null = not used. */
export interface ColumnMapping {
  readonly column: number;
  readonly channel: string | null;
  /** label of a known unit of measure, or null when the values are taken as they are */
  readonly unit: string | null;
}

/** Another channel that the column may be. */
export interface Rival {
  readonly channel: string;
  readonly score: number;
}

export interface MappingGuess extends ColumnMapping {
  readonly header: string;
  readonly unitText: string | undefined;
  readonly samples: readonly string[];
  /** 0…1 */
  readonly confidence: number;
  /** why the confidence is not higher, or where the guess comes from */
  readonly reason: string;
  /** what else it may be, likeliest first; empty when nothing comes near */
  readonly rivals: readonly Rival[];
}

const fitsUnit = (channel: string, unit: MeasureUnit | undefined) =>
  unit !== undefined && channelSpec(channel)?.quantity === unit.quantity;

interface Scored {
  readonly channel: string;
  readonly score: number;
  readonly reason: string;
  readonly unit?: string | undefined;
}

const ALIAS = 0.92;
/** A single general word, such as "speed" or "gear", leaves more open. */
const GENERAL = 0.88;
const LEAST = 0.4;
/** With the converter locked their numbers agree: an unmistakable name decides. */
const TURN_AS_ONE: ReadonlySet<string> = new Set(["engine_rpm", "turbine_rpm"]);
/** A rival this near to the choice is shown. */
const NEAR = 0.25;

/** Channels of a family, named after a part: the unit says how the part is written. */
const FAMILIES: readonly (readonly [RegExp, string, (unit: Unit) => readonly string[], string])[] = [
  [
    /^(?:solenoid|sol)[\s_.-]*(\w+)/i,
    "sol_",
    (u) => u.solenoids.map((s) => s.id.replace(/^sol_/, "")),
    "solenoid name",
  ],
  [
    /^(?:adaptation|adaption|adapt|learned value)[\s_.-]*(\w+)/i,
    "adapt_",
    (u) => (u.adaptations ?? []).map((a) => a.id),
    "adaptation name",
  ],
];

function familyScores(header: string, unit: Unit | undefined): Scored[] {
  return FAMILIES.flatMap(([pattern, prefix, parts, reason]): Scored[] => {
    const part = pattern.exec(header)?.[1];
    if (part === undefined) return [];
    const known = unit && parts(unit).find((p) => p.toLowerCase() === part.toLowerCase());
    return [{ channel: `${prefix}${known ?? part.toUpperCase()}`, score: known ? 0.9 : 0.8, reason }];
  });
}

function nameScores(header: string, unit: Unit | undefined): Scored[] {
  const raw = header.trim();
  if (channelSpec(raw)) return [{ channel: raw, score: 1, reason: "canonical name" }];
  const words = headerWords(raw);
  const rpmAlone = plainWords(raw) === "rpm";
  const found: Scored[] = [];
  for (const { id, aliases, never } of VOCABULARY) {
    if (never.some((w) => words.includes(w))) continue;
    let score = rpmAlone && id === "engine_rpm" ? ALIAS : 0;
    for (const alias of rpmAlone ? [] : aliases) {
      if (!alias.every((w) => words.includes(w))) continue;
      if (alias.length === words.length) score = Math.max(score, alias.length > 1 || SOLE.has(id) ? ALIAS : GENERAL);
      else if (alias.join("").length > 3) score = Math.max(score, 0.55 + 0.3 * (alias.length / words.length));
    }
    if (score > 0) found.push({ channel: id, score, reason: score >= GENERAL ? "name" : "part of the name" });
  }
  return [...found, ...familyScores(raw, unit)];
}

const VOCABULARY = CHANNELS.map(({ id, names, never = [] }) => ({ id, aliases: names.map(headerWords), never }));
/** Channels whose single word means nothing else. */
const SOLE: ReadonlySet<string> = new Set([
  "time_s",
  "engine_rpm",
  "turbine_rpm",
  "range",
  "pedal_pct",
  "throttle_pct",
  "brake_on",
  "battery_v",
  "mark",
  "code",
]);

function inRangeShare(column: Column, channel: string, unit: MeasureUnit | undefined): number {
  const spec = channelSpec(channel);
  if (!spec) return 1;
  const { numbers } = column;
  // an odd stride meets every group of channels that were polled in turn
  const step = Math.floor(numbers.length / 500) | 1;
  let seen = 0;
  let inside = 0;
  for (let i = 0; i < numbers.length; i += step) {
    const v = numbers[i] as number;
    if (Number.isNaN(v)) continue;
    const core = unit ? v * unit.factor + unit.offset : v;
    seen++;
    if (core >= spec.range[0] && core <= spec.range[1]) inside++;
  }
  return seen === 0 ? 0.5 : inside / seen;
}

/** Does a numeric column grow from row to row as a clock does? */
function growing(column: Column): boolean {
  if (column.rowOf || column.wordCells > 0 || column.filled < column.numbers.length * 0.9) return false;
  const n = Math.min(column.numbers.length, 2000);
  let up = 0;
  for (let i = 1; i < n; i++) if ((column.numbers[i] as number) > (column.numbers[i - 1] as number)) up++;
  return n > 20 && up > (n - 1) * 0.98;
}

/** Channels of which a drive has one each: a column that only its unit of measure tells of. */
const BY_UNIT: readonly (readonly [string, string])[] = [
  ["temperature", "fluid_c"],
  ["torque", "engine_torque_nm"],
  ["vehicle-speed", "vehicle_kmh"],
  ["pressure", "line_pressure_kpa"],
];

function scoresOf(
  column: Column,
  table: Table,
  unit: MeasureUnit | undefined,
  claims: readonly KinematicClaim[],
  job: Unit | undefined,
): Scored[] {
  const named = nameScores(column.header, job).map((s): Scored => {
    let { score, reason } = s;
    if (unit && s.channel !== "time_s") {
      if (fitsUnit(s.channel, unit)) score = Math.min(1, score + 0.05);
      else {
        score *= 0.5;
        reason += `, but its unit is ${unit.label}`;
      }
    }
    const free = s.channel === "time_s" || channelSpec(s.channel)?.discrete;
    const share = free ? 1 : inRangeShare(column, s.channel, fitsUnit(s.channel, unit) ? unit : undefined);
    if (share < 0.9) {
      score *= 0.4 + 0.6 * share;
      reason += `, ${Math.round((1 - share) * 100)} % of the values do not fit`;
    }
    return { channel: s.channel, score, reason };
  });
  const strongest = claims.reduce<KinematicClaim | undefined>((a, b) => (!a || b.share > a.share ? b : a), undefined);
  const scored = named.map((s): Scored => {
    const same = claims.find(
      (c) => c.channel === s.channel || (s.channel === "gear_reported" && c.channel === "gear_commanded"),
    );
    if (same)
      return {
        ...s,
        score: Math.min(1, Math.max(s.score + 0.05, 0.9)),
        reason: `${s.reason}; ${same.reason}`,
        unit: same.unit,
      };
    // the numbers are stronger than the name where they speak of another channel of the same kind
    const other = strongest && channelSpec(strongest.channel)?.quantity === channelSpec(s.channel)?.quantity;
    if (other && s.score < 1 && !(s.score >= ALIAS && TURN_AS_ONE.has(s.channel) && TURN_AS_ONE.has(strongest.channel)))
      return {
        ...s,
        score: s.score * 0.6,
        reason: `${s.reason}, but it behaves like ${channelSpec(strongest.channel)?.label}`,
      };
    return s;
  });
  for (const c of claims)
    if (
      !scored.some((s) => s.channel === c.channel || (s.channel === "gear_reported" && c.channel === "gear_commanded"))
    )
      scored.push({ channel: c.channel, score: 0.55 + 0.35 * c.share, reason: c.reason, unit: c.unit });
  if (!scored.some((s) => s.channel === "time_s")) {
    if (column.clockCells > column.filled * 0.9)
      scored.push({ channel: "time_s", score: 0.8, reason: "holds clock times" });
    else if (column.index === 0 && growing(column))
      scored.push({ channel: "time_s", score: 0.7, reason: "first column, grows from row to row" });
  }
  if (scored.length === 0 && unit) {
    const [, channel] = BY_UNIT.find(([q]) => q === unit.quantity) ?? [];
    const alone =
      table.columns.filter((c) => c.unitText && measureUnit(c.unitText)?.quantity === unit.quantity).length === 1;
    if (channel && alone) scored.push({ channel, score: 0.5, reason: `the only column in ${unit.label}` });
  }
  return scored.sort((a, b) => b.score - a.score || a.channel.localeCompare(b.channel));
}

/**
 * Proposes a channel and a unit of measure for every column, from its name, its unit, whether its values fit, and, when
 * the unit of the job is known, how the columns agree with its ratios.
 * No channel is given twice: the stronger claim keeps it, the weaker column is left unused and says so.
 * @param unit - of the job; without it only names, units and ranges are looked at
 */
export function proposeMapping(table: Table, unit?: Unit): MappingGuess[] {
  const outright = (column: Column) => nameScores(column.header, unit).find((s) => s.score >= ALIAS)?.channel;
  const byNumbers = unit ? kinematicClaims(table, unit, outright) : new Map<number, KinematicClaim[]>();
  const claims = table.columns.map((column) => {
    const measure = column.unitText ? measureUnit(column.unitText) : undefined;
    return { column, measure, scored: scoresOf(column, table, measure, byNumbers.get(column.index) ?? [], unit) };
  });
  const owner = new Map<string, number>();
  const chosen = new Map<number, Scored>();
  const all = claims
    .flatMap(({ scored }, i) => scored.filter((s) => s.score >= LEAST).map((s) => ({ s, i })))
    .sort((a, b) => b.s.score - a.s.score || a.i - b.i);
  for (const { s, i } of all) {
    if (chosen.has(i) || owner.has(s.channel)) continue;
    owner.set(s.channel, i);
    chosen.set(i, s);
  }
  return claims.map(({ column, measure, scored }, i) => {
    const pick = chosen.get(i);
    const base = { column: column.index, header: column.header, unitText: column.unitText, samples: column.samples };
    if (!pick) {
      const [first] = scored;
      const taken = first && owner.get(first.channel);
      const reason =
        taken !== undefined
          ? `${channelSpec(first?.channel ?? "")?.label} is taken by "${claims[taken]?.column.header}"`
          : "no channel by this name";
      return { ...base, channel: null, unit: null, confidence: 0, reason, rivals: rivalsOf(scored, undefined) };
    }
    let label: string | null = fitsUnit(pick.channel, measure) ? (measure?.label ?? null) : null;
    let { score: confidence, reason } = pick;
    if (pick.channel === "time_s") label = timeUnit(column, measure);
    else if (!label && pick.unit) label = pick.unit;
    else if (!label) {
      const guess = unitByValues(pick.channel, column);
      if (guess) {
        label = guess;
        confidence = Math.min(confidence, 0.6);
        reason += `; no unit is given, the values look like ${guess}`;
      }
    }
    return { ...base, channel: pick.channel, unit: label, confidence, reason, rivals: rivalsOf(scored, pick) };
  });
}

const rivalsOf = (scored: readonly Scored[], pick: Scored | undefined): Rival[] =>
  scored
    .filter((s) => s !== pick && s.score >= Math.max(LEAST, (pick?.score ?? 0) - NEAR))
    .slice(0, 3)
    .map(({ channel, score }) => ({ channel, score }));

/** Percentile of the values, NaN left aside. */
function percentile(column: Column, p: number): number {
  const step = Math.floor(column.numbers.length / 1000) | 1;
  const seen: number[] = [];
  for (let i = 0; i < column.numbers.length; i += step) {
    const v = column.numbers[i] as number;
    if (!Number.isNaN(v)) seen.push(v);
  }
  seen.sort((a, b) => a - b);
  return seen[Math.floor(p * (seen.length - 1))] ?? Number.NaN;
}

/** A unit of measure that the size of the values gives away. @returns undefined when the core unit is as likely */
function unitByValues(channel: string, column: Column): string | undefined {
  const quantity = channelSpec(channel)?.quantity;
  const high = percentile(column, 0.95);
  if (quantity === "temperature" && channel === "fluid_c" && high > 150 && high < 330) return "°F";
  if (quantity === "pressure" && high > 1.5 && high < 35) return "bar";
  if (quantity === "pressure" && high >= 35 && high < 330 && channel.startsWith("line")) return "psi";
  return undefined;
}

const labelled = new Set(MEASURE_UNITS.filter((u) => u.quantity === "duration").map((u) => u.label));

/** Seconds, milliseconds, microseconds or days, when the file does not say: by the size of the values and their steps. */
function timeUnit(column: Column, unit: MeasureUnit | undefined): string {
  if (column.clockCells > 0) return "s";
  const middle = percentile(column, 0.5);
  const steps: number[] = [];
  for (let i = 1; i < column.numbers.length && steps.length < 400; i++) {
    const d = (column.numbers[i] as number) - (column.numbers[i - 1] as number);
    if (d > 0) steps.push(d);
  }
  steps.sort((a, b) => a - b);
  const step = steps[steps.length >> 1] ?? 0;
  // moments since 1970 give themselves away, whatever the header says
  if (middle > 1e14) return "µs";
  if (middle > 1e11) return "ms";
  if (unit && labelled.has(unit.label)) return unit.label;
  if (middle > 1e8) return "s";
  if (middle > 2e4 && middle < 1e5 && step < 1e-3) return "day";
  return step >= 5000 ? "µs" : step >= 5 ? "ms" : "s";
}
