import type {
  CheckKind,
  ComponentKind,
  FaultClass,
  FaultGroup,
  FaultSite,
  Knowledge,
  Relation,
  RepairKind,
} from "../../knowledge/index.ts";
import {
  closesNeutral,
  componentName,
  elementPressuresKpa,
  elementsIn,
  inSentence,
  launchingClutches,
  PAPER_FRICTION,
  SHIFT_VALVES,
  type Unit,
} from "../../unit/index.ts";

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
    case "fed-element": {
      const all = unit.elements.filter((e) => friction(e.id));
      const fed = all.filter((e) => unit.solenoids.some((x) => x.feeds === e.id));
      return named(fed.length > 0 ? fed : all);
    }
    case "one-way-clutch":
      return named(unit.elements.filter((e) => e.kind === "one-way-clutch"));
    case "dual-clutch":
      return named(unit.elements.filter((e) => e.kind === "dual-clutch"));
    case "launching-clutch":
      return named(unit.elements.filter((e) => launchingClutches(unit).includes(e.id)));
    case "fork":
      return named(unit.elements.filter((e) => e.kind === "fork"));
    case "solenoid":
      return named(unit.solenoids);
    case "element-solenoid":
      return named(
        unit.solenoids.filter(
          (s) => friction(s.feeds) || element.get(s.feeds)?.kind === "dual-clutch" || s.feeds === SHIFT_VALVES,
        ),
      );
    case "speed-sensor":
      return named(unit.sensors.filter((s) => s.channel.endsWith("_rpm")));
    case "temperature-sensor":
      return named(unit.sensors.filter((s) => s.channel === "fluid_c" || s.channel === "clutch_c"));
    case "range-sensor":
      return named(unit.sensors.filter((s) => s.channel === "range"));
    case "ground-net":
      return named(unit.nets.filter((n) => n.kind === "ground"));
    case "signal-net":
      return named(unit.nets.filter((n) => n.kind === "signal"));
    case "supply-net":
      return named(unit.nets.filter((n) => n.kind === "supply"));
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
  readonly group: FaultGroup;
  readonly title: string;
  readonly weight: number;
  /** how often a drive shows nothing of it */
  readonly silent: number;
  /** class that it shows itself like where no row names it */
  readonly like?: string | undefined;
  /** forms no pairs */
  readonly alone?: true | undefined;
  /** what it leaves its element as, whatever the command */
  readonly stays?: "applied" | "released" | undefined;
  readonly at?: FaultSite | undefined;
}

/** A fault of somebody's own, from an evidence file: its prior against all others and what it predicts. */
export interface CustomFault {
  readonly id: string;
  readonly title: string;
  readonly group: FaultGroup;
  /** 0…1, both left out */
  readonly prior: number;
  /** by evidence table: probability of each outcome */
  readonly predicts: Readonly<Record<string, Readonly<Record<string, number>>>>;
}

/** "Replace {name}" reads "Replace output speed sensor". */
const fill = (title: string, c: Component): string =>
  title.replace("{name}", title.startsWith("{name}") || c.id === "unit" ? c.name : inSentence(c.name));
const KIND_WORDS: Readonly<Record<ComponentKind, string>> = {
  "friction-element": "A clutch or brake",
  "fed-element": "A clutch or brake",
  "one-way-clutch": "A one-way clutch",
  "dual-clutch": "A dual clutch",
  "launching-clutch": "A launch clutch",
  fork: "A fork",
  solenoid: "A solenoid",
  "element-solenoid": "A solenoid",
  "speed-sensor": "A speed sensor",
  "temperature-sensor": "The temperature sensor",
  "range-sensor": "The range sensor",
  "ground-net": "A ground",
  "signal-net": "A signal wire",
  "supply-net": "A supply",
  converter: "The converter",
  unit: "The unit",
};

/** A title that speaks of any component of a kind: "A clutch or brake: lining worn or burnt", "Replace a solenoid". */
export const kindTitle = (title: string, per: ComponentKind): string => {
  const words = KIND_WORDS[per];
  // "A" here is no name of a clutch: within a sentence it is small
  const inside = `${words[0]?.toLowerCase()}${words.slice(1)}`;
  return title.replace("{name}", title.startsWith("{name}") ? words : inside);
};
const instanceId = (classId: string, c: Component) => (c.id === "unit" ? classId : `${classId}:${c.id}`);

const isFor = (unit: Unit, kinds: readonly Unit["kind"][] | undefined) => kinds?.includes(unit.kind) ?? true;
/** Classes that the unit can have, with the leak term and "nothing". */
const classesOf = (unit: Unit, knowledge: Knowledge): ReadonlySet<string> =>
  new Set([...generateFaults(unit, knowledge).map((f) => f.classId), "unknown", "nothing"]);

