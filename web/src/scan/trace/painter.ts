import { indexAtOrAfter, type Pyramid } from "@gearsense/core/log";
import { gearName } from "@gearsense/core/unit";
import { scaleLinear } from "d3-scale";
import type { View } from "./view.ts";

export interface Line {
  readonly pyramid: Pyramid;
  /** CSS colour */
  readonly colour: string;
  /** held between readings */
  readonly step: boolean;
  /** added to its times; of a log that is laid over another, s */
  readonly shiftS: number;
  /** of the other log: drawn pale */
  readonly pale: boolean;
}

export interface Strip {
  readonly label: string;
  readonly unit: string;
  readonly lines: readonly Line[];
  readonly low: number;
  readonly high: number;
  /** from core unit to what is shown */
  readonly toShown: (v: number) => number;
  /** height against the other strips */
  readonly weight: number;
  /** the least that the axis spans when zoomed in, so that noise is not blown up to a finding */
  readonly leastSpan: number;
}

export interface Ribbon {
  /** `hit`: a finding lies within */
  readonly spans: readonly {
    readonly gear: number;
    readonly startS: number;
    readonly endS: number;
    readonly hit: boolean;
  }[];
  /** spans in which the converter clutch works */
  readonly clutch: readonly { readonly startS: number; readonly endS: number }[];
  /** moments that the driver marked, s */
  readonly marks: readonly number[];
}

export interface Palette {
  readonly panel: string;
  readonly ink: string;
  readonly quiet: string;
  readonly rule: string;
  readonly action: string;
  readonly wash: string;
}

export const RIBBON_PX = 46;
export const AXIS_PX = 22;
const GAP_PX = 6;
const PALE = 0.42;
const TICK_STEPS_S = [0.1, 0.2, 0.5, 1, 2, 5, 10, 15, 30, 60, 120, 300];

/** Level of the pyramid that a view is drawn from, and the samples of the view. */
function levelFor(pyramid: Pyramid, view: View, width: number) {
  const { timeS, levels } = pyramid;
  const from = Math.max(0, indexAtOrAfter(timeS, view.startS) - 1);
  const to = Math.min(timeS.length, indexAtOrAfter(timeS, view.endS) + 1);
  const perPixel = (to - from) / width;
  let level = -1;
  while (level + 1 < levels.length && (levels[level + 1]?.size ?? Infinity) <= perPixel) level++;
  return { from, to, level: levels[level] };
}

/** The view on a log whose times are moved. */
const shifted = (view: View, shiftS: number): View =>
  shiftS === 0 ? view : { startS: view.startS - shiftS, endS: view.endS - shiftS };

const RANGE_BUCKETS = 300;

/** The axis of a strip follows what is in sight: a shudder of 60 rpm is flat on an axis of 4000. */
function shownRange(s: Strip, view: View): [number, number] {
  let low = Infinity;
  let high = -Infinity;
  for (const { pyramid, shiftS } of s.lines) {
    const { from, to, level } = levelFor(pyramid, shifted(view, shiftS), RANGE_BUCKETS);
    const size = level?.size ?? 1;
    const min = level?.min ?? pyramid.values;
    const max = level?.max ?? pyramid.values;
    for (let b = Math.floor(from / size); b < Math.ceil(to / size); b++) {
      if ((min[b] as number) < low) low = min[b] as number;
      if ((max[b] as number) > high) high = max[b] as number;
    }
  }
  if (low > high) return [s.low, s.high];
  const room = Math.max((high - low) * 0.06, (s.leastSpan - (high - low)) / 2);
  return [Math.max(s.low, low - room), Math.min(s.high, high + room)];
}

/** Where each strip stands, below the ribbon and above the axis. */
export function stripTops(strips: readonly Strip[], height: number): { top: number; size: number }[] {
  const total = strips.reduce((s, x) => s + x.weight, 0);
  let top = RIBBON_PX + GAP_PX;
  const room = height - top - AXIS_PX;
  return strips.map((s) => {
    const share = (room * s.weight) / total;
    // whole pixels: a clip on part of a pixel makes the painting many times slower
    const from = Math.round(top);
    top += share;
    return { top: from, size: Math.round(top) - GAP_PX - from };
  });
}

/** Its size and the fonts may come late: so often the first picture is begun anew. */
const MOST_UNFOLDINGS = 4;

/**
 * Draws ribbon and strips on one canvas. Per frame it touches at most a few buckets a pixel, never all samples: the
 * worker has made the lowest and highest value of every bucket, so no spike is lost.
 */
export class TracePainter {
  private readonly context: CanvasRenderingContext2D;
  private frame = 0;
  private unfolding = 0;
  private closed = false;

  constructor(canvas: HTMLCanvasElement) {
    const context = canvas.getContext("2d");
    if (!context) throw new Error("this browser offers no canvas");
    this.context = context;
  }

  /** Draws at the next frame; a later call before it replaces this one. */
  request(draw: () => void): void {
    cancelAnimationFrame(this.frame);
    this.frame = requestAnimationFrame(() => {
      if (!this.closed) draw();
    });
  }

