import type { BeforeAfterBar } from "@gearsense/core/report";
import { Bar, BarChart, CartesianGrid, LabelList, ReferenceLine, ResponsiveContainer, XAxis, YAxis } from "recharts";

const SHORT = 52;

/** Before and after in the same axis, a pair of bars for each condition that both drives met. */
export default function BeforeAfterChart({ bars }: { bars: readonly BeforeAfterBar[] }) {
  const limits = [...new Set(bars.map((b) => b.limit).filter((l): l is number => l !== undefined))];
  const data = bars.map((b) => ({
    name: b.label.length > SHORT ? `${b.label.slice(0, SHORT)}…` : b.label,
    before: Math.round(Math.abs(b.before)),
    after: b.after === undefined ? undefined : Math.round(Math.abs(b.after)),
  }));
  return (
    <figure className="border border-rule bg-panel p-3">
      <figcaption className="label mb-1 flex flex-wrap gap-4">
        rpm, same conditions
        <span className="flex items-center gap-1.5">
          <span aria-hidden="true" className="inline-block size-3 bg-action" /> before
        </span>
        <span className="flex items-center gap-1.5">
          <span aria-hidden="true" className="inline-block size-3 bg-clear" /> after
        </span>
        {limits.length > 0 && (
          <span className="flex items-center gap-1.5">
            <span aria-hidden="true" className="inline-block h-3 w-0.5 bg-ink" /> limit
          </span>
        )}
      </figcaption>
      <ResponsiveContainer width="100%" height={54 + bars.length * 46}>
        <BarChart
          data={data}
          layout="vertical"
          barGap={1}
          margin={{ left: 4, right: 44, top: 2, bottom: 0 }}
          accessibilityLayer={false}
        >
          <CartesianGrid horizontal={false} stroke="var(--rule)" />
          <XAxis type="number" stroke="var(--quiet)" tick={{ fontFamily: "Barlow Condensed", fontSize: 14 }} />
          <YAxis
            type="category"
            dataKey="name"
            width={190}
            stroke="var(--quiet)"
            tick={{ fontFamily: "Barlow Condensed", fontSize: 15, fill: "var(--ink)" }}
          />
          <Bar dataKey="before" fill="var(--action)" isAnimationActive={false} barSize={14}>
            <LabelList
              dataKey="before"
              position="right"
              style={{ fontFamily: "Barlow Condensed", fontSize: 14, fontWeight: 600, fill: "var(--ink)" }}
            />
          </Bar>
          <Bar dataKey="after" fill="var(--clear)" minPointSize={2} isAnimationActive={false} barSize={14}>
            <LabelList
              dataKey="after"
              position="right"
              style={{ fontFamily: "Barlow Condensed", fontSize: 14, fontWeight: 600, fill: "var(--ink)" }}
            />
          </Bar>
          {limits.map((l) => (
            <ReferenceLine key={l} x={l} stroke="var(--ink)" strokeWidth={1.5} />
          ))}
        </BarChart>
      </ResponsiveContainer>
    </figure>
  );
}
