import type { ColumnMapping, ImportReport, ReadingChoice } from "@gearsense/core/log";
import type { Unit } from "@gearsense/core/unit";
import * as Comlink from "comlink";
import type { Answer, LogWorker, Opened, PartInput, Recorded, SpanSpectra } from "./messages.ts";

/** A log that cannot be used; `code` as in core. */
export class LogRefused extends Error {
  readonly code: string;
  constructor(code: string, message: string) {
    super(message);
    this.code = code;
  }
}

function unwrap<T>(answer: Answer<T>): T {
  if (answer.ok) return answer.value;
  throw new LogRefused(answer.code, answer.message);
}

/** One open log in a thread of its own. Close it when it is no longer shown; closing also cancels what it is doing. */
export class LogClient {
  private readonly worker = new Worker(new URL("./log.worker.ts", import.meta.url), { type: "module" });
  private readonly remote = Comlink.wrap<LogWorker>(this.worker);
  private stop: (reason: Error) => void = () => {};
  private readonly stopped = new Promise<never>((_, reject) => {
    this.stop = reject;
  });

  constructor() {
    // nobody may be waiting when it is closed
    this.stopped.catch(() => {});
    this.worker.onerror = (e) =>
      this.stop(
        new LogRefused(
          "reader-broke",
          `The reader of logs stopped${e.message ? `: ${e.message}` : " or could not be loaded"}. The file is stored; open its columns again when the network is back.`,
        ),
      );
  }

  private run<T>(work: Promise<Answer<T>>): Promise<T> {
    return Promise.race([work, this.stopped]).then(unwrap);
  }

  open(bytes: Uint8Array, choice: ReadingChoice, unit: Unit, onProgress: (share: number) => void): Promise<Opened> {
    return this.run(
      this.remote.open(Comlink.transfer(bytes, [bytes.buffer as ArrayBuffer]), choice, unit, Comlink.proxy(onProgress)),
    );
  }

  reopen(choice: ReadingChoice, unit: Unit): Promise<Opened> {
    return this.run(this.remote.reopen(choice, unit));
  }

  report(mapping: readonly ColumnMapping[]): Promise<ImportReport> {
    return this.run(this.remote.report(mapping));
  }

  record(
    parts: readonly PartInput[],
    spanS: readonly [number, number] | undefined,
    unit: Unit,
    onProgress: (share: number) => void,
  ): Promise<Recorded> {
    return this.run(this.remote.record(parts, spanS, unit, Comlink.proxy(onProgress)));
  }

  spectra(channel: string, startS: number, endS: number): Promise<SpanSpectra> {
    return this.run(this.remote.spectra(channel, startS, endS));
  }

  csv(startS: number, endS: number): Promise<string> {
    return this.run(this.remote.csv(startS, endS));
  }

  close(): void {
    this.worker.terminate();
    this.stop(new DOMException("Cancelled", "AbortError"));
  }
}
