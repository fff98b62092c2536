// Guards: threads do not load their code by require, which ends the whole server when a thread is ended while it loads.
import { once } from "node:events";
import { Worker } from "node:worker_threads";
import { expect, it } from "@jest/globals";
import { THREAD_FLAGS } from "./pool.ts";

it("cannot require modules in a thread, and can import them", async () => {
  const code = `
    const { parentPort } = require("node:worker_threads");
    const url = "data:text/javascript,export default 41";
    import(url).then((m) => parentPort.postMessage({ requires: process.features.require_module ?? false, imported: m.default }));`;
  const worker = new Worker(code, { eval: true, execArgv: [...THREAD_FLAGS] });
  expect(await once(worker, "message")).toEqual([{ requires: false, imported: 41 }]);
  await worker.terminate();
});