function staysOf(unit: Unit, { stays }: FaultClass, component: string): Fault["stays"] {
  const unpowered = unit.solenoids.find((s) => s.id === component)?.unpoweredState;
  if (!stays || !unpowered) return undefined;
  return (stays === "unpowered") === (unpowered === "applied") ? "applied" : "released";
}

/** Of a dual-clutch unit only what planetary units can have as well shows otherwise: the rest has rows for itself anyway. */
function siteOf(unit: Unit, { kinds }: FaultClass, component: string): FaultSite | undefined {
  const feeds = unit.nets.find((n) => n.id === component && n.kind === "supply")?.connects ?? [];
  if (feeds.length > 0 && feeds.every((x) => unit.solenoids.some((s) => s.id === x))) return "solenoids";
  return unit.kind !== "planetary" && (kinds?.includes("planetary") ?? true) ? "dual-clutch" : undefined;
}

/** Every single fault the unit can have. */
export function generateFaults(unit: Unit, knowledge: Knowledge): Fault[] {
  return knowledge.faults
    .filter((k) => isFor(unit, k.kinds))
    .flatMap((k: FaultClass) =>
      componentsOf(unit, k.per).map((c) => ({
        id: instanceId(k.id, c),
        classId: k.id,
        component: c.id,
        group: k.group,
        title: fill(k.title, c),
        weight: k.weight,
        silent: k.silent,
        like: k.like,
        alone: k.alone,
        stays: staysOf(unit, k, c.id),
        at: siteOf(unit, k, c.id),
      })),
    );
}

export interface Check extends Omit<CheckKind, "id" | "title"> {
  readonly id: string;
  readonly kindId: string;
  readonly component: string;
  readonly title: string;
}

/** One of a kind of check or repair for each component that it is for. */
const instancesOf = <K extends CheckKind | RepairKind>(unit: Unit, kind: K) =>
  componentsOf(unit, kind.per).map((c) => ({
    ...kind,
    id: instanceId(kind.id, c),
    kindId: kind.id,
    component: c.id,
    title: fill(kind.title, c),
  }));

/** Checks that can tell something of this unit. */
export function generateChecks(unit: Unit, knowledge: Knowledge): Check[] {
  const classes = classesOf(unit, knowledge);
  return knowledge.checks
    .filter((k) => isFor(unit, k.kinds) && k.rows.some((r) => r.faults.some((f) => classes.has(f))))
    .flatMap((k) => instancesOf(unit, k))
    .filter((c) => canBeMade(unit, c));
}

/** Has the unit the port that a check needs, and a solenoid of its kind? */
function canBeMade(unit: Unit, { port, solenoidKind, component }: Check): boolean {
  const solenoid = unit.solenoids.find(
    (s) => s.id === component || (component === "converter-clutch" && s.feeds === "converter-clutch"),
  );
  if (solenoidKind !== undefined && solenoid?.kind !== solenoidKind) return false;
  if (port === undefined || unit.testPorts === undefined) return true;
  return unit.testPorts.includes(port === "element" ? (solenoid?.feeds ?? component) : port);
}

export interface Repair extends Omit<RepairKind, "id" | "title"> {
  readonly id: string;
  readonly kindId: string;
  readonly component: string;
  readonly title: string;
  /** done once more: id of the repair that was done first */
  readonly again?: string | undefined;
}

/** Repairs that cure something of this unit: each for the first time, and once more for where it did not cure. */
export function generateRepairs(unit: Unit, knowledge: Knowledge): Repair[] {
  const classes = classesOf(unit, knowledge);
  return knowledge.repairs
    .filter((k) => isFor(unit, k.kinds) && k.cures.some((c) => c.faults.some((f) => classes.has(f))))
    .flatMap((k): Repair[] => instancesOf(unit, k))
    .flatMap((first) => [first, doneAgain(first, knowledge)]);
}

/** Those that can be done now: what was tried is not done anew, but once more. @param tried - ids */
export const repairsLeft = (repairs: readonly Repair[], tried: ReadonlySet<string>): Repair[] =>
  repairs.filter(
    (r) =>
      !tried.has(r.id) &&
      (r.again === undefined || tried.has(r.again)) &&
      (r.after === undefined || r.again !== undefined || r.after.some((id) => tried.has(id))),
  );

