import { Piscina } from "piscina";
import type { Analyser } from "./analyse-bytes.ts";

/** A pool of threads for analyses, so that a long log never holds up other requests. */
export function createAnalysisPool(): { analyse: Analyser; close: () => Promise<void> } {
  const pool = new Piscina({
    filename: new URL("./analysis-thread.js", import.meta.url).href,
    maxThreads: 2,
    idleTimeout: 30_000,
  });
  return { analyse: (input) => pool.run(input), close: () => pool.destroy() };
}
