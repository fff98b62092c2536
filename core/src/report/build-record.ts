import {
  aftercareOf,
  authorsOf,
  type BenchPlace,
  benchPlaces,
  benchValue,
  type Call,
  type CauseOdds,
  coilsSay,
  converterSays,
  dualClutchSays,
  fitConverter,
  fitDrawing,
  judgedValue,
  packSummary,
  placeOf,
  placeState,
  pressureSays,
  type StackDrawing,
  selectionText,
  UNKNOWN_CAUSE,
  verdictText,
} from "../bench/index.ts";
import type { BenchChosen, BenchValue, Entry, EntryBodies, EntryOf } from "../job/index.ts";
import { foldJob } from "../job/index.ts";
import type { BenchKnowledge } from "../knowledge/index.ts";
import { QUANTITIES } from "../measure/index.ts";
import { percent, toDisplay, type UnitSystem, unitLabel } from "../quantity/index.ts";
import type { Unit } from "../unit/index.ts";
import type { Report, ReportSection } from "./report.ts";

/** A build of a unit of the same kind that the shop made before. */
export interface EarlierBuild {
  readonly jobNumber: string;
  readonly places: readonly EntryBodies["bench"][];
}

export interface BuildInput {
  readonly shopName: string;
  readonly jobNumber: string;
  readonly vehicle: { readonly name: string; readonly plate: string };
  readonly odometer: string;
  readonly unit: Unit;
  readonly entries: readonly Entry[];
  readonly knowledge: BenchKnowledge;
  readonly causes: readonly CauseOdds[];
  /** newest first */
  readonly earlier: readonly EarlierBuild[];
  readonly system: UnitSystem;
  readonly standingCaution: string;
}

interface Written {
  readonly author: string;
  readonly at: string;
}

/** `gearsense-build`: a build as an open file. Lengths in mm, pressures in kPa, as the units of the values say. */
export interface BuildFileShape {
  readonly format: "gearsense-build";
  readonly formatVersion: 1;
  readonly job: string;
  readonly vehicle: { readonly name: string; readonly plate: string };
  readonly unit: { readonly id: string; readonly name: string; readonly version: number };
  readonly places: readonly {
    readonly place: string;
    readonly title: string;
    readonly state: "pass" | "fail" | "open";
    readonly values: readonly (BenchValue &
      Written & {
        readonly mean: number;
        readonly uncertainty: number;
        readonly call: Call;
        readonly inside: number;
      })[];
    readonly looks: readonly (EntryBodies["bench"]["looks"][number] & Written)[];
    readonly chosen: readonly (BenchChosen & Written)[];
    readonly curve?: readonly (readonly [number, number])[] | undefined;
    readonly note: string;
  }[];
  /** null: nobody has said yet */
  readonly cause: { readonly id: string; readonly title: string; readonly note: string } | null;
  readonly breakInKm: number | null;
  readonly watch: readonly string[];
}

/** Places of a job in the order of the bench, each with who wrote what. */
function writtenPlaces(input: BuildInput) {
  const places = benchPlaces(input.unit, input.knowledge);
  const state = foldJob(input.entries);
  const versions = input.entries.filter((e): e is EntryOf<"bench"> => e.kind === "bench");
  const order = (id: string) => places.findIndex((p) => p.id === id);
  return [...state.bench]
    .sort((a, b) => order(a.body.place) - order(b.body.place))
    .map((entry) => {
      const authors = authorsOf(versions.filter((v) => v.body.place === entry.body.place && v.seq <= entry.seq));
      const by = (id: string): Written => authors.get(id) ?? { author: entry.author, at: entry.at };
      return { entry, place: placeOf(places, entry.body.place), by };
    });
}

const causeOf = (input: BuildInput) => {
  const entry = foldJob(input.entries).bench.find((e) => e.body.place === "cause");
  const look = entry?.body.looks.find((l) => l.id === "cause");
  return entry && look ? { id: look.outcome, title: look.label, note: entry.body.note } : null;
};

/** The build as an open file. */
export function buildFile(input: BuildInput): BuildFileShape {
  const { unit } = input;
  const { breakInKm, watch } = aftercareOf(unit, foldJob(input.entries));
  return {
    format: "gearsense-build",
    formatVersion: 1,
    job: input.jobNumber,
    vehicle: { name: input.vehicle.name, plate: input.vehicle.plate },
    unit: { id: unit.id, name: unit.name, version: unit.version },
    places: writtenPlaces(input)
      .filter(({ entry }) => entry.body.place !== "cause")
      .map(({ entry: { body }, by }) => ({
        place: body.place,
        title: body.title,
        state: placeState(body),
        values: body.values.map((v) => {
          const { value, uncertainty, call, inside } = judgedValue(v);
          return { ...v, mean: value, uncertainty, call, inside, ...by(v.id) };
        }),
        looks: body.looks.map((l) => ({ ...l, ...by(`look ${l.id}`) })),
        chosen: body.chosen.map((c) => ({ ...c, ...by(`part ${c.id}`) })),
        ...(body.curve ? { curve: body.curve } : {}),
        note: body.note,
      })),
    cause: causeOf(input),
    breakInKm: breakInKm ?? null,
    watch,
  };
}

