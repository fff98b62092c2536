import type { AnalysedLog } from "../drive/index.ts";
import type { JobState } from "../job/index.ts";
import { type BenchKnowledge, type Cause, signChance } from "../knowledge/index.ts";
import type { Unit } from "../unit/index.ts";
import { type BenchBody, benchValue, judgedValue } from "./judged.ts";
import { wearShare } from "./packs.ts";
import { verdictOf } from "./reading.ts";

/** One thing that speaks for or against causes. */
export interface CauseSign {
  readonly sign: string;
  readonly outcome: string;
  readonly label: string;
  readonly entryId: string;
}

export interface SignWeight {
  readonly sign: CauseSign;
  /** log₂ of how much likelier it is under this cause than under the others on average; over 0 it speaks for it */
  readonly bits: number;
  readonly why: string;
}

export interface CauseOdds {
  readonly id: string;
  readonly title: string;
  readonly probability: number;
  readonly weights: readonly SignWeight[];
}

/** The cause that no row of the knowledge describes. */
export const UNKNOWN_CAUSE = "unknown";
const UNKNOWN_WEIGHT = 0.4;
/** Signs of one failure come together: each counts for so much of its likelihood. */
export const SIGN_POWER = 0.9;

/**
 * Odds of every cause given the signs: weight times likelihoods, each to the power {@link SIGN_POWER}, made to sum to one. Signs
 * that no table knows are left out.
 * @returns likeliest first; the last words are those of the unknown cause
 */
export function causeOdds(k: BenchKnowledge, signs: readonly CauseSign[]): CauseOdds[] {
  const known: readonly Pick<Cause, "id" | "title" | "weight">[] = [
    ...k.causes,
    { id: UNKNOWN_CAUSE, title: "Something else", weight: UNKNOWN_WEIGHT },
  ];
  const used = signs.flatMap((sign) => {
    const table = k.signs.find((t) => t.sign === sign.sign);
    return table?.outcomes.includes(sign.outcome) ? [{ sign, table }] : [];
  });
  const chance = (cause: string, { sign, table }: (typeof used)[number]) => signChance(table, cause, sign.outcome);
  const raw = known.map((c) => used.reduce((p, u) => p * chance(c.id, u) ** SIGN_POWER, c.weight));
  const total = raw.reduce((a, b) => a + b, 0);
  const weightOf = (c: string, u: (typeof used)[number]): SignWeight => {
    const others = known.filter((o) => o.id !== c);
    const sum = others.reduce((s, o) => s + o.weight, 0);
    const mean = others.reduce((s, o) => s + o.weight * chance(o.id, u), 0) / sum;
    const row = u.table.rows.find((r) => r.causes.includes(c));
    return { sign: u.sign, bits: SIGN_POWER * Math.log2(chance(c, u) / mean), why: row?.why ?? "not of this cause" };
  };
  return known
    .map((c, i) => ({
      id: c.id,
      title: c.title,
      probability: (raw[i] as number) / total,
      weights: used.map((u) => weightOf(c.id, u)).sort((a, b) => Math.abs(b.bits) - Math.abs(a.bits)),
    }))
    .sort((a, b) => b.probability - a.probability);
}

/** The pack of a job that has lost most of its life, among those that were measured as they came out. */
export function failedPack(
  unit: Unit,
  state: Pick<JobState, "bench">,
): { readonly element: string; readonly wear: number } | undefined {
  const worn = state.bench.flatMap(({ body }) => {
    const element = body.place.startsWith("pack:") ? body.place.slice(5) : undefined;
    const b = unit.elements.find((e) => e.id === element)?.bench;
    const newMm = b?.frictionPlateNewMm;
    if (!element || !b || newMm === undefined) return [];
    const shares = body.values
      .filter((v) => /^plate-\d+$/.test(v.id))
      .map((v) => wearShare(judgedValue(v).value, newMm, b.frictionPlateMinMm));
    const burnt = body.looks.some((l) => BURNT.has(`${l.id}:${l.outcome}`));
    return shares.length === 0 && !burnt ? [] : [{ element, wear: Math.max(burnt ? 1 : 0, ...shares) }];
  });
  return worn.sort((a, b) => b.wear - a.wear)[0];
}

const BURNT: ReadonlySet<string> = new Set(["colour:black", "flaking:flakes", "flaking:bare", "glazed:glazed"]);
const METAL: ReadonlySet<string> = new Set(["slivers", "brass", "aluminium", "clip"]);
/** Fluid over these is warm, and too hot, °C. */
const HEAT_C = [115, 135] as const;
/** Debris counts from this amount on; a trace is in every pan. */
const MUCH = 2;

