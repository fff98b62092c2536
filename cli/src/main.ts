import { createInterface } from "node:readline";
import { parseArgs } from "node:util";
import { ProcedureFile, publishedSchema, UnitFile } from "@gearsense/contract";
import { InputError } from "@gearsense/core/log";
import { analyzeFile, describe, readBus } from "./analyze.ts";
import { describeDiagnosis, diagnoseFile } from "./diagnose.ts";
import {
  countCauses,
  countLikelihoods,
  type EvaluatedPart,
  evaluateAutopsies,
  evaluateCases,
  evaluateChannels,
  evaluateFolder,
  evaluateProof,
  evaluateRelearns,
  evaluateShops,
  evaluateWorlds,
} from "./evaluate.ts";
import { checkProcedureFile, describePlan, planFor } from "./procedures.ts";
import { describeProof, proveFiles } from "./prove.ts";
import { scopeToFolder } from "./scope.ts";
import { listSimulation, simulateToFolder } from "./simulate.ts";
import { describeUnit, readUnit } from "./units.ts";
import { UsageError } from "./usage-error.ts";
import { startVehicle, vehicleDefinition } from "./vehicle.ts";

const HELP = `./gearsense analyze LOG --unit UNIT [--bus DEFINITION.json] [--json]
  findings of a scan log, plain or as gzip or zip; a bus capture needs the definition of its channels; UNIT is an id of the library or a unit file; --json prints the structure of docs/formats.md
  exit code 0 when analysed, 2 on bad input
./gearsense simulate --out DIR [--unit brae-p6] [--fault KIND[@PART][:SEVERITY]]… [--drive mixed] [--minutes 8]
                     [--seed 1] [--vehicle 1] [--dialect plain] [--rate HZ] [--channels a,b,…]
  drives a made-up vehicle and writes log.csv, truth.json and codes.csv; faults may be several, none is healthy;
  without --rate the scan tool reads as fast as so many channels allow
./gearsense simulate --scope PART --out DIR [--unit brae-p6] [--fault slow|stuck|no-current|missing-tooth|run-out] [--seed 1]
  a scope at a solenoid or a speed sensor of the unit: writes scope.csv and truth.json
./gearsense simulate --list [--unit UNIT]
  names the faults with the parts that can have them, the drives and the dialects
./gearsense vehicle [--unit brae-p6] [--fault KIND[@PART][:SEVERITY]]… [--drive mixed] [--port 4190] [--speed 1] [--seed 1]
                    [--learned ID=VALUE]… [--lost SHARE] [--busy SHARE] [--slow SHARE] [--ignition-off]
  a made-up vehicle that is being driven, on a port of this machine: frames as lines of text, both ways (docs/formats.md); it answers
  engine and transmission until it is stopped; shares over 0 up to 1 say how often frames get lost, it is busy, or asks for time;
  --drive as-told stands with the brake pressed and does what a relearn asks of lever and road; --drive by-hand does nothing by
  itself; lines typed take the wheel: brake on, brake off, lever D, pedal 20
./gearsense vehicle --definition [--unit brae-p6]
  prints which identifier holds which channel
./gearsense diagnose EVIDENCE.json --unit UNIT [--json]
  suspects, next checks and repairs from a file of evidence (docs/formats.md); exit code 0 when judged, 2 on bad input
./gearsense prove BEFORE.csv… --after AFTER.csv… --unit UNIT [--json]
  drives before a repair against drives after it, several are pooled: of each finding whether it is gone, not shown yet,
  better, the same, worse or not exercised, and what is still to be driven; exit code 0 when compared, 2 on bad input
./gearsense evaluate [logs|jobs] [--cases 400] [--seed 1] [--set held-out|tuning]
  logs: simulates drives over all units and faults, analyses them without the truth, scores, prints the table;
  jobs: takes vehicles from the complaint to the cure; both without a word. Held-out cases are written to docs/ as well
./gearsense evaluate jobs --world 1 [--world 2 …] [--cases 400] [--seed 1] [--set held-out|tuning]
  the same vehicles of another family, with other odds, doubled errors, contaminated observations and unknown faults
./gearsense evaluate folder DIR [--json]
  scores any folder of labelled logs (docs/formats.md) with the same measures
./gearsense evaluate proofs [--seed 1]
  compares drives of vehicles that were not repaired, and of some that were, and counts wrong verdicts
./gearsense evaluate autopsies [--cases 300] [--seed 1] [--world 1]
  units that were taken apart with a known cause, judged from what was written down; prints how often it was named;
  --write counts what each cause shows, on others, into library/knowledge
./gearsense evaluate relearns [--cases 200] [--seed 1]
  vehicles after a repair, driven with what was learned of the old parts and after a relearn: shifts outside, advice that was not needed
./gearsense evaluate channels [--cases 200] [--seed 1]
  the same drives recorded with the channels that are proposed, with a fixed set of as many and with all: is the right fault first
./gearsense evaluate likelihoods [--cases 400] [--seed 1] [--only CLASS] [--write]
  counts on vehicles of the tuning set what drives show of each class of fault; --write puts it into library/knowledge
./gearsense unit check FILE.unit.json
  says what is wrong with a unit file, by path, or what its gear train gives; exit code 2 when it is refused
./gearsense unit schema
  prints the JSON Schema of a unit file
./gearsense procedure check FILE.procedure.json
  says what is wrong with a procedure among those of the library, by place; exit code 2 when it is refused
./gearsense procedure schema
  prints the JSON Schema of a procedure
./gearsense plan --unit UNIT --repair REPAIR[+REPAIR] [--strategy PROCEDURE]… [--json]
  how repairs are done on a unit: what they share once, every removal with its refit, in an order that saves the lift and uses
  waits; exit code 2 when there is no way`;

