import { MessageChannel, type MessagePort } from "node:worker_threads";
import { Piscina } from "piscina";
import { HttpError } from "../http/errors.ts";
import type { CompareOrders, Judge } from "../judgement/service.ts";
import type { Analyser } from "../logs/analyse-bytes.ts";
import type { MakeSample } from "../logs/samples.ts";
import type { CompareWays, MakeWeek } from "../planning/service.ts";
import type { DrawPdf } from "../reports/pdf-thread.ts";
import type { UnpackJob } from "../transfer/unpack-thread.ts";

/** What is computed beside the requests. */
export interface Threads {
  readonly analyse: Analyser;
  readonly judge: Judge;
  readonly orders: CompareOrders;
  readonly ways: CompareWays;
  readonly week: MakeWeek;
  readonly sample: MakeSample;
  readonly drawPdf: DrawPdf;
  readonly unpackJob: UnpackJob;
}

/** Nothing here takes so long on a sound input. */
const LONGEST_MS = 180_000;

/**
 * A thread loads its code by `import` alone. Loaded by `require`, Node 20 ends the whole process when the thread is ended while its modules are
 * being linked ("IsGraphAsync must be used on an instantiated module"): somebody who leaves a page early would stop the shop's server.
 */
export const THREAD_FLAGS: readonly string[] = [
  ...process.execArgv,
  // versions that cannot require such modules do not know the flag
  ...(process.allowedNodeEnvironmentFlags.has("--experimental-require-module")
    ? ["--no-experimental-require-module"]
    : []),
];

/**
 * Threads for all that takes long, so that it never holds up other requests. Each kind has its own: a comparison of ways
 * of working takes seconds, and nobody's suspects wait behind it. What its client has left is ended.
 */
export function createPools(): Threads & { close: () => Promise<void> } {
  const pool = (file: string, maxThreads: number) =>
    new Piscina({
      filename: new URL(file, import.meta.url).href,
      minThreads: 0,
      maxThreads,
      idleTimeout: 30_000,
      execArgv: [...THREAD_FLAGS],
    });
  const analyses = pool("../logs/analysis-thread.js", 2);
  const judgements = pool("../judgement/judge-thread.js", 2);
  const comparisons = pool("../judgement/judge-thread.js", 1);
  const plans = pool("../planning/plan-thread.js", 1);
  const papers = pool("../reports/pdf-thread.js", 1);
  const archives = pool("../transfer/unpack-thread.js", 1);
  const run = async <T>(
    on: Piscina,
    task: unknown,
    signal?: AbortSignal,
    more: { name?: string; transferList?: MessagePort[] } = {},
  ): Promise<T> => {
    const late = AbortSignal.timeout(LONGEST_MS);
    try {
      return await on.run(task, { signal: signal ? AbortSignal.any([signal, late]) : late, ...more });
    } catch (error) {
      if (late.aborted && !signal?.aborted)
        throw new HttpError(
          503,
          "too-long",
          "This took over three minutes and was ended. Nothing was stored. Try again with less: a shorter log, a smaller file.",
        );
      throw error;
    }
  };
  return {
    async analyse(input, attempt) {
      const { port1, port2 } = new MessageChannel();
      port1.on("message", (words: string) => attempt?.stage(words));
      try {
        return await run(analyses, { input, port: port2 }, attempt?.signal, { transferList: [port2] });
      } finally {
        port1.close();
      }
    },
    judge: (task, signal) => run(judgements, task, signal),
    sample: (task) => run(analyses, task, undefined, { name: "sample" }),
    orders: (task, signal) => run(comparisons, task, signal, { name: "orders" }),
    ways: (task, signal) => run(plans, task, signal),
    week: (task, signal) => run(plans, task, signal, { name: "week" }),
    drawPdf: (task, signal) => run(papers, task, signal),
    unpackJob: (task, signal) => run(archives, task, signal),
    close: async () => {
      await Promise.all([analyses, judgements, comparisons, plans, papers, archives].map((p) => p.destroy()));
    },
  };
}
