import Papa from "papaparse";
import { indexAtOrAfter } from "./pyramid.ts";
import type { Recording } from "./recording.ts";

/**
 * A span of a recording as CSV: one row a moment at which any channel was read, canonical names, core units, an empty
 * cell where nothing was read. Numbers only: nothing in it can be taken for a formula.
 * Cost: O(cells of the span).
 */
export function writeSpan(recording: Recording, startS: number, endS: number): string {
  const rows = new Map<number, (number | null)[]>();
  const ids = [...recording.channels.keys()];
  ids.forEach((id, k) => {
    const channel = recording.channels.get(id);
    if (!channel) return;
    const { timeS, values } = channel;
    for (let i = indexAtOrAfter(timeS, startS); i < timeS.length && (timeS[i] as number) <= endS; i++) {
      // moments that differ by less than a microsecond are one
      const key = Math.round((timeS[i] as number) * 1e6);
      let row = rows.get(key);
      if (!row) {
        row = new Array<number | null>(ids.length).fill(null);
        rows.set(key, row);
      }
      const v = values[i] as number;
      row[k] = v - v === 0 ? v : null;
    }
  });
  const data = [...rows].sort((a, b) => a[0] - b[0]).map(([key, row]) => [key / 1e6, ...row]);
  return `${Papa.unparse({ fields: ["time_s", ...ids], data }, { newline: "\n", escapeFormulae: false })}\n`;
}
