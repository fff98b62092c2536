import { TrainParts, UnitFile } from "@gearsense/contract";
import { checkUnit, type GearState, gearStates, MEMBERS, type Unit } from "@gearsense/core/unit";

/** A unit while it is edited: any field may be missing or wrong. */
export type Draft = Record<string, unknown>;

export interface Problem {
  readonly path: string;
  readonly reason: string;
}

/** What stands at a dotted path; undefined where there is nothing. */
export function valueAt(draft: unknown, path: string): unknown {
  return path.split(".").reduce<unknown>((v, key) => (v as Record<string, unknown> | undefined)?.[key], draft);
}

const isIndex = (key: string | undefined) => key !== undefined && /^\d+$/.test(key);
const isEmpty = (v: unknown) =>
  v === undefined || (typeof v === "object" && v !== null && !Array.isArray(v) && Object.keys(v).length === 0);

/**
 * The draft with a value at a dotted path; objects and lists on the way are made as needed. A value of undefined takes
 * the field away, and an object that is left empty with it.
 */
export function withValue<T>(draft: T, path: string, value: unknown): T {
  const [key = "", ...rest] = path.split(".");
  // a value typed where an object belongs gives way to it
  const base = typeof draft === "object" && draft !== null ? draft : isIndex(key) ? [] : {};
  const inner = (base as Record<string, unknown>)[key];
  const next = rest.length === 0 ? value : withValue(inner, rest.join("."), value);
  if (Array.isArray(base)) {
    const list = [...base];
    list[Number(key)] = next;
    return list as T;
  }
  const { [key]: _, ...others } = base as Record<string, unknown>;
  if (isEmpty(next)) return others as T;
  // the field keeps its place in the file
  return Object.fromEntries(
    key in base
      ? Object.entries(base as Record<string, unknown>).map(([k, v]) => [k, k === key ? next : v])
      : [...Object.entries(others), [key, next]],
  ) as T;
}

export interface Judged {
  readonly problems: readonly Problem[];
  /** what the gear train gives, as far as it can be told from an unfinished draft */
  readonly states: readonly GearState[] | undefined;
  /** the draft as a unit, once nothing is wrong with it */
  readonly unit: Unit | undefined;
}

/** Checks a draft whole: the schema first, then what a schema cannot see. */
export function judge(draft: Draft): Judged {
  const parsed = UnitFile.safeParse(draft);
  if (!parsed.success) {
    return {
      problems: parsed.error.issues.map((i) => ({ path: i.path.join(".") || "file", reason: i.message })),
      states: statesOf(draft),
      unit: undefined,
    };
  }
  const unit = parsed.data as Unit;
  const problems = checkUnit(unit);
  return { problems, states: gearStates(unit), unit: problems.length === 0 ? unit : undefined };
}

/** The train answers as soon as gears, chart, elements and train are whole, whatever else is missing. */
function statesOf(draft: Draft): GearState[] | undefined {
  const parts = TrainParts.safeParse(draft);
  return parts.success ? gearStates(parts.data) : undefined;
}

/** Nodes that a joint may name, from what is typed so far of sets and pairs. */
export function nodeNames(draft: Draft): string[] {
  const list = (path: string) => (valueAt(draft, path) as Record<string, unknown>[] | undefined) ?? [];
  const members = list("gearTrain.sets").flatMap((s) => (s.id ? MEMBERS.map((m) => `${s.id}.${m}`) : []));
  const shafts = list("gearTrain.pairs").flatMap((p) => [p.driver, p.driven].filter(Boolean).map(String));
  return [...new Set(["input", "output", "case", ...members, ...shafts])];
}

/** Takes an element into a gear of the chart, or out of it. A fork is moved towards that gear. */
export function toggleApplied(draft: Draft, gear: string, element: { id: string; kind: string }): Draft {
  const row = (valueAt(draft, `application.${gear}`) as { element: string }[] | undefined) ?? [];
  const without = row.filter((a) => a.element !== element.id);
  const added = {
    element: element.id,
    ...(element.kind === "one-way-clutch" ? { driveOnly: true } : {}),
    ...(element.kind === "fork" ? { towards: gear } : {}),
  };
  return withValue(draft, `application.${gear}`, without.length < row.length ? without : [...row, added]);
}

/** The solenoid chart as the application chart and the state without power make it. */
export function chartFromApplication(draft: Draft): Draft {
  const gears = (draft.gears as { name: string }[] | undefined) ?? [];
  const solenoids = (draft.solenoids as { id: string; feeds: string; unpoweredState: string }[] | undefined) ?? [];
  const chart = Object.fromEntries(
    gears.map(({ name }) => {
      const applied = ((valueAt(draft, `application.${name}`) as { element: string }[] | undefined) ?? []).map(
        (a) => a.element,
      );
      const row = solenoids.map(({ id, feeds, unpoweredState }) => {
        const regulated = ["converter-clutch", "line-pressure", "supply"].includes(feeds);
        const powered = applied.includes(feeds) !== (unpoweredState === "applied");
        return [id, regulated ? "modulated" : powered ? "on" : "off"] as const;
      });
      return [name, Object.fromEntries(row)];
    }),
  );
  return withValue(draft, "solenoidChart", chart);
}

/** Ratios of the gears as the teeth give them, rounded to what a file holds. */
export function ratiosFromTrain(draft: Draft, states: readonly GearState[]): Draft {
  const gears = (draft.gears as { name: string; ratio: number }[]).map((g) => {
    const state = states.find((s) => s.gear === g.name)?.state;
    return state?.kind === "gear" ? { ...g, ratio: Math.round(state.ratio * 10000) / 10000 } : g;
  });
  return { ...draft, gears };
}

/** A unit to begin from when nothing like it is in the library: ratios only, to be filled in. */
export const EMPTY_UNIT: Draft = {
  format: "gearsense-unit",
  formatVersion: 1,
  id: "",
  version: 1,
  name: "",
  kind: "planetary",
  layout: "longitudinal",
  description: "",
  gears: [],
  elements: [],
  application: {},
  solenoids: [],
  solenoidChart: {},
  limp: { gear: "" },
  sensors: [],
  nets: [],
  codes: [],
  limits: {},
  fluid: { level: { method: "overflow", steps: "" } },
};
