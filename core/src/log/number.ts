const TEN_TO = Float64Array.from({ length: 16 }, (_, k) => Number(`1e${k}`));
const ZERO = 48;
const MINUS = 45;
/** So many digits stay below 2^53. */
const MOST_CHARS = 15;

/**
 * A plain decimal number, such as "−12.5" written with a hyphen: the same as `Number(cell)`, several times faster.
 * Mantissa and power of ten are exact, so their quotient is correctly rounded.
 * @param pointCode - character code of the decimal point or comma
 * @returns NaN when the cell isn't a plain number of at most 15 characters: it may still be another kind of number
 * Source: Clinger 1990, how to read floating point numbers accurately, the case without correction.
 */
export function plainNumber(cell: string, pointCode: number): number {
  const { length } = cell;
  if (length === 0 || length > MOST_CHARS) return Number.NaN;
  const negative = cell.charCodeAt(0) === MINUS;
  let mantissa = 0;
  let digits = 0;
  let pointAt = -1;
  for (let i = negative ? 1 : 0; i < length; i++) {
    const code = cell.charCodeAt(i);
    const digit = code - ZERO;
    if (digit >= 0 && digit <= 9) {
      mantissa = mantissa * 10 + digit;
      digits++;
    } else if (code === pointCode && pointAt < 0 && digits > 0) pointAt = i;
    else return Number.NaN;
  }
  if (digits === 0 || pointAt === length - 1) return Number.NaN;
  const value = pointAt < 0 ? mantissa : mantissa / (TEN_TO[length - 1 - pointAt] as number);
  return negative ? -value : value;
}
