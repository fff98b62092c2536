import type { DebrisKind, Symptom } from "../job/index.ts";
import type { Unit } from "../unit/index.ts";
import { type BenchKnowledge, checkBenchKnowledge } from "./bench-knowledge.ts";

/**
 * The diagnostic knowledge as data, from `library/knowledge`: which faults a unit can have, what each piece of evidence
 * says about them, which checks exist, what repairs cure. Checked by the schemas in `contract/`.
 */
export type ComponentKind =
  | "friction-element"
  /** a friction element that a solenoid feeds; all of them where the unit file has no solenoids */
  | "fed-element"
  | "one-way-clutch"
  | "dual-clutch"
  | "launching-clutch"
  | "fork"
  | "solenoid"
  | "element-solenoid"
  | "speed-sensor"
  | "temperature-sensor"
  | "range-sensor"
  | "signal-net"
  | "supply-net"
  | "ground-net"
  | "converter"
  | "unit";

/** Where a fault sits, for a heading and a colour: what is told apart by checks and cured by work of one kind. */
export const FAULT_GROUPS = [
  "element",
  "hydraulics",
  "converter",
  "dual clutch",
  "fluid",
  "electrics",
  "controller",
  "mechanics",
  "elsewhere",
] as const;
export type FaultGroup = (typeof FAULT_GROUPS)[number];

export interface FaultClass {
  readonly id: string;
  readonly per: ComponentKind;
  readonly group: FaultGroup;
  readonly title: string;
  /** prior weight of one instance against the others */
  readonly weight: number;
  /** how often a drive shows nothing of it, 0…1 */
  readonly silent: number;
  readonly why: string;
  /** class that it shows itself like, where no row of a table names it: what was counted for that holds for it too */
  readonly like?: string | undefined;
  /** weighed by itself only, never in pairs: seldom, and many of them */
  readonly alone?: true | undefined;
  /** how a solenoid with this fault stays; by its unpowered state that leaves its element applied or released */
  readonly stays?: "powered" | "unpowered" | undefined;
  /** kinds of unit that can have it; absent: all that have the component */
  readonly kinds?: readonly Unit["kind"][] | undefined;
}

/** How often two faults come together. */
export interface SeveralFaults {
  /** probability of two faults against one, before any evidence */
  readonly share: number;
  /** one brings the other about: its pairs weigh more by this factor */
  readonly together: readonly {
    readonly a: readonly string[];
    readonly b: readonly string[];
    readonly factor: number;
    readonly why: string;
  }[];
  /** classes that exclude each other at one component */
  readonly never: readonly (readonly [string, string])[];
}

/** Sites at which one class of fault shows otherwise: a unit with a dual clutch, a supply of solenoids and nothing else. */
export type FaultSite = "dual-clutch" | "solenoids";

/** How the component of a fault stands to the subject of the evidence. */
export type Relation =
  | "any"
  | "same"
  | "other"
  | "carries"
  /** the element carries the gear, and no other in it needs notably more pressure */
  | "carries-hard"
  /** the element carries first, from which the vehicle starts and stalls; reverse; one of the two; both */
  | "carries-first"
  | "carries-reverse"
  | "carries-one"
  | "carries-both"
  /** the gear is made without the element */
  | "spares"
  | "on-coming"
  | "off-going"
  | "feeds"
  | "about"
  /** about, and the code speaks of the signal */
  | "about-signal"
  /** the code speaks of friction elements: a gear or a clutch did not hold */
  | "about-grip"
  /** the code speaks of a fork on the shaft that the clutch, or what its solenoid feeds, drives */
  | "about-shaft"
  /** the component, or what it feeds, is one of those that the evidence names */
  | "among"
  /** the element, closed besides those of neutral, joins input and output */
  | "closes-neutral"
  | "converter-solenoid";

export interface LikelihoodRow {
  readonly faults: readonly string[];
  readonly relation: Relation;
  /** only for faults that leave their element so; see {@link FaultClass.stays} */
  readonly stays?: "applied" | "released" | undefined;
  /** only for faults at such a site */
  readonly at?: FaultSite | undefined;
  /** probability of each outcome given the fault; sums to one */
  readonly p: Readonly<Record<string, number>>;
  readonly why?: string | undefined;
}

export interface LikelihoodTable {
  readonly evidence: string;
  readonly title: string;
  /**
   * how two faults share an outcome: absent, either can bring it about (noisy-or against `otherwise`); "either", it was
   * brought about by one of them, nobody knows which (a complaint, the way a slip begins)
   */
  readonly together?: "either" | undefined;
  /** seen on the drive: a fault that is silent on it shows as if it were not there, in all of these tables alike */
  readonly drive?: true | undefined;
  readonly outcomes: readonly string[];
  /** probability of each outcome given a fault that no row names */
  readonly otherwise: Readonly<Record<string, number>>;
  readonly rows: readonly LikelihoodRow[];
}

