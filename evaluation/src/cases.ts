import type { Unit } from "@gearsense/core/unit";
import {
  componentsFor,
  DIALECTS,
  type DialectName,
  FAULT_KINDS,
  faultKind,
  faultKindsFor,
  PROFILES,
  type ProfileName,
  type SimulatedFault,
  seededRandom,
} from "@gearsense/simulator";

/** Thresholds are set on the tuning cases alone; the figures that are published come from the held-out ones. */
export type CaseSet = "tuning" | "held-out";

export type CaseGroup = "healthy" | "element" | "shudder" | "look-alike" | "sensor" | "limp" | "other";

export interface EvaluationCase {
  readonly number: number;
  readonly group: CaseGroup;
  readonly unitId: string;
  readonly seed: number;
  readonly fault: SimulatedFault | undefined;
  readonly profile: ProfileName;
  /** rows a second; channels that are polled in turn have fewer readings */
  readonly rateHz: number;
  readonly dialect: DialectName;
  readonly durationS: number;
}

/** Groups of rates that the table has, by readings a second of each channel. */
export const RATE_GROUPS = [
  ["20 Hz or better", 19, Number.POSITIVE_INFINITY],
  ["10 Hz", 9, 19],
  ["5 Hz and less", 0, 9],
] as const;
const DURATION_S = 300;

/** Faults that take one element's grip. */
export const OF_ELEMENT: ReadonlySet<string> = new Set([
  "element-worn",
  "element-leak",
  "valve-bore-worn",
  "valve-clip-broken",
  "solenoid-leaks",
  "one-way-slips",
  "dual-clutch-worn",
  "clutch-pressure-low",
]);

/** Kinds by what they put to the test, with the drives on which they show. */
const GROUPS: Readonly<
  Record<Exclude<CaseGroup, "healthy" | "other">, readonly [readonly string[], readonly ProfileName[]]>
> = {
  element: [[...OF_ELEMENT], ["hill", "steep-hill", "mixed", "kick-down"]],
  shudder: [
    ["fluid-spoiled", "converter-glazed", "fluid-water"],
    ["coast-road", "motorway", "mixed"],
  ],
  "look-alike": [
    ["misfire", "wheel-imbalance", "converter-imbalance", "gear-damaged", "sensor-noisy", "launch-judder"],
    ["coast-road", "motorway", "mixed", "stop-and-go"],
  ],
  sensor: [
    ["sensor-drops-out", "sensor-dead", "signal-wire-open", "connector-wet"],
    ["mixed", "town", "coast-road"],
  ],
  limp: [
    ["solenoid-open", "solenoid-short", "sensor-dead", "supply-net-open", "hydraulic-pump-weak"],
    ["mixed", "town", "coast-road", "hill"],
  ],
};
/** Twenty cases go round the groups once. */
const ROUND: readonly CaseGroup[] = [
  "healthy",
  "element",
  "shudder",
  "sensor",
  "other",
  "element",
  "look-alike",
  "limp",
  "healthy",
  "element",
  "shudder",
  "other",
  "sensor",
  "look-alike",
  "healthy",
  "element",
  "shudder",
  "limp",
  "look-alike",
  "other",
];
/** Half of all cases at 20 rows a second. */
const RATE_ROUND = [20, 40, 20, 10, 20, 5, 20, 10] as const;
const GROUPED = new Set(Object.values(GROUPS).flatMap(([kinds]) => kinds));
/** Readings a second of each channel. */
export const readingsHz = (c: EvaluationCase): number => c.rateHz / DIALECTS[c.dialect].roundRobin;

/** Each set draws from seeds of its own. */
const SALT: Readonly<Record<CaseSet, number>> = { tuning: 0x51ed2701, "held-out": 0x2f6b9a35 };

const pick = <T>(random: () => number, from: readonly T[]): T => from[Math.floor(random() * from.length)] as T;

/**
 * A case by its number: the same seed, set and number give the same case.
 * @param units - all units that take part
 */
export function drawCase(set: CaseSet, seed: number, number: number, units: readonly Unit[]): EvaluationCase {
  const random = seededRandom((SALT[set] ^ Math.imul(seed, 0x9e3779b1) ^ Math.imul(number + 1, 0x85ebca6b)) >>> 0);
  // some numbers to part neighbouring seeds
  for (let i = 0; i < 4; i++) random();
  const group = ROUND[number % ROUND.length] as CaseGroup;
  let unit = units[(number * 3 + Math.floor(number / ROUND.length)) % units.length] as Unit;
  if (group === "shudder")
    unit = pick(
      random,
      units.filter((u) => u.kind === "planetary"),
    );
  const possible = faultKindsFor(unit).map((k) => k.id);
  const kinds =
    group === "healthy"
      ? []
      : (group === "other" ? FAULT_KINDS.map((k) => k.id).filter((k) => !GROUPED.has(k)) : GROUPS[group][0]).filter(
          (k) => possible.includes(k),
        );
  const kind = kinds.length > 0 ? pick(random, kinds) : undefined;
  const parts = kind ? componentsFor(unit, faultKind(kind)) : [];
  const fault =
    kind === undefined
      ? undefined
      : {
          kind,
          ...(parts.length > 0 ? { component: pick(random, parts) } : {}),
          severity: 0.5 + 0.5 * random(),
          // limp needs some driving before it
          ...(group === "limp" ? { onsetS: 60 + 60 * random() } : {}),
        };
  const drives = group === "healthy" || group === "other" ? (Object.keys(PROFILES) as ProfileName[]) : GROUPS[group][1];
  return {
    number,
    group,
    unitId: unit.id,
    seed: Math.floor(random() * 2 ** 31),
    fault,
    profile: pick(random, drives),
    rateHz: RATE_ROUND[Math.floor(random() * RATE_ROUND.length)] as number,
    dialect: pick(random, Object.keys(DIALECTS) as DialectName[]),
    durationS: DURATION_S,
  };
}