/**
 * A repair that did not cure, done once more. It may have failed by its own making (a seal pinched, a plug not home, a new
 * part that is bad), which the second time mends, or because it does not reach what is wrong: with u for workmanship that
 * fails and c for its cure, it reaches r = min(1, c / (1 − u)) of such vehicles; of those that it did not cure
 * (r − c) / (1 − c), and these it cures in c / r.
 */
export function doneAgain(repair: Repair, { workmanshipFailure }: Pick<Knowledge, "workmanshipFailure">): Repair {
  const kindId = `${repair.kindId}-again`;
  return {
    ...repair,
    id: repair.component === "unit" ? kindId : `${kindId}:${repair.component}`,
    kindId,
    title: `${repair.title}, again`,
    again: repair.id,
    cures: repair.cures.map((cure) => {
      const reached = Math.min(1, cure.p / (1 - workmanshipFailure));
      return { ...cure, p: (((reached - cure.p) / (1 - cure.p)) * cure.p) / reached };
    }),
  };
}

/** What an evidence, check or repair speaks of: a gear, a shift, a code or a component. */
export interface Subject {
  readonly gear?: string | undefined;
  readonly shift?: string | undefined;
  readonly code?: string | undefined;
  readonly component?: string | undefined;
  /** components any of which would explain it */
  readonly components?: readonly string[] | undefined;
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
    case "carries-hard":
      return subject.gear !== undefined && elements.some((e) => hardWorked(unit, subject.gear as string).has(e));
    case "carries-first":
    case "carries-reverse":
    case "carries-one":
    case "carries-both": {
      const within = (gear: string) => elementsIn(unit, gear).some((e) => elements.includes(e));
      const [first, reverse] = [within("1"), within("R")];
      return {
        "carries-first": first,
        "carries-reverse": reverse,
        "carries-one": first !== reverse,
        "carries-both": first && reverse,
      }[relation];
    }
    case "spares":
      return subject.gear !== undefined && !elementsIn(unit, subject.gear).some((e) => elements.includes(e));
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
    case "about-grip":
      return (
        unit.codes
          .find((c) => c.code === subject.code)
          ?.components.some((id) => unit.elements.some((e) => e.id === id && e.kind !== "fork")) ?? false
      );
    case "about-shaft": {
      const clutches = elements.filter((id) => unit.elements.some((e) => e.id === id && e.kind === "dual-clutch"));
      const named = unit.codes.find((c) => c.code === subject.code)?.components ?? [];
      return Object.keys(unit.application).some((gear) => {
        const applied = elementsIn(unit, gear);
        return (
          clutches.some((c) => applied.includes(c)) &&
          named.some((id) => applied.includes(id) && !clutches.includes(id))
        );
      });
    }
    case "about":
    case "about-signal": {
      const code = unit.codes.find((c) => c.code === subject.code);
      if (relation === "about-signal" && !code?.ofSignal) return false;
      const named = code?.components ?? [];
      const pressure = unit.solenoids.filter((s) => s.feeds === "line-pressure").map((s) => s.id);
      return named.some(
        (id) => id === component || (component === "unit" && (id === "line-pressure" || pressure.includes(id))),
      );
    }
    case "among":
      return (
        subject.components?.some((id) => id === component || elementsOf(unit, id).some((e) => elements.includes(e))) ??
        false
      );
    case "closes-neutral":
      return elements.some((e) => closesNeutral(unit).has(e));
    case "converter-solenoid":
      return unit.solenoids.some((s) => s.id === subject.component && s.feeds === "converter-clutch");
  }
}

/** An element that needs this share of the line pressure of its gear has little to spare. */
const HARD_SHARE = 0.75;
const hardByUnit = new WeakMap<Unit, Map<string, ReadonlySet<string>>>();

/** Elements of a gear that set its line pressure or nearly do; all of them where the unit file does not tell. */
function hardWorked(unit: Unit, gear: string): ReadonlySet<string> {
  const known = hardByUnit.get(unit) ?? new Map<string, ReadonlySet<string>>();
  hardByUnit.set(unit, known);
  let hard = known.get(gear);
  if (!hard) {
    const needs = elementPressuresKpa(unit, gear, unit.maxInputTorqueNm, PAPER_FRICTION);
    const most = Math.max(0, ...needs.values());
    hard = new Set(elementsIn(unit, gear).filter((e) => (needs.get(e) ?? most) >= HARD_SHARE * most));
    known.set(gear, hard);
  }
  return hard;
}

/** Human words for the subject of an evidence. */
export function subjectName(unit: Unit, subject: Subject): string {
  return (
    subject.gear ?? subject.shift ?? subject.code ?? (subject.component ? componentName(unit, subject.component) : "")
  );
}