function analyze(args: string[]): string {
  const { values, positionals } = parseArgs({
    args,
    allowPositionals: true,
    options: { unit: { type: "string" }, bus: { type: "string" }, json: { type: "boolean" } },
  });
  const [file, ...more] = positionals;
  if (!file || more.length > 0) throw new UsageError("Name one log: ./gearsense analyze LOG.csv --unit UNIT");
  if (!values.unit) throw new UsageError("Name the unit: ./gearsense analyze LOG.csv --unit UNIT");
  const output = analyzeFile(file, values.unit, values.bus ? { definition: readBus(values.bus) } : {});
  return values.json ? JSON.stringify(output, null, 1) : describe(output);
}

function simulate(args: string[]): string {
  const { values } = parseArgs({
    args,
    options: {
      out: { type: "string" },
      list: { type: "boolean" },
      unit: { type: "string", default: "brae-p6" },
      fault: { type: "string", multiple: true, default: [] },
      drive: { type: "string", default: "mixed" },
      minutes: { type: "string", default: "8" },
      dialect: { type: "string", default: "plain" },
      rate: { type: "string" },
      channels: { type: "string" },
      seed: { type: "string", default: "1" },
      vehicle: { type: "string" },
      scope: { type: "string" },
    },
  });
  if (values.list) return listSimulation(values.unit);
  if (!values.out) throw new UsageError("Name the folder to write to: --out DIR");
  const number = (name: "minutes" | "rate" | "seed" | "vehicle", low: number, high: number) => {
    const n = Number(values[name]);
    if (!(n >= low && n <= high)) throw new UsageError(`--${name} needs a number from ${low} to ${high}.`);
    return n;
  };
  if (values.scope !== undefined) {
    const [fault = "none", ...more] = values.fault;
    if (more.length > 0) throw new UsageError("A recording of a scope shows one fault: name --fault once.");
    return scopeToFolder({
      unit: values.unit,
      part: values.scope,
      fault,
      seed: number("seed", 0, 2 ** 31),
      out: values.out,
    });
  }
  return simulateToFolder({
    unit: values.unit,
    faults: values.fault,
    drive: values.drive,
    dialect: values.dialect,
    out: values.out,
    minutes: number("minutes", 0.1, 240),
    rateHz: values.rate === undefined ? undefined : number("rate", 0.5, 100),
    channels: values.channels?.split(","),
    seed: number("seed", 0, 2 ** 31),
    vehicleSeed: values.vehicle === undefined ? undefined : number("vehicle", 0, 2 ** 31),
  });
}

