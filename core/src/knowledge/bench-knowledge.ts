/** Where something is looked at on the bench. */
export const LOOK_PLACES = ["teardown", "pack", "converter", "air", "valve", "valve-body", "cooler"] as const;
export type LookPlace = (typeof LOOK_PLACES)[number];

export interface LookOption {
  readonly id: string;
  readonly label: string;
  readonly pass: boolean;
}

/** Something that is looked at, with what may be seen. */
export interface BenchLook {
  readonly id: string;
  readonly of: LookPlace;
  readonly name: string;
  readonly options: readonly LookOption[];
  /** only in units of these kinds */
  readonly kinds?: readonly ("planetary" | "dct-wet" | "dct-dry")[] | undefined;
}

/** What a thing found in an opened converter did to the vehicle, and what breaks it so. */
export interface ConverterFinding {
  readonly look: string;
  readonly option: string;
  readonly did: string;
  readonly broke: readonly string[];
}

/** What may have broken a unit. */
export interface Cause {
  readonly id: string;
  readonly title: string;
  /** how common, against the others */
  readonly weight: number;
  /** what is done about it before the unit goes back */
  readonly remedy: string;
  /** told to the owner: what would break it again */
  readonly again: string;
}

export interface SignRow {
  readonly causes: readonly string[];
  readonly p: Readonly<Record<string, number>>;
  readonly why: string;
}

/** What a sign shows under each cause; `otherwise` for causes without a row. */
export interface SignTable {
  readonly sign: string;
  readonly title: string;
  readonly outcomes: readonly string[];
  readonly otherwise: Readonly<Record<string, number>>;
  readonly rows: readonly SignRow[];
  /** by cause, what it showed on drawn units; counts for half where it is there */
  readonly counted?:
    | Readonly<Record<string, { readonly units: number; readonly p: Readonly<Record<string, number>> }>>
    | undefined;
}

/** Chance of an outcome under a cause: as it is judged, and where units were counted half of that and half of those. */
export function signChance(table: SignTable, cause: string, outcome: string): number {
  const judged = (table.rows.find((r) => r.causes.includes(cause))?.p ?? table.otherwise)[outcome] ?? 0;
  const counted = table.counted?.[cause]?.p[outcome];
  return counted === undefined ? judged : (judged + counted) / 2;
}

export interface BenchKnowledge {
  readonly format: "gearsense-bench";
  readonly version: number;
  readonly looks: readonly BenchLook[];
  readonly converterFindings: readonly ConverterFinding[];
  readonly causes: readonly Cause[];
  readonly signs: readonly SignTable[];
}

const ONE = 1e-6;

/**
 * What a schema cannot see: names that exist, distributions that sum to one.
 * @returns problems with their places; empty when it is sound
 */
export function checkBenchKnowledge(k: BenchKnowledge): string[] {
  const problems: string[] = [];
  const causes = new Set(k.causes.map((c) => c.id));
  const sums = (p: Readonly<Record<string, number>>, outcomes: readonly string[], where: string) => {
    const total = outcomes.reduce((s, o) => s + (p[o] ?? 0), 0);
    if (Math.abs(total - 1) > ONE) problems.push(`${where}: chances sum to ${total}, not to 1`);
    for (const [o, x] of Object.entries(p)) {
      if (!outcomes.includes(o)) problems.push(`${where}: no outcome "${o}"`);
      if (!(x > 0)) problems.push(`${where}: "${o}" is never certain to be absent: over 0`);
    }
  };
  for (const [name, ids] of [
    ["looks", k.looks.map((l) => `${l.of}/${l.id}`)],
    ["causes", k.causes.map((c) => c.id)],
    ["signs", k.signs.map((s) => s.sign)],
  ] as const)
    for (const [i, id] of ids.entries())
      if (ids.indexOf(id) !== i) problems.push(`${name}.${i}: "${id}" stands there twice`);
  for (const l of k.looks)
    if (!l.options.some((o) => o.pass) || !l.options.some((o) => !o.pass))
      problems.push(`looks.${l.id}: needs one option that passes and one that does not`);
  for (const [i, f] of k.converterFindings.entries()) {
    const look = k.looks.find((l) => l.of === "converter" && l.id === f.look);
    if (!look?.options.some((o) => o.id === f.option && !o.pass))
      problems.push(`converterFindings.${i}: no failing option "${f.option}" of look "${f.look}"`);
    for (const c of f.broke) if (!causes.has(c)) problems.push(`converterFindings.${i}: no cause "${c}"`);
  }
  for (const s of k.signs) {
    sums(s.otherwise, s.outcomes, `signs.${s.sign}.otherwise`);
    for (const [c, { p }] of Object.entries(s.counted ?? {})) {
      if (!causes.has(c)) problems.push(`signs.${s.sign}.counted: no cause "${c}"`);
      sums(p, s.outcomes, `signs.${s.sign}.counted.${c}`);
    }
    const seen = new Set<string>();
    for (const [i, row] of s.rows.entries()) {
      sums(row.p, s.outcomes, `signs.${s.sign}.rows.${i}`);
      for (const c of row.causes) {
        if (!causes.has(c)) problems.push(`signs.${s.sign}.rows.${i}: no cause "${c}"`);
        if (seen.has(c)) problems.push(`signs.${s.sign}.rows.${i}: "${c}" has two rows`);
        seen.add(c);
      }
    }
  }
  return problems;
}
