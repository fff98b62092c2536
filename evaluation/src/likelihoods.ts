import type {
  FaultClass,
  FaultSite,
  Knowledge,
  LikelihoodRow,
  LikelihoodTable,
  Relation,
} from "@gearsense/core/knowledge";
import { type Evidence, type Fault, relationHolds } from "@gearsense/core/suspect";
import type { Unit } from "@gearsense/core/unit";

/** What the drives of one vehicle with one fault, or none, show of it. */
export interface DriveRecord {
  /** absent: nothing is wrong */
  readonly classId: string | undefined;
  readonly stays: Fault["stays"];
  readonly at: Fault["at"];
  /** nothing of it shows */
  readonly silent: boolean;
  readonly seen: readonly { readonly table: string; readonly relation: Relation; readonly outcome: string }[];
}

/** By table, relations from the narrowest on: the first that holds is the one an outcome is counted under. */
const RELATIONS: Readonly<Record<string, readonly Relation[]>> = {
  gear: ["carries-hard", "carries", "spares"],
  "gear-reached": ["carries", "any"],
  shift: ["on-coming", "off-going", "any"],
  judder: ["same", "any"],
  sensor: ["same", "feeds", "any"],
  adaptation: ["feeds", "any"],
  "delay-cold": ["feeds", "any"],
  "delay-warm": ["feeds", "any"],
  "inertia-cold": ["feeds", "any"],
  "inertia-warm": ["feeds", "any"],
  "delay-release": ["feeds", "any"],
  "inertia-release": ["feeds", "any"],
  "engage-cold": ["carries", "any"],
  "engage-warm": ["carries", "any"],
  "clutch-pressure": ["feeds", "any"],
  "neutral-pull": ["closes-neutral", "any"],
  "slip-load": ["feeds", "any"],
  "stall-speed": ["carries-first", "any"],
  code: ["about-signal", "about", "about-grip", "about-shaft", "any"],
  "wrong-gear": ["among", "any"],
};
const ANY: readonly Relation[] = ["any"];

/** Sorts what a vehicle's drives showed by how it stands to its fault. */
export function recordOf(unit: Unit, fault: Fault | undefined, evidence: readonly Evidence[]): DriveRecord {
  const component = fault?.component ?? "unit";
  const shows = (e: Evidence) =>
    e.table === "adaptation" ? e.outcome !== "usual" && relationHolds(unit, "feeds", component, e.subject) : e.abnormal;
  return {
    classId: fault?.classId,
    stays: fault?.stays,
    at: fault?.at,
    silent: !evidence.some(shows),
    seen: evidence.flatMap((e) => {
      const relation = (RELATIONS[e.table] ?? ANY).find((r) => relationHolds(unit, r, component, e.subject));
      return relation ? [{ table: e.table, relation, outcome: e.outcome }] : [];
    }),
  };
}

/** Outcomes of one vehicle are alike: each beyond its first is worth so much of one of another vehicle. */
const SAME_VEHICLE = 0.4;
/** What stood there before is worth so many vehicles, and every outcome so much of one more. */
const BEFORE = 8;
const EACH_OUTCOME = 0.3;
const LEAST = 0.01;
/** What has nothing to do with the fault shows as in a sound unit unless vehicles say otherwise: surprises are rarer there. */
const ELSEWHERE: ReadonlySet<Relation> = new Set(["any", "spares", "other"]);
const EACH_ELSEWHERE = 0.04;
const LEAST_ELSEWHERE = 0.003;
/**
 * Rows that say no more than "otherwise" are left out: log-likelihood gained, and where something stood there before the
 * largest difference.
 */
const LEAST_GAIN = 1.5;
const LEAST_DIFFERENCE = 0.04;
/** What is so without any fault: what stood there is worth so many sound vehicles, and no outcome is rarer than this. */
const SOUND_BEFORE = 10;
const LEAST_SOUND = 0.0015;
/** How often nothing shows was held to be so before, in vehicles. */
const SILENT_BEFORE = 4;