  close(): void {
    this.closed = true;
    cancelAnimationFrame(this.frame);
  }

  /**
   * The first picture, a strip a frame: drawn at once, six strips of a long log would hold the page for too long.
   * Whatever is asked for meanwhile is drawn whole.
   * @returns false when the first picture was begun already
   */
  unfold(...args: [number, number, View, readonly Strip[], Ribbon, Palette]): boolean {
    if (this.unfolding >= MOST_UNFOLDINGS) return false;
    this.unfolding++;
    const [, , , strips] = args;
    const next = (step: number) =>
      this.request(() => {
        this.draw(...args, step);
        if (step <= strips.length) next(step + 1);
        else this.unfolding = MOST_UNFOLDINGS;
      });
    next(0);
    return true;
  }

  /** @param step - of the first picture: 0 the axis, then a strip each, then the ribbon; without it all is drawn */
  draw(
    width: number,
    height: number,
    view: View,
    strips: readonly Strip[],
    ribbon: Ribbon,
    palette: Palette,
    step?: number,
  ): void {
    const { context: c } = this;
    const x = (t: number) => ((t - view.startS) / (view.endS - view.startS)) * width;
    if (step) {
      const at = stripTops(strips, height)[step - 1];
      if (at) this.strip(strips[step - 1] as Strip, at.top, at.size, width, view, x, palette);
      else this.ribbon(width, x, view, ribbon, palette);
      return;
    }
    const ratio = window.devicePixelRatio || 1;
    const { canvas } = c;
    if (canvas.width !== Math.round(width * ratio) || canvas.height !== Math.round(height * ratio)) {
      canvas.width = Math.round(width * ratio);
      canvas.height = Math.round(height * ratio);
    }
    c.setTransform(ratio, 0, 0, ratio, 0, 0);
    c.clearRect(0, 0, width, height);
    if (step === undefined) {
      this.ribbon(width, x, view, ribbon, palette);
      stripTops(strips, height).forEach(({ top, size }, i) => {
        this.strip(strips[i] as Strip, top, size, width, view, x, palette);
      });
    }
    this.axis(height, width, view, x, palette);
    this.marks(height, x, width, ribbon, palette);
  }

  private ribbon(width: number, x: (t: number) => number, view: View, ribbon: Ribbon, p: Palette): void {
    const { context: c } = this;
    c.textAlign = "center";
    c.textBaseline = "middle";
    for (const s of ribbon.spans) {
      if (s.endS < view.startS || s.startS > view.endS) continue;
      const a = Math.max(0, x(s.startS));
      const b = Math.min(width, x(s.endS));
      const { hit } = s;
      c.fillStyle = hit ? p.wash : p.panel;
      c.fillRect(a, 1, Math.max(1, b - a), RIBBON_PX - 14);
      c.strokeStyle = hit ? p.action : p.rule;
      c.lineWidth = 1;
      c.strokeRect(a + 0.5, 1.5, Math.max(0, b - a - 1), RIBBON_PX - 15);
      if (b - a > 13) {
        c.fillStyle = hit ? p.action : p.ink;
        c.font = '600 20px "Barlow Condensed"';
        c.fillText(gearName(s.gear), (a + b) / 2, (RIBBON_PX - 12) / 2);
      }
    }
    // converter clutch: a hatched band under the gears
    for (const s of ribbon.clutch) {
      const a = Math.max(0, x(s.startS));
      const b = Math.min(width, x(s.endS));
      if (b <= a) continue;
      c.save();
      c.beginPath();
      c.rect(a, RIBBON_PX - 10, b - a, 8);
      c.clip();
      c.strokeStyle = p.ink;
      c.lineWidth = 1.2;
      c.beginPath();
      for (let h = a - (a % 6) - 8; h < b; h += 6) {
        c.moveTo(h, RIBBON_PX - 1);
        c.lineTo(h + 10, RIBBON_PX - 11);
      }
      c.stroke();
      c.restore();
      c.strokeStyle = p.quiet;
      c.strokeRect(a + 0.5, RIBBON_PX - 9.5, Math.max(0, b - a - 1), 7);
    }
  }

  /** Moments that the driver marked: wedges on the axis. */
  private marks(height: number, x: (t: number) => number, width: number, ribbon: Ribbon, p: Palette): void {
    const { context: c } = this;
    c.fillStyle = p.action;
    for (const t of ribbon.marks) {
      const at = x(t);
      if (at < 0 || at > width) continue;
      c.beginPath();
      c.moveTo(at, height - AXIS_PX - 1);
      c.lineTo(at - 5, height - AXIS_PX + 8);
      c.lineTo(at + 5, height - AXIS_PX + 8);
      c.fill();
    }
  }

