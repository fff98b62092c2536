import { readFileSync, writeFileSync } from "node:fs";
import {
  type CaseSet,
  type CHANNEL_SETS,
  type ChannelScore,
  countedCauses,
  countedLikelihoods,
  drawAutopsy,
  drawJob,
  drawRelearn,
  evaluate,
  evaluateJobs,
  evaluateLabelled,
  evaluateProofs,
  evaluationPage,
  jobsPage,
  labelledFigures,
  labelledPage,
  MOST_RISE,
  proofsPage,
  recordVehicles,
  recordWithSets,
  scoreShop,
  smallModels,
  summariseAutopsies,
  summariseRelearns,
  summariseShops,
  worldPage,
  wrongRepairs,
} from "@gearsense/evaluation";
import { libraryKnowledge } from "./knowledge.ts";
import { readLabelledFolder } from "./labelled-folder.ts";
import { libraryUnits } from "./units.ts";
import { UsageError } from "./usage-error.ts";

const PAGE = new URL("../../docs/evaluation.md", import.meta.url);
const TITLE = `# Evaluation
How good are the analysis and the judgement? Each part below is written by the command that it names and can be made again by it; ✗ marks a
target that is missed, and what a figure was measured on stands beside it. How the examiner came to be as it is, and what was tried, is in
[decisions/evaluation.md](decisions/evaluation.md).

What the figures can say: all vehicles here are simulated by our own simulator, every one with mass, shafts, tyres, valves, sensors and shift
style of its own, and the likelihoods were counted on others of the same family. "In another world" takes that away: other ranges, other odds,
more errors, unknown faults. How well logs of quite another making are read is scored by \`./gearsense evaluate folder DIR\` on labelled logs of
your own ([formats.md](formats.md)); what was found that way is in [decisions/other-vehicles.md](decisions/other-vehicles.md).
Real vehicles: not measured.`;
const SMALL_MODELS = 48;

export type EvaluatedPart = "logs" | "jobs" | "proofs" | "worlds";

/** Each part of the page stands under a heading of its own, and is written anew without the other. */
const HEADINGS: Readonly<Record<EvaluatedPart, string>> = {
  logs: "## Logs against their truth",
  jobs: "## From the complaint to the cure",
  proofs: "## The proof against vehicles that were not repaired",
  worlds: "## In another world",
};

/** The page with one of its parts replaced. @throws Error when the part lacks its heading */
export function withPart(page: string, part: EvaluatedPart, text: string): string {
  if (!text.startsWith(HEADINGS[part])) throw new Error(`the part on ${part} does not begin with "${HEADINGS[part]}"`);
  const order: EvaluatedPart[] = ["jobs", "worlds", "proofs", "logs"];
  const at = (p: EvaluatedPart) => page.indexOf(HEADINGS[p]);
  const before = (p: EvaluatedPart) => {
    const next = order.map(at).filter((i) => i > at(p));
    return at(p) < 0 ? "" : page.slice(at(p), next.length > 0 ? Math.min(...next) : undefined);
  };
  const parts = order.map((p) => (p === part ? text : before(p)).trim()).filter((t) => t !== "");
  return `${[TITLE, ...parts].join("\n\n")}\n`;
}

function keep(part: EvaluatedPart, text: string): void {
  writeFileSync(PAGE, withPart(readFileSync(PAGE, "utf8"), part, text));
}

/**
 * Scores the analysis on simulated drives, or the judgement on vehicles from the complaint to the cure, and prints the
 * page. Of the held-out cases it is kept in docs/.
 * @param tell - progress, for the error stream
 */
export async function evaluateCases(
  options: { readonly cases: number; readonly seed: number; readonly set: CaseSet },
  parts: readonly EvaluatedPart[],
  tell: (line: string) => void,
): Promise<string> {
  const units = libraryUnits();
  const progress = (what: string) => (done: number, of: number) => {
    if (done % 20 === 0 || done === of) tell(`${done} of ${of} ${what}`);
  };
  const pages: string[] = [];
  if (parts.includes("logs")) {
    const page = evaluationPage(
      await evaluate({ ...options, units, onProgress: progress("drives") }),
      options.set,
      options.seed,
    );
    if (options.set === "held-out") keep("logs", page);
    pages.push(page);
  }
  if (parts.includes("jobs")) {
    const knowledge = libraryKnowledge();
    const scores = await evaluateJobs({ ...options, units, knowledge, onProgress: progress("vehicles") });
    const small = smallModels(units, knowledge, SMALL_MODELS, options.seed);
    const page = jobsPage(scores, small, options.set, options.seed);
    if (options.set === "held-out") keep("jobs", page);
    pages.push(page);
    tell(`Repair wrong:\n${wrongRepairs(scores) || "none"}`);
  }
  return pages.join("\n");
}

