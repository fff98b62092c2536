import { type CauseSign, causeOdds, causeSigns, marginsOf, packBuilt, ratedPressureKpa } from "@gearsense/core/bench";
import type { AnalysedLog } from "@gearsense/core/drive";
import { type BenchValue, type Entry, type EntryBodies, type EntryKind, foldJob, slotOf } from "@gearsense/core/job";
import type { BenchKnowledge } from "@gearsense/core/knowledge";
import type { Element, Unit } from "@gearsense/core/unit";
import { seededRandom } from "@gearsense/simulator";

export interface AutopsyScore {
  readonly cause: string;
  /** place of the true cause among all, from 1 */
  readonly rank: number;
  /** of the first */
  readonly stated: number;
  readonly signs: number;
}

export interface AutopsySummary {
  readonly cases: number;
  readonly first: number;
  readonly inThree: number;
  /** stated odds of the first against how often it was right, in fifths of those that were stated */
  readonly calibration: readonly {
    readonly from: number;
    readonly to: number;
    readonly stated: number;
    readonly right: number;
    readonly cases: number;
  }[];
  /** mean of |stated − right| over the bins, by their size */
  readonly off: number;
}

/** What really happened to one vehicle before it came; degrees, litres, millimetres. */
interface Story {
  readonly cause: string;
  peakC: number;
  fullL: number;
  rightFluid: boolean;
  struck: boolean;
  raisedShare: number;
  clearanceShare: number;
  pressureShare: number;
  debrisMetal: number;
  coolerLMin: number;
  slippedWeeks: number;
  wrongPart: boolean;
  openedBefore: boolean;
  worksHard: boolean;
}

/** How a family of vehicles and shops is: 0 the one that the knowledge was written for, any other has its parameters moved. */
interface World {
  readonly looks: number;
  readonly tells: number;
  readonly moved: () => number;
}

const clamp = (x: number, low: number, high: number) => Math.min(high, Math.max(low, x));

function worldOf(world: number): World {
  const random = seededRandom(Math.imul(world + 1, 0x9e3779b1) ^ 0x51f15e);
  for (let i = 0; i < 5; i++) random();
  if (world === 0) return { looks: 0.85, tells: 0.85, moved: () => 1 };
  return { looks: 0.7 + 0.2 * random(), tells: 0.65 + 0.25 * random(), moved: () => 0.7 + 0.6 * random() };
}

/**
 * Draws what broke a unit and what that did to it: heat, wear, seals, debris follow from the story, not from the tables that judge
 * it. A cause seldom comes alone: slipping heats, heat hardens, little fluid starves.
 */
function drawStory(cause: string, random: () => number, world: World): Story {
  const between = (a: number, b: number) => a + (b - a) * random();
  const m = world.moved;
  const s: Story = {
    cause,
    peakC: between(92, 118),
    fullL: random() < 0.12 ? -between(0.5, 1.2) : between(-0.2, 0.2),
    rightFluid: random() > 0.03,
    struck: random() < 0.05,
    raisedShare: random() < 0.06 ? between(1.1, 1.3) : between(0.7, 1),
    clearanceShare: between(0.15, 0.85),
    pressureShare: between(0.96, 1.06),
    debrisMetal: random() < 0.1 ? 2 : random() < 0.4 ? 1 : 0,
    coolerLMin: between(3, 8),
    slippedWeeks: between(0, 3),
    wrongPart: random() < 0.04,
    openedBefore: random() < 0.14,
    worksHard: random() < 0.28,
  };
  switch (cause) {
    case "impact":
      s.struck = true;
      s.slippedWeeks = between(0, 0.3);
      s.debrisMetal = random() < 0.55 ? 3 : 1;
      if (random() < 0.4) s.fullL = -between(0.5, 3);
      break;
    case "heat":
      s.peakC = between(132, 132 + 26 * m());
      s.worksHard = random() < 0.78;
      break;
    case "low-fluid":
      s.fullL = random() < 0.92 ? -between(1, 3.5) : between(-0.2, 0.2);
      s.peakC += between(5, 25 * m());
      break;
    case "wrong-fluid":
      s.rightFluid = random() > 0.95;
      break;
    case "raised-power":
      s.raisedShare = between(1.12, 1.5 * m());
      s.worksHard = random() < 0.5;
      break;
    case "wrong-clearance":
      s.clearanceShare = random() < 0.45 ? -between(0.15, 0.5) : 1 + between(0.2, 0.7);
      s.openedBefore = random() < 0.92;
      break;
    case "low-pressure":
      s.pressureShare = between(0.55, 0.82);
      break;
    case "debris":
      s.debrisMetal = random() < 0.8 ? 3 : 2;
      s.openedBefore = random() < 0.7;
      if (random() < 0.45) s.coolerLMin = between(0.5, 1.8);
      break;
    case "cooler":
      s.coolerLMin = between(0.2, 1.6);
      s.peakC = between(125, 125 + 26 * m());
      break;
    case "slipping-long":
      s.slippedWeeks = between(5, 30);
      s.peakC += between(8, 32 * m());
      break;
    case "assembly":
      s.wrongPart = random() < 0.9;
      s.openedBefore = random() < 0.93;
      s.slippedWeeks = between(0, 1);
      break;
  }
  return s;
}

