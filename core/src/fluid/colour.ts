import { converter, differenceCiede2000 } from "culori";

/** Part of a picture, in shares of its width and height. */
export interface Patch {
  readonly x: number;
  readonly y: number;
  readonly w: number;
  readonly h: number;
}

/** A picture as a canvas gives it: four bytes a pixel, sRGB. */
export interface Pixels {
  readonly widthPx: number;
  readonly heightPx: number;
  readonly rgba: Uint8ClampedArray | Uint8Array;
}

/** Mean of a patch in linear light, 0…1 each. */
export interface PatchMean {
  readonly linear: readonly [number, number, number];
  /** standard deviation of each */
  readonly sd: readonly [number, number, number];
  /** share of pixels that are as bright or as dark as a picture can show: their colour is lost */
  readonly lost: number;
  readonly pixels: number;
}

export type Lab = readonly [number, number, number];

const BRIGHTEST = 252;
const DARKEST = 3;
const LEAST_PIXELS = 16;

/** sRGB byte to linear light. Source: IEC 61966-2-1. */
const LINEAR = Float64Array.from({ length: 256 }, (_, v) => {
  const c = v / 255;
  return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4;
});

/**
 * Mean colour of a patch in linear light: light adds up, the numbers of a picture do not.
 * @throws RangeError when the patch lies outside the picture or has fewer than 16 pixels
 */
export function patchMean(picture: Pixels, patch: Patch): PatchMean {
  const { widthPx, heightPx, rgba } = picture;
  const x0 = Math.round(patch.x * widthPx);
  const y0 = Math.round(patch.y * heightPx);
  const x1 = Math.round((patch.x + patch.w) * widthPx);
  const y1 = Math.round((patch.y + patch.h) * heightPx);
  if (x0 < 0 || y0 < 0 || x1 > widthPx || y1 > heightPx) throw new RangeError("the patch lies outside the picture");
  const pixels = Math.max(0, x1 - x0) * Math.max(0, y1 - y0);
  if (pixels < LEAST_PIXELS) throw new RangeError("the patch is too small: 16 pixels at least");
  const sum = [0, 0, 0];
  const squares = [0, 0, 0];
  let lost = 0;
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++) {
      const at = 4 * (y * widthPx + x);
      let clipped = 0;
      let dark = 0;
      for (let c = 0; c < 3; c++) {
        const byte = rgba[at + c] as number;
        const v = LINEAR[byte] as number;
        sum[c] = (sum[c] as number) + v;
        squares[c] = (squares[c] as number) + v * v;
        if (byte >= BRIGHTEST) clipped++;
        if (byte <= DARKEST) dark++;
      }
      if (clipped > 0 || dark === 3) lost++;
    }
  const mean = sum.map((s) => s / pixels) as [number, number, number];
  const sd = squares.map((s, c) => Math.sqrt(Math.max(0, s / pixels - (mean[c] as number) ** 2)));
  return { linear: mean, sd: sd as [number, number, number], lost: lost / pixels, pixels };
}

const toLab65 = converter("lab65");
const difference = differenceCiede2000();

/** Difference of two colours, CIEDE2000. Source: CIE 142-2001; computed by a well-known library. */
export function deltaE2000(a: Lab, b: Lab): number {
  const colour = ([l, A, B]: Lab) => ({ mode: "lab65", l, a: A, b: B }) as const;
  return difference(colour(a), colour(b));
}

type Triple = readonly [number, number, number];
type Matrix = readonly [Triple, Triple, Triple];
const times = (m: Matrix, [x, y, z]: Triple): Triple =>
  m.map((row) => row[0] * x + row[1] * y + row[2] * z) as unknown as Triple;

/** Linear sRGB to XYZ (D65) and XYZ to the Bradford cones, in one; and back. Source: IEC 61966-2-1; CIE 160:2004. */
const TO_CONES: Matrix = [
  [0.4227253, 0.4913453, 0.0273579],
  [0.0556998, 0.9615341, 0.0231838],
  [0.0213826, 0.0876419, 0.9805081],
];
const FROM_CONES: Matrix = invert(TO_CONES);

function invert(m: Matrix): Matrix {
  const [[a, b, c], [d, e, f], [g, h, i]] = m;
  const [A, B, C] = [e * i - f * h, f * g - d * i, d * h - e * g];
  const det = a * A + b * B + c * C;
  return [
    [A / det, (c * h - b * i) / det, (b * f - c * e) / det],
    [B / det, (a * i - c * g) / det, (c * d - a * f) / det],
    [C / det, (b * g - a * h) / det, (a * e - b * d) / det],
  ];
}

/** Each of three channels over that of the paper: makes the paper white. */
const over = (v: Triple, white: Triple, paper: Triple): Triple =>
  v.map((x, c) => (x / (white[c] as number)) * (paper[c] as number)) as unknown as Triple;

const labOf = ([r, g, b]: Triple): Lab => {
  const lab = toLab65({ mode: "lrgb", r, g, b });
  return [lab.l, lab.a ?? 0, lab.b ?? 0];
};

export interface Balanced {
  readonly lab: Lab;
  /** half the difference between the two balancings, ΔE */
  readonly halfSpreadDeltaE: number;
}

/**
 * CIELAB (D65) of a patch as it would look beside white paper in daylight. A camera that balanced wrongly has other gains
 * in its channels; a lamp that is another white moves the cones of the eye (Bradford). One white cannot tell which: the
 * mean of both balancings is taken, half their difference is what it is unsure of.
 * @param linear - linear sRGB of the patch; @param white - of the paper, none of them zero
 * @param paperY - how much light white paper throws back, 0…1
 * Source: von Kries adaptation; CIE 160:2004.
 */
