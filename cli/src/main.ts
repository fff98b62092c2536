import { parseArgs } from "node:util";
import { publishedSchema, UnitFile } from "@gearsense/contract";
import { InputError } from "@gearsense/core/log";
import { analyzeFile, describe } from "./analyze.ts";
import { simulateToFile } from "./simulate.ts";
import { describeUnit, readUnit } from "./units.ts";
import { UsageError } from "./usage-error.ts";

const HELP = `./gearsense analyze LOG.csv --unit UNIT [--json]
  findings of a scan log; UNIT is an id of the library or a unit file; --json prints the structure of docs/formats.md
  exit code 0 when analysed, 2 on bad input
./gearsense simulate --out LOG.csv [--unit brae-p6] [--fault none|element-slip|shudder|flare|limp]
                     [--profile town|hill|mixed|coast-road] [--seconds 460] [--rate 20] [--seed 1]
  writes a made-up log
./gearsense unit check FILE.unit.json
  says what is wrong with a unit file, by path, or what its gear train gives; exit code 2 when it is refused
./gearsense unit schema
  prints the JSON Schema of a unit file`;

function analyze(args: string[]): string {
  const { values, positionals } = parseArgs({
    args,
    allowPositionals: true,
    options: { unit: { type: "string" }, json: { type: "boolean" } },
  });
  const [file, ...more] = positionals;
  if (!file || more.length > 0) throw new UsageError("Name one log: ./gearsense analyze LOG.csv --unit UNIT");
  if (!values.unit) throw new UsageError("Name the unit: ./gearsense analyze LOG.csv --unit UNIT");
  const output = analyzeFile(file, values.unit);
  return values.json ? JSON.stringify(output, null, 1) : describe(output);
}

function simulate(args: string[]): string {
  const { values } = parseArgs({
    args,
    options: {
      out: { type: "string" },
      unit: { type: "string", default: "brae-p6" },
      fault: { type: "string", default: "element-slip" },
      profile: { type: "string", default: "mixed" },
      seconds: { type: "string", default: "460" },
      rate: { type: "string", default: "20" },
      seed: { type: "string", default: "1" },
    },
  });
  if (!values.out) throw new UsageError("Name the file to write: --out LOG.csv");
  const number = (name: "seconds" | "rate" | "seed", low: number, high: number) => {
    const n = Number(values[name]);
    if (!(n >= low && n <= high)) throw new UsageError(`--${name} needs a number from ${low} to ${high}.`);
    return n;
  };
  return simulateToFile({
    unit: values.unit,
    fault: values.fault,
    profile: values.profile,
    out: values.out,
    seconds: number("seconds", 1, 7200),
    rateHz: number("rate", 1, 100),
    seed: number("seed", 0, 2 ** 31),
  });
}

function unit(args: string[]): string {
  const [what, file, ...more] = args;
  if (what === "schema" && !file) return JSON.stringify(publishedSchema(UnitFile, "Gearsense unit file"), null, 1);
  if (what === "check" && file && more.length === 0) return describeUnit(readUnit(file, "\n"));
  throw new UsageError("Say what to do: ./gearsense unit check FILE.unit.json, or ./gearsense unit schema");
}

/** Runs the command line. @returns the exit code */
export function run(argv: readonly string[], out: (line: string) => void, err: (line: string) => void): number {
  const [command, ...args] = argv;
  try {
    if (args.includes("--help")) out(HELP);
    else if (command === "analyze") out(analyze(args));
    else if (command === "simulate") out(simulate(args));
    else if (command === "unit") out(unit(args));
    else throw new UsageError(HELP);
    return 0;
  } catch (error) {
    const usage =
      error instanceof UsageError ||
      error instanceof InputError ||
      (error as { code?: string }).code?.startsWith("ERR_PARSE_ARGS");
    if (!usage) throw error;
    err((error as Error).message);
    return 2;
  }
}
