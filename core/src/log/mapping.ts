import { CHANNELS, channelSpec, type MeasureUnit, measureUnit } from "./channels.ts";
import type { Column, Table } from "./table.ts";

/** What a column of the file means. `channel` null = not used. */
export interface ColumnMapping {
  readonly column: number;
  readonly channel: string | null;
  /** label of a known unit of measure, or null when the values are taken as they are */
  readonly unit: string | null;
}

export interface MappingGuess extends ColumnMapping {
  readonly header: string;
  readonly unitText: string | undefined;
  readonly samples: readonly string[];
  /** 0…1 */
  readonly confidence: number;
  /** why the confidence is not higher, or where the guess comes from */
  readonly reason: string;
}

const normal = (header: string) =>
  header
    .replace(/([a-z])([A-Z])/g, "$1 $2")
    .toLowerCase()
    .replace(/[_\-./]+/g, " ")
    .replace(/\s+/g, " ")
    .trim();

const QUANTITY_UNITS = (channel: string, unit: MeasureUnit | undefined) =>
  unit !== undefined && channelSpec(channel)?.quantity === unit.quantity;

interface Scored {
  readonly channel: string;
  readonly score: number;
  readonly reason: string;
}

function nameScores(header: string): Scored[] {
  const raw = header.trim();
  if (channelSpec(raw)) return [{ channel: raw, score: 1, reason: "canonical name" }];
  const name = normal(raw);
  const found: Scored[] = [];
  for (const c of CHANNELS) {
    let score = 0;
    for (const alias of c.names) {
      if (name === alias) score = Math.max(score, 0.92);
      else if (alias.length > 3 && ` ${name} `.includes(` ${alias} `))
        score = Math.max(score, 0.55 + 0.3 * (alias.length / name.length));
    }
    if (score > 0) found.push({ channel: c.id, score, reason: score > 0.9 ? "name" : "part of the name" });
  }
  const solenoid = /^(?:solenoid|sol)\s+(\w+)/.exec(name);
  if (solenoid)
    found.push({ channel: `sol_${(solenoid[1] ?? "").toUpperCase()}`, score: 0.8, reason: "solenoid name" });
  return found;
}

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

/**
 * Proposes a channel and a unit of measure for every column, from its name, its unit, and whether its values fit.
 * No channel is given twice: the stronger claim keeps it, the weaker column is left unused and says so.
 */
export function proposeMapping(table: Table): MappingGuess[] {
  const claims = table.columns.map((column) => {
    const unit = column.unitText ? measureUnit(column.unitText) : undefined;
    const scored = nameScores(column.header).map((s) => {
      let score = s.score;
      let reason = s.reason;
      if (unit && s.channel !== "time_s") {
        if (QUANTITY_UNITS(s.channel, unit)) score = Math.min(1, score + 0.05);
        else {
          score *= 0.5;
          reason += `, but its unit is ${unit.label}`;
        }
      }
      const share =
        s.channel === "time_s" || channelSpec(s.channel)?.discrete
          ? 1
          : inRangeShare(column, s.channel, QUANTITY_UNITS(s.channel, unit) ? unit : undefined);
      if (share < 0.9) {
        score *= 0.4 + 0.6 * share;
        reason += `, ${Math.round((1 - share) * 100)} % of the values do not fit`;
      }
      return { channel: s.channel, score, reason };
    });
    scored.sort((a, b) => b.score - a.score || a.channel.localeCompare(b.channel));
    return { column, unit, scored };
  });
  const owner = new Map<string, number>();
  const order = claims
    .map((_, i) => i)
    .sort((a, b) => (claims[b]?.scored[0]?.score ?? 0) - (claims[a]?.scored[0]?.score ?? 0) || a - b);
  const chosen = new Map<number, Scored>();
  for (const i of order) {
    const pick = claims[i]?.scored.find((s) => s.score >= 0.4 && !owner.has(s.channel));
    if (pick) {
      owner.set(pick.channel, i);
      chosen.set(i, pick);
    }
  }
  return claims.map(({ column, unit, scored }, i) => {
    const pick = chosen.get(i);
    const base = { column: column.index, header: column.header, unitText: column.unitText, samples: column.samples };
    if (!pick) {
      const rival =
        scored[0] && owner.has(scored[0].channel)
          ? `${channelSpec(scored[0].channel)?.label ?? scored[0].channel} is taken by another column`
          : "no channel by this name";
      return { ...base, channel: null, unit: null, confidence: 0, reason: rival };
    }
    let unitLabel: string | null = QUANTITY_UNITS(pick.channel, unit) ? (unit?.label ?? null) : null;
    if (pick.channel === "time_s") unitLabel = timeUnit(column, unit);
    return { ...base, channel: pick.channel, unit: unitLabel, confidence: pick.score, reason: pick.reason };
  });
}

/** Seconds or milliseconds, when the file does not say: judged by the typical step between rows. */
function timeUnit(column: Column, unit: MeasureUnit | undefined): string {
  if (column.clockCells > 0) return "s";
  if (unit && unit.quantity === "duration") return unit.label;
  const steps: number[] = [];
  for (let i = 1; i < column.numbers.length && steps.length < 400; i++) {
    const d = (column.numbers[i] as number) - (column.numbers[i - 1] as number);
    if (d > 0) steps.push(d);
  }
  steps.sort((a, b) => a - b);
  return (steps[steps.length >> 1] ?? 0) >= 5 ? "ms" : "s";
}