export function balancedLab(linear: Triple, white: Triple, paperY = PAPER_Y): Balanced {
  const paper: Triple = [paperY, paperY, paperY];
  const byGains = labOf(over(linear, white, paper));
  const byCones = labOf(
    times(FROM_CONES, over(times(TO_CONES, linear), times(TO_CONES, white), times(TO_CONES, paper))),
  );
  const lab = byGains.map((v, i) => (v + (byCones[i] as number)) / 2) as unknown as Lab;
  return { lab, halfSpreadDeltaE: deltaE2000(byGains, byCones) / 2 };
}

/** Plain office paper. */
export const PAPER_Y = 0.88;

export interface FluidColour {
  readonly lab: Lab;
  /** one standard deviation in ΔE: patch, paper and light taken together */
  readonly uncertaintyDeltaE: number;
  /** what makes it less sure, in words */
  readonly doubts: readonly string[];
}

export type ColourRefusal = "white-lost" | "white-dark" | "white-not-white" | "fluid-lost";

const REFUSALS: Readonly<Record<ColourRefusal, string>> = {
  "white-lost":
    "The white patch is over-exposed: its colour is lost. Take the picture with less light, or choose another spot of the paper.",
  "white-dark": "The white patch is too dark to balance by. Put the paper into the same light as the fluid.",
  "white-not-white":
    "The white patch is too colourful to be white paper. Choose a spot of the plain paper, or take the picture in daylight.",
  "fluid-lost": "The fluid patch is over- or under-exposed: its colour is lost. Take the picture again, without glare.",
};

export class ColourError extends Error {
  readonly code: ColourRefusal;
  constructor(code: ColourRefusal) {
    super(REFUSALS[code]);
    this.code = code;
  }
}

const MOST_LOST = 0.2;
const DARKEST_WHITE = 0.08;
/** the strongest lamp's cast: highest over lowest channel of white paper */
const MOST_CAST = 6;
/** what is left of any balancing by one white: glare, the camera's own taste (ΔE, typical) */
const BASE_DELTA_E = 2;
const UNEVEN_WHITE = 0.06;
const UNEVEN_FLUID = 0.2;

/**
 * Colour of the fluid in a picture with white paper beside it.
 * @throws ColourError when one of the patches tells nothing
 */
export function fluidColour(fluid: PatchMean, white: PatchMean): FluidColour {
  if (white.lost > MOST_LOST) throw new ColourError("white-lost");
  const [high, low] = [Math.max(...white.linear), Math.min(...white.linear)];
  if (high < DARKEST_WHITE) throw new ColourError("white-dark");
  if (low <= 0 || high / low > MOST_CAST) throw new ColourError("white-not-white");
  if (fluid.lost > 1 - MOST_LOST) throw new ColourError("fluid-lost");
  const { lab, halfSpreadDeltaE } = balancedLab(fluid.linear, white.linear);
  const doubts: string[] = [];
  const relative = (m: PatchMean) => Math.max(...m.sd.map((s, c) => s / Math.max(1e-4, m.linear[c] as number)));
  const cast = high / low;
  if (cast > 1.8) doubts.push("the lamp is strongly coloured: daylight tells more");
  if (relative(white) > UNEVEN_WHITE) doubts.push("the light on the paper is uneven");
  if (relative(fluid) > UNEVEN_FLUID) doubts.push("the fluid patch is not of one colour");
  if (fluid.lost > 0.02) doubts.push("parts of the fluid patch are over- or under-exposed");
  // how far the colour moves when each mean moves by what it is unsure of
  const shift = (f: readonly number[], w: readonly number[]) =>
    deltaE2000(lab, balancedLab(f as unknown as Triple, w as unknown as Triple).lab);
  const uneven = 0.5;
  const byWhite = shift(
    fluid.linear,
    white.linear.map((v, c) => v + uneven * (white.sd[c] as number)),
  );
  const byFluid = shift(
    fluid.linear.map((v, c) => Math.max(0, v + uneven * (fluid.sd[c] as number))),
    white.linear,
  );
  return { lab, uncertaintyDeltaE: Math.hypot(BASE_DELTA_E, byWhite, byFluid, halfSpreadDeltaE), doubts };
}

export interface ColourChange {
  readonly deltaE: number;
  readonly plusMinus: number;
  /** true when the change is larger than twice what it is unsure of */
  readonly certain: boolean;
  readonly words: string;
}

const MUCH_L = 6;
const MUCH_AB = 6;

/** What became of a colour, in words: darker or paler, less red, browner. */
export function colourChange(from: Lab, to: Lab, fromUncertainty: number, toUncertainty: number): ColourChange {
  const deltaE = deltaE2000(from, to);
  const plusMinus = Math.hypot(fromUncertainty, toUncertainty);
  const certain = deltaE > 2 * plusMinus;
  const parts: string[] = [];
  if (to[0] < from[0] - MUCH_L) parts.push("darker");
  if (to[0] > from[0] + MUCH_L) parts.push("paler");
  if (to[1] < from[1] - MUCH_AB) parts.push("less red");
  if (to[1] > from[1] + MUCH_AB) parts.push("redder");
  if (to[2] < from[2] - MUCH_AB) parts.push("less yellow");
  if (to[2] > from[2] + MUCH_AB) parts.push("yellower");
  const words = !certain ? "no difference that the light could not have made" : parts.join(", ") || "a shade different";
  return { deltaE, plusMinus, certain, words };
}
