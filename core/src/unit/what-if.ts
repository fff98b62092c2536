import { jointsIn } from "./gears.ts";
import { solveTrain, type TrainState, torqueShares } from "./solve.ts";
import type { GearTrain, Joint } from "./train.ts";
import { type Gear, SHIFT_VALVES, type Unit } from "./unit.ts";

/** A ratio this near to a gear's is that gear. */
const SAME_RATIO = 0.01;

export type Obtained =
  | { readonly kind: "gear"; readonly gear: string; readonly ratio: number }
  /** a ratio that no gear of the chart has */
  | { readonly kind: "foreign"; readonly ratio: number }
  | { readonly kind: "neutral" }
  | { readonly kind: "tie-up" }
  /** the unit has ratios only: the train is needed to tell */
  | { readonly kind: "unknown" };

export interface Stuck {
  /** an element, or a solenoid that feeds one */
  readonly component: string;
  readonly state: "applied" | "released";
  /** which position a stuck fork holds */
  readonly towards?: string | undefined;
}

export interface WhatIfRow {
  readonly commanded: string;
  readonly obtained: Obtained;
}

function stuckJoints(unit: Unit, gear: string, stuck: Stuck): Joint[] {
  const fed = unit.solenoids.find((s) => s.id === stuck.component)?.feeds ?? stuck.component;
  const element = unit.elements.find((e) => e.id === fed);
  const others = jointsIn(unit, gear).filter((j) => j.id !== fed);
  if (stuck.state === "released") return others;
  const joins = element?.kind === "fork" ? element.positions?.[stuck.towards ?? ""] : element?.joins;
  return joins ? [...others, { id: fed, joins }] : others;
}

/** One-way clutches of a unit with the sign of the torque that they hold: that of their own gear under drive. */
function oneWayClutches(unit: Unit, train: GearTrain): { joint: Joint; holds: number }[] {
  return unit.elements.flatMap((e) => {
    if (e.kind !== "one-way-clutch" || !e.joins) return [];
    const gear = unit.gears.find((g) => unit.application[g.name]?.some((a) => a.element === e.id));
    const torque = gear && torqueShares(train, jointsIn(unit, gear.name))?.elements.get(e.id);
    return torque ? [{ joint: { id: e.id, joins: e.joins }, holds: Math.sign(torque) }] : [];
  });
}

/** The train with some joints made under drive: where they leave it neutral, a one-way clutch may come to hold. */
function driven(unit: Unit, train: GearTrain, joints: readonly Joint[], without: string): TrainState {
  const state = solveTrain(train, joints);
  if (state.kind !== "neutral") return state;
  for (const { joint, holds } of oneWayClutches(unit, train)) {
    if (joint.id === without || joints.some((j) => j.id === joint.id)) continue;
    const torque = torqueShares(train, [...joints, joint])?.elements.get(joint.id);
    if (torque && Math.sign(torque) === holds) return solveTrain(train, [...joints, joint]);
  }
  return state;
}

const isShiftValve = (unit: Unit, component: string) =>
  unit.solenoids.some((s) => s.id === component && s.feeds === SHIFT_VALVES);

const gearOf = (gear: Gear | undefined): Obtained =>
  gear ? { kind: "gear", gear: gear.name, ratio: gear.ratio } : { kind: "unknown" };

/** The gear whose solenoid states are those of the command with one solenoid stuck. Reverse is the lever's own. */
function byStates(unit: Unit, commanded: string, { component, state }: Stuck): Obtained {
  const row = unit.solenoidChart[commanded] ?? {};
  const valves = unit.solenoids.filter((s) => s.feeds === SHIFT_VALVES).map((s) => s.id);
  const is = (id: string) => (id === component ? (state === "applied" ? "on" : "off") : (row[id] ?? "off"));
  const backwards = (unit.gears.find((g) => g.name === commanded)?.ratio ?? 1) < 0;
  if (backwards) return gearOf(unit.gears.find((g) => g.name === commanded));
  return gearOf(
    unit.gears.find((g) => g.ratio > 0 && valves.every((id) => (unit.solenoidChart[g.name]?.[id] ?? "off") === is(id))),
  );
}