export const INTRUSIVENESS = [
  "key on",
  "connector",
  "under vehicle",
  "pan down",
  "valve body out",
  "unit out",
] as const;
export type Intrusiveness = (typeof INTRUSIVENESS)[number];

/** What it takes to get there. What is open once is open for every other check and repair that needs no more. */
export interface Access {
  readonly minutes: number;
  /** gasket, fluid that is lost */
  readonly materialCost: number;
  /** what breaks on the way, on average: lines, bolts, clips */
  readonly mishapCost: number;
  /** accesses that it gives beside its own */
  readonly gives: readonly Intrusiveness[];
}

export const CHECK_WAYS = [
  "look",
  "scan",
  "drive",
  "meter",
  "pressure",
  "air",
  "stall",
  "swap",
  "measure",
  "bench",
] as const;

/** How sure a reading is: a share of it and a fixed part, as standard deviations. */
export interface Instrument {
  readonly id: string;
  readonly name: string;
  readonly percent: number;
  /** in the unit of the measure */
  readonly fixed: number;
  /** what it reads; absent: shares and counts of several kinds */
  readonly unit?: string | undefined;
}

/** One number of a check: what it has to show, and which outcome it speaks for. */
export interface Measure {
  readonly id: string;
  readonly name: string;
  readonly unit: string;
  /** the usual one; others may be chosen */
  readonly instrument: string;
  /** numbers of the trade, or of the unit file for the component */
  readonly window:
    | { readonly from?: number | undefined; readonly to?: number | undefined }
    | { readonly of: (typeof WINDOWS)[number] };
  readonly inside: string;
  readonly below?: string | undefined;
  readonly above?: string | undefined;
  /** outcome when every measure of the check lies outside */
  readonly allOut?: string | undefined;
  /** a copper coil: its temperature is asked for, and it is judged at 20 °C */
  readonly copper?: true | undefined;
  /** the engine torque at which it was read is asked for */
  readonly torque?: true | undefined;
}

/** Where a window stands; `maker`: in no unit file, it is typed from the maker's data. */
export const WINDOWS = [
  "coil",
  "clearance",
  "friction-plate",
  "steel-plate",
  "supply",
  "engagement",
  "stall",
  "line-pressure-D",
  "line-pressure-R",
  "coil-current",
  "adaptation",
  "gear-slip",
  "slip",
  "level",
  "level-loss",
  "maker",
] as const;

export interface CheckKind {
  readonly id: string;
  readonly per: ComponentKind;
  readonly way: (typeof CHECK_WAYS)[number];
  readonly title: string;
  /** at the place, without getting there */
  readonly minutes: number;
  readonly materialCost: number;
  readonly intrusiveness: Intrusiveness;
  /** what must be so before it is begun */
  readonly needs: readonly string[];
  readonly how: string;
  /** what to write down */
  readonly record: string;
  /** needs this test port of the unit: of the line, of its element, of the converter */
  readonly port?: "line" | "element" | "converter" | undefined;
  /** for solenoids of this kind only; a switched one clicks, a regulated one has its current regulated */
  readonly solenoidKind?: "on-off" | "pressure-control" | undefined;
  /** the check whose reading it takes again: of no use, and not advised, before that */
  readonly repeats?: string | undefined;
  /** its numbers, where it has some: the outcome follows from them */
  readonly measures?: readonly Measure[] | undefined;
  /** kinds of unit that it is for; absent: all */
  readonly kinds?: readonly Unit["kind"][] | undefined;
  readonly cautions: readonly string[];
  readonly outcomes: readonly { readonly id: string; readonly label: string }[];
  readonly otherwise: Readonly<Record<string, number>>;
  readonly rows: readonly LikelihoodRow[];
}

/** Where the part comes from. */
export interface Source {
  readonly id: string;
  readonly title: string;
  readonly partsCost: number;
  /** best, likely, worst, working days */
  readonly leadDays: readonly [number, number, number];
  readonly warrantyMonths: number;
  /** counts only where the technician says that there is one: used, or on the shelf */
  readonly ask?: true | undefined;
  /** its cures are worth so much of those of the repair, 0…1 */
  readonly worth: number;
  readonly why: string;
}

export const OPTION_KINDS = [
  "nothing",
  "elsewhere",
  "fluid service",
  "in the vehicle",
  "valve body",
  "rebuild",
  "exchange",
] as const;

