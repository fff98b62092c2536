// Guards: colour of fluid in a picture: published CIEDE2000 pairs, made pictures with known casts, honest refusals.
import { describe, expect, it } from "@jest/globals";
import { converter } from "culori";
import fc from "fast-check";
import {
  balancedLab,
  ColourError,
  colourChange,
  deltaE2000,
  fluidColour,
  type Lab,
  type Pixels,
  patchMean,
} from "./index.ts";

// Sharma, Wu, Dalal: The CIEDE2000 color-difference formula, table 1 (2005)
const PAIRS: readonly (readonly [Lab, Lab, number])[] = [
  [[50, 2.6772, -79.7751], [50, 0, -82.7485], 2.0425],
  [[50, 3.1571, -77.2803], [50, 0, -82.7485], 2.8615],
  [[50, 2.8361, -74.02], [50, 0, -82.7485], 3.4412],
  [[50, -1.3802, -84.2814], [50, 0, -82.7485], 1.0],
  [[50, -1.1848, -84.8006], [50, 0, -82.7485], 1.0],
  [[50, -0.9009, -85.5211], [50, 0, -82.7485], 1.0],
  [[50, 0, 0], [50, -1, 2], 2.3669],
  [[50, -1, 2], [50, 0, 0], 2.3669],
  [[50, 2.49, -0.001], [50, -2.49, 0.0009], 7.1792],
  [[50, 2.49, -0.001], [50, -2.49, 0.001], 7.1792],
  [[50, 2.49, -0.001], [50, -2.49, 0.0011], 7.2195],
  [[50, 2.49, -0.001], [50, -2.49, 0.0012], 7.2195],
  [[50, -0.001, 2.49], [50, 0.0009, -2.49], 4.8045],
  [[50, -0.001, 2.49], [50, 0.001, -2.49], 4.8045],
  [[50, -0.001, 2.49], [50, 0.0011, -2.49], 4.7461],
  [[50, 2.5, 0], [50, 0, -2.5], 4.3065],
  [[50, 2.5, 0], [73, 25, -18], 27.1492],
  [[50, 2.5, 0], [61, -5, 29], 22.8977],
  [[50, 2.5, 0], [56, -27, -3], 31.903],
  [[50, 2.5, 0], [58, 24, 15], 19.4535],
  [[50, 2.5, 0], [50, 3.1736, 0.5854], 1.0],
  [[50, 2.5, 0], [50, 3.2972, 0], 1.0],
  [[50, 2.5, 0], [50, 1.8634, 0.5757], 1.0],
  [[50, 2.5, 0], [50, 3.2592, 0.335], 1.0],
  [[60.2574, -34.0099, 36.2677], [60.4626, -34.1751, 39.4387], 1.2644],
  [[63.0109, -31.0961, -5.8663], [62.8187, -29.7946, -4.0864], 1.263],
  [[61.2901, 3.7196, -5.3901], [61.4292, 2.248, -4.962], 1.8731],
  [[35.0831, -44.1164, 3.7933], [35.0232, -40.0716, 1.5901], 1.8645],
  [[22.7233, 20.0904, -46.694], [23.0331, 14.973, -42.5619], 2.0373],
  [[36.4612, 47.858, 18.3852], [36.2715, 50.5065, 21.2231], 1.4146],
  [[90.8027, -2.0831, 1.441], [91.1528, -1.6435, 0.0447], 1.4441],
  [[90.9257, -0.5406, -0.9208], [88.6381, -0.8985, -0.7239], 1.5381],
  [[6.7747, -0.2908, -2.4247], [5.8714, -0.0985, -2.2286], 0.6377],
  [[2.0776, 0.0795, -1.135], [0.9033, -0.0636, -0.5514], 0.9082],
];
it.each(PAIRS)("ΔE00 of %j and %j is %d", (a, b, expected) => {
  expect(deltaE2000(a, b)).toBeCloseTo(expected, 4);
  expect(deltaE2000(b, a)).toBeCloseTo(expected, 4);
});

const toLinear = converter("lrgb");
const PAPER = 0.88;
type Rgb = [number, number, number];
const linearOf = ([l, a, b]: Lab): Rgb => {
  const c = toLinear({ mode: "lab65", l, a, b });
  return [c.r, c.g, c.b];
};
const byte = (v: number) => {
  const c = Math.min(1, Math.max(0, v));
  return Math.round(255 * (c <= 0.0031308 ? 12.92 * c : 1.055 * c ** (1 / 2.4) - 0.055));
};

