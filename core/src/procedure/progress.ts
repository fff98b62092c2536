import type { Unit } from "../unit/index.ts";
import { type Plan, type PlanStep, waitsFor } from "./compose.ts";
import { limitOf } from "./traits.ts";
import { leftInTray, trayOf } from "./trays.ts";

/** What was recorded at a step, by the ids of its values; numbers in the units of core, or the option of a choice. */
export type Values = Readonly<Record<string, string>>;

/** "41,5" and "−3" as they are typed. @returns NaN for what is no number */
export const numberIn = (text: string): number =>
  text.trim() === "" ? Number.NaN : Number(text.trim().replace(",", ".").replace("−", "-"));

/** Why a value is not taken as it is; undefined when it is. @param text - empty: not recorded */
export function valueProblem(step: PlanStep, id: string, text: string): string | undefined {
  const r = step.record?.find((x) => x.id === id);
  if (!r) return `“${id}” is not recorded at this step`;
  if (text === "") return undefined;
  if (r.quantity === "choice") return r.options?.includes(text) ? undefined : `${r.name}: choose one of the list`;
  return Number.isFinite(numberIn(text)) ? undefined : `${r.name}: a number, such as 41.5`;
}

/** Whether a value is inside its limits: those of the unit file. Undefined when it has none, or is not recorded. */
export function insideLimit(unit: Unit, step: PlanStep, id: string, text: string): boolean | undefined {
  const name = step.record?.find((x) => x.id === id)?.limit;
  const limit = name === undefined ? undefined : limitOf(unit, name);
  const value = numberIn(text);
  if (!limit || !Number.isFinite(value)) return undefined;
  return value >= (limit.least ?? Number.NEGATIVE_INFINITY) && value <= (limit.most ?? Number.POSITIVE_INFINITY);
}

/**
 * What keeps the hold of a step closed; undefined: nothing does. One that a value opens is opened by that value, recorded and
 * inside its limits where the unit file has some; overriding it over takes a reason.
 */
export function holdClosed(unit: Unit, step: PlanStep, values: Values): string | undefined {
  const { hold } = step;
  if (hold?.opensBy === undefined) return undefined;
  const name = step.record?.find((r) => r.id === hold.opensBy)?.name ?? hold.opensBy;
  const text = values[hold.opensBy] ?? "";
  if (text === "") return `“${name}” opens the hold and is not recorded`;
  return insideLimit(unit, step, hold.opensBy, text) === false ? `“${name}” is outside its limits` : undefined;
}

/**
 * Why a step cannot be ticked; undefined when it can.
 * @param done - keys of steps that are done
 * @param overridden - why its hold is overridden; empty: it is not
 * @param trays - what lies in the tray of each step that took something off
 */
export function tickProblem(
  unit: Unit,
  plan: Plan,
  done: ReadonlySet<string>,
  key: string,
  values: Values,
  overridden: string,
  trays: ReadonlyMap<string, readonly string[]> = new Map(),
): string | undefined {
  const step = plan.steps.find((s) => s.key === key);
  if (!step) return `“${key}” isn’t a step of this job’s plan: the plan may have changed meanwhile`;
  const waits = waitsFor(plan, key, done);
  if (waits.length > 0) return `“${step.title}” waits for: ${waits.slice(0, 3).join("; ")}${more(waits.length)}`;
  for (const [id, text] of Object.entries(values)) {
    const problem = valueProblem(step, id, text);
    if (problem) return problem;
  }
  const over = overridden.trim() !== "";
  const tray = trayOf(unit, plan, step);
  const left = tray && !over ? leftInTray(unit, plan, step, trays.get(tray.step)) : [];
  if (left.length > 0)
    return `“${step.title}”: still in the tray ${left.length === 1 ? "is" : "are"} ${left.slice(0, 4).join(", ")}${more4(left.length)}. Put it back, or say why it is left over`;
  const closed = holdClosed(unit, step, values);
  return closed && !over
    ? `“${step.title}” is on hold: ${closed}. Record it, or say why you go ahead anyway`
    : undefined;
}
const more4 = (n: number) => (n > 4 ? ` and ${n - 4} more` : "");
const more = (n: number) => (n > 3 ? ` and ${n - 3} more` : "");

/** Why a tick cannot be taken back: what was done because of it, by title; undefined when it can. */
export function untickProblem(plan: Plan, done: ReadonlySet<string>, key: string): string | undefined {
  const after = plan.steps.filter((s) => done.has(s.key) && s.before.includes(key)).map((s) => s.title);
  return after.length > 0
    ? `Take back first what was done after it: ${after.slice(0, 3).join("; ")}${more(after.length)}`
    : undefined;
}
