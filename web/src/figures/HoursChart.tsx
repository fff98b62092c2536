import type { RepairFigures } from "@gearsense/core/figures";
import { Bar, BarChart, CartesianGrid, LabelList, ResponsiveContainer, XAxis, YAxis } from "recharts";

const SHORT = 40;
const NUMBER = { fontFamily: "Barlow Condensed", fontSize: 14, fontWeight: 600, fill: "var(--ink)" };
const tenth = (h: number) => Math.round(h * 10) / 10;

/** Hours a job, estimated and taken, a pair of bars for each repair. */
export default function HoursChart({ repairs }: { repairs: readonly RepairFigures[] }) {
  const data = repairs.map((r) => ({
    name: r.title.length > SHORT ? `${r.title.slice(0, SHORT)}…` : r.title,
    estimated: tenth(r.estimatedH / r.timed),
    taken: tenth(r.takenH / r.timed),
  }));
  return (
    <figure>
      <figcaption className="label mb-1 flex flex-wrap gap-4">
        hours a job
        <span className="flex items-center gap-1.5">
          <span aria-hidden="true" className="inline-block size-3 bg-slate" /> estimated
        </span>
        <span className="flex items-center gap-1.5">
          <span aria-hidden="true" className="inline-block size-3 bg-action" /> taken
        </span>
      </figcaption>
      <ResponsiveContainer width="100%" height={54 + repairs.length * 46}>
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
            width={240}
            stroke="var(--quiet)"
            tick={{ fontFamily: "Barlow Condensed", fontSize: 15, fill: "var(--ink)" }}
          />
          <Bar dataKey="estimated" fill="var(--slate)" isAnimationActive={false} barSize={14}>
            <LabelList dataKey="estimated" position="right" style={NUMBER} />
          </Bar>
          <Bar dataKey="taken" fill="var(--action)" isAnimationActive={false} barSize={14}>
            <LabelList dataKey="taken" position="right" style={NUMBER} />
          </Bar>
        </BarChart>
      </ResponsiveContainer>
    </figure>
  );
}
