/**
 * Reduced row echelon form of a small dense system, in place, with the largest pivot of each column. Columns are taken
 * from left to right, so a column is free only when the columns before it do not settle it.
 * @param matrix - rows × columns, row-major; overwritten
 * @returns the pivot row of each column, −1 for a free column
 * Source: Golub and Van Loan, Matrix computations, Gauss-Jordan elimination. Cost: O(rows² · columns).
 */
export function reduceRows(matrix: Float64Array, rows: number, columns: number): Int32Array {
  const pivotRow = new Int32Array(columns).fill(-1);
  let scale = 0;
  for (let i = 0; i < matrix.length; i++) scale = Math.max(scale, Math.abs(matrix[i] as number));
  // what elimination leaves of a zero grows with the entries, never beyond this
  const zero = scale * 1e-10;
  let row = 0;
  for (let c = 0; c < columns && row < rows; c++) {
    let best = row;
    for (let r = row + 1; r < rows; r++)
      if (Math.abs(matrix[r * columns + c] as number) > Math.abs(matrix[best * columns + c] as number)) best = r;
    const pivot = matrix[best * columns + c] as number;
    if (Math.abs(pivot) <= zero) {
      for (let r = row; r < rows; r++) matrix[r * columns + c] = 0;
      continue;
    }
    for (let k = 0; k < columns; k++) {
      const moved = matrix[best * columns + k] as number;
      matrix[best * columns + k] = matrix[row * columns + k] as number;
      matrix[row * columns + k] = moved / pivot;
    }
    for (let r = 0; r < rows; r++) {
      const factor = matrix[r * columns + c] as number;
      if (r === row || factor === 0) continue;
      for (let k = 0; k < columns; k++)
        matrix[r * columns + k] = (matrix[r * columns + k] as number) - factor * (matrix[row * columns + k] as number);
      matrix[r * columns + c] = 0;
    }
    pivotRow[c] = row;
    row++;
  }
  return pivotRow;
}