/**
 * What bench, logs, intake and pan say of the cause. What was not looked at says nothing.
 * @param analyses - of the drives before the repair
 */
export function causeSigns(unit: Unit, state: JobState, analyses: readonly AnalysedLog[]): CauseSign[] {
  const signs: CauseSign[] = [];
  const add = (sign: string, outcome: string | undefined, label: string, entryId: string | undefined) => {
    if (outcome !== undefined && entryId !== undefined) signs.push({ sign, outcome, label, entryId });
  };
  const place = (id: string) => state.bench.find((e) => e.body.place === id);
  const look = (body: BenchBody | undefined, id: string) => body?.looks.find((l) => l.id === id);
  fromIntake(state, add);
  const teardown = place("teardown");
  for (const id of ["damage", "parts", "since"]) {
    const seen = look(teardown?.body, id);
    add(id, seen?.outcome, `${seen?.name}: ${seen?.label}`, teardown?.id);
  }
  const packs = state.bench.filter((e) => e.body.place.startsWith("pack:"));
  const looked = packs.filter((e) => e.body.looks.some((l) => ["colour", "glazed", "flaking"].includes(l.id)));
  if (looked.length > 0) {
    const burnt = looked.filter((e) => e.body.looks.some((l) => BURNT.has(`${l.id}:${l.outcome}`)));
    const outcome =
      burnt.length === 0 ? "none" : burnt.length >= 2 && 2 * burnt.length >= looked.length ? "most" : "one";
    add("burnt", outcome, `Burnt linings: ${burnt.length} of ${looked.length} packs`, (burnt[0] ?? looked[0])?.id);
  }
  const worstLook = (list: typeof packs, id: string, order: readonly string[]) =>
    list
      .flatMap((e) => {
        const seen = look(e.body, id);
        return seen ? [{ e, seen }] : [];
      })
      .sort((a, b) => order.indexOf(b.seen.outcome) - order.indexOf(a.seen.outcome))[0];
  const spots = worstLook(packs, "spots", ["clean", "spots", "blue"]);
  add("spots", spots?.seen.outcome, `Steels: ${spots?.seen.label}`, spots?.e.id);
  const seals = worstLook(packs, "seals", ["sound", "hard", "torn"]);
  add("seals", seals?.seen.outcome, `Piston seals: ${seals?.seen.label}`, seals?.e.id);
  fromClearances(unit, state, add);
  const curve = state.bench.find((e) => e.body.curve && e.body.curve.length > 0);
  if (curve?.body.curve) {
    const most = Math.max(...curve.body.curve.map(([, nm]) => nm));
    add(
      "power",
      most > unit.maxInputTorqueNm ? "over" : "within",
      `Engine gives ${Math.round(most)} N·m, the unit bears ${unit.maxInputTorqueNm}`,
      curve.id,
    );
  }
  const pressure = place("pressure");
  if (pressure && pressure.body.values.length > 0) {
    const low = pressure.body.values.some((v) => {
      const j = judgedValue(v);
      return j.call === "out" && j.below > 0.5;
    });
    add("pressure", low ? "low" : "good", `Line pressure ${low ? "low" : "good"}`, pressure.id);
  } else {
    const gauge = state.checks.find((c) => c.body.checkId === "line-gauge" && c.body.outcome !== "high");
    add("pressure", gauge?.body.outcome, `Line pressure ${gauge?.body.outcome}`, gauge?.id);
  }
  const cooler = place("cooler");
  const flow = cooler?.body.values.find((v) => v.id === "flow");
  const call = flow && judgedValue(flow).call;
  if (call === "in" || call === "out")
    add(
      "flow",
      call === "in" ? "good" : "low",
      `Flow through the cooler ${call === "in" ? "good" : "low"}`,
      cooler?.id,
    );
  const out = look(cooler?.body, "came-out");
  const much = (state.pan?.body.debris ?? []).filter((d) => d.amount >= MUCH);
  const metal = out?.outcome === "metal" || much.some((d) => METAL.has(d.kind));
  const lining = out?.outcome === "lining" || much.some((d) => d.kind === "lining");
  if (out || state.pan)
    add(
      "debris",
      metal ? "metal" : lining ? "lining" : "clean",
      `In pan and cooler: ${metal ? "metal" : lining ? "lining" : "clean"}`,
      cooler && out ? cooler.id : state.pan?.id,
    );
  if (state.level && state.level.body.state !== "not-readable")
    add(
      "level",
      { low: "low", ok: "correct", high: "overfilled" }[state.level.body.state],
      `Fluid level ${state.level.body.state === "ok" ? "correct" : state.level.body.state}`,
      state.level.id,
    );
  add("smell", state.fluid?.body.smell, `Smell of the fluid: ${state.fluid?.body.smell}`, state.fluid?.id);
  const kind = state.checks.find((c) => c.body.checkId === "fluid-kind");
  add("fluid-kind", kind?.body.outcome, `Fluid: ${kind?.body.outcomeLabel}`, kind?.id);
  const heats = analyses.flatMap((l) =>
    l.analysis.heat?.sensor === "fluid" ? [{ l, c: l.analysis.heat.highestC }] : [],
  );
  const hottest = heats.sort((a, b) => b.c - a.c)[0];
  if (hottest)
    add(
      "heat",
      hottest.c > HEAT_C[1] ? "too-hot" : hottest.c > HEAT_C[0] ? "warm" : "normal",
      `Fluid up to ${Math.round(hottest.c)} °C in a log`,
      hottest.l.entryId,
    );
  const slipping = analyses.find((l) => l.analysis.findings.some((f) => f.kind === "slip"));
  const logged = analyses[0];
  if (slipping || logged)
    add(
      "slip",
      slipping ? "seen" : "none",
      slipping ? "Slip in a log" : "No slip in the log",
      (slipping ?? logged)?.entryId,
    );
  return signs;
}

