import { componentName, type Unit } from "../../unit/index.ts";
import type { AnalysedLog } from "../analysis.ts";
import type { DriveEvidence } from "../measure.ts";
import { OVER_SHARE, type PressureFollows, SHORT_SHARE } from "./pressures.ts";

const NONE_SHARE = 0.15;
/** Shares that differ by more are not the same. */
const APART = 0.06;

const LINE_SAYS = {
  follows: "Line pressure follows its command",
  "same-share": "Line pressure is the same share of its command throughout",
  capped: "Line pressure falls behind where more is asked or the fluid is thin",
} as const;

const CLUTCH_SAYS = {
  follows: "pressure follows its command",
  "short-hot": "pressure falls short once warm",
  short: "pressure falls short, cold as well",
  none: "gets no pressure",
  over: "gets more pressure than asked for",
} as const;

/**
 * Measured pressures against their commands, over all logs of a dual clutch unit. Low by one share cold and warm: what sets
 * the pressure. Low where much is asked or the fluid is thin: what brings it up. Low at one clutch: its solenoid, cold as
 * well; its valve and seals, which leak the more the thinner the fluid.
 * @returns pieces of `line-pressure` and, by clutch, `clutch-pressure`; none where nothing was measured
 */
export function pressureEvidence(unit: Unit, logs: readonly AnalysedLog[]): DriveEvidence[] {
  const byId = new Map<string, { readonly from: AnalysedLog; readonly follows: PressureFollows[] }>();
  for (const log of logs)
    for (const p of log.analysis.pressures) {
      const known = byId.get(p.id) ?? { from: log, follows: [] };
      known.follows.push(p);
      byId.set(p.id, known);
    }
  return [...byId].map(([id, { from, follows }]): DriveEvidence => {
    const told = (of: (p: PressureFollows) => number | undefined) => follows.flatMap((p) => of(p) ?? []);
    const cold = told((p) => p.coldShare);
    const warm = told((p) => p.warmShare);
    const all = [...cold, ...warm];
    const table = id === "line" ? "line-pressure" : "clutch-pressure";
    const [outcome, label] =
      id === "line"
        ? saying(LINE_SAYS, lineOutcome([...all, ...told((p) => p.lowShare), ...told((p) => p.highShare)]))
        : saying(CLUTCH_SAYS, clutchOutcome(cold, warm), `${componentName(unit, id)} `);
    return {
      id: `${from.logId}:${table}:${id}`,
      table,
      subject: id === "line" ? {} : { component: id },
      outcome,
      label,
      entryId: from.entryId,
      abnormal: outcome !== "follows",
    };
  });
}

const saying = <T extends string>(words: Readonly<Record<T, string>>, outcome: T, name = "") =>
  [outcome, `${name}${words[outcome]}`] as const;

function lineOutcome(shares: readonly number[]): keyof typeof LINE_SAYS {
  const [least, most] = [Math.min(...shares), Math.max(...shares)];
  if (least >= SHORT_SHARE) return "follows";
  return most - least > APART ? "capped" : "same-share";
}

function clutchOutcome(cold: readonly number[], warm: readonly number[]): keyof typeof CLUTCH_SAYS {
  const all = [...cold, ...warm];
  if (Math.max(...all) > OVER_SHARE) return "over";
  if (Math.max(...all) < NONE_SHARE) return "none";
  if (Math.min(...all) >= SHORT_SHARE) return "follows";
  return cold.length > 0 && Math.min(...warm) < Math.min(...cold) - APART ? "short-hot" : "short";
}
