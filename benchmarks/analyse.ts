// Parse and analyse 20 Hz, 30-channel logs of 15 minutes to 2 hours against what papaparse alone takes to tokenise them, in
// one run; then the highest memory of a process that does nothing else with the longest.
// usage: npm run bench [-- MINUTES…]   Aims: ratio 2.5 or less at 30 minutes and 2 at two hours, 700 MB, growth in step with
// the rows. Each length in plain writing, and with clock time, decimal commas, semicolons and a row of units.
import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { analyseDrive } from "@gearsense/core/drive";
import { buildRecording, openLog, proposeMapping } from "@gearsense/core/log";
import { DIALECTS } from "@gearsense/simulator";
import Papa from "papaparse";
import { longLog, unit } from "./long-log.ts";

const DIALECTS_READ = ["plain", "semicolon-comma"] as const;
const CHANNELS = 30;
const ROUNDS = 5;
/** The engine goes on compiling for seconds: medians of the rounds after so many, of a server just started and of one that runs. */
const WARM_UPS = [2, 10] as const;

const whole = (bytes: Uint8Array) => {
  const { table } = openLog(bytes);
  return analyseDrive(buildRecording(table, proposeMapping(table, unit)), unit, [unit]).findings.length;
};
const timed = (work: () => unknown): number => {
  const start = performance.now();
  work();
  return performance.now() - start;
};
const median = (list: number[]) => [...list].sort((x, y) => x - y)[list.length >> 1] as number;

const [first, ...rest] = process.argv.slice(2);
if (first === "--memory") {
  whole(readFileSync(rest[0] as string));
  console.log((process.resourceUsage().maxRSS / 1024).toFixed(0));
} else {
  const lengths = first ? [first, ...rest].map(Number) : [15, 30, 60, 120];
  const folder = mkdtempSync(join(tmpdir(), "gearsense-bench-"));
  console.log("minutes    rows      MB  papaparse alone  parse and analyse  ratio  µs a row  written");
  let path = "";
  for (const [minutes, dialect] of lengths.flatMap((m) => DIALECTS_READ.map((d) => [m, d] as const))) {
    const { text, rows } = longLog(minutes, CHANNELS, dialect);
    const { delimiter } = DIALECTS[dialect];
    const bytes = new TextEncoder().encode(text);
    path = join(folder, `${minutes}.csv`);
    writeFileSync(path, bytes);
    // one after the other: what the tokeniser leaves behind is not to be cleared away in the time of the analysis
    const times = (work: () => unknown) => Array.from({ length: ROUNDS + Math.max(...WARM_UPS) }, () => timed(work));
    const alone = times(() => Papa.parse(text, { delimiter }).data.length);
    const all = times(() => whole(bytes));
    for (const from of WARM_UPS) {
      const [a, b] = [alone, all].map((list) => median(list.slice(from, from + ROUNDS))) as [number, number];
      console.log(
        `${String(minutes).padStart(7)} ${String(rows).padStart(7)} ${(bytes.length / 1048576).toFixed(1).padStart(7)} ${a.toFixed(0).padStart(13)} ms ${b.toFixed(0).padStart(15)} ms ${(b / a).toFixed(2).padStart(6)} ${((1000 * b) / rows).toFixed(1).padStart(9)}  ${dialect}, after ${from} rounds`,
      );
    }
  }
  const loader = process.execArgv;
  const mb = execFileSync(process.execPath, [...loader, fileURLToPath(import.meta.url), "--memory", path], {
    encoding: "utf8",
  }).trim();
  console.log(`highest memory of the last: ${mb} MB (aim: under 700)`);
  rmSync(folder, { recursive: true });
}
