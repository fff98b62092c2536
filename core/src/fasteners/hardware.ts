/** A metric thread, "M10 × 1.25". */
export interface Thread {
  readonly diameterMm: number;
  readonly pitchMm: number;
}

/** Coarse pitches of ISO 261, mm, by diameter: what "M8" alone means. */
const COARSE: Readonly<Record<number, number>> = {
  4: 0.7,
  5: 0.8,
  6: 1,
  7: 1,
  8: 1.25,
  10: 1.5,
  12: 1.75,
  14: 2,
  16: 2,
  18: 2.5,
  20: 2.5,
};

/** Reads "M10 × 1.25", "M10x1.25" and "M10". @returns undefined for what is no metric thread */
export function threadOf(text: string): Thread | undefined {
  const m = /^\s*M\s*(\d+(?:[.,]\d+)?)\s*(?:[x×*]\s*(\d+(?:[.,]\d+)?))?\s*$/i.exec(text);
  if (!m) return undefined;
  const diameterMm = Number(m[1]?.replace(",", "."));
  const pitchMm = m[2] ? Number(m[2].replace(",", ".")) : COARSE[diameterMm];
  return pitchMm === undefined || !(pitchMm > 0) || !(diameterMm > pitchMm) ? undefined : { diameterMm, pitchMm };
}

/** Thread that has to be engaged, in diameters, so that the bolt breaks before the thread strips: the shop rule. */
export const ENGAGEMENT = { steel: 1, "cast-iron": 1.25, aluminium: 2, magnesium: 2.25 } as const;
export type Material = keyof typeof ENGAGEMENT;

export interface Hardware {
  /** of the hole */
  readonly hole: Thread;
  readonly bolt: Thread;
  /** under the head */
  readonly lengthMm: number;
  /** of what is clamped: flange, washer, gasket pressed */
  readonly gripMm: number;
  /** of full thread, from the face; undefined: a through hole */
  readonly threadDepthMm: number | undefined;
  readonly material: Material;
}

export interface Fit {
  readonly engagedMm: number;
  /** engaged thread in diameters, and what the material asks for */
  readonly diameters: number;
  readonly needed: number;
  /** between the end of the bolt and the end of the thread; negative: it bottoms out before it clamps */
  readonly spareMm: number | undefined;
  /** what is wrong, in words; empty: it fits */
  readonly problems: readonly string[];
}

/** The end of a bolt stays so many pitches short of the end of the thread. */
const SPARE_PITCHES = 1;
const SAME_MM = 0.01;
const mm = (v: number) => `${v.toFixed(1)} mm`;

/**
 * Whether a bolt fits its hole: diameter, pitch, engaged thread in diameters by the material of the hole, and whether it bottoms out.
 * @throws RangeError for lengths that are none
 */
export function fitOf({ hole, bolt, lengthMm, gripMm, threadDepthMm, material }: Hardware): Fit {
  if (!(lengthMm > 0) || !(gripMm >= 0) || (threadDepthMm !== undefined && !(threadDepthMm > 0)))
    throw new RangeError("length and depth are over zero, the grip is not below it");
  const reachMm = lengthMm - gripMm;
  const engagedMm = Math.max(0, Math.min(reachMm, threadDepthMm ?? reachMm));
  const diameters = engagedMm / hole.diameterMm;
  const needed = ENGAGEMENT[material];
  const spareMm = threadDepthMm === undefined ? undefined : threadDepthMm - reachMm;
  const problems: string[] = [];
  if (Math.abs(bolt.diameterMm - hole.diameterMm) > SAME_MM)
    problems.push(`M${bolt.diameterMm} where the hole is M${hole.diameterMm}.`);
  else if (Math.abs(bolt.pitchMm - hole.pitchMm) > SAME_MM)
    problems.push(
      `Pitch ${bolt.pitchMm} where the hole has ${hole.pitchMm}: it starts by hand for some turns, then it tears the thread.`,
    );
  if (reachMm <= 0) problems.push(`It ends ${mm(-reachMm)} short of the thread.`);
  else if (diameters < needed)
    problems.push(
      `Too short: ${mm(engagedMm)} of thread, ${diameters.toFixed(1)} diameters; ${material.replace("-", " ")} asks for ${needed}.`,
    );
  if (spareMm !== undefined && spareMm < SPARE_PITCHES * bolt.pitchMm)
    problems.push(
      spareMm < 0
        ? `Too long by ${mm(-spareMm)}: it bottoms out and clamps nothing.`
        : `Too long: ${mm(spareMm)} are left in the hole, less than a turn.`,
    );
  return { engagedMm, diameters, needed, spareMm, problems };
}
