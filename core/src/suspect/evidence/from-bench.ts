import { judgedValue } from "../../bench/index.ts";
import type { EntryOf, JobState } from "../../job/index.ts";
import { weightOf } from "../../measure/index.ts";
import type { Unit } from "../../unit/index.ts";
import type { Evidence } from "./evidence.ts";

type Bench = EntryOf<"bench">;

/** How sure the eye is of what it sees on the bench. */
const SEEN = 0.95;

interface Found {
  readonly check: string;
  readonly component: string;
  readonly outcome: string;
  readonly usual: string;
  readonly label: string;
  readonly chance: number;
}

/**
 * What was measured and seen on the bench speaks of the faults as the check of the same thing does, with the weight of its
 * numbers. What was checked by itself already is not counted twice.
 */
export function fromBench(unit: Unit, state: JobState): Evidence[] {
  const checked = new Set(state.checks.map((c) => c.body.checkId));
  const list: Evidence[] = [];
  for (const entry of state.bench)
    for (const f of foundAt(unit, entry)) {
      const checkId = f.component === "unit" ? f.check : `${f.check}:${f.component}`;
      if (checked.has(checkId) || list.some((e) => e.checkId === checkId)) continue;
      list.push({
        id: `check:${checkId}`,
        table: "check",
        checkId,
        subject: { component: f.component },
        outcome: f.outcome,
        label: `Bench: ${f.label}`,
        entryId: entry.id,
        abnormal: f.outcome !== f.usual,
        weight: weightOf(f.chance),
      });
    }
  return list;
}

function foundAt(unit: Unit, { body }: Bench): Found[] {
  const [kind, about = ""] = body.place.split(":");
  const value = (id: string) => body.values.find((v) => v.id === id);
  const two = (id: string, check: string, component: string, good: string, bad: string, name: string): Found[] => {
    const v = value(id);
    if (!v) return [];
    const { inside, value: read } = judgedValue(v);
    const outcome = inside >= 0.5 ? good : bad;
    const label = `${name} ${Number(read.toPrecision(3))} ${v.unit}`;
    return [{ check, component, outcome, usual: good, label, chance: Math.max(inside, 1 - inside) }];
  };
  const looked = (
    id: string,
    check: string,
    component: string,
    outcomes: Readonly<Record<string, string>>,
    usual: string,
  ): Found[] => {
    const seen = body.looks.find((l) => l.id === id);
    const outcome = seen && outcomes[seen.outcome];
    return seen && outcome
      ? [{ check, component, outcome, usual, label: `${seen.name}: ${seen.label}`, chance: SEEN }]
      : [];
  };
  switch (kind) {
    case "pack":
      return packFound(unit, body, about);
    case "dual-clutch":
      return [
        ...unit.elements
          .filter((e) => e.kind === "dual-clutch")
          .flatMap((e) => two(`height-${e.id}`, "clutch-stack", e.id, "within", "worn", `Height of ${e.id}`)),
        ...unit.elements
          .filter((e) => e.kind === "fork")
          .flatMap((e) => two(`fork-${e.id}`, "fork-travel", e.id, "full", "short", `Travel of ${e.name}`)),
      ];
    case "electrical":
      return [
        ...unit.solenoids.flatMap((s) => [
          ...two(`coil-${s.id}`, "resistance", s.id, "in-window", "out", s.name),
          ...two(`case-${s.id}`, "coil-insulation", s.id, "isolated", "leaks", `${s.name} against the case`),
        ]),
        ...two("bus", "bus-measure", "unit", "good", "bad", "Bus"),
      ];
    case "air":
      return unit.elements.flatMap((e) =>
        looked(`air-${e.id}`, "air-check", e.id, { holds: "thud", hisses: "hiss", nothing: "slow" }, "thud"),
      );
    case "valve-body":
      return [
        ...unit.solenoids
          .filter((s) => unit.elements.some((e) => e.id === s.feeds))
          .flatMap((s) =>
            looked(
              `moves-${s.id}`,
              "valve-free",
              s.feeds,
              { free: "free", sticks: "sticks", broken: "broken" },
              "free",
            ),
          ),
        ...unit.elements.flatMap((e) =>
          two(`vacuum-${e.id}`, "vacuum-bore", e.id, "holds", "leaks", `Vacuum at the bore of ${e.id}`),
        ),
      ];
    case "cooler":
      return two("flow", "cooler-flow", "unit", "good", "low", "Flow through the cooler");
    case "pressure":
      return pressureFound(body);
    case "converter-open":
      return converterFound(body);
    default:
      return [];
  }
}

