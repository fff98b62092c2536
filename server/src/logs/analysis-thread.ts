/** Entry of the worker threads; piscina calls the default export. */
export { analyseBytes as default } from "./analyse-bytes.ts";
export { makeSample as sample } from "./samples.ts";
