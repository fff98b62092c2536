import type { LiveCondition } from "../unit/index.ts";

/** Ranges of the lever as a channel tells them, and what a routine tells of itself. */
const WORDS: Readonly<Record<string, Readonly<Record<string, number>>>> = {
  range: { P: 1, R: 2, N: 3, D: 4 },
  routine_lever: { P: 1, R: 2, N: 3, D: 4 },
  routine_state: { running: 1, done: 2, stopped: 3, failed: 4 },
};

/** A number that a channel of words holds, by its word. @returns undefined for a channel that holds no words, or an unknown word */
export const codeOfWord = (channel: string, word: string): number | undefined => WORDS[channel]?.[word];

/** A condition beside what is read now. */
export interface JudgedCondition {
  readonly condition: LiveCondition;
  /** undefined: it is not read */
  readonly holds: boolean | undefined;
  readonly value: number | undefined;
  /** the value as a word where the channel holds words */
  readonly word: string | undefined;
}

/** Does a condition hold? Ends of a window are inside. @param values - newest readings by channel; NaN is no reading */
export function judgeCondition(condition: LiveCondition, values: ReadonlyMap<string, number>): JudgedCondition {
  const read = values.get(condition.channel);
  const value = read === undefined || Number.isNaN(read) ? undefined : read;
  const words = WORDS[condition.channel];
  const word = words && Object.keys(words).find((w) => words[w] === value);
  if (value === undefined) return { condition, holds: undefined, value, word };
  const { between, is } = condition;
  const inside = between === undefined || (value >= between[0] && value <= between[1]);
  const among = is === undefined || (word !== undefined && is.includes(word));
  return { condition, holds: inside && among, value, word };
}

export const judgeConditions = (
  conditions: readonly LiveCondition[],
  values: ReadonlyMap<string, number>,
): JudgedCondition[] => conditions.map((c) => judgeCondition(c, values));
