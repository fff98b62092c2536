import type { Spectrum } from "@gearsense/core/drive";
import { channelSpec } from "@gearsense/core/log";
import { useState } from "react";
import { Area, AreaChart, CartesianGrid, ResponsiveContainer, XAxis, YAxis } from "recharts";
import type { SpanSpectra } from "./worker/messages.ts";

const MOST_ORDER = 6;
const TICK = { fontFamily: "Barlow Condensed", fontSize: 15, fill: "var(--quiet)" };

function Chart({ spectrum, name, unit, from }: { spectrum: Spectrum; name: string; unit: string; from: number }) {
  const data = Array.from(spectrum.at, (at, i) => ({ at, height: spectrum.peakToPeak[i] as number })).filter(
    (d) => d.at >= from,
  );
  const top = data.reduce((a, b) => (b.height > a.height ? b : a), data[0] ?? { at: 0, height: 0 });
  const text = `${top.height.toFixed(0)} rpm peak to peak at ${top.at.toFixed(2)} ${unit}`;
  return (
    <figure className="border border-rule bg-panel p-3">
      <figcaption className="label mb-1">
        {name}: highest {text}
      </figcaption>
      <div role="img" aria-label={`${name}, highest ${text}`}>
        <ResponsiveContainer width="100%" height={200}>
          <AreaChart data={data} margin={{ left: 0, right: 16, top: 4, bottom: 0 }} accessibilityLayer={false}>
            <CartesianGrid stroke="var(--rule)" />
            <XAxis
              dataKey="at"
              type="number"
              domain={[from, "dataMax"]}
              tickFormatter={(v: number) => String(Math.round(v * 100) / 100)}
              tick={TICK}
              unit={unit === "Hz" ? " Hz" : "×"}
              stroke="var(--quiet)"
            />
            <YAxis tick={TICK} stroke="var(--quiet)" width={52} />
            <Area
              dataKey="height"
              stroke="var(--action)"
              fill="var(--action-wash)"
              isAnimationActive={false}
              type="linear"
            />
          </AreaChart>
        </ResponsiveContainer>
      </div>
    </figure>
  );
}

/** The vibration of a span over frequency, and over the turns of a shaft. */
export default function SpectrumCharts({
  spectra,
  startS,
  endS,
}: {
  spectra: SpanSpectra;
  startS: number;
  endS: number;
}) {
  const [of, setOf] = useState<string | undefined>();
  const { spectrum, orders } = spectra;
  const label = channelSpec(spectra.channel)?.label ?? spectra.channel;
  const order = orders.find((o) => o.of === of) ?? orders[0];
  if (!spectrum)
    return (
      <p className="mt-2 text-quiet">
        From {startS.toFixed(1)} to {endS.toFixed(1)} s a reading of {label.toLowerCase()} is missing, or the span is
        too short. Choose another.
      </p>
    );
  return (
    <div className="mt-2 grid items-start gap-3 xl:grid-cols-2">
      <Chart
        spectrum={spectrum}
        name={`${label}, ${startS.toFixed(1)} to ${endS.toFixed(1)} s`}
        unit="Hz"
        from={Math.min(1, (spectrum.at.at(-1) ?? 1) / 4)}
      />
      {order ? (
        <div>
          <Chart
            spectrum={cut(order.spectrum)}
            name={`By turns of the ${shaft(order.of)}`}
            unit="times a turn"
            from={Math.min(0.2, (order.spectrum.at.at(-1) ?? 1) / 4)}
          />
          <div className="mt-1 flex flex-wrap gap-1.5">
            {orders.map((o) => (
              <button
                key={o.of}
                type="button"
                aria-pressed={o === order}
                onClick={() => setOf(o.of)}
                className="label min-h-11 border border-field bg-panel px-3 aria-pressed:bg-slate aria-pressed:text-on-slate"
              >
                {shaft(o.of)}
              </button>
            ))}
          </div>
        </div>
      ) : (
        <p className="text-quiet">No shaft was read at the same moments: can’t work out orders.</p>
      )}
    </div>
  );
}

const shaft = (id: string) => ({ engine_rpm: "engine", turbine_rpm: "turbine", output_rpm: "output shaft" })[id] ?? id;

function cut(s: Spectrum): Spectrum {
  const end = s.at.findIndex((a) => a > MOST_ORDER);
  return end < 0 ? s : { at: s.at.slice(0, end), peakToPeak: s.peakToPeak.slice(0, end) };
}
