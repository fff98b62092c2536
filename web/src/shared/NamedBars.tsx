import { Bar, BarChart, CartesianGrid, LabelList, ReferenceLine, ResponsiveContainer, XAxis, YAxis } from "recharts";

interface Series {
  readonly label: string;
  /** a colour of the theme, "action" */
  readonly colour: "action" | "clear" | "slate";
}

export interface NamedBar {
  readonly name: string;
  readonly first: number;
  readonly second?: number | undefined;
}

const SHORT = 52;
const TICK = { fontFamily: "Barlow Condensed", fontSize: 14 };
const NUMBER = { ...TICK, fontWeight: 600, fill: "var(--ink)" };

/**
 * A bar for each name, or two beside each other, on one axis.
 * @param unit - what the numbers are, above the bars
 * @param second - left out: one bar for each name
 * @param limits - lines across
 */
export default function NamedBars({
  bars,
  first,
  second,
  unit,
  limits = [],
  nameWidth = 190,
}: {
  bars: readonly NamedBar[];
  first: Series;
  second?: Series;
  unit: string;
  limits?: readonly number[];
  nameWidth?: number;
}) {
  const data = bars.map((b) => ({ ...b, name: b.name.length > SHORT ? `${b.name.slice(0, SHORT)}…` : b.name }));
  const series = [["first", first] as const, ...(second ? [["second", second] as const] : [])];
  const counts = bars.every((b) => Number.isInteger(b.first) && Number.isInteger(b.second ?? 0));
  return (
    <figure>
      <figcaption className="label mb-1 flex flex-wrap gap-4">
        {unit}
        {series.map(([key, { label, colour }]) => (
          <span key={key} className="flex items-center gap-1.5">
            <span aria-hidden="true" className="inline-block size-3" style={{ background: `var(--${colour})` }} />{" "}
            {label}
          </span>
        ))}
        {limits.length > 0 && (
          <span className="flex items-center gap-1.5">
            <span aria-hidden="true" className="inline-block h-3 w-0.5 bg-ink" /> limit
          </span>
        )}
      </figcaption>
      <ResponsiveContainer width="100%" height={54 + bars.length * (second ? 46 : 32)}>
        <BarChart
          data={data}
          layout="vertical"
          barGap={1}
          margin={{ left: 4, right: 44, top: 2, bottom: 0 }}
          accessibilityLayer={false}
        >
          <CartesianGrid horizontal={false} stroke="var(--rule)" />
          <XAxis type="number" allowDecimals={!counts} stroke="var(--quiet)" tick={TICK} />
          <YAxis
            type="category"
            dataKey="name"
            width={nameWidth}
            stroke="var(--quiet)"
            tick={{ ...TICK, fontSize: 15, fill: "var(--ink)" }}
          />
          {series.map(([key, { colour }]) => (
            <Bar
              key={key}
              dataKey={key}
              fill={`var(--${colour})`}
              minPointSize={2}
              isAnimationActive={false}
              barSize={14}
            >
              <LabelList dataKey={key} position="right" style={NUMBER} />
            </Bar>
          ))}
          {limits.map((l) => (
            <ReferenceLine key={l} x={l} stroke="var(--ink)" strokeWidth={1.5} />
          ))}
        </BarChart>
      </ResponsiveContainer>
    </figure>
  );
}