/** Takes vehicles of other worlds from the complaint to the cure. @returns the page; of the held-out cases it is kept in docs/ */
export async function evaluateWorlds(
  options: { readonly cases: number; readonly seed: number; readonly set: CaseSet },
  worlds: readonly number[],
  tell: (line: string) => void,
): Promise<string> {
  const units = libraryUnits();
  const knowledge = libraryKnowledge();
  const scored: Parameters<typeof worldPage>[0][number][] = [];
  for (const world of worlds)
    scored.push({
      world,
      scores: await evaluateJobs({
        ...options,
        units,
        knowledge,
        world,
        onProgress: (done, of) => {
          if (done % 20 === 0 || done === of) tell(`world ${world}: ${done} of ${of} vehicles`);
        },
      }),
    });
  const page = worldPage(scored, options.set, options.seed);
  if (options.set === "held-out") keep("worlds", page);
  return page;
}

/** Scores the logs of a folder whose truth is known. @returns the page, or figures and logs as JSON @throws UsageError */
export async function evaluateFolder(folder: string, json: boolean, tell: (line: string) => void): Promise<string> {
  const scores = await evaluateLabelled(readLabelledFolder(folder), {
    units: libraryUnits(),
    knowledge: libraryKnowledge(),
    onProgress: (done, of) => {
      if (done % 10 === 0 || done === of) tell(`${done} of ${of} logs`);
    },
  });
  return json
    ? JSON.stringify(
        { format: "gearsense-labelled-scores", version: 1, figures: labelledFigures(scores), logs: scores },
        null,
        1,
      )
    : labelledPage(scores);
}

/** Puts the proof to the test. @returns the page, which is kept in docs/ */
export async function evaluateProof(seed: number, tell: (line: string) => void): Promise<string> {
  const units = libraryUnits();
  const onProgress = (done: number, of: number) => tell(`${done} of ${of} faulty vehicles`);
  const page = proofsPage(await evaluateProofs({ seed, units, onProgress }), seed);
  keep("proofs", page);
  return page;
}

const KNOWLEDGE = new URL("../../library/knowledge/", import.meta.url);

/** One file of the library with some of its parts changed; format and version of the rest stay. */
function rewrite(name: string, change: (file: Record<string, unknown> & { version: number }) => object): void {
  const path = new URL(name, KNOWLEDGE);
  const file = JSON.parse(readFileSync(path, "utf8"));
  writeFileSync(path, `${JSON.stringify({ ...file, version: file.version + 1, ...change(file) }, null, 2)}\n`);
}

/**
 * Counts on vehicles of the tuning set what drives show of each class of fault, with what the library says as a little
 * prior weight.
 * @param only - one class of fault, whose rows alone are counted anew
 * @param write - puts the result in place of the library's
 * @returns vehicles and silence by class
 */
export async function countLikelihoods(
  options: {
    readonly cases: number;
    readonly seed: number;
    readonly write: boolean;
    readonly only?: string | undefined;
  },
  tell: (line: string) => void,
): Promise<string> {
  const knowledge = libraryKnowledge();
  if (options.only !== undefined && !knowledge.faults.some((f) => f.id === options.only))
    throw new UsageError(`"${options.only}" isn’t a class of fault in library/knowledge/faults.json.`);
  const records = await recordVehicles({
    ...options,
    units: libraryUnits(),
    knowledge,
    onProgress: (done, of) => {
      if (done % 20 === 0 || done === of) tell(`${done} of ${of} vehicles`);
    },
  });
  const { evidence, faults } = countedLikelihoods(knowledge, records);
  if (options.write) {
    rewrite("evidence.json", () => ({ tables: evidence }));
    rewrite("faults.json", () => ({ classes: faults }));
  }
  const lines = faults.map(({ id, silent }) => {
    const own = records.filter((r) => r.classId === id);
    return `${id.padEnd(24)} ${String(own.length).padStart(4)} vehicles, ${own.filter((r) => r.silent).length} silent; silence ${(100 * silent).toFixed(0)} %`;
  });
  const rows = evidence.reduce((n, t) => n + (t.drive ? t.rows.length : 0), 0);
  return [...lines, `${rows} rows of what a drive shows${options.write ? ", written to library/knowledge" : ""}`].join(
    "\n",
  );
}

/** Seeds of held-out autopsies begin a million apart; those that are counted lie below them. */
const COUNTED_FROM = 300_000;

/** Counts what each cause shows on drawn units, and writes it beside what is judged. */
export function countCauses(cases: number): string {
  const { bench } = libraryKnowledge();
  const units = libraryUnits().filter((u) => u.kind === "planetary");
  rewrite("bench.json", () => ({ signs: countedCauses(units, bench, COUNTED_FROM, cases).signs }));
  return `Counted ${cases} autopsies into library/knowledge/bench.json; lay it out with npx biome check --write library.`;
}

const percentOf = (x: number) => `${(100 * x).toFixed(1)} %`;

