import { draw } from "@gearsense/core/chance";
import { generateFaults, type Knowledge } from "@gearsense/core/suspect";
import type { Unit } from "@gearsense/core/unit";
import {
  componentsFor,
  faultKind,
  faultKindsFor,
  OUTSIDE_KINDS,
  type Phase,
  PROFILES,
  type ProfileName,
  type SimulatedFault,
  seededRandom,
  startFluidC,
} from "@gearsense/simulator";
import type { CaseSet } from "./cases.ts";
import { faultIdOf } from "./catalogue.ts";
import { type World, worldOf } from "./world.ts";

export interface Drive {
  readonly phases: readonly Phase[];
  readonly startFluidC: number;
  readonly durationS: number;
}

/** A vehicle that comes into the workshop: what is wrong with it, and how it is driven. */
export interface JobCase {
  readonly number: number;
  readonly unitId: string;
  readonly seed: number;
  readonly faults: readonly SimulatedFault[];
  /** the same in the words of the catalogue */
  readonly faultIds: readonly string[];
  /**
   * the same road for all from cold, then one where the complaint is sought, with a stretch backwards while hot; the
   * rest is driven as long as nothing has shown
   */
  readonly drives: readonly Drive[];
  readonly rateHz: number;
  /** which vehicle it is, on every drive, and of which family */
  readonly vehicleSeed: number;
  readonly world: number;
  /** its fault is not in the catalogue: `faultIds` is empty though something is wrong */
  readonly outside: boolean;
}

/** Of twenty vehicles two have nothing wrong and two have two faults. */
const ROUND = ["one", "one", "nothing", "one", "one", "one", "one", "two", "one", "one"] as const;
const COLD_S = 270;
const DURATION_S = 440;
const RATES_HZ = [20, 20, 40] as const;
/** Somebody who looks for the complaint drives where it shows. */
const DRIVES: readonly (readonly [RegExp, readonly ProfileName[]])[] = [
  [
    /^(element|solenoid-(leaks|stuck)|valve|one-way|pump|pressure|filter|fluid-(low|wrong|overfull))/,
    ["mixed", "hill", "mixed", "steep-hill"],
  ],
  [
    /^(converter|fluid-(degraded|water)|stator|misfire|wheel|shaft-joint|gear-damage)/,
    ["mixed", "motorway", "coast-road"],
  ],
  [/^(dual-clutch|clutch-cooling|fork|hydraulic)/, ["mixed", "stop-and-go", "hill"]],
];
/** A fault of a circuit comes while driving. */
const COMES_LATER =
  /^(solenoid-circuit|sensor-failed|sensor-drops-out|sensor-rough|wire|supply|ground|hydraulic-pump|connector-wet)/;
const SALT: Readonly<Record<CaseSet, number>> = { tuning: 0x1b56c4e9, "held-out": 0x7c3a91d5 };

const pick = <T>(random: () => number, from: readonly T[]): T => from[Math.floor(random() * from.length)] as T;

/** Rare classes come nearly as often as common ones: all of them have to be counted. */
const EVENLY = 0.35;

/** Weights of the classes for counting, by what they weigh over all their components. */
function evened(unit: Unit, knowledge: Knowledge): Knowledge {
  const count = new Map<string, number>();
  for (const f of generateFaults(unit, knowledge)) count.set(f.classId, (count.get(f.classId) ?? 0) + 1);
  return {
    ...knowledge,
    faults: knowledge.faults.map((c) => {
      const n = count.get(c.id) ?? 1;
      return { ...c, weight: (c.weight * n) ** EVENLY / n };
    }),
  };
}

/** One of so many has nothing wrong: what shows without any fault is counted as well. */
const SOUND_EVERY = 6;

/** Worlds from here on are for counting; the examiner's are below. */
const COUNTING_WORLDS = 10_000;

/**
 * A vehicle with one fault, or none, for counting what its class shows. Always of the tuning set, and each of a world of its
 * own: what is counted over many families holds for one that was never seen.
 */
export function drawSpecimen(seed: number, number: number, units: readonly Unit[], knowledge: Knowledge): JobCase {
  const unit = units[number % units.length] as Unit;
  const kind = Math.floor(number / units.length) % SOUND_EVERY === 0 ? "nothing" : "one";
  const job = drawJob("tuning", seed, number * ROUND.length + ROUND.indexOf(kind), [unit], evened(unit, knowledge));
  return { ...job, world: COUNTING_WORLDS + number };
}

/** A vehicle with nothing wrong. Always of the tuning set. */
export const drawSound = (seed: number, number: number, unit: Unit, knowledge: Knowledge): JobCase =>
  drawJob("tuning", seed, number * ROUND.length + ROUND.indexOf("nothing"), [unit], knowledge);

/**
 * A job by its number, its faults drawn by the prior weights of the catalogue: what is stated as 80 % can only be right
 * in 80 % of vehicles that come in as often as the priors say.
 */
