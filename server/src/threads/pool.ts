import { Piscina } from "piscina";
import type { CompareOrders, Judge } from "../judgement/service.ts";
import type { Analyser } from "../logs/analyse-bytes.ts";
import type { MakeSample } from "../logs/samples.ts";

/** What is computed beside the requests. */
export interface Threads {
  readonly analyse: Analyser;
  readonly judge: Judge;
  readonly orders: CompareOrders;
  readonly sample: MakeSample;
}

/** Threads for analyses and for judgements, so that a long log or a plan never holds up other requests. */
export function createPools(): Threads & { close: () => Promise<void> } {
  const pool = (file: string) =>
    new Piscina({ filename: new URL(file, import.meta.url).href, maxThreads: 2, idleTimeout: 30_000 });
  const analyses = pool("../logs/analysis-thread.js");
  const judgements = pool("../judgement/judge-thread.js");
  return {
    analyse: (input) => analyses.run(input),
    judge: (task) => judgements.run(task),
    sample: (task) => analyses.run(task, { name: "sample" }),
    orders: (task) => judgements.run(task, { name: "orders" }),
    close: async () => {
      await Promise.all([analyses.destroy(), judgements.destroy()]);
    },
  };
}