/** Without teeth: the gear of the chart that applies the same elements as the command with one stuck. */
function byChart(unit: Unit, commanded: string, stuck: Stuck): Obtained {
  const fed = unit.solenoids.find((s) => s.id === stuck.component)?.feeds ?? stuck.component;
  const applied = (gear: string) =>
    new Set((unit.application[gear] ?? []).map((a) => (a.towards ? `${a.element}>${a.towards}` : a.element)));
  const own = applied(commanded);
  const name = stuck.towards ? `${fed}>${stuck.towards}` : fed;
  if (stuck.state === "applied") own.add(name);
  else for (const x of [...own]) if (x === fed || x.startsWith(`${fed}>`)) own.delete(x);
  const same = (gear: string) => {
    const of = applied(gear);
    return of.size === own.size && [...of].every((x) => own.has(x));
  };
  const twin = unit.gears.find((g) => same(g.name));
  if (twin) return gearOf(twin);
  // one element less than any gear needs carries nothing; one more fights
  return stuck.state === "released" ? { kind: "neutral" } : { kind: "tie-up" };
}

/**
 * What each command gives under drive when one element, or the one that a solenoid feeds, stays applied or released.
 * @returns a row for each gear of the chart, in its order
 */
export function whatIf(unit: Unit, stuck: Stuck): WhatIfRow[] {
  const { gearTrain } = unit;
  return unit.gears.map(({ name }): WhatIfRow => {
    if (isShiftValve(unit, stuck.component)) return { commanded: name, obtained: byStates(unit, name, stuck) };
    if (!gearTrain) return { commanded: name, obtained: byChart(unit, name, stuck) };
    const state = driven(unit, gearTrain, stuckJoints(unit, name, stuck), stuck.component);
    if (state.kind !== "gear") return { commanded: name, obtained: { kind: state.kind } };
    const { ratio } = state;
    const twin = unit.gears.find((g) => Math.abs(ratio / g.ratio - 1) < SAME_RATIO);
    return {
      commanded: name,
      obtained: twin ? { kind: "gear", gear: twin.name, ratio } : { kind: "foreign", ratio },
    };
  });
}

/** Every single thing that can stay applied or released: friction elements by themselves, forks by their positions. */
export function stuckCandidates(unit: Unit): Stuck[] {
  const valves = unit.solenoids.flatMap((s): Stuck[] =>
    s.feeds === SHIFT_VALVES
      ? [
          { component: s.id, state: "applied" },
          { component: s.id, state: "released" },
        ]
      : [],
  );
  const elements = unit.elements.flatMap((e): Stuck[] => {
    if (e.kind === "one-way-clutch") return [{ component: e.id, state: "released" }];
    if (e.kind === "fork")
      return Object.keys(e.positions ?? {}).map((towards) => ({ component: e.id, state: "applied", towards }));
    return [
      { component: e.id, state: "applied" },
      { component: e.id, state: "released" },
    ];
  });
  return [...elements, ...valves];
}

export interface ObtainedGear {
  readonly commanded: string;
  /** gear that was measured instead; "N" when nothing was driven */
  readonly obtained: string;
}

export interface StuckExplanation {
  readonly stuck: Stuck;
  /** solenoids that feed the element */
  readonly solenoids: readonly string[];
}

/**
 * Single stuck elements that give every gear as it was seen, those obtained as commanded included: a candidate that
 * contradicts one of them is left out. Empty for nothing seen.
 */
export function explainObtained(unit: Unit, seen: readonly ObtainedGear[]): StuckExplanation[] {
  if (seen.length === 0) return [];
  const agrees = (stuck: Stuck) => {
    const rows = new Map(whatIf(unit, stuck).map((r) => [r.commanded, r.obtained]));
    return seen.every(({ commanded, obtained }) => {
      const o = rows.get(commanded);
      return obtained === "N" ? o?.kind === "neutral" : o?.kind === "gear" && o.gear === obtained;
    });
  };
  return stuckCandidates(unit)
    .filter(agrees)
    .map((stuck) => ({
      stuck,
      solenoids: unit.solenoids.filter((s) => s.feeds === stuck.component).map((s) => s.id),
    }));
}
