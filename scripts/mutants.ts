// Do the tests hold the limits? Changes one threshold or comparison at a time and runs the tests that know the file: a mutant
// that all of them pass is alive. Sources stay as they are: the change is made while Jest reads the file.
// usage: npm run mutants [-- core/src/measure/measure.ts …] [--most 40]; without files: those of core that differ from HEAD~1
import { execFileSync, spawnSync } from "node:child_process";
import { readFileSync } from "node:fs";
import { resolve } from "node:path";
import { parseSync } from "@swc/core";

interface Mutant {
  readonly file: string;
  readonly at: number;
  readonly from: string;
  readonly to: string;
  readonly line: number;
}

const SWAPPED: Readonly<Record<string, string>> = {
  "<": "<=",
  "<=": "<",
  ">": ">=",
  ">=": ">",
  "+": "-",
  "-": "+",
  "*": "/",
  "/": "*",
  "&&": "||",
  "||": "&&",
};
/** Of a hundred mutants that are not equivalent so many have to be killed. */
const WANTED = 0.8;

interface Node {
  readonly type?: string;
  readonly span?: { readonly start: number; readonly end: number };
  readonly value?: unknown;
  readonly operator?: string;
  readonly left?: Node;
  readonly right?: Node;
  readonly [key: string]: unknown;
}

/** Numbers go up by half and one, comparisons take their limit in or leave it out, sums become differences. */
function mutantsOf(file: string): Mutant[] {
  const text = readFileSync(file, "utf8");
  // places are told in bytes, from where this file begins among all that were parsed
  const bytes = Buffer.from(text);
  const parsed = parseSync(text, { syntax: "typescript", target: "es2022" });
  const blank = /^(?:\s|\/\*[\s\S]*?\*\/|\/\/[^\n]*\n)*/.exec(text)?.[0] ?? "";
  const base = parsed.span.start - Buffer.byteLength(blank);
  const part = (from: number, to: number) => bytes.subarray(from - base, to - base).toString("utf8");
  const found: Mutant[] = [];
  const add = (start: number, from: string, to: string) => {
    const at = part(base, start).length;
    found.push({ file, at, from, to, line: text.slice(0, at).split("\n").length });
  };
  const visit = (node: unknown, parent?: Node): void => {
    if (Array.isArray(node)) for (const n of node) visit(n, parent);
    if (typeof node !== "object" || node === null || Array.isArray(node)) return;
    const n = node as Node;
    // an index is no limit
    if (n.type === "NumericLiteral" && n.span && parent?.type !== "Computed")
      add(n.span.start, part(n.span.start, n.span.end), String(Number(n.value) * 1.5 + 1));
    const to = n.type === "BinaryExpression" && n.operator ? SWAPPED[n.operator] : undefined;
    if (to && n.operator && n.left?.span && n.right?.span) {
      const between = part(n.left.span.end, n.right.span.start);
      const at = between.indexOf(n.operator);
      if (at >= 0) add(n.left.span.end + Buffer.byteLength(between.slice(0, at)), n.operator, to);
    }
    for (const [key, value] of Object.entries(n)) if (key !== "span" && key !== "typeAnnotation") visit(value, n);
  };
  visit(parsed.body);
  for (const m of found)
    if (text.slice(m.at, m.at + m.from.length) !== m.from) throw new Error(`${file}: lost its place at "${m.from}"`);
  return found;
}

const args = process.argv.slice(2);
const mostAt = args.indexOf("--most");
const most = mostAt >= 0 ? Number(args[mostAt + 1]) : 40;
const given = args.filter((a, i) => !a.startsWith("--") && (mostAt < 0 || i !== mostAt + 1));
const changed = () =>
  execFileSync("git", ["diff", "--name-only", "HEAD~1", "--", "core/src"], { encoding: "utf8" })
    .split("\n")
    .filter((f) => /\.ts$/.test(f) && !/\.test\.ts$|\/testing\/|index\.ts$/.test(f));
const files = given.length > 0 ? given : changed();
const all = files.flatMap(mutantsOf);
// spread evenly over the files, the same ones each time
const step = Math.max(1, all.length / most);
const chosen = Array.from({ length: Math.min(most, all.length) }, (_, i) => all[Math.floor(i * step)] as Mutant);
console.log(`${chosen.length} of ${all.length} mutants in ${files.length} files`);
let alive = 0;
for (const m of chosen) {
  const run = spawnSync(
    "npx",
    ["jest", "--selectProjects", "core", "--findRelatedTests", m.file, "--bail", "--silent"],
    {
      encoding: "utf8",
      env: {
        ...process.env,
        NODE_OPTIONS: "--experimental-vm-modules --disable-warning=ExperimentalWarning",
        MUTANT: JSON.stringify({ ...m, file: resolve(m.file) }),
      },
    },
  );
  if (run.status === 0) {
    alive++;
    console.log(`alive: ${m.file}:${m.line} ${m.from} -> ${m.to}`);
  }
}
const killed = chosen.length - alive;
console.log(
  `${killed} of ${chosen.length} killed, ${chosen.length === 0 ? "–" : Math.round((100 * killed) / chosen.length)} %`,
);
process.exit(chosen.length > 0 && killed / chosen.length < WANTED ? 1 : 0);
