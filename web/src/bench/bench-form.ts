import { type BenchPlace, type OtherUnit, otherUnit } from "@gearsense/core/bench";
import type { BenchChosen, BenchValue, EntryBodies } from "@gearsense/core/job";
import type { Instrument } from "@gearsense/core/knowledge";
import { QUANTITIES, readingsIn } from "@gearsense/core/measure";
import { fromDisplay, toDisplay, type UnitSystem, unitLabel } from "@gearsense/core/quantity";

/** What is typed at a place of the bench, as it is typed; kept on the device until it is stored. */
export interface BenchForm {
  /** units that the readings are typed in */
  readonly system: UnitSystem;
  readonly readings: Readonly<Record<string, string>>;
  /** ids of instruments, where it is not the usual one */
  readonly instruments: Readonly<Record<string, string>>;
  readonly temperaturesC: Readonly<Record<string, number | null>>;
  /** taken as they stand though they look like another unit */
  readonly asRead: Readonly<Record<string, boolean>>;
  readonly looks: Readonly<Record<string, string>>;
  readonly chosen: readonly BenchChosen[];
  readonly curve: string;
  readonly note: string;
}

type Body = EntryBodies["bench"];

/** Numbers out of a maker's table are taken to one part in a hundred. */
export const MAKER: Instrument = { id: "maker", name: "Maker’s data", percent: 1, fixed: 0 };

export const shownUnit = (unit: string, system: UnitSystem): string =>
  QUANTITIES[unit] ? unitLabel(QUANTITIES[unit], system) : unit;
export const shownValue = (x: number, unit: string, system: UnitSystem): number =>
  QUANTITIES[unit] ? toDisplay(x, QUANTITIES[unit], system) : x;
export const keptValue = (x: number, unit: string, system: UnitSystem): number =>
  QUANTITIES[unit] ? fromDisplay(x, QUANTITIES[unit], system) : x;

/** Enough figures to give back what was typed. */
const typed = (x: number) => String(Number(x.toPrecision(7)));

/** The form of a place as it was stored, or empty. */
export function formOf(body: Body | undefined, instruments: readonly Instrument[], system: UnitSystem): BenchForm {
  const values = body?.values ?? [];
  const record = <T>(of: (v: BenchValue) => T) => Object.fromEntries(values.map((v) => [v.id, of(v)]));
  return {
    system,
    readings: record((v) => v.readings.map((r) => typed(shownValue(r, v.unit, system))).join(" ")),
    instruments: record((v) => instruments.find((i) => i.name === v.instrument)?.id ?? MAKER.id),
    temperaturesC: record((v) => v.temperatureC ?? null),
    asRead: record((v) => v.asRead ?? false),
    looks: Object.fromEntries((body?.looks ?? []).map((l) => [l.id, l.outcome])),
    chosen: body?.chosen ?? [],
    curve: (body?.curve ?? []).map(([rpm, nm]) => `${rpm} ${typed(shownValue(nm, "N·m", system))}`).join("\n"),
    note: body?.note ?? "",
  };
}

/** Pairs of numbers, one a line. @returns what is wrong with which line, instead */
export function curveOf(text: string, system: UnitSystem): [number, number][] | string {
  const curve: [number, number][] = [];
  for (const [i, line] of text.split("\n").entries()) {
    if (line.trim() === "") continue;
    const numbers = readingsIn(line.replace(/\t/g, " "));
    const [rpm, nm] = numbers ?? [];
    if (numbers?.length !== 2 || rpm === undefined || nm === undefined)
      return `Line ${i + 1}: a speed and a torque, such as 1500 260.`;
    curve.push([rpm, keptValue(nm, "N·m", system)]);
  }
  return curve;
}

export interface BenchTyped {
  readonly body: Body;
  /** by the id of a measure */
  readonly problems: Readonly<Record<string, string>>;
  /** readings that look like another unit, asked for before they are taken */
  readonly questions: Readonly<Record<string, OtherUnit>>;
}

