import {
  cautionsOf,
  liftOf,
  limitOf,
  type Placed,
  type Plan,
  type PlanStep,
  type Recorded,
} from "../procedure/index.ts";
import { formatQuantity, type UnitSystem } from "../quantity/index.ts";
import type { Unit } from "../unit/index.ts";
import type { Report, ReportSection } from "./report.ts";

export interface JobCardInput {
  readonly jobNumber: string;
  readonly vehicle: { readonly name: string; readonly plate: string };
  readonly unit: Unit;
  readonly decided: string;
  readonly plan: Plan;
  readonly order: readonly Pick<Placed, "key" | "liftTo">[];
  readonly done: ReadonlySet<string>;
  readonly system: UnitSystem;
  readonly cautions: Readonly<Record<string, string>>;
  readonly standingCaution: string;
}

/** A line of what has to be there for a plan. */
export interface PartLine {
  readonly kind: "part" | "material" | "bolt" | "fluid";
  readonly name: string;
  readonly quantity: number;
  readonly unit: "piece" | "l" | "as needed";
  readonly alwaysNew: boolean;
  /** money for one; undefined: not known */
  readonly each: number | undefined;
  /** titles of the steps that need it */
  readonly steps: readonly string[];
}

/** Parts, one-time bolts, material and fluid of a plan, each once. @param prices - of parts whose price the library knows */
export function partsList(unit: Unit, plan: Plan, prices: ReadonlyMap<string, number> = new Map()): PartLine[] {
  const lines = new Map<string, PartLine>();
  const add = (line: Omit<PartLine, "steps">, step: PlanStep) => {
    const key = `${line.kind} ${line.name}`;
    const known = lines.get(key);
    lines.set(key, {
      ...line,
      quantity: line.unit === "as needed" ? 1 : (known?.quantity ?? 0) + line.quantity,
      alwaysNew: line.alwaysNew || (known?.alwaysNew ?? false),
      steps: [...(known?.steps ?? []), step.title],
    });
  };
  for (const s of plan.steps) {
    for (const p of s.parts ?? [])
      add(
        {
          kind: "part",
          name: p.name,
          quantity: p.count ?? 1,
          unit: "piece",
          alwaysNew: p.oneTime ?? false,
          each: prices.get(p.name),
        },
        s,
      );
    for (const c of s.consumables ?? [])
      if (c !== FLUID)
        add({ kind: "material", name: c, quantity: 1, unit: "as needed", alwaysNew: false, each: undefined }, s);
    // what is done up again takes new bolts where they are used once
    if (s.undoneKey !== undefined)
      for (const f of unit.fasteners ?? [])
        if (f.oneTime && s.fasteners?.includes(f.id))
          add(
            {
              kind: "bolt",
              name: `${f.name} ${f.thread} × ${f.lengthMm}`,
              quantity: f.count,
              unit: "piece",
              alwaysNew: true,
              each: undefined,
            },
            s,
          );
  }
  const filled = plan.steps.find((s) => s.consumables?.includes(FLUID));
  if (filled) {
    const dry = plan.steps.some((s) => s.opens === "unit");
    const litres = dry ? unit.fluid.totalL : unit.fluid.panDrainL;
    add(
      {
        kind: "fluid",
        name: unit.fluid.spec,
        quantity: Math.ceil(litres * RESERVE),
        unit: "l",
        alwaysNew: true,
        each: undefined,
      },
      filled,
    );
  }
  const rank = { fluid: 0, part: 1, bolt: 2, material: 3 };
  return [...lines.values()].sort((a, b) => rank[a.kind] - rank[b.kind] || a.name.localeCompare(b.name));
}
const FLUID = "fluid of the unit file";
/** Litres to have at hand over what goes in. */
const RESERVE = 1.15;

const PLACES = { top: "At the top", under: "Under the vehicle", cabin: "In the cabin", bench: "At the bench" } as const;

function limitWords(unit: Unit, r: Recorded, system: UnitSystem): string {
  const limit = r.limit === undefined ? undefined : limitOf(unit, r.limit);
  if (!limit || r.quantity === "choice") return r.options ? ` (${r.options.join(" / ")})` : "";
  const { quantity } = r;
  const as = (v: number) => formatQuantity(v, quantity, system).text;
  const { least, most } = limit;
  return least !== undefined && most !== undefined
    ? ` (${as(least)} to ${as(most)})`
    : most !== undefined
      ? ` (at most ${as(most)})`
      : ` (at least ${as(least as number)})`;
}

/** The plan on paper: steps by place in the suggested order, cautions before them, room to tick and to write. */
export function jobCard(input: JobCardInput): Report {
  const { unit, plan, system } = input;
  const byKey = new Map(plan.steps.map((s) => [s.key, s]));
  const sections: { id: string; title: string; paragraphs: string[]; rows: string[][]; place: PlanStep["place"] }[] =
    [];
  input.order.forEach(({ key, liftTo }, i) => {
    const s = byKey.get(key);
    if (!s) return;
    let last = sections.at(-1);
    if (!last || last.place !== s.place || liftTo !== undefined) {
      last = {
        id: `card-${sections.length + 1}`,
        title: `${PLACES[s.place]}${liftTo ? `, lift ${liftTo}` : liftOf(s) === "up" ? ", lift up" : ""}`,
        paragraphs: [],
        rows: [],
        place: s.place,
      };
      sections.push(last);
    }
    for (const c of cautionsOf(s)) {
      const text = input.cautions[c];
      if (text && !last.paragraphs.includes(text)) last.paragraphs.push(text);
    }
    const write = (s.record ?? []).map((r) => `${r.name}${limitWords(unit, r, system)}: ______`);
    last.rows.push([
      input.done.has(key) ? "×" : "□",
      `${i + 1}. ${s.title}${s.people === 2 ? " (two persons)" : ""}${s.hold ? `. HOLD: ${s.hold.ask}` : ""}`,
      [...write, ...(s.fasteners && s.undoneKey !== undefined ? boltWords(unit, s.fasteners, system) : [])].join("; "),
      `${Math.round(s.minutes[1])}`,
    ]);
  });
  const parts = partsList(unit, plan);
  return {
    title: `Job card ${input.jobNumber}`,
    subtitle: `${input.vehicle.name} ${input.vehicle.plate}, ${unit.name}. ${input.decided}`,
    sections: [
      ...sections.map(
        ({ id, title, paragraphs, rows }): ReportSection => ({
          id,
          title,
          paragraphs,
          table: { columns: ["", "Step", "Record", "min"], rows },
        }),
      ),
      {
        id: "parts",
        title: "Parts, material and fluid",
        paragraphs: parts.length === 0 ? ["None."] : [],
        ...(parts.length > 0
          ? {
              table: {
                columns: ["", "What", "How many"],
                rows: parts.map((p) => ["□", `${p.name}${p.alwaysNew ? ", always new" : ""}`, amountWords(p)]),
              },
            }
          : {}),
      },
    ],
    bars: [],
    caution: input.standingCaution,
  };
}

const amountWords = (p: PartLine) =>
  p.unit === "as needed" ? p.unit : p.unit === "l" ? `${p.quantity} l` : `${p.quantity}`;

const boltWords = (unit: Unit, ids: readonly string[], system: UnitSystem): string[] =>
  (unit.fasteners ?? [])
    .filter((f) => ids.includes(f.id))
    .map(
      (f) =>
        `${f.count} × ${f.thread} × ${f.lengthMm}: ${formatQuantity(f.torqueNm, "torque", system).text}${f.angleDeg ? ` + ${f.angleDeg}°` : ""}`,
    );