type Add = (sign: string, outcome: string | undefined, label: string, entryId: string | undefined) => void;

/** Who named some of them was asked for all: what is missing then is a no. */
function fromIntake({ intake }: JobState, add: Add): void {
  if (!intake) return;
  const { events = [], history = [], duty = [] } = intake.body;
  const event = (kind: string, sign: string, label: string) => {
    if (events.length > 0) add(sign, events.some((e) => e.kind === kind) ? "yes" : "no", label, intake.id);
  };
  event("impact", "impact-told", "Kerb, rock or crash before");
  event("more-power", "more-power", "More power");
  if (history.length > 0)
    add(
      "worked-on",
      history.some((h) => h.kind === "part") ? "yes" : "no",
      "Opened or a part swapped before",
      intake.id,
    );
  if (duty.length > 0)
    add("duty", duty.some((d) => d === "tow" || d === "hills") ? "yes" : "no", "Tows or climbs", intake.id);
}

/** How a pack was set up: its clearance less what its plates have lost since. @returns undefined while not all of them are measured */
function clearanceBefore(unit: Unit, { body }: JobState["bench"][number]) {
  const element = unit.elements.find((e) => e.id === body.place.slice(PACK.length));
  const b = element?.bench;
  const clearance = benchValue(body, "clearance");
  const plates = body.values.filter((v) => /^plate-\d+$/.test(v.id));
  if (!element || !b || !clearance || b.frictionPlateNewMm === undefined || plates.length !== element.plates)
    return undefined;
  const newMm = b.frictionPlateNewMm;
  const lost = plates.reduce((s, v) => s + Math.max(0, newMm - judgedValue(v).value), 0);
  const verdict = verdictOf(
    { value: clearance.value - lost, uncertainty: Math.hypot(clearance.uncertainty, NEW_PLATE_MM * plates.length) },
    { from: b.clearanceMm[0], to: b.clearanceMm[1] },
  );
  return { element, verdict };
}
const PACK = "pack:";
/** New plates differ by so much, mm. */
const NEW_PLATE_MM = 0.01;

/** Was a pack set up wrongly? Any that was tells; that one was right is only said of the failed one. */
function fromClearances(unit: Unit, state: JobState, add: Add): void {
  const failed = failedPack(unit, state)?.element;
  const packs = state.bench
    .filter((e) => e.body.place.startsWith(PACK))
    .flatMap((entry) => {
      const before = clearanceBefore(unit, entry);
      return before ? [{ entry, ...before }] : [];
    });
  const told =
    packs.find((p) => p.verdict.call === "out") ??
    packs.find((p) => p.element.id === failed && p.verdict.call === "in");
  if (!told) return;
  const { entry, element, verdict } = told;
  add(
    "clearance",
    verdict.call === "in" ? "within" : verdict.below > verdict.above ? "tight" : "wide",
    `Clearance of ${element.name} before its wear ${verdict.value.toFixed(2)} mm`,
    entry.id,
  );
}

/** Highest line pressure that the unit file tells of, kPa. */
export function ratedPressureKpa(unit: Unit): number | undefined {
  const rows = (unit.bench?.linePressure ?? []).flatMap((r) => (r.stallKpa ? [r.stallKpa[1]] : []));
  return unit.limp.linePressureKpa ?? (rows.length > 0 ? Math.max(...rows) : undefined);
}
