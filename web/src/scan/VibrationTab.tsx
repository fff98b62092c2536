import type { Analysis, OscillationWindow } from "@gearsense/core/drive";
import { channelSpec } from "@gearsense/core/log";
import { lazy, type RefObject, Suspense, useState } from "react";
import { useSettings } from "../settings/settings.tsx";
import { Button, Notice } from "../shared/controls.tsx";
import { PlainTable } from "../shared/PlainTable.tsx";
import type { Shown } from "./trace/Trace.tsx";
import type { LogClient } from "./worker/client.ts";
import type { SpanSpectra, StripData } from "./worker/messages.ts";

const SpectrumCharts = lazy(() => import("./SpectrumCharts.tsx"));

const SIGNALS = ["tcc_slip_rpm", "engine_rpm", "turbine_rpm", "output_rpm", "k1_rpm", "k2_rpm"];
const CAUSES: Readonly<Record<OscillationWindow["cause"], string>> = {
  shudder: "converter clutch: shudder",
  engine: "engine",
  "output shaft": "output shaft",
  wheels: "wheels",
  unknown: "can’t tell from this log",
};

/** Windows of one cause that follow each other. */
function spansOf(windows: readonly OscillationWindow[]): OscillationWindow[][] {
  const spans: OscillationWindow[][] = [];
  for (const w of windows) {
    const last = spans.at(-1)?.at(-1);
    if (last && last.cause === w.cause && last.signal === w.signal && w.startS <= last.endS) spans.at(-1)?.push(w);
    else spans.push([w]);
  }
  return spans;
}

const MOST_ROWS = 40;

/** Spectrum and order view of what the trace shows, and the vibrations that the analysis told apart. */
export function VibrationTab({
  analysis,
  client,
  strips,
  shown,
  onShow,
}: {
  analysis: Analysis;
  client: LogClient | undefined;
  strips: readonly StripData[];
  shown: RefObject<Shown>;
  onShow: (startS: number, endS: number) => void;
}) {
  const { show } = useSettings();
  const offered = SIGNALS.filter((id) => strips.some((s) => s.id === id));
  const [signal, setSignal] = useState<string | undefined>();
  const [made, setMade] = useState<{ spectra: SpanSpectra; startS: number; endS: number } | undefined>();
  const [problem, setProblem] = useState<string | undefined>();
  const chosen = signal ?? offered[0];
  const make = async () => {
    if (!client || !chosen) return;
    const { startS, endS } = shown.current.view;
    try {
      setProblem(undefined);
      setMade({ spectra: await client.spectra(chosen, startS, endS), startS, endS });
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
    }
  };
  const spans = spansOf(analysis.oscillation.windows);
  const rate = analysis.oscillation.rateHz;
  return (
    <div className="flex flex-col gap-4">
      <section aria-label="Spectrum of the span">
        <div className="flex flex-wrap items-end gap-3">
          <label className="flex flex-col">
            <span className="label text-sm">Signal</span>
            <select
              className="min-h-11 border border-field bg-panel px-2"
              value={chosen ?? ""}
              onChange={(e) => setSignal(e.target.value)}
            >
              {offered.map((id) => (
                <option key={id} value={id}>
                  {channelSpec(id)?.label ?? id}
                </option>
              ))}
            </select>
          </label>
          <Button onClick={() => void make()} disabled={!client || !chosen}>
            Spectrum of what is shown
          </Button>
          <p className="text-sm text-quiet">
            Logged at {rate.toFixed(0)} readings a second: what vibrates faster than {(rate / 2).toFixed(0)} Hz is seen
            folded down. Choose a span without a shift.
          </p>
        </div>
        {problem && (
          <Notice tone="stop" live>
            {problem}
          </Notice>
        )}
        {made && (
          <Suspense fallback={<p role="status">Drawing …</p>}>
            <SpectrumCharts {...made} />
          </Suspense>
        )}
      </section>
      <section aria-label="Vibrations found">
        <h3 className="text-lg">Vibrations found</h3>
        {spans.length === 0 ? (
          <p className="text-quiet">
            Nothing vibrates{" "}
            {analysis.oscillation.highestHz === undefined
              ? "that this log could show"
              : `between 3 and ${analysis.oscillation.highestHz.toFixed(0)} Hz`}
            .
          </p>
        ) : (
          <PlainTable
            columns={["Span", "Signal", "Gear", "Frequency", "Peak to peak", "Comes from", ""]}
            figures={[0, 2, 3, 4]}
            rows={spans.slice(0, MOST_ROWS).map((list) => {
              const [first] = list as [OscillationWindow];
              const endS = list.at(-1)?.endS ?? first.endS;
              const strongest = list.reduce((a, b) => (b.peak.peakToPeak > a.peak.peakToPeak ? b : a));
              const order = strongest.order;
              return [
                `${first.startS.toFixed(0)} to ${endS.toFixed(0)} s`,
                first.signal === "slip" ? "converter slip" : `${first.signal} speed`,
                [...new Set(list.map((w) => w.group.gear))].join(", "),
                `${show(strongest.peak.frequencyHz, "frequency", 1)}${order?.folded ? ", folded" : ""}`,
                show(strongest.peak.peakToPeak, "speed-rpm"),
                `${CAUSES[first.cause]}${order ? `, ${order.order}× a turn` : ""}`,
                <Button key="show" tone="quiet" className="-my-2" onClick={() => onShow(first.startS, endS)}>
                  Show
                </Button>,
              ];
            })}
          />
        )}
        {spans.length > MOST_ROWS && <p className="text-quiet">and {spans.length - MOST_ROWS} more</p>}
      </section>
    </div>
  );
}
