/** A part of a stack, drawn to scale from left to right. */
export interface DrawnPart {
  readonly name: string;
  /** where it begins and how thick it is, mm from the left end */
  readonly fromMm: number;
  readonly mm: number;
  readonly kind: "friction" | "steel" | "fixed" | "selective" | "gap" | "room" | "take" | "overlap";
}

/** A stack-up to scale: parts in rows, one length for all. */
export interface StackDrawing {
  readonly title: string;
  readonly lengthMm: number;
  readonly rows: readonly { readonly name: string; readonly parts: readonly DrawnPart[] }[];
  readonly caption: string;
}

/** Parts one after another. */
export function inARow(
  parts: readonly { readonly name: string; readonly mm: number; readonly kind: DrawnPart["kind"] }[],
  startMm = 0,
): DrawnPart[] {
  let at = startMm;
  return parts.map((p) => {
    const part = { ...p, fromMm: at };
    at += p.mm;
    return part;
  });
}

/**
 * A pack in its drum: plates as they lie, what is left as a gap, the selective part in its groove. What is over stands beyond the
 * depth as overlap.
 */
export function packDrawing(
  title: string,
  plates: readonly { readonly name: string; readonly mm: number; readonly kind: "friction" | "steel" | "fixed" }[],
  selectiveMm: number,
  depthMm: number,
): StackDrawing {
  const stackMm = plates.reduce((s, p) => s + p.mm, 0);
  const gapMm = depthMm - stackMm - selectiveMm;
  const inside = inARow([
    ...plates,
    ...(gapMm > 0 ? [{ name: "clearance", mm: gapMm, kind: "gap" as const }] : []),
    { name: "selective part", mm: selectiveMm, kind: "selective" as const },
  ]);
  const over = gapMm < 0 ? [{ name: "too thick", fromMm: depthMm, mm: -gapMm, kind: "overlap" as const }] : [];
  return {
    title,
    lengthMm: Math.max(depthMm, stackMm + selectiveMm),
    rows: [
      { name: "Pack", parts: [...inside, ...over] },
      { name: "Drum", parts: [{ name: "depth", fromMm: 0, mm: depthMm, kind: "room" }] },
    ],
    caption: `Stack ${stackMm.toFixed(2)} mm in ${depthMm.toFixed(2)} mm, clearance ${gapMm.toFixed(2)} mm`,
  };
}

/** Converter fit: what makes room in one row, what takes it in the other; the gap is how far it comes forward. */
export function fitDrawing(
  parts: readonly { readonly name: string; readonly sign: 1 | -1; readonly mm: number }[],
  pullUpMm: number,
): StackDrawing {
  const row = (sign: 1 | -1, kind: DrawnPart["kind"]) =>
    inARow(parts.filter((p) => p.sign === sign && p.mm > 0).map((p) => ({ name: p.name, mm: p.mm, kind })));
  const room = row(1, "room");
  const take = row(-1, "take");
  const length = (list: readonly DrawnPart[]) => list.reduce((s, p) => s + p.mm, 0);
  const taken = length(take);
  const rest: DrawnPart[] =
    pullUpMm > 0
      ? [{ name: "comes forward", fromMm: taken, mm: pullUpMm, kind: "gap" }]
      : pullUpMm < 0
        ? [{ name: "bottoms out", fromMm: length(room), mm: -pullUpMm, kind: "overlap" }]
        : [];
  return {
    title: "Converter between engine and unit",
    lengthMm: Math.max(length(room), taken),
    rows: [
      { name: "Unit side", parts: room },
      { name: "Engine side", parts: [...take, ...rest] },
    ],
    caption:
      pullUpMm < 0
        ? `Bottoms out by ${(-pullUpMm).toFixed(1)} mm`
        : `Comes forward ${pullUpMm.toFixed(1)} mm to the flexplate`,
  };
}
