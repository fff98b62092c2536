import { RATE_GROUPS, readingsHz } from "./cases.ts";
import type { CaseScore, Counts } from "./score.ts";

/** One line of the table: a measure at one group of rates. */
export interface Figure {
  readonly name: string;
  /** undefined = nothing to measure */
  readonly value: number | undefined;
  /** what it was measured on */
  readonly count: number;
  readonly unit: "share" | "s" | "rpm" | "Hz";
  readonly target: number;
  /** the value must be at least the target, or at most */
  readonly better: "higher" | "lower";
}

export interface RateSummary {
  readonly label: string;
  readonly cases: number;
  readonly figures: readonly Figure[];
}

const median = (values: readonly number[]): number | undefined => {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted.length === 0 ? undefined : sorted[sorted.length >> 1];
};
const share = (part: number, all: number) => (all > 0 ? part / all : undefined);
const add = (list: readonly Counts[]): Counts =>
  list.reduce((a, b) => ({ hit: a.hit + b.hit, wrong: a.wrong + b.wrong, missed: a.missed + b.missed }), {
    hit: 0,
    wrong: 0,
    missed: 0,
  });
const f1 = ({ hit, wrong, missed }: Counts) => share(2 * hit, 2 * hit + wrong + missed);

function figures(scores: readonly CaseScore[]): Figure[] {
  const some = <T>(of: (s: CaseScore) => T | undefined): T[] =>
    scores.flatMap((s) => {
      const v = of(s);
      return v === undefined ? [] : [v];
    });
  const shifts = add(scores.map((s) => s.shifts));
  const inertia = scores.flatMap((s) => s.inertiaErrorS);
  const flare = scores.flatMap((s) => s.flareErrorRpm);
  const slips = some((s) => s.slip);
  const shudders = some((s) => s.shudder);
  const said = shudders.filter((s) => s.said);
  const real = shudders.filter((s) => s.real);
  const hz = scores.flatMap((s) => s.shudderErrorHz);
  const unfolded = hz.filter((e) => e.underHalfRate).map((e) => e.hz);
  const drops = add(scores.map((s) => s.dropouts));
  const limps = some((s) => s.limp);
  const limped = limps.filter((l) => l.real);
  const healthy = some((s) => s.falseFindings);
  const columns = scores.reduce((n, s) => n + s.mapping.all, 0);
  const higher = (name: string, value: number | undefined, count: number, target: number): Figure => ({
    name,
    value,
    count,
    unit: "share",
    target,
    better: "higher",
  });
  const lower = (
    name: string,
    value: number | undefined,
    count: number,
    unit: Figure["unit"],
    target: number,
  ): Figure => ({
    name,
    value,
    count,
    unit,
    target,
    better: "lower",
  });
  return [
    higher("Shifts found, F1", f1(shifts), shifts.hit + shifts.missed, 0.98),
    lower("Inertia phase, median error", median(inertia), inertia.length, "s", 0.06),
    lower("Flare, median error", median(flare), flare.length, "rpm", 20),
    higher(
      "Slip attributed to the right element",
      share(slips.filter((s) => s.right).length, slips.length),
      slips.length,
      0.95,
    ),
    higher("  of these, to it alone", share(slips.filter((s) => s.alone).length, slips.length), slips.length, 0),
    higher("Shudder, precision", share(said.filter((s) => s.real).length, said.length), said.length, 0.95),
    higher("Shudder, recall", share(real.filter((s) => s.said).length, real.length), real.length, 0.95),
    lower("Shudder frequency, median error", median(hz.map((e) => e.hz)), hz.length, "Hz", 0.4),
    // faster ones are told folded, with the other frequency that they may have beside it
    lower("  of these, under half the rate", median(unfolded), unfolded.length, "Hz", Number.POSITIVE_INFINITY),
    higher("Drop-outs with the right sensor, F1", f1(drops), drops.hit + drops.missed, 0.98),
    higher(
      "Limp onset within 1 s",
      share(limped.filter((l) => (l.errorS ?? Infinity) <= 1).length, limped.length),
      limped.length,
      0.98,
    ),
    higher(
      "No limp where there is none",
      share(limps.filter((l) => !l.real && !l.said).length, limps.length - limped.length),
      limps.length - limped.length,
      0.98,
    ),
    higher(
      "Healthy logs without a false finding",
      share(healthy.filter((f) => f.length === 0).length, healthy.length),
      healthy.length,
      0.98,
    ),
    higher(
      "Columns mapped right",
      share(
        scores.reduce((n, s) => n + s.mapping.right, 0),
        columns,
      ),
      columns,
      0.99,
    ),
    higher("Logs read and analysed", share(scores.filter((s) => !s.refused).length, scores.length), scores.length, 1),
  ];
}

/** Figures of all cases at 20 rows a second and more, and at each lower rate. */
export function summarise(scores: readonly CaseScore[]): RateSummary[] {
  return RATE_GROUPS.map(([label, low, high]) => {
    const of = scores.filter((s) => readingsHz(s.spec) >= low && readingsHz(s.spec) < high);
    return { label, cases: of.length, figures: figures(of) };
  });
}

export const met = (f: Figure): boolean | undefined =>
  f.value === undefined || (f.better === "higher" && f.target === 0)
    ? undefined
    : f.better === "higher"
      ? f.value >= f.target
      : f.value <= f.target;

export function figureText({ value, unit }: Pick<Figure, "value" | "unit">): string {
  if (value === undefined) return "–";
  switch (unit) {
    case "share":
      return value.toFixed(3);
    case "s":
      return `${(value * 1000).toFixed(0)} ms`;
    case "rpm":
      return `${value.toFixed(1)} rpm`;
    case "Hz":
      return `${value.toFixed(2)} Hz`;
  }
}
