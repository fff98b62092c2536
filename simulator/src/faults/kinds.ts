import { elementsIn, gearsUsing, launchingClutches, type Unit } from "@gearsense/core/unit";
import { FAULT_KINDS } from "./catalogue.ts";
import type { FaultKind } from "./kind.ts";
import { OUTSIDE_KINDS } from "./outside.ts";

const byId = new Map([...FAULT_KINDS, ...OUTSIDE_KINDS].map((k) => [k.id, k]));

/** Kinds that a unit can have. */
export const faultKindsFor = (unit: Unit): FaultKind[] =>
  FAULT_KINDS.filter(
    (k) => (!k.units || k.units.includes(unit.kind)) && (k.per === "unit" || componentsFor(unit, k).length > 0),
  );

/** @throws RangeError naming the kinds there are */
export function faultKind(id: string): FaultKind {
  const found = byId.get(id);
  if (!found) throw new RangeError(`"${id}" isn’t a fault. Choose one of: ${FAULT_KINDS.map((k) => k.id).join(", ")}.`);
  return found;
}

/** Components of a unit that can have a kind of fault, the likeliest to be seen first; empty for kinds of the whole unit. */
export function componentsFor(unit: Unit, { per }: FaultKind): string[] {
  const elements = (kinds: readonly string[]) => unit.elements.filter((e) => kinds.includes(e.kind)).map((e) => e.id);
  const nets = (k: string) => unit.nets.filter((n) => n.kind === k);
  const isPack = (id: string) => elements(["clutch", "brake", "band", "dual-clutch"]).includes(id);
  switch (per) {
    case "pack":
      return byUse(unit, elements(["clutch", "brake", "band"]));
    case "dual-clutch":
      return elements(["dual-clutch"]);
    case "launching-clutch":
      return launchingClutches(unit);
    case "one-way":
      return elements(["one-way-clutch"]);
    case "element-solenoid": {
      const fed = unit.solenoids.filter((s) => isPack(s.feeds));
      const order = byUse(
        unit,
        fed.map((s) => s.feeds),
      );
      return fed.map((s) => s.id).sort((a, b) => order.indexOf(feeds(unit, a)) - order.indexOf(feeds(unit, b)));
    }
    case "converter-solenoid":
      return unit.solenoids.filter((s) => s.feeds === "converter-clutch").map((s) => s.id);
    case "line-solenoid":
      return unit.solenoids.filter((s) => s.feeds === "line-pressure").map((s) => s.id);
    case "speed-sensor":
      return unit.sensors
        .filter((s) => s.channel === "output_rpm" || s.channel === "turbine_rpm" || /^k[12]_rpm$/.test(s.channel))
        .map((s) => s.id);
    case "supply-net": {
      const supply = nets("supply");
      const speed = (n: Unit["nets"][number]) => n.connects.some((x) => unit.sensors.some((s) => s.id === x));
      return [...supply.filter(speed), ...supply.filter((n) => !speed(n))].map((n) => n.id);
    }
    case "signal-net":
      return nets("signal")
        .filter((n) =>
          n.connects.some((x) => /turbine|output|k[12]/.test(unit.sensors.find((s) => s.id === x)?.channel ?? "")),
        )
        .map((n) => n.id);
    case "ground-net":
      return nets("ground").map((n) => n.id);
    case "fork":
      return unit.elements
        .flatMap((e) => (e.kind === "fork" ? Object.keys(e.positions ?? {}).map((g) => `${e.id}:${g}`) : []))
        .filter((j) => !/:(1|R)$/.test(j));
    case "unit":
      return [];
  }
}

const feeds = (unit: Unit, solenoid: string) => unit.solenoids.find((s) => s.id === solenoid)?.feeds ?? "";

/** Elements that first does without and several other gears need come first: their faults are seen in some gears and not in others. */
function byUse(unit: Unit, ids: readonly string[]): string[] {
  const forward = unit.gears.filter((g) => g.ratio > 0).map((g) => g.name);
  const first = elementsIn(unit, forward[0] ?? "");
  const score = (id: string) =>
    gearsUsing(unit, id).filter((g) => forward.includes(g)).length - (first.includes(id) ? 100 : 0);
  return [...new Set(ids)].sort((a, b) => score(b) - score(a));
}
