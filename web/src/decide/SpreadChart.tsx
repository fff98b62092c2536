import type { Figures } from "@gearsense/core/decide";
import { Bar, BarChart, CartesianGrid, Cell, ResponsiveContainer, XAxis, YAxis } from "recharts";

const SHORT = 44;

/** From one in ten to nine in ten of what each option may cost in total, parted where half of them lie. */
export default function SpreadChart({
  figures,
  best,
  money,
}: {
  figures: readonly Figures[];
  best: string | undefined;
  money: (n: number) => string;
}) {
  const data = figures.map((f) => ({
    id: f.choice.id,
    name: f.choice.title.length > SHORT ? `${f.choice.title.slice(0, SHORT)}…` : f.choice.title,
    below: f.p10,
    half: f.p50 - f.p10,
    most: f.p90 - f.p50,
  }));
  return (
    <figure className="border border-rule bg-panel p-3">
      <figcaption className="label mb-1 flex flex-wrap gap-4">
        Likely total with comebacks
        <span className="flex items-center gap-1.5 font-normal">
          <span aria-hidden="true" className="inline-block h-3 w-5 bg-slate" /> one in ten to half
        </span>
        <span className="flex items-center gap-1.5 font-normal">
          <span aria-hidden="true" className="inline-block h-3 w-5 bg-field" /> half to nine in ten
        </span>
      </figcaption>
      <div
        role="img"
        aria-label={figures
          .map((f) => `${f.choice.title}: ${money(f.p10)} to ${money(f.p90)}, half under ${money(f.p50)}`)
          .join(". ")}
      >
        <ResponsiveContainer width="100%" height={40 + data.length * 30}>
          <BarChart
            data={data}
            layout="vertical"
            margin={{ left: 4, right: 24, top: 2, bottom: 0 }}
            accessibilityLayer={false}
          >
            <CartesianGrid horizontal={false} stroke="var(--rule)" />
            <XAxis
              type="number"
              stroke="var(--quiet)"
              tickFormatter={money}
              tick={{ fontFamily: "Barlow Condensed", fontSize: 14 }}
            />
            <YAxis
              type="category"
              dataKey="name"
              width={300}
              stroke="var(--quiet)"
              tick={{ fontFamily: "Barlow Condensed", fontSize: 13.5, fill: "var(--ink)" }}
            />
            <Bar dataKey="below" stackId="a" fill="transparent" isAnimationActive={false} barSize={13} />
            <Bar dataKey="half" stackId="a" isAnimationActive={false} minPointSize={3}>
              {data.map((d) => (
                <Cell key={d.id} fill={d.id === best ? "var(--action)" : "var(--slate)"} />
              ))}
            </Bar>
            <Bar dataKey="most" stackId="a" fill="var(--field)" isAnimationActive={false} />
          </BarChart>
        </ResponsiveContainer>
      </div>
    </figure>
  );
}