interface Cell {
  readonly outcomes: Map<string, number>;
  vehicles: number;
  n: number;
}

/** Which faults, and how they stand to the evidence: what outcomes are counted under, and what a row speaks of. */
interface Case {
  readonly classId: string;
  readonly relation: Relation;
  readonly stays?: Fault["stays"];
  readonly at?: Fault["at"];
}
const cellKey = (table: string, { classId, stays, at, relation }: Case) =>
  [table, classId, stays ?? "", at ?? "", relation].join("|");

function countCells(records: readonly DriveRecord[]): Map<string, Cell> {
  const cells = new Map<string, Cell>();
  for (const r of records) {
    if (r.classId === undefined || r.silent) continue;
    const touched = new Set<Cell>();
    for (const { table, relation, outcome } of r.seen) {
      const key = cellKey(table, { classId: r.classId, stays: r.stays, at: r.at, relation });
      const cell = cells.get(key) ?? { outcomes: new Map(), vehicles: 0, n: 0 };
      cells.set(key, cell);
      cell.outcomes.set(outcome, (cell.outcomes.get(outcome) ?? 0) + 1);
      cell.n++;
      touched.add(cell);
    }
    for (const c of touched) c.vehicles++;
  }
  return cells;
}

const SOUND_PLACES = 4;

/** Summing to one. */
function rounded(p: Readonly<Record<string, number>>, places = 3): Record<string, number> {
  const scale = 10 ** places;
  const names = Object.keys(p);
  const most = names.reduce((a, b) => ((p[b] as number) > (p[a] as number) ? b : a));
  const out = Object.fromEntries(names.map((o) => [o, Math.round((p[o] as number) * scale) / scale]));
  const others = names.reduce((s, o) => (o === most ? s : s + (out[o] as number)), 0);
  return { ...out, [most]: Math.round((1 - others) * scale) / scale };
}

/** What a table shows of sound vehicles. @returns what stood there when there were none */
function withoutFault(table: LikelihoodTable, sound: readonly DriveRecord[]): LikelihoodTable["otherwise"] {
  const { outcomes, otherwise } = table;
  const counts = new Map<string, number>();
  let [vehicles, n] = [0, 0];
  for (const { seen } of sound) {
    const own = seen.filter((s) => s.table === table.evidence);
    for (const { outcome } of own) counts.set(outcome, (counts.get(outcome) ?? 0) + 1);
    vehicles += own.length > 0 ? 1 : 0;
    n += own.length;
  }
  // how faults share a pattern is not told by vehicles without one
  if (n === 0 || table.together) return otherwise;
  const worth = vehicles + SAME_VEHICLE * (n - vehicles);
  const raw = outcomes.map((o) =>
    Math.max(
      LEAST_SOUND,
      (((counts.get(o) ?? 0) / n) * worth + SOUND_BEFORE * (otherwise[o] as number)) / (worth + SOUND_BEFORE),
    ),
  );
  const total = raw.reduce((a, b) => a + b, 0);
  return rounded(Object.fromEntries(outcomes.map((o, i) => [o, (raw[i] as number) / total])), SOUND_PLACES);
}

const STAYS: readonly Fault["stays"][] = ["applied", "released", undefined];
const SITES: readonly FaultSite[] = ["dual-clutch", "solenoids"];

/**
 * @param general - for a row of a site: that of the class elsewhere, which stands where nothing else did and has to be
 * told from
 * @returns nothing when it says no more than would be said without it
 */
