// Fills of drawn vehicles by the fill's own asking, against the simulator's fluid. usage: npm run bench:fill [-- CASES SEED]
// Aim: inside the unit's window in 99 of 100 with a measured drain, in 97 with an unknown one.
import { readdirSync, readFileSync } from "node:fs";
import type { Unit } from "@gearsense/core/unit";
import { drawFill, type FillScore } from "@gearsense/evaluation";

const FOLDER = new URL("../library/units/", import.meta.url);
const units = readdirSync(FOLDER).map((f) => JSON.parse(readFileSync(new URL(f, FOLDER), "utf8")) as Unit);
const cases = Number(process.argv[2] ?? 800);
const seed = Number(process.argv[3] ?? 1);

const percent = (s: readonly FillScore[], ok: (x: FillScore) => boolean) =>
  ((100 * s.filter(ok).length) / s.length).toFixed(1);
for (const measured of [true, false]) {
  const scores = Array.from({ length: cases }, (_, i) =>
    drawFill(units[i % units.length] as Unit, seed * 100_000 + i, measured),
  );
  console.log(
    `${measured ? "measured" : "unknown "} drain, ${cases} vehicles, seed ${seed}: ${percent(scores, (s) => s.inWindow && s.finished)} % in the window and finished, ` +
      `${percent(scores, (s) => s.starvedS <= 3)} % whose pump never drew air over 3 s, ${(scores.reduce((a, s) => a + s.deeds, 0) / cases).toFixed(1)} deeds each`,
  );
  for (const u of units) {
    const own = scores.filter((s) => s.unitId === u.id);
    const off = own.map((s) => Math.abs(s.offL)).sort((a, b) => a - b);
    console.log(
      `  ${u.id.padEnd(12)} ${u.fluid.level.method.padEnd(10)} ${percent(own, (s) => s.inWindow && s.finished).padStart(5)} %  off by ${(off[off.length >> 1] ?? 0).toFixed(2)} l in the median, ${(off.at(-1) ?? 0).toFixed(2)} at most; starved ${own.filter((s) => s.starvedS > 3).length}, dry ${own.filter((s) => s.dry).length}`,
    );
  }
  if (process.env.SHOW)
    for (const s of scores.filter((x) => !x.inWindow || !x.finished || x.starvedS > 3).slice(0, 4))
      console.log(JSON.stringify(s));
}
