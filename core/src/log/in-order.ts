import type { Column, Table } from "./table.ts";

/** A line that is late by no more than this was written late; by more, the clock was set back or the log began anew, s. */
const LATE_S = 2;
/** So many lines in a row may be late; more, and the clock itself went back. */
const MOST_LATE = 3;

/**
 * Rows that stand later in the file than their time says, put back in their place.
 * @param timeS - of each row, NaN where it has none
 * @returns rows in order of time, and those that were moved; undefined when all stand where they belong
 * Cost: O(rows).
 */
export function lateRows(
  timeS: Float64Array,
): { readonly order: Int32Array; readonly moved: readonly number[] } | undefined {
  const moved: number[] = [];
  let latest = Number.NEGATIVE_INFINITY;
  for (let i = 0; i < timeS.length; ) {
    const t = timeS[i] as number;
    if (!(t < latest)) {
      if (t > latest) latest = t;
      i++;
      continue;
    }
    let end = i;
    while (end < timeS.length && end - i <= MOST_LATE && !((timeS[end] as number) >= latest)) end++;
    const late = latest - t <= LATE_S && end - i <= MOST_LATE && end < timeS.length;
    if (late) for (let k = i; k < end; k++) moved.push(k);
    else latest = t;
    i = late ? end : i + 1;
  }
  if (moved.length === 0) return undefined;
  const order = Int32Array.from(timeS, (_, i) => i);
  for (const row of moved) {
    const t = timeS[row] as number;
    if (Number.isNaN(t)) continue;
    let k = row;
    // rows without a time stay behind the one that they followed
    for (; k > 0; k--) {
      const before = timeS[order[k - 1] as number] as number;
      if (!(before > t) && !Number.isNaN(before)) break;
      if (row - k > MOST_LATE * 8) break;
      order[k] = order[k - 1] as number;
    }
    order[k] = row;
  }
  return { order, moved };
}

function reordered(column: Column, order: Int32Array, placeOf: Int32Array): Column {
  const { numbers, wordAt, rowOf } = column;
  if (!rowOf)
    return {
      ...column,
      numbers: Float64Array.from(order, (row) => numbers[row] as number),
      wordAt: wordAt.length > 0 ? Uint16Array.from(order, (row) => wordAt[row] as number) : wordAt,
    };
  const rows = Int32Array.from(rowOf, (row) => placeOf[row] as number);
  const at = Int32Array.from(rows, (_, k) => k).sort((a, b) => (rows[a] as number) - (rows[b] as number));
  return {
    ...column,
    rowOf: Int32Array.from(at, (k) => rows[k] as number),
    numbers: Float64Array.from(at, (k) => numbers[k] as number),
    wordAt: wordAt.length > 0 ? Uint16Array.from(at, (k) => wordAt[k] as number) : wordAt,
  };
}

/** The table with its rows in another order. @param order - row of the table by new place */
export function inOrder(table: Table, order: Int32Array): Table {
  const placeOf = new Int32Array(order.length);
  order.forEach((row, place) => {
    placeOf[row] = place;
  });
  return {
    ...table,
    columns: table.columns.map((c) => reordered(c, order, placeOf)),
    lineOfRow: Int32Array.from(order, (row) => table.lineOfRow[row] as number),
  };
}