/** A pack: what the eye sees of seals and springs, what the numbers say of plates and clearance; the surest decides. */
function packFound(unit: Unit, body: Bench["body"], id: string): Found[] {
  const element = unit.elements.find((e) => e.id === id);
  if (!element) return [];
  const dual = element.kind === "dual-clutch";
  const check = dual ? "clutch-stack" : "pack-measure";
  const seen = (look: string, ...outcomes: readonly string[]) =>
    body.looks.some((l) => l.id === look && outcomes.includes(l.outcome));
  const numbers = body.values
    .filter((v) => /^(plate|steel)-\d+$/.test(v.id) || v.id === "clearance")
    .map((v) => ({ v, j: judgedValue(v) }));
  const wornBy = Math.max(
    0,
    ...numbers.map(({ v, j }) => (v.id === "clearance" ? j.above : j.below)),
    seen("colour", "black") || seen("flaking", "flakes", "bare") ? SEEN : 0,
  );
  const tight = Math.max(0, ...numbers.filter(({ v }) => v.id === "clearance").map(({ j }) => j.below));
  const outcomes: readonly (readonly [string, number])[] = dual
    ? [
        ["worn", wornBy],
        ["spots", seen("spots", "spots", "blue") ? SEEN : 0],
      ]
    : [
        ["seal", seen("seals", "hard", "torn") ? SEEN : 0],
        ["worn", wornBy],
        ["warped", Math.max(seen("flat", "coned") || seen("spring", "broken") ? SEEN : 0, tight)],
      ];
  // worn linings follow a seal that leaks; a seal does not follow worn linings
  const first = outcomes.find(([, chance]) => chance >= 0.5);
  const of = (outcome: string, chance: number): Found[] => [
    { check, component: id, outcome, usual: "within", label: `${element.name}, ${PACK_WORDS[outcome]}`, chance },
  ];
  if (first) return of(first[0], first[1]);
  // sound is said when all of its plates were measured, or its clearance
  const plates = numbers.filter(({ v }) => v.id.startsWith("plate-")).length;
  if (plates < (element.plates ?? 0) && !numbers.some(({ v }) => v.id === "clearance")) return [];
  return of(
    "within",
    numbers.reduce((p, { j }) => p * j.inside, 1),
  );
}

const PACK_WORDS: Readonly<Record<string, string>> = {
  within: "plates and clearance in",
  worn: "worn or burnt",
  seal: "seals damaged",
  warped: "warped, spring broken or too tight",
  spots: "hot spots",
};

function pressureFound(body: Bench["body"]): Found[] {
  const read = body.values.filter((v) => /^(idle|stall)-/.test(v.id)).map(judgedValue);
  if (read.length === 0) return [];
  const low = Math.max(...read.map((j) => j.below));
  const high = Math.max(...read.map((j) => j.above));
  const inside = read.reduce((p, j) => p * j.inside, 1);
  const [outcome, chance] = (
    [
      ["low", low],
      ["high", high],
      ["good", inside],
    ] as const
  ).reduce((a, b) => (b[1] > a[1] ? b : a));
  return [
    { check: "line-gauge", component: "unit", outcome, usual: "good", label: `line pressure ${outcome}`, chance },
  ];
}

function converterFound(body: Bench["body"]): Found[] {
  const seen = (look: string, ...outcomes: readonly string[]) =>
    body.looks.some((l) => l.id === look && outcomes.includes(l.outcome));
  const outcome = seen("splines", "gone")
    ? "splines"
    : seen("stator", "free", "seized")
      ? "stator"
      : seen("thrust", "worn") || seen("inside", "metal")
        ? "play"
        : body.looks.length >= 3
          ? "good"
          : undefined;
  return outcome
    ? [
        {
          check: "converter-bench",
          component: "converter-clutch",
          outcome,
          usual: "good",
          label: `converter ${outcome === "good" ? "sound" : outcome === "play" ? "end play or debris" : `${outcome} bad`}`,
          chance: SEEN,
        },
      ]
    : [];
}
