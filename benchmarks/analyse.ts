// Parse and analyse a 30-minute, 20 Hz, 20-channel log against what papaparse alone takes to tokenise it, in one run.
// usage: npm run bench   Prints the ratio; the aim is 2.5 or less.
import { analyseDrive } from "@gearsense/core/drive";
import { buildRecording, decodeLog, proposeMapping, readTable, sniffDialect } from "@gearsense/core/log";
import Papa from "papaparse";
import { longLog, unit } from "./long-log.ts";

const { text, channels, rows } = longLog();
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
console.log(`${channels} channels, ${rows} rows, ${(bytes.length / 1048576).toFixed(1)} MB`);
console.log(`papaparse alone        ${median(a).toFixed(0)} ms (median of ${rounds})`);
console.log(`parse and analyse      ${median(b).toFixed(0)} ms`);
console.log(`ratio                  ${(median(b) / median(a)).toFixed(2)} (aim: 2.5 or less)`);
