import type { BenchValue } from "../job/index.ts";
import type { Uncertain } from "../measure/index.ts";
import type { Element } from "../unit/index.ts";
import { type DrawnPart, packDrawing, type StackDrawing } from "./drawing.ts";
import { meanValue } from "./judged.ts";
import {
  type Compared,
  chooseSelective,
  clearanceOf,
  comparePlates,
  type PlateState,
  plateState,
  type Selection,
  stackOf,
} from "./packs.ts";

export interface PlateRead {
  readonly id: string;
  readonly name: string;
  readonly kind: "friction" | "steel";
  readonly state: PlateState;
}

export interface PackSummary {
  readonly plates: readonly PlateRead[];
  /** friction plates and steels that are not measured yet */
  readonly missing: number;
  /** all of the pack but the selective part; undefined until every plate is measured */
  readonly stack: Uncertain | undefined;
  /** depth less stack: what a selective part is chosen for */
  readonly bare: Uncertain | undefined;
  /** by sum, with the fitted part */
  readonly clearance: Uncertain | undefined;
  readonly perPlateMm: number | undefined;
  /** clearance by feeler */
  readonly byFeeler: Uncertain | undefined;
  /** the plates nearest the hub against those nearest the drum */
  readonly ends: Compared | undefined;
  readonly selection: Selection | undefined;
  readonly drawing: StackDrawing | undefined;
  /** what does not go together or cannot be, with what to do */
  readonly problems: readonly string[];
}

/** A depth taken from the unit file is true to so much, mm. */
const FILE_DEPTH_MM = 0.03;
const FILE_PLATE_MM = 0.02;
/** Sum and feeler may differ by so many standard uncertainties. */
const AGREE = 2.5;

/**
 * A pack from what was read of it: plates, stack, clearance, and the selective part that sets it right.
 * @param values - of one place of the bench
 * @param asFound - it is drawn with the part that was in it, and none is chosen: what goes in is another matter
 */
export function packSummary(element: Element, values: readonly BenchValue[], asFound = false): PackSummary {
  const b = element.bench;
  const find = (id: string) => values.find((v) => v.id === id);
  const number = (id: string) => {
    const v = find(id);
    return v && meanValue(v);
  };
  const problems: string[] = [];
  const plates: PlateRead[] = [];
  const read = (
    kind: "friction" | "steel",
    prefix: string,
    count: number,
    leastMm: number,
    newMm: number | undefined,
  ) => {
    for (let i = 1; i <= count; i++) {
      const v = find(`${prefix}-${i}`);
      if (!v) continue;
      const limits = { leastMm, newMm, taperMostMm: kind === "friction" ? b?.taperMostMm : undefined };
      const state = plateState(meanValue(v), v.readings, limits);
      plates.push({ id: v.id, name: v.name, kind, state });
      if (state.faults.includes("thicker-than-new"))
        problems.push(
          `${v.name} is ${state.value.toFixed(2)} mm, a new one ${(newMm ?? 0).toFixed(2)} mm: another part, two stuck together, or misread. Measure it again and look at its number.`,
        );
    }
  };
  const frictions = element.plates ?? 0;
  const steels = b?.steels ?? frictions;
  if (b) {
    read("friction", "plate", frictions, b.frictionPlateMinMm, b.frictionPlateNewMm);
    read("steel", "steel", steels, b.steelPlateMinMm, b.steelPlateNewMm);
  }
  const missing = frictions + steels - plates.length;
  const fixed = (b?.fixedPlates ?? []).map(
    (f, i) => number(`fixed-${i + 1}`) ?? { value: f.thicknessMm, uncertainty: FILE_PLATE_MM },
  );
  const stack = missing === 0 && plates.length > 0 ? stackOf([...plates.map((p) => p.state), ...fixed]) : undefined;
  const depth =
    number("depth") ?? (b?.depthMm === undefined ? undefined : { value: b.depthMm, uncertainty: FILE_DEPTH_MM });
  const bare = stack && depth ? clearanceOf(depth, stack, { value: 0, uncertainty: 0 }) : undefined;
  const fitted = number("fitted");
  const clearance = stack && depth && fitted ? clearanceOf(depth, stack, fitted) : undefined;
  const byFeeler = number("clearance");
  if (clearance && clearance.value < 0)
    problems.push(
      `The pack is ${(-clearance.value).toFixed(2)} mm thicker than its drum is deep: a plate too many, a wrong set, or the depth is misread. It cannot run so.`,
    );
  else if (bare && bare.value < 0)
    problems.push(
      `The plates alone are ${(-bare.value).toFixed(2)} mm thicker than the drum is deep: a plate too many, a wrong set, or the depth is misread.`,
    );
  if (clearance && byFeeler) {
    const apart = clearance.value - byFeeler.value;
    if (Math.abs(apart) > AGREE * Math.hypot(clearance.uncertainty, byFeeler.uncertainty))
      problems.push(
        `By sum the clearance is ${clearance.value.toFixed(2)} mm, by feeler ${byFeeler.value.toFixed(2)} mm: a plate that is coned, a ring not in its groove, or a reading that is off.`,
      );
  }
  const ofKind = (kind: PlateRead["kind"]) => plates.filter((p) => p.kind === kind).map((p) => p.state);
  const linings = ofKind("friction");
  const half = Math.floor(frictions / 2);
  const ends = missing === 0 && half > 0 ? comparePlates(linings.slice(0, half), linings.slice(-half)) : undefined;
  const target = b?.targetMm ?? (b ? (b.clearanceMm[0] + b.clearanceMm[1]) / 2 : 0);
  const selection =
    !asFound && bare && bare.value > 0 && b?.selective
      ? chooseSelective(bare, b.clearanceMm, target, b.selective)
      : undefined;
  const size =
    selection && selection.kind !== "none" ? selection.best.sizesMm.reduce((a, c) => a + c, 0) : fitted?.value;
  return {
    plates,
    missing,
    stack,
    bare,
    clearance,
    perPlateMm: clearance && frictions > 0 ? clearance.value / frictions : undefined,
    byFeeler,
    ends,
    selection,
    drawing:
      stack && depth && size !== undefined
        ? packDrawing(element.name, layers(plates, fixed, b?.fixedPlates ?? []), size, depth.value)
        : undefined,
    problems,
  };
}

