import type { Finding } from "@gearsense/core/drive";
import { ChevronLeft, ChevronRight, Maximize2, ZoomIn, ZoomOut } from "lucide-react";
import {
  type KeyboardEvent,
  type PointerEvent,
  type RefObject,
  useCallback,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import { useSettings } from "../../settings/settings.tsx";
import { Button } from "../../shared/controls.tsx";
import type { StripData } from "../worker/messages.ts";
import { AXIS_PX, type Palette, RIBBON_PX, type Ribbon, stripTops, TracePainter, valueAt } from "./painter.ts";
import { makeStrips, type NamedStrip } from "./strips.ts";
import { around, pan, show, type View, whole, zoom } from "./view.ts";

export interface Mark {
  readonly findingId: string;
  readonly number: number;
  readonly title: string;
  readonly startS: number;
  readonly endS: number;
}

/** One mark for each finding, at its worst occurrence. */
export function marksOf(findings: readonly Finding[]): Mark[] {
  return findings.map((f, i) => {
    const worst = f.occurrences.reduce(
      (a, b) => (Math.abs(b.value) > Math.abs(a.value) ? b : a),
      f.occurrences[0] ?? { startS: f.startS, endS: f.endS, value: 0 },
    );
    return {
      findingId: f.id,
      number: i + 1,
      title: f.title,
      startS: worst.startS,
      endS: f.kind === "limp" ? Math.min(worst.endS, worst.startS + 20) : worst.endS,
    };
  });
}

interface Props {
  readonly strips: readonly StripData[];
  readonly ribbon: Ribbon;
  readonly durationS: number;
  readonly marks: readonly Mark[];
  readonly selected: string | undefined;
  readonly onSelect: (findingId: string) => void;
  readonly height: number;
  /** ids of strips, from the top */
  readonly chosen: readonly string[];
  /** a log that is laid over this one */
  readonly other?: { readonly data: readonly StripData[]; readonly shiftS: number } | undefined;
  readonly notes: readonly SpanNote[];
  /** a span that is asked for from elsewhere; a new object shows it again */
  readonly goTo?: View | undefined;
  /** told what is shown, for what is done with it */
  readonly shown: RefObject<Shown>;
}

export interface SpanNote {
  readonly id: string;
  readonly text: string;
  readonly author: string;
  readonly startS: number;
  readonly endS: number;
}

/** What the trace shows now: the span, and its picture. */
export interface Shown {
  view: View;
  picture: () => Promise<Blob | null>;
}

/** Flags of the marks in sight, side by side where they would hide each other. */
function placeFlags(marks: readonly Mark[], x: (t: number) => number, width: number): { mark: Mark; leftPx: number }[] {
  const inSight = marks
    .map((mark) => ({ mark, leftPx: x((mark.startS + mark.endS) / 2) }))
    .filter((f) => f.leftPx >= 0 && f.leftPx <= width);
  inSight.sort((a, b) => a.leftPx - b.leftPx);
  let last = -Infinity;
  return inSight.map(({ mark, leftPx }) => {
    last = Math.max(leftPx, last + FLAG_PX, FLAG_PX / 2);
    return { mark, leftPx: Math.min(last, width - FLAG_PX / 2) };
  });
}

/** The line of a channel of this log: those of the other stand before them. */
const ownLine = (s: NamedStrip, k: number) =>
  s.lines[s.lines.length - s.channels.length + k] as NamedStrip["lines"][number];

const FLAG_PX = 25;
const READOUT_PX = 150;
const token = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

/** The drive as stacked strips on one time axis under the gear ribbon. */
export function Trace({
  strips: data,
  ribbon,
  durationS,
  marks,
  selected,
  onSelect,
  height,
  chosen,
  other,
  notes,
  goTo,
  shown,
}: Props) {
  const { system, theme } = useSettings();
  const canvas = useRef<HTMLCanvasElement>(null);
  const frame = useRef<HTMLDivElement>(null);
  const painter = useRef<TracePainter | undefined>(undefined);
  const [width, setWidth] = useState(600);
  const [view, setView] = useState<View>(() => whole(durationS));
  const [cursorS, setCursorS] = useState<number | undefined>();
  const [box, setBox] = useState<{ from: number; to: number } | undefined>();
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new theme changes what the tokens resolve to
  const palette = useMemo(
    (): Palette => ({
      panel: token("--panel"),
      ink: token("--ink"),
      quiet: token("--quiet"),
      rule: token("--rule"),
      action: token("--action"),
      wash: token("--action-wash"),
    }),
    [theme],
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: as above
  const strips = useMemo(() => makeStrips(data, system, token, chosen, other), [data, system, theme, chosen, other]);

  useLayoutEffect(() => {
    const node = frame.current;
    if (!node) return;
    const observer = new ResizeObserver(
      ([entry]) => entry && setWidth(Math.max(200, Math.floor(entry.contentRect.width))),
    );
    observer.observe(node);
    return () => observer.disconnect();
  }, []);
  useEffect(() => {
    if (!canvas.current) return;
    const made = new TracePainter(canvas.current);
    painter.current = made;
    return () => made.close();
  }, []);
  useEffect(() => {
    const p = painter.current;
    if (p && !p.unfold(width, height, view, strips, ribbon, palette))
      p.request(() => p.draw(width, height, view, strips, ribbon, palette));
  }, [width, height, view, strips, ribbon, palette]);
  useEffect(() => {
    // the figures are drawn with the shipped font: once it is there, draw again
    if (document.fonts.status !== "loaded") void document.fonts.ready.then(() => setView((v) => ({ ...v })));
  }, []);
  useEffect(() => {
    shown.current = {
      view,
      picture: () => new Promise((resolve) => (canvas.current ? canvas.current.toBlob(resolve) : resolve(null))),
    };
  }, [view, shown]);
  useEffect(() => {
    if (goTo) {
      setView(around(goTo.startS, goTo.endS, durationS));
      setCursorS((goTo.startS + goTo.endS) / 2);
    }
  }, [goTo, durationS]);
  useEffect(() => {
    const mark = marks.find((m) => m.findingId === selected);
    if (mark) {
      setView(around(mark.startS, mark.endS, durationS));
      setCursorS((mark.startS + mark.endS) / 2);
    }
  }, [selected, marks, durationS]);

  const timeAt = useCallback(
    (clientX: number) => {
      const left = frame.current?.getBoundingClientRect().left ?? 0;
      return view.startS + ((clientX - left) / width) * (view.endS - view.startS);
    },
    [view, width],
  );

  const zoomRef = useRef((_e: WheelEvent) => {});
  zoomRef.current = (e) => {
    e.preventDefault();
    const span = view.endS - view.startS;
    if (e.shiftKey || Math.abs(e.deltaX) > Math.abs(e.deltaY))
      setView(pan(view, ((e.deltaX || e.deltaY) / width) * span, durationS));
    else setView(zoom(view, Math.exp(Math.max(-120, Math.min(120, e.deltaY)) * 0.003), timeAt(e.clientX), durationS));
  };
  useEffect(() => {
    const node = frame.current;
    if (!node) return;
    // React listens passively: the page would scroll as well
    const onWheel = (e: WheelEvent) => zoomRef.current(e);
    node.addEventListener("wheel", onWheel, { passive: false });
    return () => node.removeEventListener("wheel", onWheel);
  }, []);

  const drag = useRef<{ kind: "zoom" | "pan"; x: number; view: View } | undefined>(undefined);
  const onPointerDown = (e: PointerEvent<HTMLDivElement>) => {
    if (e.button !== 0) return;
    const top = frame.current?.getBoundingClientRect().top ?? 0;
    // the ribbon is the handle to pan by; with a finger everything is
    const kind = e.clientY - top < RIBBON_PX || e.pointerType === "touch" ? "pan" : "zoom";
    drag.current = { kind, x: e.clientX, view };
    e.currentTarget.setPointerCapture(e.pointerId);
  };
  const onPointerMove = (e: PointerEvent<HTMLDivElement>) => {
    setCursorS(timeAt(e.clientX));
    const d = drag.current;
    if (!d) return;
    const left = frame.current?.getBoundingClientRect().left ?? 0;
    if (d.kind === "pan") setView(pan(d.view, (-(e.clientX - d.x) / width) * (d.view.endS - d.view.startS), durationS));
    else setBox({ from: d.x - left, to: e.clientX - left });
  };
  const onPointerUp = (e: PointerEvent<HTMLDivElement>) => {
    const d = drag.current;
    drag.current = undefined;
    setBox(undefined);
    if (d?.kind === "zoom" && Math.abs(e.clientX - d.x) > 6) setView(show(timeAt(d.x), timeAt(e.clientX), durationS));
  };

  const walk = (by: 1 | -1) => {
    if (marks.length === 0) return;
    const at = marks.findIndex((m) => m.findingId === selected);
    const next = marks[at < 0 ? (by > 0 ? 0 : marks.length - 1) : (at + by + marks.length) % marks.length];
    if (next) onSelect(next.findingId);
  };
  const onKeyDown = (e: KeyboardEvent) => {
    const span = view.endS - view.startS;
    const at = cursorS ?? (view.startS + view.endS) / 2;
    const by = e.key === "ArrowRight" ? 1 : -1;
    if (e.key === "ArrowRight" || e.key === "ArrowLeft") {
      if (e.shiftKey) setView(pan(view, (by * span) / 4, durationS));
      else walk(by);
    } else if (e.key === "+" || e.key === "=") setView(zoom(view, 0.6, at, durationS));
    else if (e.key === "-") setView(zoom(view, 1 / 0.6, at, durationS));
    else if (e.key === "0") setView(whole(durationS));
    else return;
    e.preventDefault();
  };

  const x = (t: number) => ((t - view.startS) / (view.endS - view.startS)) * width;
  const tops = stripTops(strips, height);
  const flags = placeFlags(marks, x, width);
  const middle = (view.startS + view.endS) / 2;
  return (
    <section aria-label="Trace of the drive">
      <div className="mb-1.5 flex items-center justify-between gap-2">
        <p className="hidden text-sm text-quiet sm:block">
          Drag or wheel to zoom, drag the ribbon to pan; arrow keys walk the findings.
        </p>
        <div className="flex gap-1">
          <Button tone="quiet" className="px-2.5" onClick={() => walk(-1)} aria-label="Previous finding">
            <ChevronLeft aria-hidden="true" className="size-5" />
          </Button>
          <Button tone="quiet" className="px-2.5" onClick={() => walk(1)} aria-label="Next finding">
            <ChevronRight aria-hidden="true" className="size-5" />
          </Button>
          <Button
            tone="quiet"
            className="px-2.5"
            onClick={() => setView(zoom(view, 0.5, middle, durationS))}
            aria-label="Zoom in"
          >
            <ZoomIn aria-hidden="true" className="size-5" />
          </Button>
          <Button
            tone="quiet"
            className="px-2.5"
            onClick={() => setView(zoom(view, 2, middle, durationS))}
            aria-label="Zoom out"
          >
            <ZoomOut aria-hidden="true" className="size-5" />
          </Button>
          <Button tone="quiet" className="px-2.5" onClick={() => setView(whole(durationS))} aria-label="Whole drive">
            <Maximize2 aria-hidden="true" className="size-5" />
          </Button>
        </div>
      </div>
      <div className="flex">
        <div className="relative min-w-0 flex-1" style={{ height }}>
          <div
            ref={frame}
            role="img"
            // biome-ignore lint/a11y/noNoninteractiveTabindex: the trace takes the arrow keys; every action is a button above as well
            tabIndex={0}
            aria-label={`Drive of ${Math.round(durationS)} seconds, ${marks.length} findings marked; shown from ${view.startS.toFixed(0)} to ${view.endS.toFixed(0)} seconds`}
            data-testid="trace"
            data-start={view.startS}
            data-end={view.endS}
            className="absolute inset-0 touch-none select-none overflow-hidden"
            onPointerDown={onPointerDown}
            onPointerMove={onPointerMove}
            onPointerUp={onPointerUp}
            onPointerLeave={() => !drag.current && setCursorS(undefined)}
            onDoubleClick={() => setView(whole(durationS))}
            onKeyDown={onKeyDown}
          >
            <canvas ref={canvas} style={{ width, height }} />
            {cursorS !== undefined && (
              <div
                aria-hidden="true"
                className="pointer-events-none absolute top-0 w-px bg-ink"
                style={{ left: x(cursorS), height: height - AXIS_PX }}
              />
            )}
            {notes
              .filter((n) => n.endS > view.startS && n.startS < view.endS)
              .map((n) => (
                <div
                  key={n.id}
                  title={`${n.author}: ${n.text}`}
                  className="pointer-events-none absolute border-t-4 border-caution bg-caution/10"
                  style={{
                    left: Math.max(0, x(n.startS)),
                    width: Math.max(3, Math.min(width, x(n.endS)) - Math.max(0, x(n.startS))),
                    top: RIBBON_PX,
                    height: height - RIBBON_PX - AXIS_PX,
                  }}
                />
              ))}
            {box && (
              <div
                aria-hidden="true"
                className="pointer-events-none absolute border border-action bg-action/15"
                style={{
                  left: Math.min(box.from, box.to),
                  width: Math.abs(box.to - box.from),
                  top: RIBBON_PX,
                  height: height - RIBBON_PX - AXIS_PX,
                }}
              />
            )}
          </div>
          {flags.map(({ mark: m, leftPx }) => (
            <button
              key={m.findingId}
              type="button"
              onClick={() => onSelect(m.findingId)}
              aria-label={`Finding ${m.number}: ${m.title}`}
              aria-pressed={m.findingId === selected}
              className="figures absolute z-10 grid h-6 w-6 -translate-x-1/2 place-items-center border-2 border-panel bg-action text-[15px] leading-none text-on-action aria-pressed:bg-slate aria-pressed:text-on-slate"
              style={{ left: leftPx, top: RIBBON_PX - 4 }}
            >
              {m.number}
            </button>
          ))}
        </div>
        <div aria-live="off" className="relative hidden shrink-0 pl-2 sm:block" style={{ width: READOUT_PX, height }}>
          <p className="figures text-lg" style={{ height: RIBBON_PX }}>
            {cursorS === undefined ? "" : `${cursorS.toFixed(2)} s`}
          </p>
          {strips.map((s, i) => (
            <div key={s.label} className="absolute right-0 left-2" style={{ top: tops[i]?.top ?? 0 }}>
              {s.channels.map((c, k) => {
                const v = cursorS === undefined ? Number.NaN : valueAt(ownLine(s, k).pyramid, cursorS, false);
                return (
                  <p key={c.id} className="figures flex items-center justify-between gap-2 text-[15px] leading-5">
                    <span className="flex min-w-0 items-center gap-1 text-quiet">
                      <span
                        aria-hidden="true"
                        className="inline-block h-0.5 w-3 shrink-0"
                        style={{ background: `var(${c.colour})` }}
                      />
                      <span className="truncate">{c.label.replace(/ (shaft )?speed$/, "")}</span>
                    </span>
                    <span className="text-lg">{Number.isNaN(v) ? "–" : Math.round(s.toShown(v))}</span>
                  </p>
                );
              })}
            </div>
          ))}
        </div>
      </div>
    </section>
  );
}
