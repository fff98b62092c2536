/** The span of time that is shown. */
export interface View {
  readonly startS: number;
  readonly endS: number;
}

const MIN_SPAN_S = 0.5;

export const whole = (durationS: number): View => ({ startS: 0, endS: durationS });

function clamp(startS: number, spanS: number, durationS: number): View {
  const span = Math.min(durationS, Math.max(MIN_SPAN_S, spanS));
  const start = Math.min(Math.max(0, startS), durationS - span);
  return { startS: start, endS: start + span };
}

/** Zooms by a factor around a time that stays where it is; below 1 is in. */
export function zoom(view: View, factor: number, aroundS: number, durationS: number): View {
  const span = view.endS - view.startS;
  const share = (aroundS - view.startS) / span;
  const next = Math.min(durationS, Math.max(MIN_SPAN_S, span * factor));
  return clamp(aroundS - share * next, next, durationS);
}

export const pan = (view: View, byS: number, durationS: number): View =>
  clamp(view.startS + byS, view.endS - view.startS, durationS);

export const show = (startS: number, endS: number, durationS: number): View =>
  clamp(Math.min(startS, endS), Math.abs(endS - startS), durationS);

/** A span with room around it, for walking from finding to finding. */
export function around(startS: number, endS: number, durationS: number): View {
  const span = Math.max(8, (endS - startS) * 1.6);
  return clamp((startS + endS) / 2 - span / 2, span, durationS);
}