/** Plates as they lie: apply plate first, then steel and friction in turn, the backing plate last. */
function layers(
  plates: readonly PlateRead[],
  fixed: readonly Uncertain[],
  names: readonly { readonly name: string }[],
): { name: string; mm: number; kind: "friction" | "steel" | "fixed" }[] {
  const turn = (kind: PlateRead["kind"]) => plates.filter((p) => p.kind === kind);
  const steels = turn("steel");
  const frictions = turn("friction");
  const between = Array.from({ length: Math.max(steels.length, frictions.length) }, (_, i) => [steels[i], frictions[i]])
    .flat()
    .filter((p) => p !== undefined)
    .map((p) => ({ name: p.name, mm: p.state.value, kind: p.kind satisfies DrawnPart["kind"] }));
  const others = fixed.map((f, i) => ({ name: names[i]?.name ?? "plate", mm: f.value, kind: "fixed" as const }));
  return [...others.slice(1), ...between, ...others.slice(0, 1)];
}

/** What a choice of selective parts says, as one would say it. */
export function selectionText(selection: Selection, kind: string, plates: number): string {
  const sizes = (list: readonly number[]) => list.map((s) => `${s.toFixed(2)} mm`).join(" and ");
  if (selection.kind === "none") {
    const { nearest, outByMm } = selection;
    return `No ${kind} fits: even ${sizes(nearest.sizesMm)} leaves ${nearest.clearanceMm.toFixed(2)} mm, ${Math.abs(outByMm).toFixed(2)} mm too ${outByMm > 0 ? "much: the plates are worn or too few" : "little: a plate too many or too thick"}. This plate set is wrong.`;
  }
  const { best } = selection;
  const what =
    selection.kind === "pair"
      ? `No single ${kind} does; two, ${sizes(best.sizesMm)},`
      : `${kind[0]?.toUpperCase()}${kind.slice(1)} ${sizes(best.sizesMm)}`;
  return `${what} ${selection.kind === "pair" ? "set" : "sets"} ${best.clearanceMm.toFixed(2)} ± ${(2 * best.uncertaintyMm).toFixed(2)} mm${plates > 0 ? `, ${(best.clearanceMm / plates).toFixed(2)} a plate` : ""}.`;
}