const STATE_WORDS = { pass: "pass", fail: "fail", open: "open" } as const;

/** Drawing of a place: a pack in its drum, a converter between engine and unit. @returns undefined where nothing is stacked */
export function drawingOf(unit: Unit, body: Pick<EntryBodies["bench"], "place" | "values">): StackDrawing | undefined {
  const [kind, about] = body.place.split(":");
  const element = unit.elements.find((e) => e.id === about);
  if ((kind === "pack" || kind === "pack-in") && element)
    return packSummary(element, body.values, kind === "pack").drawing;
  if (kind === "converter-fit" && unit.converter?.fit) {
    const fitted = fitConverter(unit.converter, fitMeasured(body.values));
    return fitDrawing(fitted.parts, fitted.lines[0]?.sum.mm ?? 0);
  }
  return undefined;
}

/** Values of the place of the converter's fit by their names. */
export function fitMeasured(values: readonly BenchValue[]) {
  const of = (id: string) => benchValue({ values }, id);
  return {
    homeMm: of("home"),
    flexplateMm: of("flexplate"),
    adapterMm: of("adapter"),
    gasketMm: of("gasket"),
    spacerMm: of("spacer"),
    crankSpacerMm: of("crankSpacer"),
    pilotDiameterMm: of("pilotDiameter"),
    pilotBoreMm: of("pilotBore"),
    pilotLengthMm: of("pilotLength"),
    pilotRoomMm: of("pilotRoom"),
    pumpEngagedMm: of("pumpEngaged"),
    boltCircleMm: of("boltCircle"),
    boltLengthMm: of("boltLength"),
    flexplateThicknessMm: of("flexplateThickness"),
  };
}

/** What a place says as a whole, in sentences. */
export function placeSays(
  unit: Unit,
  knowledge: BenchKnowledge,
  body: Pick<EntryBodies["bench"], "place" | "values" | "looks">,
): string[] {
  const [kind, about] = body.place.split(":");
  const element = unit.elements.find((e) => e.id === about);
  switch (kind) {
    case "pack":
    case "pack-in": {
      if (!element) return [];
      const sum = packSummary(element, body.values, kind === "pack");
      return [
        ...(sum.clearance
          ? [`Clearance by sum ${sum.clearance.value.toFixed(2)} ± ${(2 * sum.clearance.uncertainty).toFixed(2)} mm.`]
          : []),
        ...(sum.selection && element.bench?.selective
          ? [selectionText(sum.selection, element.bench.selective.kind, element.plates ?? 0)]
          : []),
        ...sum.problems,
      ];
    }
    case "converter-fit":
      return unit.converter?.fit ? fitConverter(unit.converter, fitMeasured(body.values)).lines.map((l) => l.text) : [];
    case "converter-open":
      return converterSays(knowledge, body).map(
        (s) => `${s.found}. ${s.did} What breaks it so: ${s.broke.toLowerCase()}.`,
      );
    case "dual-clutch":
      return dualClutchSays(unit, body.values);
    case "electrical":
      return coilsSay(unit, body.values);
    case "pressure":
      return pressureSays(body.values);
    default:
      return [];
  }
}

/** "1.824 ± 0.012 mm" in the reader's units. */
export function readText(v: BenchValue, system: UnitSystem): string {
  const { value, uncertainty } = judgedValue(v);
  const quantity = QUANTITIES[v.unit];
  const shown = (x: number) => (quantity ? toDisplay(x, quantity, system) : x);
  // two figures of the uncertainty (GUM, JCGM 100:2008, 7.2.6)
  const wide = Math.abs(shown(2 * uncertainty));
  const digits = wide > 0 ? Math.min(4, Math.max(0, 1 - Math.floor(Math.log10(wide)))) : 2;
  return `${shown(value).toFixed(digits)} ± ${wide.toFixed(digits)} ${quantity ? unitLabel(quantity, system) : v.unit}`.trim();
}

function limitsText(v: BenchValue, system: UnitSystem): string {
  const quantity = QUANTITIES[v.unit];
  const n = (x: number) =>
    String(
      Number(
        (quantity ? toDisplay(x, quantity, system) : x).toFixed(system === "imperial" && quantity === "length" ? 4 : 2),
      ),
    );
  if (v.from !== undefined && v.to !== undefined) return `${n(v.from)} to ${n(v.to)}`;
  return v.from !== undefined ? `at least ${n(v.from)}` : v.to !== undefined ? `at most ${n(v.to)}` : "–";
}