/** Left half fluid, right half paper, under a lamp given as a map of linear light. */
function picture(fluid: Lab, lamp: (c: Rgb) => Rgb, grain = 0): Pixels {
  const [widthPx, heightPx] = [40, 20];
  const rgba = new Uint8ClampedArray(widthPx * heightPx * 4);
  const halves = [lamp(linearOf(fluid)), lamp([PAPER, PAPER, PAPER])];
  for (let y = 0; y < heightPx; y++)
    for (let x = 0; x < widthPx; x++) {
      const half = halves[x < 20 ? 0 : 1] as Rgb;
      const at = 4 * (y * widthPx + x);
      const k = 1 + grain * (((x * 7 + y * 13) % 11) / 5 - 1);
      for (let c = 0; c < 3; c++) rgba[at + c] = byte((half[c] as number) * k);
      rgba[at + 3] = 255;
    }
  return { widthPx, heightPx, rgba };
}
const FLUID = { x: 0.05, y: 0.1, w: 0.4, h: 0.8 };
const WHITE = { x: 0.55, y: 0.1, w: 0.4, h: 0.8 };
const read = (p: Pixels) => fluidColour(patchMean(p, FLUID), patchMean(p, WHITE));

const FLUIDS: readonly (readonly [string, Lab])[] = [
  ["fresh red", [38, 55, 30]],
  ["amber", [55, 22, 52]],
  ["brown", [30, 16, 24]],
  ["nearly black", [12, 5, 7]],
  ["milky pink", [72, 16, 8]],
  ["green dye", [55, -35, 30]],
];
/** Gains of the camera's channels: what an automatic white balance gets wrong, and dim light. */
const GAINS: readonly (readonly [string, Rgb])[] = [
  ["daylight", [1, 1, 1]],
  ["half the light", [0.5, 0.5, 0.5]],
  ["tungsten", [1.05, 0.72, 0.38]],
  ["old tube, greenish", [0.75, 1.0, 0.7]],
  ["blue shade", [0.55, 0.75, 1]],
];
describe.each(FLUIDS)("%s", (_, lab) => {
  it.each(GAINS)("under %s is recovered within ΔE 3", (_name, gains) => {
    const { lab: found, uncertaintyDeltaE } = read(
      picture(lab, (c) => c.map((v, i) => v * (gains[i] as number)) as Rgb, 0.04),
    );
    const error = deltaE2000(found, lab);
    expect(error).toBeLessThan(3);
    expect(error).toBeLessThan(2 * uncertaintyDeltaE);
  });
});

// Bradford: a lamp that is another white, not merely other gains. Source: CIE 15; matrices as published for sRGB.
const M = [
  [0.4124564, 0.3575761, 0.1804375],
  [0.2126729, 0.7151522, 0.072175],
  [0.0193339, 0.119192, 0.9503041],
];
const B = [
  [0.8951, 0.2664, -0.1614],
  [-0.7502, 1.7135, 0.0367],
  [0.0389, -0.0685, 1.0296],
];
const times = (m: number[][], v: readonly number[]) =>
  m.map((row) => row.reduce((s, x, i) => s + x * (v[i] as number), 0)) as Rgb;
function inverse(m: number[][]): number[][] {
  const [a, b, c] = m as [Rgb, Rgb, Rgb];
  const cross = (u: Rgb, v: Rgb): Rgb => [
    u[1] * v[2] - u[2] * v[1],
    u[2] * v[0] - u[0] * v[2],
    u[0] * v[1] - u[1] * v[0],
  ];
  const columns = [cross(b, c), cross(c, a), cross(a, b)];
  const det = a[0] * (columns[0] as Rgb)[0] + a[1] * (columns[0] as Rgb)[1] + a[2] * (columns[0] as Rgb)[2];
  return [0, 1, 2].map((r) => columns.map((col) => (col[r] as number) / det));
}
const D65 = [0.95047, 1, 1.08883];
const lampOf =
  (white: readonly number[]) =>
  (c: Rgb): Rgb => {
    const [from, to] = [times(B, D65), times(B, white)];
    const cone = times(B, times(M, c)).map((v, i) => (v * (to[i] as number)) / (from[i] as number));
    return times(inverse(M), times(inverse(B), cone)).map((v) => v * 0.55) as Rgb;
  };