function rowFrom(
  table: LikelihoodTable,
  cell: Cell,
  { classId, relation, stays, at }: Case,
  general?: LikelihoodRow,
): LikelihoodRow | undefined {
  const { outcomes } = table;
  const written = table.rows.find(
    (r) => r.faults.includes(classId) && r.relation === relation && r.stays === stays && r.at === at,
  );
  const before = written ?? general;
  const without = general?.p ?? table.otherwise;
  const worth = cell.vehicles + SAME_VEHICLE * (cell.n - cell.vehicles);
  const share = (o: string) => (cell.outcomes.get(o) ?? 0) / cell.n;
  const [least, each] = ELSEWHERE.has(relation) ? [LEAST_ELSEWHERE, EACH_ELSEWHERE] : [LEAST, EACH_OUTCOME];
  const raw = outcomes.map((o) =>
    Math.max(
      least,
      (share(o) * worth + BEFORE * ((before?.p ?? without)[o] as number) + each) /
        (worth + BEFORE + each * outcomes.length),
    ),
  );
  const total = raw.reduce((a, b) => a + b, 0);
  const p = Object.fromEntries(outcomes.map((o, i) => [o, (raw[i] as number) / total]));
  const gain = outcomes.reduce((s, o) => s + share(o) * worth * Math.log((p[o] as number) / (without[o] as number)), 0);
  const difference = Math.max(...outcomes.map((o) => Math.abs((p[o] as number) - (without[o] as number))));
  if (gain < LEAST_GAIN && (!written || difference < LEAST_DIFFERENCE)) return undefined;
  const why = (before?.why ?? "from what it does on a drive").replace(/; counted on .*$/, "");
  return {
    faults: [classId],
    relation,
    ...(stays ? { stays } : {}),
    ...(at ? { at } : {}),
    p: rounded(p),
    why: `${why}; counted on ${cell.vehicles} simulated ${cell.vehicles === 1 ? "vehicle" : "vehicles"}`,
  };
}

/**
 * Likelihoods of what a drive shows, counted: p = (share · worth + 8 · before + e) / (worth + 8 + e · outcomes), e = 0.3,
 * or 0.04 where the evidence has nothing to do with the fault's component, worth = vehicles + 0.4 · (outcomes counted −
 * vehicles), over vehicles of which something shows; how often nothing shows is the class's silence. Faults at a
 * {@link FaultSite} have rows of their own where they show otherwise. Classes without a vehicle keep their rows. What is so
 * without any fault is the share among sound vehicles, with what stood there worth 10 of them.
 */
export function countedLikelihoods(
  knowledge: Pick<Knowledge, "evidence" | "faults">,
  records: readonly DriveRecord[],
): { readonly evidence: LikelihoodTable[]; readonly faults: FaultClass[] } {
  const cells = countCells(records);
  const sound = records.filter((r) => r.classId === undefined);
  const evidence = knowledge.evidence.map((written): LikelihoodTable => {
    if (!written.drive) return written;
    const table = { ...written, otherwise: withoutFault(written, sound) };
    const rows = (RELATIONS[table.evidence] ?? ANY).flatMap((relation) => [
      ...knowledge.faults.flatMap(({ id: classId }) =>
        STAYS.flatMap((stays) => {
          const row = (at?: FaultSite, general?: LikelihoodRow) => {
            const of: Case = { classId, relation, stays, at };
            const cell = cells.get(cellKey(table.evidence, of));
            return cell && rowFrom(table, cell, of, general);
          };
          const general = row();
          // the first that matches counts
          return [...SITES.map((at) => row(at, general)), general].filter((r) => r !== undefined);
        }),
      ),
      ...table.rows.flatMap((r) => {
        // what no vehicle showed this time stays as it was
        const left = r.faults.filter(
          (classId) => !cells.has(cellKey(table.evidence, { classId, relation, stays: r.stays, at: r.at })),
        );
        return r.relation === relation && left.length > 0 ? [{ ...r, faults: left }] : [];
      }),
    ]);
    return { ...table, rows };
  });
  const faults = knowledge.faults.map((f): FaultClass => {
    const own = records.filter((r) => r.classId === f.id);
    if (own.length === 0) return f;
    const silent = (own.filter((r) => r.silent).length + SILENT_BEFORE * f.silent) / (own.length + SILENT_BEFORE);
    return { ...f, silent: Math.round(Math.min(0.9, Math.max(0.02, silent)) * 1000) / 1000 };
  });
  return { evidence, faults };
}