async function vehicle(args: string[], out: (line: string) => void): Promise<void> {
  const { values } = parseArgs({
    args,
    options: {
      unit: { type: "string", default: "brae-p6" },
      fault: { type: "string", multiple: true, default: [] },
      drive: { type: "string", default: "mixed" },
      port: { type: "string", default: "4190" },
      speed: { type: "string", default: "1" },
      seed: { type: "string", default: "1" },
      lost: { type: "string", default: "0" },
      busy: { type: "string", default: "0" },
      slow: { type: "string", default: "0" },
      "ignition-off": { type: "boolean", default: false },
      learned: { type: "string", multiple: true, default: [] },
      definition: { type: "boolean", default: false },
    },
  });
  const number = (name: "port" | "speed" | "seed" | "lost" | "busy" | "slow", low: number, high: number) => {
    const n = Number(values[name]);
    if (!(n >= low && n <= high)) throw new UsageError(`--${name} needs a number from ${low} to ${high}.`);
    return n;
  };
  if (values.definition) {
    out(JSON.stringify(vehicleDefinition(values.unit), null, 1));
    return;
  }
  const running = await startVehicle({
    unit: values.unit,
    faults: values.fault,
    drive: values.drive,
    seed: number("seed", 0, 2 ** 31),
    port: number("port", 0, 65_535),
    speed: number("speed", 0.1, 20),
    device: {
      lost: number("lost", 0, 1),
      busy: number("busy", 0, 1),
      slow: number("slow", 0, 1),
      ignitionOff: values["ignition-off"],
    },
    learned: Object.fromEntries(values.learned.map(learnedValue)),
  });
  out(`Vehicle ${running.vin} on 127.0.0.1:${running.port}; stop it with Ctrl-C. All of it is made up.`);
  const wheel = createInterface({ input: process.stdin });
  wheel.on("line", (line) => {
    try {
      out(running.at(line));
    } catch (error) {
      if (!(error instanceof UsageError)) throw error;
      out(error.message);
    }
  });
  await new Promise<void>((resolve) => {
    for (const signal of ["SIGINT", "SIGTERM"] as const) process.once(signal, () => resolve());
  });
  wheel.close();
  await running.close();
}

/** "fill_TC=150" */
function learnedValue(text: string): [string, number] {
  const m = /^(\w+)=(-?\d+(?:\.\d+)?)$/.exec(text);
  if (!m) throw new UsageError(`--learned "${text}": write it as fill_TC=150.`);
  return [m[1] as string, Number(m[2])];
}

function unit(args: string[]): string {
  const [what, file, ...more] = args;
  if (what === "schema" && !file) return JSON.stringify(publishedSchema(UnitFile, "Gearsense unit file"), null, 1);
  if (what === "check" && file && more.length === 0) return describeUnit(readUnit(file, "\n"));
  throw new UsageError("Say what to do: ./gearsense unit check FILE.unit.json, or ./gearsense unit schema");
}

function procedure(args: string[]): string {
  const [what, file, ...more] = args;
  if (what === "schema" && !file) return JSON.stringify(publishedSchema(ProcedureFile, "Gearsense procedure"), null, 1);
  if (what === "check" && file && more.length === 0) return checkProcedureFile(file);
  throw new UsageError(
    "Say what to do: ./gearsense procedure check FILE.procedure.json, or ./gearsense procedure schema",
  );
}

function plan(args: string[]): string {
  const { values } = parseArgs({
    args,
    options: {
      unit: { type: "string" },
      repair: { type: "string" },
      strategy: { type: "string", multiple: true, default: [] },
      json: { type: "boolean" },
    },
  });
  if (!values.unit || !values.repair)
    throw new UsageError("Name unit and repair: ./gearsense plan --unit UNIT --repair REPAIR[+REPAIR]");
  const planned = planFor(values.unit, values.repair, values.strategy);
  return values.json ? JSON.stringify(planned, null, 1) : describePlan(values.unit, planned);
}