const MICROMETER = { instrument: "Micrometer", percent: 0, fixed: 0.006 };

/** What a technician who takes the unit apart writes down of a story: not all is looked at, readings scatter, owners forget. */
function written(unit: Unit, s: Story, random: () => number, world: World): { entries: Entry[]; logs: AnalysedLog[] } {
  const between = (a: number, b: number) => a + (b - a) * random();
  const looked = () => random() < world.looks;
  const told = () => random() < world.tells;
  const entries: Entry[] = [];
  const write = <K extends EntryKind>(kind: K, body: EntryBodies[K]) => {
    const id = `00000000-0000-4000-8000-${String(entries.length + 1).padStart(12, "0")}`;
    entries.push({
      id,
      seq: entries.length + 1,
      at: "2026-11-30T10:00:00.000Z",
      author: "A",
      source: "typed",
      kind,
      slot: slotOf(kind, body, id),
      body,
    } as Entry);
  };
  const bench = (place: string, more: Partial<EntryBodies["bench"]>) =>
    write("bench", { place, title: place, values: [], looks: [], chosen: [], note: "", ...more });
  const look = (id: string, outcome: string, pass = false) => ({ id, name: id, outcome, label: outcome, pass });
  // heat of slip stays in its pack; that of the fluid reaches all
  const slips =
    s.slippedWeeks > 4 || s.pressureShare < 0.9 || s.raisedShare > 1.1 || s.fullL < -1 || s.clearanceShare > 1.1;
  const events: EntryBodies["intake"]["events"] = [
    ...(s.struck && told() ? [{ kind: "impact" as const, what: "" }] : []),
    ...(s.raisedShare > 1.1 && told() ? [{ kind: "more-power" as const, what: "" }] : []),
    ...(random() < 0.5 ? [{ kind: "engine-work" as const, what: "" }] : []),
  ];
  write("intake", {
    complaint: "slips",
    symptoms: [],
    doneAlready: "",
    recentEvents: "",
    events,
    history: [
      ...(s.openedBefore && told() ? [{ kind: "part" as const, what: "rebuilt" }] : []),
      ...(random() < 0.6 ? [{ kind: "service" as const, what: "" }] : []),
    ],
    duty: [
      ...(s.worksHard ? [random() < 0.5 ? ("tow" as const) : ("hills" as const)] : []),
      ...(random() < 0.4 ? ["taxi" as const] : []),
    ],
  });
  if (looked())
    write("level", {
      state: s.fullL < -0.6 && random() < 0.95 ? "low" : s.fullL > 0.6 ? "high" : "ok",
      method: "plug",
      fluidC: 40,
      litresFromFull: null,
      engineRunning: true,
      note: "",
    });
  const burntPack = slips || s.peakC > 138;
  if (looked())
    write("fluid", {
      colour: s.peakC > 130 ? "black" : "amber",
      smell:
        s.peakC > 134 || (burntPack && s.slippedWeeks > 4 && random() < 0.75) || (burntPack && random() < 0.3)
          ? "burnt"
          : s.peakC > 118 || random() < 0.22
            ? "varnish"
            : "none",
      note: "",
    });
  if (looked()) {
    const outcome = !s.rightFluid
      ? "wrong"
      : s.peakC > 128 && random() < 0.5
        ? "spent"
        : random() < 0.12
          ? "spent"
          : "right";
    write("check", {
      ...{
        checkId: "fluid-kind",
        component: "unit",
        title: "Fluid",
        outcome,
        outcomeLabel: outcome,
        abnormal: outcome !== "right",
      },
      ...{ minutes: 5, note: "" },
    });
  }
  const packs = unit.elements.filter((e) => e.bench && e.plates && e.kind !== "fork");
  const pressure = ratedPressureKpa(unit) ?? 1700;
  const weakest = [...packs].sort((a, b) => margin(unit, a, pressure) - margin(unit, b, pressure))[0] as Element;
  // who gives up: the weakest under power, any other by chance
  const failed =
    s.raisedShare > 1.1 && random() < 0.8 ? weakest : (packs[Math.floor(random() * packs.length)] as Element);
  const seals =
    s.peakC > 128
      ? random() < 0.72
        ? "hard"
        : "sound"
      : s.pressureShare < 0.9
        ? random() < 0.7
          ? random() < 0.5
            ? "hard"
            : "torn"
          : "sound"
        : s.wrongPart
          ? random() < 0.55
            ? "torn"
            : "sound"
          : random() < 0.17
            ? "hard"
            : "sound";
  for (const e of packs) {
    const isFailed = e.id === failed.id;
    if (!isFailed && random() > 0.75 * world.looks) continue;
    const b = e.bench;
    if (!b || b.frictionPlateNewMm === undefined) continue;
    const everywhere =
      s.peakC > 136 ||
      (s.fullL < -1 && random() < 0.7) ||
      (!s.rightFluid && random() < 0.5) ||
      (s.pressureShare < 0.75 && random() < 0.45);
    const burnt = isFailed ? burntPack || random() < 0.35 : everywhere && random() < 0.85;
    const share = burnt ? between(0.75, 1.5) : between(0.05, isFailed ? 0.6 : 0.4);
    const newMm = b.frictionPlateNewMm;
    const plates = Array.from({ length: e.plates ?? 0 }, (_, i): BenchValue => {
      const mm = newMm - share * (newMm - b.frictionPlateMinMm) * between(0.85, 1.1);
      return {
        id: `plate-${i + 1}`,
        name: `Plate ${i + 1}`,
        unit: "mm",
        readings: [1, 2, 3].map(() => mm + 0.006 * (2 * random() - 1)),
        from: b.frictionPlateMinMm,
        ...MICROMETER,
      };
    });
    const [low, high] = b.clearanceMm;
    const own = isFailed ? low + s.clearanceShare * (high - low) : between(low, high);
    const lost = plates.reduce((sum, v) => sum + newMm - (v.readings[0] as number), 0);
    const spots = burnt
      ? s.slippedWeeks > 4 || s.peakC > 140
        ? random() < 0.65
          ? "blue"
          : "spots"
        : random() < 0.6
          ? "spots"
          : "clean"
      : s.peakC > 128 && random() < 0.5
        ? "spots"
        : random() < 0.2
          ? "spots"
          : "clean";
    bench(`pack:${e.id}`, {
      values: [
        ...plates,
        {
          id: "clearance",
          name: "Clearance",
          unit: "mm",
          readings: [own + lost + 0.03 * (2 * random() - 1)],
          instrument: "Feeler",
          percent: 0,
          fixed: 0.03,
          from: low,
          to: high,
        },
      ],
      looks: [
        look("colour", burnt ? "black" : "normal", !burnt),
        look("spots", spots, spots === "clean"),
        ...(isFailed && looked() ? [look("seals", seals, seals === "sound")] : []),
      ],
    });
  }
  if (looked())
    bench("teardown", {
      looks: [
        look("damage", s.struck && random() < 0.88 ? "broken" : random() < 0.03 ? "broken" : "none"),
        look("parts", s.wrongPart ? "wrong" : "right"),
        ...(told() ? [look("since", s.slippedWeeks > 3 ? "long" : "short")] : []),
      ],
    });
  if (looked()) {
    const metal = s.debrisMetal >= 3 || (s.debrisMetal === 2 && random() < 0.5);
    const out = metal ? "metal" : burntPack && random() < 0.8 ? "lining" : "clean";
    bench("cooler", {
      values: [
        {
          id: "flow",
          name: "Flow",
          unit: "l/min",
          readings: [s.coolerLMin * between(0.95, 1.05)],
          instrument: "Can",
          percent: 5,
          fixed: 0.05,
          from: 2,
        },
      ],
      looks: [look("came-out", out, out === "clean")],
    });
  }
  if (looked()) {
    const row = unit.bench?.linePressure?.find((r) => r.range === "D");
    if (row?.stallKpa) {
      const [from, to] = row.stallKpa;
      const starved = s.fullL < -1.5 ? between(0.6, 1) : 1;
      const idle = ((row.idleKpa[0] + row.idleKpa[1]) / 2) * s.pressureShare * starved;
      const stall = (from + 0.25 * (to - from)) * s.pressureShare * starved;
      const gauge = { instrument: "Gauge", percent: 1.5, fixed: 15, unit: "kPa" };
      bench("pressure", {
        values: [
          { id: "idle-D", name: "idle", readings: [idle], from: row.idleKpa[0], to: row.idleKpa[1], ...gauge },
          { id: "stall-D", name: "stall", readings: [stall], from, to, ...gauge },
        ],
      });
    }
  }
  if (random() < 0.6) {
    const most = s.raisedShare * unit.maxInputTorqueNm * 0.92;
    bench("converter-choice", {
      curve: [
        [1000, 0.6 * most],
        [2000, most],
        [4000, 0.95 * most],
      ],
    });
  }
  const logs: AnalysedLog[] =
    random() < 0.75
      ? [
          {
            logId: "l",
            entryId: "e",
            analysis: {
              heat: { sensor: "fluid", highestC: clamp(s.peakC - between(0, 14), 60, 170) },
              findings: slips && random() < 0.85 ? [{ kind: "slip" }] : [],
            },
          } as unknown as AnalysedLog,
        ]
      : [];
  return { entries, logs };
}

