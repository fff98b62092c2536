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
const WARM_UP = 2;

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
    const alone: number[] = [];
    const all: number[] = [];
    for (let i = 0; i < ROUNDS + WARM_UP; i++) {
      const t = timed(() => Papa.parse(text, { delimiter }).data.length);
      const w = timed(() => whole(bytes));
      // the first rounds warm the engine up
      if (i < WARM_UP) continue;
      alone.push(t);
      all.push(w);
    }
    const [a, b] = [median(alone), median(all)];
    console.log(
      `${String(minutes).padStart(7)} ${String(rows).padStart(7)} ${(bytes.length / 1048576).toFixed(1).padStart(7)} ${a.toFixed(0).padStart(13)} ms ${b.toFixed(0).padStart(15)} ms ${(b / a).toFixed(2).padStart(6)} ${((1000 * b) / rows).toFixed(1).padStart(9)}  ${dialect}`,
    );
  }
  const loader = process.execArgv;
  const mb = execFileSync(process.execPath, [...loader, fileURLToPath(import.meta.url), "--memory", path], {
    encoding: "utf8",
  }).trim();
  console.log(`highest memory of the last: ${mb} MB (aim: under 700)`);
  rmSync(folder, { recursive: true });
}
