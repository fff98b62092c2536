import type { SampleView } from "@gearsense/contract";
import type { Unit } from "@gearsense/core/unit";
import {
  captureDefinition,
  DIALECTS,
  type DialectName,
  exportLog,
  type SimulatedFault,
  simulateDrive,
} from "@gearsense/simulator";

interface SampleKind {
  readonly id: DialectName;
  readonly file: string;
  readonly written: string;
  /** number in the list of faults of the unit */
  readonly fault: number;
}

const KINDS: readonly SampleKind[] = [
  { id: "plain", file: "plain.csv", written: "CSV, long names with units", fault: 0 },
  { id: "canonical", file: "canonical.csv", written: "CSV, the names of this application", fault: 1 },
  {
    id: "semicolon-comma",
    file: "semicolon.csv",
    written: "Semicolons, decimal commas, clock time, a line before the header",
    fault: 0,
  },
  { id: "tab-imperial", file: "tab-imperial.txt", written: "Tabs, short names, miles and Fahrenheit", fault: 2 },
  { id: "in-turn", file: "in-turn.csv", written: "Channels read in turn: each line has half of them", fault: 0 },
  { id: "wide-characters", file: "wide.txt", written: "UTF-16, tabs", fault: 1 },
  { id: "bare-wide-characters", file: "wide-bare.csv", written: "UTF-16 without a mark, ISO times", fault: 3 },
  { id: "latin-1", file: "latin-1.csv", written: "Latin-1, units in a row of their own", fault: 1 },
  { id: "gzip-epoch", file: "drive.csv.gz", written: "gzip, seconds since 1970", fault: 0 },
  { id: "zip-epoch-ms", file: "drive.zip", written: "zip, everything in quotes", fault: 2 },
  { id: "long", file: "long.csv", written: "One reading a line", fault: 1 },
  { id: "long-semicolon", file: "long-semicolon.csv", written: "One reading a line, decimal commas", fault: 3 },
  { id: "rough", file: "rough.csv", written: "Header again and again, lost readings, cut off at the end", fault: 0 },
  { id: "holes", file: "holes.csv", written: "Lost readings as words, no units", fault: 1 },
  {
    id: "strange-names",
    file: "strange.csv",
    written: "Names that say nothing: the columns are told from their numbers",
    fault: 1,
  },
  {
    id: "capture",
    file: "bus.log",
    written: "Raw bus capture: it asks for its definition, which comes as a sample too",
    fault: 1,
  },
];
/** The definition of the bus capture. */
const DEFINITION_ID = "capture-definition";

const SECONDS = 240;
const RATE_HZ = 10;
const SEED = 77;

interface SampleFault {
  readonly shows: string;
  readonly faults: readonly SimulatedFault[];
}

/** Four states of a vehicle with this unit, with what is to be seen. */
function faultsOf(unit: Unit): readonly SampleFault[] {
  const sound: SampleFault = { shows: "Nothing wrong: no finding over a limit.", faults: [] };
  const output = unit.sensors.find((s) => s.channel === "output_rpm");
  const dead: SampleFault = {
    shows: `${output?.name ?? "Output speed sensor"} drops out: its reading falls to nothing while the wheels turn.`,
    faults: output ? [{ kind: "sensor-drops-out", component: output.id, severity: 0.9 }] : [],
  };
  const carried = (id: string) =>
    unit.gears.filter((g) => g.name !== "R" && (unit.application[g.name] ?? []).some((a) => a.element === id));
  const dual = unit.kind !== "planetary";
  // the one that carries most of the gears that a short drive on a hill uses
  const often = (id: string) => carried(id).filter((g) => ["2", "3", "4"].includes(g.name)).length;
  const element = unit.elements
    .filter((e) => e.kind === (dual ? "dual-clutch" : "clutch"))
    .reduce<Unit["elements"][number] | undefined>((a, b) => (a && often(a.id) >= often(b.id) ? a : b), undefined);
  const worn: SampleFault = {
    shows: `${element?.name ?? "A clutch"} is worn: gears ${carried(element?.id ?? "")
      .map((g) => g.name)
      .join(", ")} slip, more with more torque.`,
    faults: element ? [{ kind: dual ? "dual-clutch-worn" : "element-worn", component: element.id, severity: 1 }] : [],
  };
  const last: SampleFault = dual
    ? {
        shows: "Engine misfire: a shake with the engine in every gear, no slip.",
        faults: [{ kind: "misfire", severity: 0.8 }],
      }
    : {
        shows: "Fluid level low: flares and slip, worst in bends and on the hill.",
        faults: [{ kind: "fluid-low", severity: 0.8 }],
      };
  return [worn, sound, dead, last];
}

/** Samples for a unit: each way of writing with a vehicle that shows something. */
export function samplesOf(unit: Unit): SampleView[] {
  const faults = faultsOf(unit);
  return [
    ...KINDS.map(({ id, file, written, fault }) => ({
      id,
      fileName: `sample-${file}`,
      written,
      shows: faults[fault]?.shows ?? "",
    })),
    {
      id: DEFINITION_ID,
      fileName: "sample-bus-definition.json",
      written: "Definition of the bus capture",
      shows: "Which bits of which frame hold which channel.",
    },
  ];
}

export type MakeSample = (task: { readonly unit: Unit; readonly id: string }) => Promise<Uint8Array>;

/** Drives the vehicle of a sample and writes its log. @throws RangeError for a sample that there isn’t */
export function makeSample({ unit, id }: { readonly unit: Unit; readonly id: string }): Uint8Array {
  const kind = KINDS.find((k) => k.id === (id === DEFINITION_ID ? "capture" : id));
  if (!kind) throw new RangeError(`there isn’t a sample "${id}"`);
  const { columns } = simulateDrive({
    unit,
    seed: SEED + kind.fault,
    vehicleSeed: SEED,
    rateHz: RATE_HZ,
    durationS: SECONDS,
    startFluidC: 60,
    profile: "steep-hill",
    faults: [...(faultsOf(unit)[kind.fault]?.faults ?? [])],
  });
  return id === DEFINITION_ID
    ? new TextEncoder().encode(JSON.stringify(captureDefinition(columns), null, 2))
    : new Uint8Array(exportLog(columns, DIALECTS[kind.id]));
}
