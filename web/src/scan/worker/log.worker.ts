import { orderSpectrum, slipChannel, spectrumOf } from "@gearsense/core/drive";
import {
  buildPyramid,
  buildRecording,
  cutRecording,
  InputError,
  indexAtOrAfter,
  joinRecordings,
  openLog,
  proposeMapping,
  type ReadingChoice,
  type Recording,
  type Table,
  writeSpan,
} from "@gearsense/core/log";
import type { Unit } from "@gearsense/core/unit";
import * as Comlink from "comlink";
import type { Answer, LogWorker, Opened, StripData } from "./messages.ts";

let bytes: Uint8Array | undefined;
let table: Table | undefined;
let recording: Recording | undefined;

function answer<T>(work: () => T): Answer<T> {
  try {
    return { ok: true, value: work() };
  } catch (error) {
    if (error instanceof InputError) return { ok: false, code: error.code, message: error.message };
    throw error;
  }
}

/** A stored log. @throws Error with the sentence to show */
async function fetchFile(url: string): Promise<Uint8Array> {
  let response: Response;
  try {
    response = await fetch(url);
  } catch {
    throw new Error("The server cannot be reached. Open the log again when the network is back.");
  }
  if (!response.ok) {
    const body = (await response.json().catch(() => undefined)) as { error?: { message?: string } } | undefined;
    throw new Error(body?.error?.message ?? `The server answered ${response.status}. Try again.`);
  }
  return new Uint8Array(await response.arrayBuffer());
}

function needed<T>(thing: T | undefined): T {
  if (thing === undefined) throw new Error("no log is open");
  return thing;
}

function read(choice: ReadingChoice, unit: Unit, onProgress?: (share: number) => void): Opened {
  const opened = openLog(needed(bytes), choice, { onProgress });
  table = opened.table;
  return {
    dialect: table.dialect,
    layout: table.layout,
    container: opened.container,
    entry: opened.entry,
    encoding: opened.encoding,
    rows: table.rows,
    guesses: proposeMapping(table, unit),
  };
}

/** Shafts whose orders are shown, when they were recorded. */
const SHAFTS = ["engine_rpm", "turbine_rpm", "output_rpm"];

const worker: LogWorker = {
  open: (given, choice, unit, onProgress) =>
    answer(() => {
      bytes = given;
      return read(choice, unit, (share) => onProgress(share));
    }),
  reopen: (choice, unit) => answer(() => read(choice, unit)),
  report: (mapping) => answer(() => buildRecording(needed(table), mapping).report),
  record: async (parts, spanS, unit, onProgress) => {
    const files: Uint8Array[] = [];
    for (const p of parts) {
      try {
        files.push(await fetchFile(p.url));
      } catch (error) {
        return { ok: false, code: "not-fetched", message: error instanceof Error ? error.message : String(error) };
      }
    }
    const buffers: ArrayBuffer[] = [];
    const made = answer(() => {
      const whole = joinRecordings(
        parts.map((p, k) => {
          const onPart = (share: number) => onProgress((k + share) / parts.length);
          return buildRecording(openLog(files[k] as Uint8Array, p.choice, { onProgress: onPart }).table, p.mapping);
        }),
      );
      recording = spanS ? cutRecording(whole, spanS) : whole;
      const strips: StripData[] = [];
      const add = (id: string, rateHz: number, timeS: Float64Array, values: Float64Array) => {
        const pyramid = buildPyramid(timeS, values);
        buffers.push(pyramid.timeS.buffer as ArrayBuffer, pyramid.values.buffer as ArrayBuffer);
        for (const l of pyramid.levels) buffers.push(l.min.buffer as ArrayBuffer, l.max.buffer as ArrayBuffer);
        strips.push({ id, rateHz, pyramid });
      };
      for (const c of recording.channels.values()) add(c.id, c.rateHz, c.timeS, c.values);
      const engine = recording.channels.get("engine_rpm");
      const turbine = recording.channels.get("turbine_rpm");
      if (engine && turbine && engine.timeS === turbine.timeS && !recording.channels.has("tcc_slip_rpm")) {
        const slip = engine.values.map((v, i) => v - (turbine.values[i] as number));
        add("tcc_slip_rpm", engine.rateHz, engine.timeS, slip);
        recording = {
          ...recording,
          channels: new Map(recording.channels).set("tcc_slip_rpm", { ...engine, id: "tcc_slip_rpm", values: slip }),
        };
      }
      const slip = slipChannel(recording, unit);
      add("gear_slip_rpm", slip.rateHz, slip.timeS, slip.slipRpm);
      return { report: recording.report, durationS: recording.durationS, strips };
    });
    return Comlink.transfer(made, buffers);
  },
  spectra: (id, startS, endS) =>
    answer(() => {
      const channel = needed(needed(recording).channels.get(id));
      const { timeS, values, rateHz } = channel;
      const [from, to] = [indexAtOrAfter(timeS, startS), indexAtOrAfter(timeS, endS)];
      return {
        channel: id,
        rateHz,
        spectrum: spectrumOf(timeS, values, from, to),
        orders: SHAFTS.flatMap((of) => {
          const shaft = needed(recording).channels.get(of);
          // orders are told by a shaft that was read at the same moments
          const spectrum =
            shaft && shaft.timeS === timeS ? orderSpectrum(timeS, values, shaft.values, from, to) : undefined;
          return spectrum ? [{ of, spectrum }] : [];
        }),
      };
    }),
  csv: (startS, endS) => answer(() => writeSpan(needed(recording), startS, endS)),
};

Comlink.expose(worker);