const margin = (unit: Unit, e: Element, kpa: number): number => {
  const pack = packBuilt(e);
  return pack ? (marginsOf(unit, e.id, pack, kpa, unit.maxInputTorqueNm)[0]?.margin ?? 99) : 99;
};

/** Draws one vehicle whose cause is known. @returns the cause, and what was seen of it */
export function drawnSigns(
  units: readonly Unit[],
  k: BenchKnowledge,
  seed: number,
  world = 0,
): { readonly cause: string; readonly signs: readonly CauseSign[] } {
  const random = seededRandom(Math.imul(seed, 7919) ^ 0x2f6e2b1);
  for (let i = 0; i < 4; i++) random();
  const w = worldOf(world);
  const unit = units[Math.floor(random() * units.length)] as Unit;
  const total = k.causes.reduce((s, c) => s + c.weight, 0);
  let left = random() * total;
  const cause = (
    k.causes.find((c) => {
      left -= c.weight;
      return left <= 0;
    }) ?? k.causes[0]
  )?.id as string;
  const { entries, logs } = written(unit, drawStory(cause, random, w), random, w);
  return { cause, signs: causeSigns(unit, foldJob(entries), logs) };
}

/** Draws one vehicle whose cause is known and judges it from what was written down. */
export function drawAutopsy(units: readonly Unit[], k: BenchKnowledge, seed: number, world = 0): AutopsyScore {
  const { cause, signs } = drawnSigns(units, k, seed, world);
  const odds = causeOdds(k, signs);
  return {
    cause,
    rank: odds.findIndex((c) => c.id === cause) + 1,
    stated: odds[0]?.probability ?? 0,
    signs: signs.length,
  };
}

