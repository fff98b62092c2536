import type { CheckKind, ComponentKind, FaultClass, Knowledge, Relation, RepairKind } from "../knowledge/index.ts";
import { componentName, elementsIn, type Unit } from "../unit/index.ts";

/** A component that faults, checks and repairs are made for. */
export interface Component {
  readonly id: string;
  readonly name: string;
}

/** Components of one kind in a unit. A dual clutch is not a friction element here: it has faults of its own. */
export function componentsOf(unit: Unit, kind: ComponentKind): Component[] {
  const named = (list: readonly { id: string; name: string }[]) => list.map(({ id, name }) => ({ id, name }));
  const element = new Map(unit.elements.map((e) => [e.id, e]));
  const friction = (id: string) => ["clutch", "brake", "band"].includes(element.get(id)?.kind ?? "");
  switch (kind) {
    case "friction-element":
      return named(unit.elements.filter((e) => friction(e.id)));
    case "dual-clutch":
      return named(unit.elements.filter((e) => e.kind === "dual-clutch"));
    case "fork":
      return named(unit.elements.filter((e) => e.kind === "fork"));
    case "solenoid":
      return named(unit.solenoids);
    case "element-solenoid":
      return named(unit.solenoids.filter((s) => friction(s.feeds)));
    case "speed-sensor":
      return named(unit.sensors.filter((s) => s.channel.endsWith("_rpm")));
    case "signal-net":
      return named(unit.nets.filter((n) => n.kind === "signal"));
    case "supply-net":
      return named(
        unit.nets.filter((n) => n.kind === "supply" && n.connects.some((c) => unit.sensors.some((s) => s.id === c))),
      );
    case "converter":
      return unit.converter ? [{ id: "converter-clutch", name: "Converter clutch" }] : [];
    case "unit":
      return [{ id: "unit", name: unit.name }];
  }
}

export interface Fault {
  readonly id: string;
  readonly classId: string;
  readonly component: string;
  readonly title: string;
  readonly weight: number;
}

/** "Replace {name}" reads "Replace output speed sensor"; a name that begins with a sign, such as K1, keeps it. */
function fill(title: string, c: Component): string {
  const within = !title.startsWith("{name}") && c.id !== "unit" && /^[A-Z][a-z]/.test(c.name);
  return title.replace("{name}", within ? c.name.charAt(0).toLowerCase() + c.name.slice(1) : c.name);
}
const instanceId = (classId: string, c: Component) => (c.id === "unit" ? classId : `${classId}:${c.id}`);

/** Classes that speak of a converter or of dual clutches have no place in a unit without them. */
function fitsUnit(unit: Unit, faults: readonly string[]): boolean {
  const needsConverter = faults.length > 0 && faults.every((f) => f.startsWith("converter-"));
  return !needsConverter || unit.converter !== undefined;
}

/** Every single fault the unit can have. */
export function generateFaults(unit: Unit, knowledge: Knowledge): Fault[] {
  return knowledge.faults.flatMap((k: FaultClass) =>
    componentsOf(unit, k.per).map((c) => ({
      id: instanceId(k.id, c),
      classId: k.id,
      component: c.id,
      title: fill(k.title, c),
      weight: k.weight,
    })),
  );
}

export interface Check extends Omit<CheckKind, "id" | "title"> {
  readonly id: string;
  readonly kindId: string;
  readonly component: string;
  readonly title: string;
}

export function generateChecks(unit: Unit, knowledge: Knowledge): Check[] {
  return knowledge.checks.flatMap((k) =>
    componentsOf(unit, k.per).map((c) => ({
      ...k,
      id: instanceId(k.id, c),
      kindId: k.id,
      component: c.id,
      title: fill(k.title, c),
    })),
  );
}

export interface Repair extends Omit<RepairKind, "id" | "title"> {
  readonly id: string;
  readonly kindId: string;
  readonly component: string;
  readonly title: string;
}

export function generateRepairs(unit: Unit, knowledge: Knowledge): Repair[] {
  const classes = new Set(generateFaults(unit, knowledge).map((f) => f.classId)).add("unknown");
  return knowledge.repairs
    .filter((k) => k.cures.some((c) => c.faults.some((f) => classes.has(f)) && fitsUnit(unit, c.faults)))
    .flatMap((k) =>
      componentsOf(unit, k.per).map((c) => ({
        ...k,
        id: instanceId(k.id, c),
        kindId: k.id,
        component: c.id,
        title: fill(k.title, c),
      })),
    );
}

/** What an evidence, check or repair speaks of: a gear, a shift, a code or a component. */
export interface Subject {
  readonly gear?: string | undefined;
  readonly shift?: string | undefined;
  readonly code?: string | undefined;
  readonly component?: string | undefined;
}

/** Elements a component acts on: itself, or what it feeds. */
function elementsOf(unit: Unit, component: string): string[] {
  const solenoid = unit.solenoids.find((s) => s.id === component);
  return solenoid ? [solenoid.feeds] : [component];
}

/** Does the relation of a likelihood row hold between a fault's component and the subject? Read from the unit's charts. */
export function relationHolds(unit: Unit, relation: Relation, component: string, subject: Subject): boolean {
  const elements = elementsOf(unit, component);
  switch (relation) {
    case "any":
      return true;
    case "same":
      return subject.component === component;
    case "other":
      return subject.component !== component;
    case "carries":
      return subject.gear !== undefined && elementsIn(unit, subject.gear).some((e) => elements.includes(e));
    case "on-coming":
    case "off-going": {
      const [from = "", to = ""] = (subject.shift ?? "").split("-");
      const [old, fresh] = [elementsIn(unit, from), elementsIn(unit, to)];
      const moved =
        relation === "on-coming" ? fresh.filter((e) => !old.includes(e)) : old.filter((e) => !fresh.includes(e));
      return moved.some((e) => elements.includes(e));
    }
    case "feeds": {
      if (subject.component === undefined) return false;
      const net = unit.nets.find((n) => n.id === component);
      if (net) return net.connects.includes(subject.component);
      const fed = elementsOf(unit, subject.component);
      return fed.some((e) => elements.includes(e));
    }
    case "about": {
      const code = unit.codes.find((c) => c.code === subject.code);
      return (
        code?.components.some((id) => id === component || (id === "line-pressure" && component === "unit")) ?? false
      );
    }
    case "converter-solenoid":
      return unit.solenoids.some((s) => s.id === subject.component && s.feeds === "converter-clutch");
  }
}

/** Human words for the subject of an evidence. */
export function subjectName(unit: Unit, subject: Subject): string {
  return (
    subject.gear ?? subject.shift ?? subject.code ?? (subject.component ? componentName(unit, subject.component) : "")
  );
}