export interface RepairKind {
  readonly id: string;
  readonly per: ComponentKind;
  readonly option: (typeof OPTION_KINDS)[number];
  readonly title: string;
  readonly kinds?: readonly Unit["kind"][] | undefined;
  /** best, likely, worst, with getting there */
  readonly hours: readonly [number, number, number];
  /** of the first source, where there are several; without the fluid of a refill */
  readonly partsCost: number;
  /** fluid that has to be filled again, with a filter where the unit has one; absent: none, or in the parts */
  readonly refill?: "pan" | "whole" | undefined;
  /** the whole assembly against the small part, new against used; absent: one source, next day */
  readonly sources?: readonly Source[] | undefined;
  /** comes only after one of these was done and did not cure */
  readonly after?: readonly string[] | undefined;
  readonly intrusiveness: Intrusiveness;
  readonly cures: readonly { readonly faults: readonly string[]; readonly relation: Relation; readonly p: number }[];
  readonly cautions: readonly string[];
  /** warns while the fluid level is not recorded */
  readonly costly: boolean;
}

/** How a rung is filled in. */
export type RungForm = "choice" | "battery" | "leaks" | "positions" | "misfire";

/** One check of the first look, from `library/knowledge/observations.json`. */
export interface Rung {
  readonly id: string;
  readonly title: string;
  readonly why: string;
  readonly minutes: number;
  readonly how: string;
  readonly form: RungForm;
  /** its numbers, where it has some: the outcome follows from them */
  readonly measures?: readonly Measure[] | undefined;
  readonly cautions: readonly string[];
  /** kinds of unit that it is for; absent: all */
  readonly kinds?: readonly Unit["kind"][] | undefined;
  /** complaints that it belongs to; absent: every one */
  readonly symptoms?: readonly Symptom["kind"][] | undefined;
  /** what stays open when it is skipped */
  readonly leavesOpen: string;
  readonly outcomes: readonly { readonly id: string; readonly label: string; readonly abnormal: boolean }[];
  readonly otherwise: Readonly<Record<string, number>>;
  readonly rows: readonly LikelihoodRow[];
}

export type DebrisPart =
  | "steel plates"
  | "gears"
  | "bearings"
  | "bushes"
  | "thrust washers"
  | "case"
  | "pump"
  | "pistons"
  | "linings"
  | "clips"
  | "joints"
  | "cooler"
  | "breather";

/** One kind of debris, from `library/knowledge/debris.json`. */
export interface DebrisClass {
  readonly id: DebrisKind;
  readonly title: string;
  readonly look: string;
  readonly comesFrom: readonly DebrisPart[];
  /** likelihood table; null when it says nothing of a fault */
  readonly table: string | null;
  readonly says: string;
}

export interface DebrisKnowledge {
  /** how much grey paste is normal up to a distance since the last service */
  readonly pasteBand: readonly { readonly untilKm: number; readonly mostAmount: number }[];
  readonly kinds: readonly DebrisClass[];
}

export interface Knowledge {
  readonly version: number;
  readonly faults: readonly FaultClass[];
  readonly unknown: { readonly title: string; readonly weight: number };
  /** nothing is wrong with the vehicle */
  readonly nothing: { readonly title: string; readonly weight: number };
  readonly several: SeveralFaults;
  readonly access: Readonly<Record<Intrusiveness, Access>>;
  readonly evidence: readonly LikelihoodTable[];
  readonly instruments: readonly Instrument[];
  readonly checks: readonly CheckKind[];
  /** of the first look */
  readonly rungs: readonly Rung[];
  readonly debris: DebrisKnowledge;
  readonly bench: BenchKnowledge;
  readonly repairs: readonly RepairKind[];
  /** fluid, money a litre */
  readonly fluidPerL: number;
  /** filter with its seal */
  readonly filterCost: number;
  /** cost of a vehicle that comes back uncured: recovery, goodwill, a second visit */
  readonly comebackCost: number;
  /** what a vehicle that came back costs beyond its cure: looking again, the wrong repairs on the way */
  readonly secondLookCost: number;
  /** of repairs that fit what is wrong, the share that fails by its own making, 0…1 */
  readonly workmanshipFailure: number;
  readonly cautions: Readonly<Record<string, string>>;
  /** cautions that need a tick of the person before the step */
  readonly holds: readonly string[];
  readonly standingCaution: string;
}

