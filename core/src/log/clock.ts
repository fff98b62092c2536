/** A cell that holds a moment. */
export interface Moment {
  /** since midnight, or since 1970 when the cell carries a date, s */
  readonly seconds: number;
  readonly dated: boolean;
}

const ISO_DATE = /^(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})[T ]\s*/;
const DAY_FIRST = /^(\d{1,2})[-/.](\d{1,2})[-/.](\d{4})[, T]\s*/;
const HOURS = /^(\d{1,3}):(\d{2}):(\d{2})(?:[.,:](\d+))?\s*(am|pm)?\s*(?:Z|UTC|[+-]\d{2}:?\d{2})?$/i;
const MINUTES = /^(\d{1,3}):(\d{2})(?:[.,](\d+))?$/;

/**
 * Clock times: `9:41:00.25`, `09:41:00,250`, `9:41:00 PM`, `41:00.5` (minutes and seconds), each with or without a date
 * before it (year first, or day and month in either order: only differences are used). The zone is not looked at.
 * @returns undefined when the text isn’t a clock time
 */
export function readClock(text: string): Moment | undefined {
  // dates and clocks hold a colon: most cells end here
  if (!text.includes(":")) return undefined;
  let rest = text;
  let dayS = 0;
  let dated = false;
  const iso = ISO_DATE.exec(text);
  const other = iso ? undefined : DAY_FIRST.exec(text);
  if (iso || other) {
    const [year, month, day] = iso
      ? [Number(iso[1]), Number(iso[2]), Number(iso[3])]
      : [Number(other?.[3]), Number(other?.[2]), Number(other?.[1])];
    // a month over twelve is a day: the two stand the other way round
    dayS = (month > 12 ? Date.UTC(year, day - 1, month) : Date.UTC(year, month - 1, day)) / 1000;
    dated = true;
    rest = text.slice((iso ?? other)?.[0].length);
  }
  const fraction = (digits: string | undefined) => (digits ? Number(`0.${digits}`) : 0);
  const h = HOURS.exec(rest);
  if (h) {
    let hours = Number(h[1]);
    const half = h[5]?.toLowerCase();
    if (half) hours = (hours % 12) + (half === "pm" ? 12 : 0);
    return { seconds: dayS + hours * 3600 + Number(h[2]) * 60 + Number(h[3]) + fraction(h[4]), dated };
  }
  const m = dated ? undefined : MINUTES.exec(rest);
  return m ? { seconds: Number(m[1]) * 60 + Number(m[2]) + fraction(m[3]), dated } : undefined;
}
