// How fast the eight-speed is simulated at 1 kHz with logging, over real time, and whether memory stays flat with the drive.
// usage: npm run bench:simulate
import { readFileSync } from "node:fs";
import { setFlagsFromString } from "node:v8";
import { runInNewContext } from "node:vm";
import type { Unit } from "@gearsense/core/unit";
import { runDrive } from "@gearsense/simulator";

const AIM = 300;
const MEGABYTE = 2 ** 20;
setFlagsFromString("--expose-gc");
const collect = runInNewContext("gc") as () => void;

const unit = JSON.parse(readFileSync(new URL("../library/units/fell-e8.unit.json", import.meta.url), "utf8")) as Unit;
const heapMb = () => {
  collect();
  return process.memoryUsage().heapUsed / MEGABYTE;
};

/** @returns times real time, and the heap in use at the end of the drive, MB */
function drive(minutes: number, seed: number): { factor: number; heldMb: number } {
  let rows = 0;
  let sum = 0;
  let heldMb = 0;
  const durationS = minutes * 60;
  const start = performance.now();
  runDrive(
    {
      unit,
      seed,
      durationS,
      profile: "mixed",
      faults: [{ kind: "element-worn" }],
      rateHz: 20,
      shouldStop: (doneS) => {
        if (doneS >= durationS - 1) heldMb = heapMb();
        return false;
      },
    },
    () => undefined,
    (_timeS, values) => {
      rows++;
      for (const v of values) sum += v;
    },
  );
  const factor = (durationS * 1000) / (performance.now() - start);
  if (rows !== durationS * 20 || !Number.isFinite(sum)) throw new Error(`${rows} rows, sum ${sum}`);
  return { factor, heldMb };
}

drive(2, 1);
const runs = [2, 3, 4, 5, 6].map((seed) => drive(10, seed).factor).sort((a, b) => a - b);
console.log(
  `eight-speed, 1 kHz, 20 rows a second: ${runs.map((r) => r.toFixed(0)).join(", ")} times real time, median ${(runs[2] as number).toFixed(0)} (aim ${AIM})`,
);
const [short, long] = [drive(10, 7).heldMb, drive(120, 7).heldMb];
console.log(`heap in use at the end of 10 min ${short.toFixed(1)} MB, of 120 min ${long.toFixed(1)} MB`);