/** What a schema cannot see: names exist and probabilities sum to one. @returns problems; empty when sound */
export function checkKnowledge(k: Knowledge): string[] {
  const problems: string[] = [];
  const faultIds = new Set([...k.faults.map((f) => f.id), "unknown", "nothing"]);
  const unique = (where: string, ids: readonly string[]) => {
    for (const id of ids.filter((x, i) => ids.indexOf(x) !== i)) problems.push(`${where}: "${id}" stands there twice`);
  };
  unique("faults", [...k.faults.map((f) => f.id), "unknown", "nothing"]);
  unique(
    "evidence",
    k.evidence.map((t) => t.evidence),
  );
  unique(
    "checks",
    k.checks.map((c) => c.id),
  );
  unique(
    "rungs",
    k.rungs.map((r) => r.id),
  );
  unique(
    "repairs",
    k.repairs.map((r) => r.id),
  );
  for (const [a, b] of [
    ...k.several.never,
    ...k.several.together.flatMap((t) => t.a.flatMap((x) => t.b.map((y) => [x, y] as const))),
  ])
    for (const id of [a, b]) if (!faultIds.has(id)) problems.push(`several: no fault "${id}"`);
  const sumsToOne = (p: Readonly<Record<string, number>>) =>
    Math.abs(Object.values(p).reduce((a, b) => a + b, 0) - 1) < 1e-3;
  const table = (
    where: string,
    outcomes: readonly string[],
    otherwise: Readonly<Record<string, number>>,
    rows: readonly LikelihoodRow[],
  ) => {
    for (const [at, p] of [["otherwise", otherwise] as const, ...rows.map((r, i) => [`rows.${i}`, r.p] as const)]) {
      if (!sumsToOne(p)) problems.push(`${where}.${at}: probabilities do not sum to one`);
      if (outcomes.some((o) => !(p[o] !== undefined && p[o] > 0)) || Object.keys(p).length !== outcomes.length)
        problems.push(`${where}.${at}: needs a probability over zero for each outcome and no other`);
    }
    rows.forEach((r, i) => {
      for (const f of r.faults) if (!faultIds.has(f)) problems.push(`${where}.rows.${i}: no fault "${f}"`);
    });
  };
  const measured = (
    where: string,
    measures: readonly Measure[] | undefined,
    outcomes: readonly { readonly id: string }[],
  ) => {
    for (const m of measures ?? []) {
      if (!k.instruments.some((x) => x.id === m.instrument))
        problems.push(`${where}.${m.id}: no instrument "${m.instrument}"`);
      for (const o of [m.inside, m.below, m.above, m.allOut])
        if (o !== undefined && outcomes.every((x) => x.id !== o)) problems.push(`${where}.${m.id}: no outcome "${o}"`);
    }
  };
  for (const t of k.evidence) table(`evidence.${t.evidence}`, t.outcomes, t.otherwise, t.rows);
  for (const c of k.checks) {
    table(
      `checks.${c.id}`,
      c.outcomes.map((o) => o.id),
      c.otherwise,
      c.rows,
    );
    for (const id of c.cautions) if (!k.cautions[id]) problems.push(`checks.${c.id}: no caution "${id}"`);
    measured(`checks.${c.id}`, c.measures, c.outcomes);
    if (c.repeats !== undefined && k.checks.every((x) => x.id !== c.repeats))
      problems.push(`checks.${c.id}.repeats: no check "${c.repeats}"`);
  }
  for (const r of k.rungs) {
    table(
      `rungs.${r.id}`,
      r.outcomes.map((o) => o.id),
      r.otherwise,
      r.rows,
    );
    for (const id of r.cautions) if (!k.cautions[id]) problems.push(`rungs.${r.id}: no caution "${id}"`);
    measured(`rungs.${r.id}`, r.measures, r.outcomes);
  }
  const tables = new Set(k.evidence.map((t) => t.evidence));
  problems.push(...checkBenchKnowledge(k.bench).map((p) => `bench.${p}`));
  for (const d of k.debris.kinds)
    if (d.table !== null && !tables.has(d.table)) problems.push(`debris.${d.id}: no evidence table "${d.table}"`);
  const cured = new Set(k.repairs.flatMap((r) => r.cures.flatMap((c) => c.faults)));
  for (const r of k.repairs) {
    for (const id of r.cautions) if (!k.cautions[id]) problems.push(`repairs.${r.id}: no caution "${id}"`);
    for (const c of r.cures)
      for (const f of c.faults) if (!faultIds.has(f)) problems.push(`repairs.${r.id}: no fault "${f}"`);
  }
  for (const f of k.faults)
    if (f.like !== undefined && k.faults.every((o) => o.id !== f.like || o.like !== undefined))
      problems.push(`faults.${f.id}: "${f.like}" isn’t a fault in its own right`);
  for (const id of k.holds) if (!k.cautions[id]) problems.push(`holds: no caution "${id}"`);
  for (const f of faultIds) if (!cured.has(f)) problems.push(`faults.${f}: no repair cures it`);
  return problems;
}
