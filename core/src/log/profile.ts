import type { BusDefinition } from "./capture.ts";
import type { DialectChoice } from "./dialect.ts";
import type { MappingGuess } from "./mapping.ts";

/** How the exports of one source are read, as a person settled it: the open file format `gearsense-import-profile`. */
export interface ImportProfile {
  readonly format: "gearsense-import-profile";
  readonly version: 1;
  /** "Bay 2 scan tool" */
  readonly name: string;
  readonly dialect?: DialectChoice | undefined;
  readonly definition?: BusDefinition | undefined;
  /** by header and unit text of the column */
  readonly columns: readonly {
    readonly header: string;
    readonly unitText?: string | undefined;
    readonly channel: string | null;
    readonly unit: string | null;
  }[];
}

const keyOf = (c: { readonly header: string; readonly unitText?: string | undefined }) =>
  `${c.header.trim().toLowerCase()}|${(c.unitText ?? "").trim().toLowerCase()}`;

/** Least share of a file's columns that a profile must know. */
const MIN_SHARE = 0.8;

/**
 * The profile that knows a file's columns best.
 * @returns undefined when none knows four fifths of them
 */
export function matchProfile(
  columns: readonly Pick<MappingGuess, "header" | "unitText">[],
  profiles: readonly ImportProfile[],
): ImportProfile | undefined {
  let best: { profile: ImportProfile; share: number } | undefined;
  for (const profile of profiles) {
    const known = new Set(profile.columns.map(keyOf));
    const share = columns.filter((c) => known.has(keyOf(c))).length / Math.max(1, columns.length);
    if (share >= MIN_SHARE && (!best || share > best.share)) best = { profile, share };
  }
  return best?.profile;
}

/** Guesses with what a profile says of their columns in place; columns that it does not know keep their guess. */
export function applyProfile(guesses: readonly MappingGuess[], profile: ImportProfile): MappingGuess[] {
  const known = new Map(profile.columns.map((c) => [keyOf(c), c]));
  const claimed = new Set(guesses.flatMap((g) => known.get(keyOf(g))?.channel ?? []));
  return guesses.map((g) => {
    const settled = known.get(keyOf(g));
    if (settled)
      return {
        ...g,
        channel: settled.channel,
        unit: settled.unit,
        confidence: settled.channel === null ? 0 : 1,
        reason: `as in "${profile.name}"`,
        rivals: [],
      };
    // the profile's word goes before a guess
    if (g.channel !== null && claimed.has(g.channel))
      return {
        ...g,
        channel: null,
        unit: null,
        confidence: 0,
        reason: `"${profile.name}" gives this channel to another column`,
      };
    return g;
  });
}
