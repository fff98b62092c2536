import type { MessagePort } from "node:worker_threads";
import { type AnalysisInput, type AnalysisOutput, analyseBytes } from "./analyse-bytes.ts";

/** Entry of the worker threads; piscina calls the default export. Stages go out through the port. */
export default function run({ input, port }: { input: AnalysisInput; port?: MessagePort }): AnalysisOutput {
  return analyseBytes(input, (words) => port?.postMessage(words));
}
export { makeSample as sample } from "./samples.ts";