/** What is typed as an entry, with what has to be mended or answered before it can be stored. */
export function typedBody(place: BenchPlace, form: BenchForm, instruments: readonly Instrument[]): BenchTyped {
  const problems: Record<string, string> = {};
  const questions: Record<string, OtherUnit> = {};
  const values = place.measures.flatMap((m): BenchValue[] => {
    const shown = readingsIn(form.readings[m.id] ?? "");
    if (!shown) {
      problems[m.id] = "Numbers with a space between them, such as 1.82 1.83.";
      return [];
    }
    if (shown.length === 0) return [];
    const readings = shown.map((x) => keptValue(x, m.unit, form.system));
    const temperatureC = form.temperaturesC[m.id] ?? undefined;
    if (m.copper && temperatureC === undefined) {
      problems[m.id] = "Its temperature too: copper changes by 4 % in 10 °C.";
      return [];
    }
    const asRead = form.asRead[m.id] === true;
    const { expected } = m;
    const other = expected && !asRead ? readings.map((r) => otherUnit(r, m.unit, expected)).find(Boolean) : undefined;
    if (other) questions[m.id] = other;
    const by = instruments.find((i) => i.id === (form.instruments[m.id] ?? m.instrument)) ?? MAKER;
    return [
      {
        id: m.id,
        name: m.name,
        unit: m.unit,
        readings,
        instrument: by.name,
        percent: by.percent,
        fixed: by.fixed,
        ...(m.copper && temperatureC !== undefined ? { temperatureC } : {}),
        ...(m.from === undefined ? {} : { from: m.from }),
        ...(m.to === undefined ? {} : { to: m.to }),
        ...(asRead ? { asRead } : {}),
      },
    ];
  });
  const looks = place.looks.flatMap((l): Body["looks"][number][] => {
    const option = l.options.find((o) => o.id === form.looks[l.id]);
    return option ? [{ id: l.id, name: l.name, outcome: option.id, label: option.label, pass: option.pass }] : [];
  });
  const curve = curveOf(form.curve, form.system);
  if (typeof curve === "string") problems.curve = curve;
  return {
    body: {
      place: place.id,
      title: place.title,
      values,
      looks,
      chosen: form.chosen,
      ...(typeof curve !== "string" && curve.length > 0 ? { curve } : {}),
      note: form.note,
    },
    problems,
    questions,
  };
}

/** Readings of a measure with those that looked like another unit brought over. */
export function inOwnUnit(place: BenchPlace, form: BenchForm, id: string): string {
  const m = place.measures.find((x) => x.id === id);
  const expected = m?.expected;
  if (!m || !expected) return form.readings[id] ?? "";
  return (readingsIn(form.readings[id] ?? "") ?? [])
    .map((x) => {
      const kept = keptValue(x, m.unit, form.system);
      return typed(shownValue(otherUnit(kept, m.unit, expected)?.value ?? kept, m.unit, form.system));
    })
    .join(" ");
}

/**
 * Lines of a file or of the clipboard over the fields of a place: a line that begins with the id or the name of a measure goes
 * there, lines of bare numbers go to one field after another.
 * @param from - id of the field that bare numbers begin at
 * @returns the readings, and the lines that went nowhere
 */
export function spreadLines(
  place: BenchPlace,
  readings: Readonly<Record<string, string>>,
  text: string,
  from?: string,
): { readonly readings: Record<string, string>; readonly lost: readonly string[] } {
  const next: Record<string, string> = { ...readings };
  const lost: string[] = [];
  let at = Math.max(
    0,
    place.measures.findIndex((m) => m.id === from),
  );
  for (const line of text.split(/\r?\n/)) {
    if (line.trim() === "") continue;
    const cells = line.split(/[;\t]/).map((c) => c.trim());
    const [first = "", ...rest] =
      cells.length > 1
        ? cells
        : line.includes(",") && /^[^\d-]/.test(line.trim())
          ? line.split(",").map((c) => c.trim())
          : cells;
    const named = place.measures.find((m) => m.id === first || m.name.toLowerCase() === first.toLowerCase());
    const numbers = readingsIn((named ? rest : cells).filter((c) => c !== "").join(" "));
    const measure = named ?? place.measures[at];
    if (!numbers || numbers.length === 0 || !measure) {
      lost.push(line.trim());
      continue;
    }
    next[measure.id] = numbers.join(" ");
    if (!named) at++;
  }
  return { readings: next, lost };
}
