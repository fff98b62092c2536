import { readdirSync, readFileSync } from "node:fs";
import { basename } from "node:path";
import { MishapsFile, ProcedureFile } from "@gearsense/contract";
import { triangularMean } from "@gearsense/core/chance";
import {
  cautionsOf,
  checkProcedures,
  compose,
  endsOf,
  liftOf,
  limitOf,
  type Mishap,
  NoPlan,
  type Order,
  type Plan,
  type Procedure,
  type Recorded,
  suggestedOrder,
  waysTo,
} from "@gearsense/core/procedure";
import { formatQuantity } from "@gearsense/core/quantity";
import type { Unit } from "@gearsense/core/unit";
import { libraryKnowledge } from "./knowledge.ts";
import { libraryUnits, unitFor } from "./units.ts";
import { UsageError } from "./usage-error.ts";

const FOLDER = new URL("../../library/procedures/", import.meta.url);

/** A procedure from its file. @throws UsageError with every place that is wrong */
function readProcedure(path: string | URL): Procedure {
  const name = basename(typeof path === "string" ? path : path.pathname);
  let json: unknown;
  try {
    json = JSON.parse(readFileSync(path, "utf8"));
  } catch (error) {
    throw new UsageError(`${name} is not a readable procedure: ${error instanceof Error ? error.message : error}`);
  }
  const parsed = ProcedureFile.safeParse(json);
  if (!parsed.success)
    throw new UsageError(parsed.error.issues.map((i) => `${name}: ${i.path.join(".")}: ${i.message}`).join("\n"));
  return parsed.data;
}

export const libraryProcedures = (): Procedure[] =>
  readdirSync(FOLDER)
    .filter((f) => f.endsWith(".procedure.json"))
    .sort()
    .map((f) => readProcedure(new URL(f, FOLDER)));

export const libraryMishaps = (): readonly Mishap[] =>
  MishapsFile.parse(JSON.parse(readFileSync(new URL("mishaps.json", FOLDER), "utf8"))).mishaps;

/**
 * Checks a procedure among those of the library, on every unit of the library that it is for.
 * @throws UsageError with what is wrong, by place
 */
export function checkProcedureFile(path: string): string {
  const own = readProcedure(path);
  const library = [...libraryProcedures().filter((p) => p.id !== own.id), own];
  const units = libraryUnits();
  const problems = checkProcedures(library, units, {
    ...libraryKnowledge(),
    mishaps: libraryMishaps().map((m) => m.name),
  });
  if (problems.length > 0) throw new UsageError(problems.map((p) => `${p.place}: ${p.reason}`).join("\n"));
  const suits = units.filter((u) => waysTo([own], u, own.end).length > 0);
  return `${own.title} (${own.id}) is sound: ${own.steps.length} steps, for ${suits.map((u) => u.name).join(", ")}.`;
}

export interface Planned {
  readonly plan: Plan;
  readonly order: Order;
  /** other ways to the same ends */
  readonly otherWays: readonly string[];
}

/** The plan of repairs, "rebuild:HC+fluid", on a unit. @throws UsageError saying what has no way */
export function planFor(unitName: string, repairs: string, strategies: readonly string[]): Planned {
  const unit = unitFor(unitName);
  const library = libraryProcedures();
  const list = repairs.split("+").filter(Boolean);
  try {
    const plan = compose(library, unit, list, strategies);
    const ends = new Set(library.filter((p) => plan.procedures.includes(p.id)).map((p) => p.end));
    const otherWays = [...ends].flatMap((e) => waysTo(library, unit, e)).filter((w) => !plan.procedures.includes(w.id));
    return { plan, order: suggestedOrder(plan.steps), otherWays: otherWays.map((w) => w.id) };
  } catch (error) {
    if (!(error instanceof NoPlan)) throw error;
    const kinds = libraryKnowledge()
      .repairs.map((r) => r.id)
      .filter((r) => endsOf(library, unit, r).length > 0);
    throw new UsageError(
      `${error.problems.map((p) => `${p.place}: ${p.reason}`).join("\n")}\nRepairs with a procedure on ${unit.name}: ${kinds.join(", ")}`,
    );
  }
}

const minutes = (m: number) => {
  const whole = Math.round(m);
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
};

function limitText(unit: Unit, { limit: name, quantity }: Recorded): string {
  const limit = name === undefined ? undefined : limitOf(unit, name);
  if (!limit) return "";
  const show = (v: number) => formatQuantity(v, quantity === "choice" ? "none" : quantity, "metric").text;
  const { least, most } = limit;
  const span =
    least !== undefined && most !== undefined
      ? `${show(least)} to ${show(most)}`
      : most !== undefined
        ? `at most ${show(most)}`
        : `at least ${show(least as number)}`;
  return ` (${span}; ${limit.source})`;
}

/** A plan as a person reads it: in the order that is suggested, cautions before what they are for. */
export function describePlan(unitName: string, { plan, order, otherWays }: Planned): string {
  const unit = unitFor(unitName);
  const { cautions } = libraryKnowledge();
  const byKey = new Map(plan.steps.map((s) => [s.key, s]));
  const sum = (i: 0 | 1 | 2) => plan.steps.reduce((s, x) => s + x.minutes[i], 0);
  const lines = [
    `${unit.name}: ${plan.repairs.join(", ")}`,
    `${plan.steps.length} steps; hands on ${minutes(sum(1))} h (${minutes(sum(0))} to ${minutes(sum(2))}, ${minutes(plan.steps.reduce((s, x) => s + triangularMean(x.minutes), 0))} on average); one person is through in ${minutes(order.totalMin)} h with waits, lift moved ${order.liftChanges} times, place changed ${order.placeChanges} times`,
    `Ways: ${plan.procedures.join(", ")}${otherWays.length > 0 ? `; other ways: ${otherWays.join(", ")}` : ""}`,
    "",
  ];
  const told = new Set<string>();
  order.steps.forEach(({ key, startMin, liftTo }, i) => {
    const s = byKey.get(key);
    if (!s) return;
    if (liftTo) lines.push(`        lift ${liftTo}`);
    for (const c of cautionsOf(s)) {
      // in full before the first step that needs it, by name afterwards
      lines.push(`        ! ${told.has(c) ? c : cautions[c]}`);
      told.add(c);
    }
    const where = `${s.place}${liftOf(s) === "any" ? "" : `, lift ${liftOf(s)}`}${s.people === 2 ? ", two persons" : ""}`;
    lines.push(`${String(i + 1).padStart(4)}. ${minutes(startMin)}  ${s.title} [${where}; ${s.minutes.join("/")} min]`);
    if (s.how) lines.push(`        ${s.how}`);
    if (s.hold) lines.push(`        HOLD: ${s.hold.ask}. ${s.hold.reason}`);
    for (const r of s.record ?? []) lines.push(`        record: ${r.name}${limitText(unit, r)}`);
    if (s.wait) lines.push(`        then ${s.wait.minutes.join("/")} min by itself: ${s.wait.why}`);
  });
  return lines.join("\n");
}
