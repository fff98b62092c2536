// Parse and analyse a 30-minute, 20 Hz, 20-channel log against what papaparse alone takes to tokenise it, in one run.
// usage: npm run bench   Prints the ratio; the aim is 2.5 or less.
import { readFileSync } from "node:fs";
import { analyseDrive } from "@gearsense/core/drive";
import { buildRecording, decodeLog, proposeMapping, readTable, sniffDialect } from "@gearsense/core/log";
import type { Unit } from "@gearsense/core/unit";
import { PLAIN_STYLE, simulateDrive, writeLog } from "@gearsense/simulator";
import Papa from "papaparse";

const unit = JSON.parse(readFileSync(new URL("../library/units/brae-p6.unit.json", import.meta.url), "utf8")) as Unit;
const { columns } = simulateDrive({
  unit,
  seed: 5,
  rateHz: 20,
  durationS: 1800,
  profile: "mixed",
  startFluidC: 40,
  finalFluidC: 96,
  faults: [{ kind: "element-slip", element: "HC", onsetTorqueNm: 120, rpmPerNm: 1.2 }],
});
// the twentieth channel
const wide = new Map([...columns, ["gear_reported", columns.get("gear_commanded") as Float64Array] as const]);
const text = writeLog(wide, PLAIN_STYLE);
const bytes = new TextEncoder().encode(text);

const timed = (work: () => unknown): number => {
  const start = performance.now();
  work();
  return performance.now() - start;
};
const tokenise = () => Papa.parse(text, { delimiter: "," }).data.length;
const whole = () => {
  const decoded = decodeLog(bytes).text;
  const table = readTable(decoded, sniffDialect(decoded));
  return analyseDrive(buildRecording(table, proposeMapping(table)), unit, [unit]).findings.length;
};

const rounds = 15;
const WARM_UP = 3;
const a: number[] = [];
const b: number[] = [];
for (let i = 0; i < rounds + WARM_UP; i++) {
  const t = timed(tokenise);
  const w = timed(whole);
  // the first rounds warm the engine up
  if (i >= WARM_UP) {
    a.push(t);
    b.push(w);
  }
}
const median = (list: number[]) => [...list].sort((x, y) => x - y)[list.length >> 1] as number;
console.log(`${wide.size} channels, ${columns.get("time_s")?.length} rows, ${(bytes.length / 1048576).toFixed(1)} MB`);
console.log(`papaparse alone        ${median(a).toFixed(0)} ms (median of ${rounds})`);
console.log(`parse and analyse      ${median(b).toFixed(0)} ms`);
console.log(`ratio                  ${(median(b) / median(a)).toFixed(2)} (aim: 2.5 or less)`);