const BINS = 5;

export function summariseAutopsies(scores: readonly AutopsyScore[]): AutopsySummary {
  const cases = scores.length;
  const sorted = [...scores].sort((a, b) => a.stated - b.stated);
  const calibration = Array.from({ length: BINS }, (_, i) => {
    const bin = sorted.slice(Math.floor((i * cases) / BINS), Math.floor(((i + 1) * cases) / BINS));
    const n = Math.max(1, bin.length);
    return {
      from: bin[0]?.stated ?? 0,
      to: bin.at(-1)?.stated ?? 0,
      stated: bin.reduce((s, b) => s + b.stated, 0) / n,
      right: bin.filter((b) => b.rank === 1).length / n,
      cases: bin.length,
    };
  });
  return {
    cases,
    first: scores.filter((s) => s.rank === 1).length / cases,
    inThree: scores.filter((s) => s.rank <= 3).length / cases,
    calibration,
    off: calibration.reduce((s, b) => s + (b.cases / cases) * Math.abs(b.stated - b.right), 0),
  };
}

/** Fewer units of a cause count nothing. */
const LEAST_UNITS = 30;
/** What was never seen isn't impossible. */
const UNSEEN = 0.5;

/** The knowledge with what each cause shows counted on drawn units; what is judged stays as it is. */
export function countedCauses(units: readonly Unit[], k: BenchKnowledge, from: number, cases: number): BenchKnowledge {
  const seen = new Map<string, number>();
  const more = (key: string) => seen.set(key, (seen.get(key) ?? 0) + 1);
  for (let i = 0; i < cases; i++) {
    const { cause, signs } = drawnSigns(units, k, from + i);
    for (const s of signs) more(`${s.sign} ${cause} ${s.outcome}`);
  }
  const round = (x: number) => Math.round(1e4 * x) / 1e4;
  return {
    ...k,
    signs: k.signs.map((t) => ({
      ...t,
      counted: Object.fromEntries(
        k.causes.flatMap((c) => {
          const of = t.outcomes.map((o) => seen.get(`${t.sign} ${c.id} ${o}`) ?? 0);
          const n = of.reduce((a, b) => a + b, 0);
          if (n < LEAST_UNITS) return [];
          const p = of.map((x) => round((x + UNSEEN) / (n + UNSEEN * of.length)));
          // the largest takes what rounding has left
          const largest = p.indexOf(Math.max(...p));
          p[largest] = round((p[largest] as number) + 1 - p.reduce((a, b) => a + b, 0));
          return [[c.id, { units: n, p: Object.fromEntries(t.outcomes.map((o, i) => [o, p[i] as number])) }]];
        }),
      ),
    })),
  };
}
