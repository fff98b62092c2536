import { gearStates, jointsOf } from "./gears.ts";
import { solveTrain } from "./solve.ts";
import { type GearTrain, MEMBERS, Shafts } from "./train.ts";
import { SHIFT_VALVES, type Unit } from "./unit.ts";

type Say = (path: string, reason: string) => void;

/** A gear's ratio and the train's must agree within this share. */
export const RATIO_AGREEMENT = 0.005;
/** Addendum of one tooth on each of two neighbouring planets, in teeth. */
const ADDENDUM_TEETH = 2;
const LEAST_TEETH = 10;

function checkTeeth(train: GearTrain, say: Say): void {
  train.sets.forEach((s, i) => {
    const at = `gearTrain.sets.${i}`;
    if (s.ringTeeth <= s.sunTeeth) {
      say(`${at}.ringTeeth`, `the ring (${s.ringTeeth}) must have more teeth than the sun (${s.sunTeeth})`);
      return;
    }
    if (s.kind === "single") {
      const planet = (s.ringTeeth - s.sunTeeth) / 2;
      if (!Number.isInteger(planet))
        say(
          `${at}.ringTeeth`,
          `ring − sun = ${s.ringTeeth - s.sunTeeth} is odd: ring = sun + 2·planet has no whole planet`,
        );
      else if (planet < LEAST_TEETH)
        say(`${at}.sunTeeth`, `leaves planets of ${planet} teeth; at least ${LEAST_TEETH}`);
      if ((s.sunTeeth + s.ringTeeth) % s.planets !== 0)
        say(
          `${at}.planets`,
          `${s.planets} planets do not stand evenly: sun + ring = ${s.sunTeeth + s.ringTeeth} isn’t a multiple of ${s.planets}`,
        );
      // neighbours must not touch: distance of their centres against their outer diameter
      if ((s.sunTeeth + planet) * Math.sin(Math.PI / s.planets) <= planet + ADDENDUM_TEETH)
        say(`${at}.planets`, `${s.planets} planets of ${planet} teeth touch each other`);
    } else if ((s.ringTeeth - s.sunTeeth) % s.planets !== 0) {
      say(
        `${at}.planets`,
        `${s.planets} pairs of planets do not stand evenly: ring − sun = ${s.ringTeeth - s.sunTeeth} isn’t a multiple of ${s.planets}`,
      );
    }
  });
}

function checkNames(unit: Unit, train: GearTrain, say: Say): void {
  const sets = new Set(train.sets.map((s) => s.id));
  const shafts = new Set((train.pairs ?? []).flatMap((p) => [p.driver, p.driven]));
  const elementNodes = unit.elements.flatMap((e) => [...(e.joins ?? []), ...Object.values(e.positions ?? {}).flat()]);
  const wrong = (node: string): string | undefined => {
    const [set, member, ...rest] = node.split(".");
    if (member === undefined) {
      // a shaft of its own must be met at least twice, or nothing is joined by it
      const met =
        [...train.links.flat(), ...elementNodes].filter((n) => n === node).length + (shafts.has(node) ? 1 : 0);
      return ["input", "output", "case"].includes(node) || met > 1 ? undefined : `nothing else is on "${node}"`;
    }
    if (!sets.has(set ?? "")) return `there is no set "${set}"`;
    return rest.length > 0 || !(MEMBERS as readonly string[]).includes(member)
      ? `a set has sun, ring and carrier, no "${member}"`
      : undefined;
  };
  train.links.forEach((l, i) => {
    for (const n of l) {
      const reason = wrong(n);
      if (reason) say(`gearTrain.links.${i}`, reason);
    }
  });
  unit.elements.forEach((e, i) => {
    for (const n of e.joins ?? []) {
      const reason = wrong(n);
      if (reason) say(`elements.${i}.joins`, reason);
    }
    for (const [gear, nodes] of Object.entries(e.positions ?? {}))
      for (const n of nodes) {
        const reason = wrong(n);
        if (reason) say(`elements.${i}.positions.${gear}`, reason);
      }
    const placed = e.kind === "fork" ? e.positions : e.joins;
    if (!placed) say(`elements.${i}`, `"${e.id}" has no place in the gear train: give what it joins`);
  });
}

function checkLinks(train: GearTrain, say: Say): void {
  const shafts = new Shafts(train.links.flat());
  train.links.forEach(([a, b], i) => {
    if (!shafts.join(a, b))
      say(`gearTrain.links.${i}`, `"${a}" and "${b}" are one shaft already: the links run in a circle`);
  });
}

/**
 * What is wrong with the gear train of a unit: teeth that cannot be assembled, links in a circle, names of nothing,
 * gears that the train does not give or gives another ratio for.
 */
export function checkTrain(unit: Unit, say: Say): void {
  const { gearTrain } = unit;
  if (!gearTrain) return;
  checkTeeth(gearTrain, say);
  checkLinks(gearTrain, say);
  checkNames(unit, gearTrain, say);
  if (solveTrain(gearTrain, [], jointsOf(unit)).kind === "tie-up")
    say("gearTrain.links", "nothing can turn even with every element released");
  checkNeutral(unit, gearTrain, say);
  for (const { gear, applied, state } of gearStates(unit) ?? []) {
    const names = applied.map((j) => j.id).join(" + ") || "nothing";
    const at = `application.${gear}`;
    const given = unit.gears.find((g) => g.name === gear)?.ratio ?? Number.NaN;
    if (state.kind === "tie-up") say(at, `${names} tie the train up`);
    else if (state.kind === "neutral") say(at, `${names} leave the output free: an element is missing`);
    else if (Math.abs(state.ratio / given - 1) > RATIO_AGREEMENT)
      say(
        `gears.${unit.gears.findIndex((g) => g.name === gear)}.ratio`,
        `${given} stands against ${state.ratio.toFixed(4)} from the teeth; they may differ by ${RATIO_AGREEMENT * 100} %`,
      );
  }
}

/** In P and N nothing may drive or be tied up. */
function checkNeutral(unit: Unit, train: GearTrain, say: Say): void {
  if (!unit.neutral) return;
  const { kind } = solveTrain(
    train,
    jointsOf(unit).filter((j) => unit.neutral?.includes(j.id)),
  );
  if (kind !== "neutral") say("neutral", `with ${unit.neutral.join(", ")} applied the train is a ${kind}, not neutral`);
}

/** What the unit falls back to without power must be its limp gear. */
export function checkLimp(unit: Unit, say: Say): void {
  if (unit.kind !== "planetary") return;
  const valves = unit.solenoids.filter((s) => s.feeds === SHIFT_VALVES).map((s) => s.id);
  if (valves.length > 0) {
    const row = unit.solenoidChart[unit.limp.gear] ?? {};
    const on = valves.filter((id) => row[id] === "on");
    if (on.length > 0)
      say(
        "limp.gear",
        `without power the shift valves do not give gear ${unit.limp.gear}: it needs ${on.join(", ")} on`,
      );
    return;
  }
  const fed = unit.solenoids.filter((s) => s.unpoweredState === "applied").map((s) => s.feeds);
  const own = (unit.application[unit.limp.gear] ?? []).map((a) => a.element);
  const isFriction = (id: string) =>
    ["clutch", "brake", "band"].includes(unit.elements.find((e) => e.id === id)?.kind ?? "");
  const unpowered = fed.filter(isFriction).sort().join(" + ");
  const wanted = own.filter(isFriction).sort().join(" + ");
  if (unpowered !== wanted)
    say(
      "limp.gear",
      `without power ${unpowered || "nothing"} is applied; gear ${unit.limp.gear} needs ${wanted || "nothing"}`,
    );
}