/** The build on paper: every value, choice, part and look, by whom and with what, with the drawn stack-ups. */
export function buildRecord(input: BuildInput): Report {
  const { unit, system, knowledge } = input;
  const written = writtenPlaces(input);
  const [before] = input.earlier;
  const sections: ReportSection[] = [];
  for (const { entry, by, place } of written) {
    const { body } = entry;
    if (body.place === "cause") continue;
    const then = before?.places.find((p) => p.place === body.place);
    const earlier = (id: string) => {
      const v = then?.values.find((x) => x.id === id);
      return v ? readText(v, system) : "";
    };
    const rows = [
      ...body.values.map((v) => [
        v.name,
        readText(v, system),
        limitsText(v, system),
        verdictText(v),
        ...(before ? [earlier(v.id)] : []),
        `${by(v.id).author}, ${v.instrument.toLowerCase()}${v.readings.length > 1 ? `, ${v.readings.length} readings` : ""}`,
      ]),
      ...body.looks.map((l) => [
        l.name,
        l.label,
        "–",
        l.pass === null ? "told" : l.pass ? "pass" : "fail",
        ...(before ? [then?.looks.find((x) => x.id === l.id)?.label ?? ""] : []),
        `${by(`look ${l.id}`).author}, by eye`,
      ]),
      ...body.chosen.map((c) => [
        `${c.quantity} × ${c.name}`,
        c.sizeMm === null ? "" : `${c.sizeMm.toFixed(2)} mm`,
        "–",
        "chosen",
        ...(before ? [then?.chosen.find((x) => x.id === c.id)?.name ?? ""] : []),
        `${by(`part ${c.id}`).author}; ${c.why}`,
      ]),
    ];
    const drawing = drawingOf(unit, body);
    const missing = openMeasures(place, body);
    sections.push({
      id: body.place,
      title: `${body.title}: ${STATE_WORDS[placeState(body)]}`,
      paragraphs: [
        ...placeSays(unit, knowledge, body),
        ...(missing.length > 0
          ? [`Open: ${missing.slice(0, 8).join(", ")}${missing.length > 8 ? ` and ${missing.length - 8} more` : ""}.`]
          : []),
        ...(body.note ? [body.note] : []),
      ],
      table: {
        columns: ["What", "Read", "Limits", "Says", ...(before ? [`Job ${before.jobNumber}`] : []), "By and with"],
        rows,
      },
      ...(drawing ? { drawings: [drawing] } : {}),
    });
  }
  const cause = causeOf(input);
  const again = knowledge.causes.find((c) => c.id === cause?.id);
  const odds = input.causes.slice(0, 3).map((c) => `${c.title} ${percent(c.probability)}`);
  sections.push({
    id: "cause",
    title: "What broke it",
    paragraphs: [
      cause ? `${cause.title}.${cause.note ? ` ${cause.note}` : ""}` : "Open: nobody has said yet.",
      ...(again ? [`Done about it: ${again.remedy}`, `What would break it again: ${again.again}`] : []),
      ...(cause?.id === UNKNOWN_CAUSE ? ["Named unknown: what was measured and seen does not tell."] : []),
      ...(odds.length > 0 ? [`By what was seen: ${odds.join(", ")}.`] : []),
    ],
  });
  const after = aftercareOf(unit, foldJob(input.entries));
  if (after.breakInKm !== undefined || after.watch.length > 0)
    sections.push({
      id: "after",
      title: "After the build",
      paragraphs: [
        ...(after.breakInKm === undefined
          ? []
          : [
              `Driven gently for ${Math.round(toDisplay(after.breakInKm, "distance", system))} ${unitLabel("distance", system)}: no full pedal, no towing.`,
            ]),
        ...after.watch.map((w) => `Watch: ${w}.`),
      ],
    });
  return {
    title: `Build record, job ${input.jobNumber}`,
    subtitle: `${input.shopName} · ${unit.name}, file version ${unit.version} · ${input.vehicle.name}${input.vehicle.plate ? `, ${input.vehicle.plate}` : ""} · ${input.odometer}`,
    sections,
    bars: [],
    caution: input.standingCaution,
  };
}

/** Names of what a place asks for and nobody has written down yet. */
export function openMeasures(
  place: BenchPlace | undefined,
  body: Pick<EntryBodies["bench"], "values" | "looks">,
): string[] {
  if (!place) return [];
  const values = new Set(body.values.map((v) => v.id));
  const looks = new Set(body.looks.map((l) => l.id));
  return [
    ...place.measures.filter((m) => !m.optional && !values.has(m.id)).map((m) => m.name),
    ...place.looks.filter((l) => !looks.has(l.id)).map((l) => l.name),
  ];
}