export function drawJob(
  set: CaseSet,
  seed: number,
  number: number,
  units: readonly Unit[],
  knowledge: Knowledge,
  world: World = worldOf(0),
): JobCase {
  const random = seededRandom((SALT[set] ^ Math.imul(seed, 0x9e3779b1) ^ Math.imul(number + 1, 0x85ebca6b)) >>> 0);
  for (let i = 0; i < 4; i++) random();
  const unit = units[(number * 3 + Math.floor(number / ROUND.length)) % units.length] as Unit;
  const kind = ROUND[number % ROUND.length];
  const made = simulated(unit);
  const possible = generateFaults(unit, knowledge)
    .filter((f) => made.has(f.id))
    .map((f) => ({ ...f, weight: f.weight * world.priorFactor(f.classId) }));
  const chosen: SimulatedFault[] = [];
  const ids: string[] = [];
  const outside = kind === "one" && world.outside > 0 && random() < world.outside;
  const wanted = kind === "nothing" || outside ? 0 : kind === "two" ? 2 : 1;
  if (outside) chosen.push({ kind: pick(random, OUTSIDE_KINDS).id, severity: 0.55 + 0.45 * random() });
  while (ids.length < wanted) {
    const total = possible.reduce((s, f) => s + f.weight, 0);
    const fault =
      possible[
        draw(
          possible.map((f) => f.weight / total),
          random,
        )
      ];
    if (!fault || ids.includes(fault.id) || excludes(knowledge, ids[0], fault.id)) continue;
    ids.push(fault.id);
    const { kind: k, component } = pick(random, made.get(fault.id) as SimulatedFault[]);
    chosen.push({
      kind: k,
      ...(component === undefined ? {} : { component }),
      severity: 0.55 + 0.45 * random(),
      ...(COMES_LATER.test(fault.id) ? { onsetS: 40 + 80 * random() } : {}),
    });
  }
  const drives = DRIVES.find(([is]) => is.test(ids[0] ?? ""))?.[1] ?? ["mixed", "hill", "coast-road", "town"];
  const first = pick(random, drives);
  const vehicleSeed = Math.floor(random() * 2 ** 31);
  return {
    number,
    unitId: unit.id,
    seed: vehicleSeed,
    vehicleSeed,
    world: world.number,
    outside,
    faults: chosen,
    faultIds: ids,
    drives: [
      driveOn("cold-start", COLD_S, [stand(4, "P"), ...ENGAGED, ...ENGAGED, ...PROFILES["cold-start"]]),
      driveOn(first, DURATION_S, endingBackwards(PROFILES[first], DURATION_S)),
      HOT_AND_HARD,
      MANOEUVRES,
    ],
    rateHz: pick(random, RATES_HZ),
  };
}

const driveOn = (profile: ProfileName, durationS: number, phases: readonly Phase[]): Drive => ({
  phases,
  startFluidC: startFluidC(profile),
  durationS,
});

const stand = (seconds: number, range: "P" | "D" | "N" | "R"): Phase => ({
  seconds,
  targetKmh: 0,
  pedal: 0,
  grade: 0,
  range,
});
/** Foot on the brake, each direction out of neutral: an element of the first gear has no shift to be timed by. */
const ENGAGED: readonly Phase[] = [stand(4, "D"), stand(3, "N"), stand(4, "R"), stand(3, "N")];
const BACKWARDS: readonly Phase[] = [
  stand(18, "D"),
  stand(3, "N"),
  stand(4, "R"),
  stand(3, "N"),
  ...ENGAGED,
  stand(3, "R"),
  { seconds: 12, targetKmh: 16, pedal: 0.4, grade: 0, range: "R" },
  stand(6, "R"),
  stand(3, "D"),
];

/** Starts on a hill, then up it, then fast. */
const HOT_AND_HARD: Drive = {
  phases: [
    ...Array.from({ length: 5 }, () => [
      { seconds: 10, targetKmh: 18, pedal: 0.5, grade: 0.12 },
      { seconds: 4, targetKmh: 0, pedal: 0, grade: 0.12 },
    ]).flat(),
    ...PROFILES["steep-hill"],
    ...PROFILES.motorway,
    ...PROFILES["kick-down"],
  ],
  startFluidC: 92,
  durationS: 560,
};
/** Out of a yard and in again, then steadily along. */
const MANOEUVRES: Drive = {
  phases: [
    ...Array.from({ length: 4 }, () => [
      stand(4, "R"),
      { seconds: 8, targetKmh: 12, pedal: 0.35, grade: 0, range: "R" } as const,
      stand(4, "R"),
      stand(3, "D"),
      { seconds: 8, targetKmh: 18, pedal: 0.3, grade: 0 },
      stand(5, "D"),
    ]).flat(),
    ...PROFILES["coast-road"],
  ],
  startFluidC: 60,
  durationS: 420,
};

/** A road over and over, and at its end to rest and backwards. */
function endingBackwards(road: readonly Phase[], durationS: number): Phase[] {
  let left = durationS - BACKWARDS.reduce((s, p) => s + p.seconds, 0);
  const out: Phase[] = [];
  for (let i = 0; left > 0; i++) {
    const phase = road[i % road.length] as Phase;
    out.push({ ...phase, seconds: Math.min(phase.seconds, left) });
    left -= phase.seconds;
  }
  return [...out, ...BACKWARDS];
}

/** Faults of the catalogue that the simulator can make in a unit, with the ways to make them. */
function simulated(unit: Unit): Map<string, SimulatedFault[]> {
  const out = new Map<string, SimulatedFault[]>();
  for (const { id } of faultKindsFor(unit)) {
    const parts = componentsFor(unit, faultKind(id));
    for (const component of parts.length > 0 ? parts : [undefined]) {
      const fault = { kind: id, ...(component === undefined ? {} : { component }) } as SimulatedFault;
      const name = faultIdOf(unit, fault);
      out.set(name, [...(out.get(name) ?? []), fault]);
    }
  }
  return out;
}

function excludes(knowledge: Knowledge, a: string | undefined, b: string): boolean {
  if (a === undefined) return false;
  const [x, px] = a.split(":");
  const [y, py] = b.split(":");
  return px === py && knowledge.several.never.some(([m, n]) => (m === x && n === y) || (m === y && n === x));
}
