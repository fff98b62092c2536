import { availableParallelism } from "node:os";
import type { Knowledge } from "@gearsense/core/suspect";
import type { Unit } from "@gearsense/core/unit";
import { Piscina } from "piscina";
import { type CaseSet, drawCase, type EvaluationCase } from "./cases.ts";
import { drawJob, drawSpecimen, type JobCase } from "./jobs.ts";
import type { JobScore } from "./judge-job.ts";
import type { LabelledLog, LabelledScore } from "./labelled.ts";
import type { DriveRecord } from "./likelihoods.ts";
import { type ProofCase, type ProofScore, proofCases } from "./proofs.ts";
import type { CaseScore } from "./score.ts";
import { worldOf } from "./world.ts";

export interface EvaluateOptions {
  readonly set: CaseSet;
  readonly cases: number;
  readonly seed: number;
  readonly units: readonly Unit[];
  readonly onProgress?: (done: number, of: number) => void;
}

/** What a thread is asked: see judge-thread.ts. */
export type ThreadTask = { readonly unit: Unit; readonly library: readonly Unit[] } & (
  | { readonly spec: EvaluationCase }
  | { readonly job: JobCase; readonly knowledge: Knowledge }
  | { readonly specimen: JobCase; readonly knowledge: Knowledge }
  | { readonly labelled: LabelledLog; readonly knowledge: Knowledge }
  | { readonly proof: ProofCase }
);

async function inThreads<T>(
  count: number,
  task: (n: number) => ThreadTask,
  onProgress: EvaluateOptions["onProgress"],
): Promise<T[]> {
  const pool = new Piscina({
    filename: new URL("./judge-thread.js", import.meta.url).href,
    maxThreads: availableParallelism(),
  });
  try {
    let done = 0;
    return await Promise.all(
      Array.from({ length: count }, async (_, n) => {
        const score: T = await pool.run(task(n));
        onProgress?.(++done, count);
        return score;
      }),
    );
  } finally {
    await pool.destroy();
  }
}

/** Draws the cases, judges them in threads, one for each core. @returns scores in the order of the cases */
export async function evaluate({ set, cases, seed, units, onProgress }: EvaluateOptions): Promise<CaseScore[]> {
  return inThreads(
    cases,
    (n) => {
      const spec = drawCase(set, seed, n, units);
      return { spec, unit: units.find((u) => u.id === spec.unitId) as Unit, library: units };
    },
    onProgress,
  );
}

/** Draws vehicles and takes each from the complaint to the cure, in threads. @returns scores in the order of the vehicles */
export async function evaluateJobs({
  set,
  cases,
  seed,
  units,
  knowledge,
  world = 0,
  onProgress,
}: EvaluateOptions & { readonly knowledge: Knowledge; readonly world?: number }): Promise<JobScore[]> {
  return inThreads(
    cases,
    (n) => {
      const job = drawJob(set, seed, n, units, knowledge, worldOf(world));
      return { job, unit: units.find((u) => u.id === job.unitId) as Unit, library: units, knowledge };
    },
    onProgress,
  );
}

/** Vehicles that are drawn in search of one class before there is said to be none. */
const DRAWN = 40_000;

/**
 * Drives vehicles of the tuning set with one fault each, evenly over the classes.
 * @param only - a class of fault: so many vehicles of it alone
 * @returns what each shows
 */
export async function recordVehicles({
  cases,
  seed,
  units,
  knowledge,
  only,
  onProgress,
}: Omit<EvaluateOptions, "set"> & {
  readonly knowledge: Knowledge;
  readonly only?: string | undefined;
}): Promise<DriveRecord[]> {
  const specimens: JobCase[] = [];
  for (let n = 0; specimens.length < cases && n < DRAWN; n++) {
    const specimen = drawSpecimen(seed, n, units, knowledge);
    if (only === undefined || specimen.faultIds[0]?.split(":")[0] === only) specimens.push(specimen);
  }
  return inThreads(
    specimens.length,
    (n) => {
      const specimen = specimens[n] as JobCase;
      return { specimen, unit: units.find((u) => u.id === specimen.unitId) as Unit, library: units, knowledge };
    },
    onProgress,
  );
}

/** Scores labelled logs, in threads. @returns in their order */
export async function evaluateLabelled(
  logs: readonly LabelledLog[],
  { units, knowledge, onProgress }: Pick<EvaluateOptions, "units" | "onProgress"> & { readonly knowledge: Knowledge },
): Promise<LabelledScore[]> {
  return inThreads(
    logs.length,
    (n) => {
      const labelled = logs[n] as LabelledLog;
      return { labelled, unit: labelled.unit, library: units, knowledge };
    },
    onProgress,
  );
}

/** Puts the proof to the test on faulty vehicles that were not repaired, and on some that were. */
export async function evaluateProofs(
  options: Pick<EvaluateOptions, "seed" | "units" | "onProgress">,
): Promise<ProofScore[]> {
  const { seed, units, onProgress } = options;
  const cases = proofCases(units, seed);
  return inThreads(
    cases.length,
    (n) => ({ proof: cases[n] as ProofCase, unit: (cases[n] as ProofCase).unit, library: [] }),
    onProgress,
  );
}