  private strip(
    s: Strip,
    top: number,
    height: number,
    width: number,
    view: View,
    x: (t: number) => number,
    p: Palette,
  ): void {
    const { context: c } = this;
    c.fillStyle = p.panel;
    c.fillRect(0, top, width, height);
    const [low, high] = shownRange(s, view);
    const y = scaleLinear([low, high], [top + height - 3, top + 5]);
    c.strokeStyle = p.rule;
    c.lineWidth = 1;
    c.strokeRect(0.5, top + 0.5, width - 1, height - 1);
    c.beginPath();
    for (const tick of y.ticks(3)) {
      const at = Math.round(y(tick)) + 0.5;
      c.moveTo(0, at);
      c.lineTo(width, at);
    }
    c.globalAlpha = 0.55;
    c.stroke();
    c.globalAlpha = 1;
    c.save();
    c.beginPath();
    c.rect(0, top, width, height);
    c.clip();
    for (const line of s.lines) this.line(line, width, view, x, y);
    c.restore();
    c.font = '600 14px "Barlow Condensed"';
    c.textBaseline = "top";
    c.textAlign = "left";
    const name = s.unit ? `${s.label}, ${s.unit}` : s.label;
    const [highText, lowText] = [String(Math.round(s.toShown(high))), String(Math.round(s.toShown(low)))];
    // the figures stand on the panel, not on the trace
    c.fillStyle = p.panel;
    c.globalAlpha = 0.8;
    const back = (text: string, left: number, y: number) => c.fillRect(left, y, c.measureText(text).width + 8, 16);
    back(name, 4, top + 3);
    back(highText, width - c.measureText(highText).width - 10, top + 2);
    back(lowText, width - c.measureText(lowText).width - 10, top + height - 17);
    c.globalAlpha = 1;
    c.fillStyle = p.ink;
    c.fillText(name, 8, top + 5);
    c.textAlign = "right";
    c.fillStyle = p.quiet;
    c.fillText(highText, width - 5, top + 4);
    c.textBaseline = "bottom";
    c.fillText(lowText, width - 5, top + height - 2);
  }

  private line(line: Line, width: number, view: View, time: (t: number) => number, y: (v: number) => number): void {
    const { context: c } = this;
    const { pyramid, shiftS } = line;
    const { timeS } = pyramid;
    const { from, to, level: chosen } = levelFor(pyramid, shifted(view, shiftS), width);
    const x = (t: number) => time(t + shiftS);
    c.globalAlpha = line.pale ? PALE : 1;
    c.strokeStyle = line.colour;
    // up to one pixel of the screen a line is painted by a fast way, beyond it by a slow one
    c.lineWidth = 1 / (window.devicePixelRatio || 1);
    c.lineJoin = "bevel";
    const path = new Path2D();
    let pen = false;
    const put = (px: number, v: number) => {
      if (Number.isNaN(v)) {
        pen = false;
        return;
      }
      if (pen) path.lineTo(px, y(v));
      else path.moveTo(px, y(v));
      pen = true;
    };
    if (!chosen) {
      let last = Number.NaN;
      for (let i = from; i < to; i++) {
        const px = x(timeS[i] as number);
        const v = pyramid.values[i] as number;
        if (line.step && pen && !Number.isNaN(last)) put(px, last);
        put(px, v);
        last = v;
      }
    } else {
      const { size, min, max } = chosen;
      const end = Math.ceil(to / size);
      for (let b = Math.floor(from / size); b < end; b++) {
        const px = x(timeS[Math.min(timeS.length - 1, b * size + (size >> 1))] as number);
        put(px, min[b] as number);
        put(px, max[b] as number);
      }
    }
    // twice, half a pixel apart: as strong as a thicker line, at a fraction of its price
    c.stroke(path);
    c.translate(0, 0.5);
    c.stroke(path);
    c.translate(0, -0.5);
    c.globalAlpha = 1;
  }

  private axis(height: number, width: number, view: View, x: (t: number) => number, p: Palette): void {
    const { context: c } = this;
    c.fillStyle = p.quiet;
    c.font = '600 14px "Barlow Condensed"';
    c.textBaseline = "bottom";
    c.textAlign = "center";
    const span = view.endS - view.startS;
    const step = TICK_STEPS_S.find((s) => (s / span) * width > 80) ?? 600;
    for (let k = Math.ceil(view.startS / step); k * step <= view.endS; k++) {
      const tick = k * step;
      const px = x(tick);
      if (px < 18 || px > width - 22) continue;
      const minutes = Math.floor(tick / 60);
      const seconds = (tick - minutes * 60).toFixed(step < 1 ? 1 : 0).padStart(2, "0");
      c.fillText(view.endS > 90 ? `${minutes}:${seconds}` : `${tick.toFixed(step < 1 ? 1 : 0)} s`, px, height - 1);
    }
  }
}

/** Value of a channel at a time: the reading before it, or interpolated. @returns NaN outside or without a reading */
export function valueAt(pyramid: Pyramid, t: number, step: boolean): number {
  const i = indexAtOrAfter(pyramid.timeS, t);
  const after = pyramid.values[i];
  if (pyramid.timeS[i] === t || i === 0) return after ?? Number.NaN;
  const before = pyramid.values[i - 1] ?? Number.NaN;
  if (step || after === undefined || Number.isNaN(after)) return before;
  const t0 = pyramid.timeS[i - 1] as number;
  const share = (t - t0) / ((pyramid.timeS[i] as number) - t0);
  return before + share * (after - before);
}