it.each([
  ["D50", [0.96422, 1, 0.82521]],
  ["F2, cool white tube", [0.99187, 1, 0.67395]],
])("under %s, another white and not merely other gains, the error stays within ΔE 3", (_, white) => {
  for (const [name, lab] of FLUIDS) {
    const { lab: found } = read(picture(lab, lampOf(white)));
    expect([name, deltaE2000(found, lab) < 3]).toEqual([name, true]);
  }
});
it("under warm light (3500 K) the error may be larger; the uncertainty covers it and the lamp is named", () => {
  for (const [name, lab] of FLUIDS.slice(0, 4)) {
    const { lab: found, uncertaintyDeltaE, doubts } = read(picture(lab, lampOf([1.0374, 1, 0.5221])));
    expect([name, deltaE2000(found, lab) < 2 * uncertaintyDeltaE]).toEqual([name, true]);
    expect(doubts).toContain("the lamp is strongly coloured: daylight tells more");
  }
});
it("neutral light is neutral: both balancings agree and a grey stays grey", () => {
  fc.assert(
    fc.property(fc.double({ min: 0.02, max: 1, noNaN: true }), fc.double({ min: 0.1, max: 1, noNaN: true }), (v, w) => {
      const { lab, halfSpreadDeltaE } = balancedLab([v * w, v * w, v * w], [w, w, w], 1);
      expect(halfSpreadDeltaE).toBeLessThan(1e-6);
      expect(Math.hypot(lab[1], lab[2])).toBeLessThan(0.05);
    }),
  );
});

describe("what tells nothing is refused", () => {
  const refusal = (p: Pixels) => {
    try {
      read(p);
    } catch (e) {
      if (e instanceof ColourError) return e.code;
    }
    return "accepted";
  };
  const gains = (g: Rgb) => (c: Rgb) => c.map((v, i) => v * (g[i] as number)) as Rgb;
  it.each<[string, Pixels, string]>([
    ["burnt-out paper", picture([38, 55, 30], gains([2, 2, 2])), "white-lost"],
    ["paper in the dark", picture([38, 55, 30], gains([0.05, 0.05, 0.05])), "white-dark"],
    ["red paper", picture([38, 55, 30], gains([1, 0.1, 0.1])), "white-not-white"],
    ["fluid in the dark", picture([0, 0, 0], gains([1, 1, 1])), "fluid-lost"],
    [
      "a filament lamp that the camera did not balance",
      picture([38, 55, 30], lampOf([1.0985, 1, 0.35585])),
      "white-not-white",
    ],
    ["a good one", picture([38, 55, 30], gains([1, 1, 1])), "accepted"],
  ])("%s: %s", (_, p, code) => {
    expect(refusal(p)).toBe(code);
  });
  it("a patch beside the picture or smaller than 16 pixels", () => {
    const p = picture([38, 55, 30], (c) => c);
    expect(() => patchMean(p, { x: 0.8, y: 0, w: 0.3, h: 1 })).toThrow(RangeError);
    expect(() => patchMean(p, { x: 0, y: 0, w: 0.05, h: 0.1 })).toThrow(RangeError);
  });
});

describe("patch mean", () => {
  it("is that of linear light: half black and half white is half the light, not byte 127", () => {
    const rgba = Uint8ClampedArray.from({ length: 64 * 4 }, (_, i) => (Math.floor(i / 4) % 2 ? 250 : 4));
    const { linear } = patchMean({ widthPx: 8, heightPx: 8, rgba }, { x: 0, y: 0, w: 1, h: 1 });
    const one = (v: number) => ((v / 255 + 0.055) / 1.055) ** 2.4;
    expect(linear[0]).toBeCloseTo((one(250) + 4 / 255 / 12.92) / 2, 6);
  });
});

describe("change", () => {
  it("one that the light may have made isn't a change", () => {
    expect(colourChange([38, 55, 30], [37, 53, 29], 3, 3)).toMatchObject({ certain: false });
  });
  it("is said in words", () => {
    const change = colourChange([38, 55, 30], [25, 15, 20], 2, 2);
    expect(change).toMatchObject({ certain: true, words: "darker, less red, less yellow" });
  });
  it("is nothing from a colour to itself and as large there as back", () => {
    const lab = fc.tuple(fc.double({ min: 5, max: 95, noNaN: true }), ab(), ab());
    fc.assert(
      fc.property(lab, lab, (a, b) => {
        expect(colourChange(a, a, 1, 1).deltaE).toBeCloseTo(0, 9);
        expect(colourChange(a, b, 1, 2).deltaE).toBeCloseTo(colourChange(b, a, 2, 1).deltaE, 9);
      }),
    );
  });
});
const ab = () => fc.double({ min: -60, max: 60, noNaN: true });
