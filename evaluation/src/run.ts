import { availableParallelism } from "node:os";
import type { Unit } from "@gearsense/core/unit";
import { Piscina } from "piscina";
import { type CaseSet, drawCase, type EvaluationCase } from "./cases.ts";
import type { CaseScore } from "./score.ts";

export interface EvaluateOptions {
  readonly set: CaseSet;
  readonly cases: number;
  readonly seed: number;
  readonly units: readonly Unit[];
  readonly onProgress?: (done: number, of: number) => void;
}

/** What a thread is asked: see judge-thread.ts. */
export interface ThreadTask {
  readonly spec: EvaluationCase;
  readonly unit: Unit;
  readonly library: readonly Unit[];
}

/** Draws the cases, judges them in threads, one for each core. @returns scores in the order of the cases */
export async function evaluate({ set, cases, seed, units, onProgress }: EvaluateOptions): Promise<CaseScore[]> {
  const pool = new Piscina({
    filename: new URL("./judge-thread.js", import.meta.url).href,
    maxThreads: availableParallelism(),
  });
  try {
    let done = 0;
    return await Promise.all(
      Array.from({ length: cases }, async (_, n) => {
        const spec = drawCase(set, seed, n, units);
        const unit = units.find((u) => u.id === spec.unitId) as Unit;
        const score: CaseScore = await pool.run({ spec, unit, library: units } satisfies ThreadTask);
        onProgress?.(++done, cases);
        return score;
      }),
    );
  } finally {
    await pool.destroy();
  }
}
