/** Working time as spans [start, end) of minutes from an origin, sorted, not overlapping. */
export type Spans = readonly (readonly [number, number])[];

/** Working time with its sums, so that a moment so many working minutes later is found without walking. */
export interface Calendar {
  readonly spans: Spans;
  /** working minutes before each span begins, and at the end of all */
  readonly before: readonly number[];
}

/** @throws RangeError when spans overlap or run backwards */
export function calendarOf(spans: Spans): Calendar {
  const before = [0];
  spans.forEach(([start, end], i) => {
    const last = spans[i - 1]?.[1] ?? Number.NEGATIVE_INFINITY;
    if (!(start >= last && end > start))
      throw new RangeError(`working time ${start}–${end} runs backwards or overlaps`);
    before.push((before[i] as number) + end - start);
  });
  return { spans, before };
}

/** First span that ends after a moment; the number of spans when none does. */
function spanAfter(spans: Spans, min: number): number {
  let low = 0;
  let high = spans.length;
  while (low < high) {
    const mid = (low + high) >> 1;
    if ((spans[mid] as readonly [number, number])[1] > min) high = mid;
    else low = mid + 1;
  }
  return low;
}

/** The first moment of working time from one on; Infinity when none comes. */
export function nextWorking({ spans }: Calendar, min: number): number {
  const span = spans[spanAfter(spans, min)];
  return span ? Math.max(span[0], min) : Number.POSITIVE_INFINITY;
}

/** When work that is begun at a working moment ends: it is laid down where the span ends and goes on in the next. */
export function workedUntil({ spans, before }: Calendar, startMin: number, minutes: number): number {
  let i = spanAfter(spans, startMin);
  const span = spans[i];
  if (!span) return Number.POSITIVE_INFINITY;
  const done = (before[i] as number) + Math.max(0, startMin - span[0]) + minutes;
  while (i < spans.length && (before[i + 1] as number) < done) i++;
  const last = spans[i];
  return last ? last[0] + done - (before[i] as number) : Number.POSITIVE_INFINITY;
}

/** Working minutes between two moments. */
export function workingBetween(calendar: Calendar, fromMin: number, toMin: number): number {
  return calendar.spans.reduce((sum, [a, b]) => sum + Math.max(0, Math.min(b, toMin) - Math.max(a, fromMin)), 0);
}

/** Time in which both work. */
export function both(a: Spans, b: Spans): Spans {
  const out: [number, number][] = [];
  for (let i = 0, k = 0; i < a.length && k < b.length; ) {
    const [x, y] = [a[i] as readonly [number, number], b[k] as readonly [number, number]];
    const start = Math.max(x[0], y[0]);
    const end = Math.min(x[1], y[1]);
    if (end > start) out.push([start, end]);
    if (x[1] < y[1]) i++;
    else k++;
  }
  return out;
}

/** Spans without others: days off taken out of working time. */
export function without(a: Spans, off: Spans): Spans {
  let left: [number, number][] = a.map(([s, e]) => [s, e]);
  for (const [s, e] of off)
    left = left.flatMap(([x, y]): [number, number][] =>
      e <= x || s >= y
        ? [[x, y]]
        : [...(s > x ? [[x, s] as [number, number]] : []), ...(e < y ? [[e, y] as [number, number]] : [])],
    );
  return left;
}
