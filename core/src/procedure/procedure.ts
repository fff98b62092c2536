import type { ThreePoint } from "../chance/index.ts";

/** Where a step is done: moving from one to another takes time. */
export const PLACES = ["top", "under", "cabin", "bench"] as const;
export type Place = (typeof PLACES)[number];

export const LIFTS = ["up", "down", "any"] as const;
export type Lift = (typeof LIFTS)[number];

/** What runs on by itself after a step while nobody has to stand there. */
export const WAITS = ["soak", "drain", "cool-down", "set", "delivery", "warm-up"] as const;

/** What a hazard is, and the cautions of which one at least has to stand before the step. */
export const HAZARDS = {
  "under-vehicle": ["under-vehicle"],
  "hot-drain": ["hot-drain"],
  scald: ["hot-fluid", "hot-drain"],
  springs: ["springs"],
  "compressed-air": ["compressed-air"],
  "engine-turned": ["turning-engine"],
  "engine-runs": ["turning-parts", "running-on-stands", "loaded-vehicle"],
  "heavy-load": ["lifting", "unit-down"],
  "unit-comes-down": ["unit-down"],
  "stored-pressure": ["stored-pressure"],
  electric: ["battery-off", "battery"],
  "vehicle-moves": ["road-test", "relearn"],
  "old-fluid": ["used-fluid"],
  licensed: ["licensed"],
} as const satisfies Readonly<Record<string, readonly string[]>>;
export type Hazard = keyof typeof HAZARDS;

/** What is recorded at a step; `limit` names where in the unit file its limits stand, see {@link limitOf}. */
export interface Recorded {
  readonly id: string;
  readonly name: string;
  readonly quantity: "temperature" | "volume" | "length" | "torque" | "resistance" | "pressure" | "count" | "choice";
  readonly limit?: string | undefined;
  /** of a choice */
  readonly options?: readonly string[] | undefined;
}

/** A tick by the person: nothing that needs the step is begun without it. */
export interface Hold {
  readonly ask: string;
  readonly reason: string;
  /** value that opens it, by the id of what is recorded at the step; absent: the tick alone */
  readonly opensBy?: string | undefined;
}

export interface ProcedureStep {
  readonly id: string;
  readonly title: string;
  /** how it is done, in whole sentences */
  readonly how?: string | undefined;
  readonly place: Place;
  /** absent: under is up, all else any */
  readonly lift?: Lift | undefined;
  /** traits of the unit that all have to hold; "!" in front: must not */
  readonly when?: readonly string[] | undefined;
  /** steps before it, "step" of the same procedure or "procedure/step"; one that this unit does not have is no matter */
  readonly after?: readonly string[] | undefined;
  /** best, likely, worst; by one practised person on a vehicle without rust */
  readonly minutes: ThreePoint;
  readonly people?: 1 | 2 | undefined;
  readonly wait?:
    | { readonly what: (typeof WAITS)[number]; readonly minutes: ThreePoint; readonly why: string }
    | undefined;
  readonly tools?: readonly string[] | undefined;
  /** ids of fasteners of the unit file that are undone or done up */
  readonly fasteners?: readonly string[] | undefined;
  readonly parts?:
    | readonly { readonly name: string; readonly count?: number | undefined; readonly oneTime?: boolean | undefined }[]
    | undefined;
  readonly consumables?: readonly string[] | undefined;
  readonly hazards?: readonly Hazard[] | undefined;
  readonly cautions?: readonly string[] | undefined;
  readonly hold?: Hold | undefined;
  readonly record?: readonly Recorded[] | undefined;
  readonly photos?: readonly string[] | undefined;
  /** what is open once it is done: named, the same in all procedures */
  readonly opens?: string | undefined;
  /** what has to be open for it; the step that undoes the opening comes after it */
  readonly needs?: readonly string[] | undefined;
  /** the step that it undoes */
  readonly undoes?: string | undefined;
  /** taken off, out or apart here: some step has to undo it */
  readonly removes?: boolean | undefined;
  /** begun only when all that was taken off is back, but for what is put back because of it */
  readonly afterRefits?: boolean | undefined;
  /** tray of the unit file in which what comes off is laid out */
  readonly tray?: string | undefined;
  /** what goes wrong here, by the names of the library's mishaps */
  readonly mishaps?: readonly string[] | undefined;
}

/** A way to an end, as data: `gearsense-procedure`, see docs/formats.md. */
export interface Procedure {
  readonly format: "gearsense-procedure";
  readonly version: 1;
  readonly id: string;
  readonly title: string;
  /** the end; several procedures with the same end are ways to it, the first by id is taken unless another is named */
  readonly end: string;
  /** traits of the units that it is for */
  readonly when?: readonly string[] | undefined;
  /** kinds of repair that it does, as the knowledge names them */
  readonly repairs?: readonly string[] | undefined;
  /** its steps come before those of all others, or after them */
  readonly phase?: "before" | "after" | undefined;
  /** done only when it is wanted, while the way to it is open: what it costs, and how often it comes due within four years otherwise */
  readonly extra?:
    | {
        readonly why: string;
        readonly parts: readonly { readonly name: string; readonly cost: number }[];
        /** 0…1, of a vehicle of ten years and 200,000 km */
        readonly odds: number;
        readonly by: "rust" | "age" | "care";
      }
    | undefined;
  /** ends that belong to it: their steps are done once, whoever else asks for them; "end?" where the unit has a way to it */
  readonly includes?: readonly string[] | undefined;
  readonly steps: readonly ProcedureStep[];
}

/** "procedure/step": what a step is called among those of all procedures. */
export const stepKey = (procedure: string, step: string): string =>
  step.includes("/") ? step : `${procedure}/${step}`;

export const liftOf = (s: Pick<ProcedureStep, "lift" | "place">): Lift =>
  s.lift ?? (s.place === "under" ? "up" : "any");

/** Under a vehicle that stands up in the air there is a hazard, whatever is done. */
export const hazardsOf = (s: ProcedureStep): readonly Hazard[] =>
  s.place === "under" ? [...new Set<Hazard>(["under-vehicle", ...(s.hazards ?? [])])] : (s.hazards ?? []);

/** Cautions that stand before a step. That of working beneath is told at every such step without being written there. */
export const cautionsOf = (s: ProcedureStep): readonly string[] =>
  s.place === "under" ? [...new Set(["under-vehicle", ...(s.cautions ?? [])])] : (s.cautions ?? []);
