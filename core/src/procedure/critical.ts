import type { PlanStep } from "./compose.ts";

export interface Bar {
  readonly key: string;
  readonly startMin: number;
  /** hands off; its wait goes on until `overMin` */
  readonly endMin: number;
  readonly overMin: number;
  /** so much later it may end, and the whole is no later; 0: it is on the critical path */
  readonly slackMin: number;
}

type Timed = Pick<PlanStep, "key" | "before" | "minutes" | "wait">;

/**
 * Earliest times of steps as if there were hands enough, and how much each may be late: critical path method (Kelley and Walker
 * 1959). Steps come in an order in which they can be done.
 */
export function criticalPath(steps: readonly Timed[]): { readonly bars: readonly Bar[]; readonly totalMin: number } {
  const over = new Map<string, number>();
  const early = steps.map((s) => {
    const startMin = Math.max(0, ...s.before.map((b) => over.get(b) ?? 0));
    const endMin = startMin + s.minutes[1];
    const overMin = endMin + (s.wait?.minutes[1] ?? 0);
    over.set(s.key, overMin);
    return { key: s.key, startMin, endMin, overMin };
  });
  const totalMin = Math.max(0, ...early.map((e) => e.overMin));
  const latest = new Map<string, number>();
  const after = new Map<string, string[]>();
  for (const s of steps) for (const b of s.before) after.set(b, [...(after.get(b) ?? []), s.key]);
  const length = new Map(steps.map((s) => [s.key, s.minutes[1] + (s.wait?.minutes[1] ?? 0)]));
  for (const s of [...steps].reverse()) {
    const next = (after.get(s.key) ?? []).map((k) => (latest.get(k) as number) - (length.get(k) as number));
    latest.set(s.key, Math.min(totalMin, ...next));
  }
  return {
    totalMin,
    bars: early.map((e) => ({ ...e, slackMin: Math.max(0, (latest.get(e.key) as number) - e.overMin) })),
  };
}

export interface Took {
  readonly key: string;
  readonly title: string;
  readonly minutes: number;
  readonly likelyMin: number;
  readonly trouble: readonly string[];
}

/** Where time was lost: steps that took longer than their likely time, the longest first, and the whole of it against the plan. */
export function timeLost(
  steps: readonly Pick<PlanStep, "key" | "minutes">[],
  took: readonly {
    readonly step: string;
    readonly title: string;
    readonly minutes: number | null;
    readonly trouble: readonly string[];
  }[],
): { readonly lost: readonly Took[]; readonly takenMin: number; readonly plannedMin: number } {
  const likely = new Map(steps.map((s) => [s.key, s.minutes[1]]));
  const known = took.flatMap((t): Took[] => {
    const likelyMin = likely.get(t.step);
    return t.minutes === null || likelyMin === undefined
      ? []
      : [{ key: t.step, title: t.title, minutes: t.minutes, likelyMin, trouble: t.trouble }];
  });
  return {
    lost: known
      .filter((t) => t.minutes > t.likelyMin)
      .sort((a, b) => b.minutes - b.likelyMin - (a.minutes - a.likelyMin)),
    takenMin: known.reduce((s, t) => s + t.minutes, 0),
    plannedMin: known.reduce((s, t) => s + t.likelyMin, 0),
  };
}