async function evaluation(args: string[], tell: (line: string) => void): Promise<string> {
  const { values, positionals } = parseArgs({
    args,
    allowPositionals: true,
    options: {
      cases: { type: "string", default: "400" },
      seed: { type: "string", default: "1" },
      set: { type: "string", default: "held-out" },
      write: { type: "boolean", default: false },
      only: { type: "string" },
      world: { type: "string", multiple: true, default: [] },
      json: { type: "boolean", default: false },
    },
  });
  const whole = (name: "cases" | "seed", low: number, high: number) => {
    const n = Number(values[name]);
    if (!(Number.isInteger(n) && n >= low && n <= high))
      throw new UsageError(`--${name} needs a whole number from ${low} to ${high}.`);
    return n;
  };
  const { set } = values;
  if (set !== "held-out" && set !== "tuning") throw new UsageError("--set is held-out or tuning.");
  const [part, ...more] = positionals;
  if (part === "folder") {
    const [folder, ...rest] = more;
    if (folder === undefined || rest.length > 0)
      throw new UsageError("Name one folder of labelled logs: ./gearsense evaluate folder DIR");
    return evaluateFolder(folder, values.json, tell);
  }
  if (values.json) throw new UsageError("--json belongs to ./gearsense evaluate folder.");
  const size = { cases: whole("cases", 1, 100_000), seed: whole("seed", 0, 2 ** 31) };
  if (part === "proofs" && more.length === 0) return evaluateProof(size.seed, tell);
  if (part === "autopsies" && more.length === 0)
    return values.write ? countCauses(size.cases) : evaluateAutopsies(size, Number(values.world[0] ?? 0));
  if (part === "relearns" && more.length === 0) return evaluateRelearns(size, tell);
  if (part === "channels" && more.length === 0) return evaluateChannels(size, tell);
  if (part === "shops" && more.length === 0) return evaluateShops(size, tell);
  if (part === "likelihoods" && more.length === 0)
    return countLikelihoods({ ...size, write: values.write, only: values.only }, tell);
  if (values.write || values.only !== undefined)
    throw new UsageError("--write and --only belong to ./gearsense evaluate likelihoods.");
  if (more.length > 0 || (part !== undefined && part !== "logs" && part !== "jobs"))
    throw new UsageError(
      'Name one part, "logs", "jobs", "folder", "proofs", "autopsies", "relearns", "channels", "shops" or "likelihoods", or none for the first two.',
    );
  const worlds = values.world.map((w) => {
    const n = Number(w);
    if (!(Number.isInteger(n) && n >= 0 && n <= 1000)) throw new UsageError("--world needs a whole number to 1000.");
    return n;
  });
  if (worlds.length > 0 && part !== "jobs") throw new UsageError("--world belongs to ./gearsense evaluate jobs.");
  if (worlds.length > 0) return evaluateWorlds({ ...size, set }, worlds, tell);
  const parts: EvaluatedPart[] = part === undefined ? ["logs", "jobs"] : [part];
  return evaluateCases({ ...size, set }, parts, tell);
}

function diagnose(args: string[]): string {
  const { values, positionals } = parseArgs({
    args,
    allowPositionals: true,
    options: { unit: { type: "string" }, json: { type: "boolean" } },
  });
  const [file, ...more] = positionals;
  if (!file || more.length > 0 || !values.unit)
    throw new UsageError("Name one file and the unit: ./gearsense diagnose EVIDENCE.json --unit UNIT");
  const diagnosis = diagnoseFile(file, values.unit);
  return values.json ? JSON.stringify(diagnosis, null, 1) : describeDiagnosis(diagnosis);
}

/** The files up to the first flag are before the repair, those behind `--after` after it. */
function prove(args: string[]): string {
  const usage = "Name the logs: ./gearsense prove BEFORE.csv… --after AFTER.csv… --unit UNIT";
  const { values, tokens } = parseArgs({
    args,
    allowPositionals: true,
    tokens: true,
    options: {
      after: { type: "string", multiple: true, default: [] },
      unit: { type: "string" },
      json: { type: "boolean" },
    },
  });
  const [before, after]: [string[], string[]] = [[], []];
  let repaired = false;
  for (const t of tokens) {
    if (t.kind === "option" && t.name === "after") repaired = true;
    if (t.kind === "option" && t.name === "after" && t.value !== undefined) after.push(t.value);
    if (t.kind === "positional") (repaired ? after : before).push(t.value);
  }
  if (before.length === 0 || after.length === 0 || !values.unit) throw new UsageError(usage);
  const proof = proveFiles(before, after, values.unit);
  return values.json ? JSON.stringify(proof, null, 1) : describeProof(proof);
}

/** Runs the command line. @returns the exit code */
export async function run(
  argv: readonly string[],
  out: (line: string) => void,
  err: (line: string) => void,
): Promise<number> {
  const [command, ...args] = argv;
  try {
    if (args.includes("--help")) out(HELP);
    else if (command === "analyze") out(analyze(args));
    else if (command === "simulate") out(simulate(args));
    else if (command === "vehicle") await vehicle(args, out);
    else if (command === "unit") out(unit(args));
    else if (command === "procedure") out(procedure(args));
    else if (command === "plan") out(plan(args));
    else if (command === "diagnose") out(diagnose(args));
    else if (command === "prove") out(prove(args));
    else if (command === "evaluate") out(await evaluation(args, err));
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