/** Autopsies with a known cause, judged from what was written down: how often it is named first and among three, and whether the odds hold. */
/** Vehicles after a repair, driven with what was learned of the old parts and after a relearn. */
export function evaluateRelearns(
  { cases, seed }: { cases: number; seed: number },
  tell: (line: string) => void,
): string {
  const units = libraryUnits().filter((u) => u.kind === "planetary");
  const scores = Array.from({ length: cases }, (_, i) => {
    tell(`vehicle ${i + 1} of ${cases}`);
    return drawRelearn(units, seed * 1_000_000 + i);
  });
  const f = summariseRelearns(scores);
  const inside = f.outsideBefore === 0 ? Number.NaN : f.insideAfter / f.outsideBefore;
  const unneeded = f.unneeded === 0 ? Number.NaN : f.advisedUnneeded / f.unneeded;
  return [
    `${cases} vehicles, seed ${seed}; ${f.inside} had their inside or their control unit renewed.`,
    f.outsideBefore === 0
      ? "None of them had a shift outside its limit with the old values: nothing to cure."
      : `Shifts outside with the old values: ${f.outsideBefore}; all inside after the relearn: ${f.insideAfter} (${percentOf(inside)}, target 95 %${inside < 0.95 ? ": missed" : ""}).`,
    `Shifts inside as they were: ${f.unneeded}; of these a relearn was advised for ${f.advisedUnneeded} (${percentOf(unneeded)}, target under 5 %${unneeded >= 0.05 ? ": missed" : ""}).`,
    `Routines that did not go through: ${f.notDone.length}${f.notDone.length > 0 ? ` (${[...new Set(f.notDone.map((s) => s.say))].join("; ")})` : ""}.`,
  ].join("\n");
}

const DRIVES = 2;
/** The same drives recorded with the channels that were proposed, with a fixed set of eight, and with all. */
export function evaluateChannels(
  { cases, seed }: { cases: number; seed: number },
  tell: (line: string) => void,
): string {
  const units = libraryUnits();
  const knowledge = libraryKnowledge();
  const scores: ChannelScore[] = [];
  for (let n = 0; scores.length < cases; n++) {
    const spec = drawJob("tuning", seed, n, units, knowledge);
    const unit = units.find((u) => u.id === spec.unitId);
    if (!unit || spec.faultIds.length !== 1 || spec.faults.length !== 1) continue;
    tell(`vehicle ${scores.length + 1} of ${cases}`);
    scores.push(recordWithSets(spec, unit, units, knowledge, DRIVES));
  }
  const share = (set: (typeof CHANNEL_SETS)[number]) => scores.filter((s) => s.first[set]).length / cases;
  const [proposed, fixed, all] = [share("proposed"), share("fixed"), share("all")];
  return [
    `${cases} vehicles with one fault, seed ${seed}, two drives each: the right fault first with`,
    `  the proposed channels ${percentOf(proposed)}, a fixed set of as many ${percentOf(fixed)}, all ${percentOf(all)}`,
    `  against the fixed set ${(100 * (proposed - fixed)).toFixed(1)} points (target +10${proposed - fixed < 0.1 ? ": missed" : ""}), against all ${(100 * (proposed - all)).toFixed(1)} (target −3${proposed - all < -0.03 ? ": missed" : ""}).`,
  ].join("\n");
}

/** Shops whose faults come more or less often than the library says: what the odds that their own jobs have moved are worth. */
export function evaluateShops({ cases, seed }: { cases: number; seed: number }, tell: (line: string) => void): string {
  const units = libraryUnits();
  const knowledge = libraryKnowledge();
  const scores = Array.from({ length: cases }, (_, i) => {
    tell(`shop ${i + 1} of ${cases}`);
    return scoreShop(units, knowledge, seed * 1_000_000 + i);
  });
  const f = summariseShops(scores);
  const change = f.own / f.library - 1;
  return [
    `${cases} shops, seed ${seed}, each class up to three times as often or as seldom as the library says, 20 to 200 proved jobs each.`,
    `Mean expected cost to the cure by the library’s odds ${f.library.toFixed(0)}, by those that own jobs have moved ${f.own.toFixed(0)} (${(100 * change).toFixed(2)} %, target under 0${change >= 0 ? ": missed" : ""}).`,
    `It fell by up to ${percentOf(-f.fall)} and rose by up to ${percentOf(f.rise)}; by more than ${percentOf(MOST_RISE)} in ${f.over} shops (target 0${f.over > 0 ? ": missed" : ""}).`,
  ].join("\n");
}

export function evaluateAutopsies({ cases, seed }: { cases: number; seed: number }, world: number): string {
  const { bench } = libraryKnowledge();
  const units = libraryUnits().filter((u) => u.kind === "planetary");
  const scores = Array.from({ length: cases }, (_, i) => drawAutopsy(units, bench, seed * 1_000_000 + i, world));
  const { first, inThree, calibration, off } = summariseAutopsies(scores);
  return [
    `${cases} autopsies, seed ${seed}, world ${world}: right cause first ${percentOf(first)} (target 80 %${first < 0.8 ? ": missed" : ""}), among three ${percentOf(inThree)} (target 95 %${inThree < 0.95 ? ": missed" : ""}).`,
    `Stated odds of the first against how often it was right, ${percentOf(off)} apart on average:`,
    ...calibration.map(
      (b) =>
        `  stated ${percentOf(b.from)} to ${percentOf(b.to)}, on average ${percentOf(b.stated)}: right ${percentOf(b.right)} of ${b.cases}`,
    ),
  ].join("\n");
}
