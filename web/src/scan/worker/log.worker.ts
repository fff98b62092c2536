import { slipChannel } from "@gearsense/core/drive";
import {
  buildPyramid,
  buildRecording,
  type ColumnMapping,
  decodeLog,
  InputError,
  proposeMapping,
  readTable,
  sniffDialect,
  type Table,
} from "@gearsense/core/log";
import * as Comlink from "comlink";
import type { Answer, LogWorker, StripData } from "./messages.ts";

let table: Table | undefined;

function answer<T>(work: () => T): Answer<T> {
  try {
    return { ok: true, value: work() };
  } catch (error) {
    if (error instanceof InputError) return { ok: false, code: error.code, message: error.message };
    throw error;
  }
}

const opened = (): Table => {
  if (!table) throw new Error("no log is open");
  return table;
};

const worker: LogWorker = {
  open: (bytes, onProgress) =>
    answer(() => {
      const { text, encoding } = decodeLog(bytes);
      const dialect = sniffDialect(text);
      table = readTable(text, dialect, { onProgress: (share) => onProgress(share) });
      return { dialect, encoding, rows: table.rows, guesses: proposeMapping(table) };
    }),
  report: (mapping: readonly ColumnMapping[]) => answer(() => buildRecording(opened(), mapping).report),
  record: (mapping, unit) => {
    const buffers: ArrayBuffer[] = [];
    const made = answer(() => {
      const recording = buildRecording(opened(), mapping);
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
        add(
          "tcc_slip_rpm",
          engine.rateHz,
          engine.timeS,
          engine.values.map((v, i) => v - (turbine.values[i] as number)),
        );
      }
      const slip = slipChannel(recording, unit);
      add("gear_slip_rpm", slip.rateHz, slip.timeS, slip.slipRpm);
      return { report: recording.report, strips };
    });
    return Comlink.transfer(made, buffers);
  },
};

Comlink.expose(worker);
