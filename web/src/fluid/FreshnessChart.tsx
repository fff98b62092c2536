import type { RenewalOption } from "@gearsense/core/fluid";
import { toDisplay, unitLabel } from "@gearsense/core/quantity";
import {
  Area,
  CartesianGrid,
  ComposedChart,
  Line,
  ReferenceDot,
  ReferenceLine,
  ResponsiveContainer,
  XAxis,
  YAxis,
} from "recharts";
import { useSettings } from "../settings/settings.tsx";

type Curve = readonly { litres: number; exchange: number; plug: number; mixed: number; drains: number }[];

/** Share of fresh fluid against litres used: steps of drains, the band of an exchange, the aim. */
export function FreshnessChart({ curve, target, chosen }: { curve: Curve; target: number; chosen: RenewalOption }) {
  const { system } = useSettings();
  const litres = (l: number) => toDisplay(l, "volume", system);
  const data = curve.map((p) => ({
    litres: litres(p.litres),
    band: [p.mixed * 100, p.plug * 100],
    exchange: p.exchange * 100,
    drains: p.drains * 100,
  }));
  const axis = {
    stroke: "var(--quiet)",
    tick: { fill: "var(--quiet)", fontFamily: "var(--font-label)", fontSize: 15 },
  };
  return (
    <figure aria-label="Freshness against litres">
      <div className="h-64">
        <ResponsiveContainer>
          <ComposedChart data={data} margin={{ top: 8, right: 12, bottom: 18, left: 0 }} accessibilityLayer={false}>
            <CartesianGrid stroke="var(--rule)" vertical={false} />
            <XAxis
              dataKey="litres"
              type="number"
              domain={[0, "dataMax"]}
              tickFormatter={(l: number) => String(Math.round(l * 10) / 10)}
              {...axis}
              label={{
                value: unitLabel("volume", system),
                position: "insideBottom",
                offset: -10,
                fill: "var(--quiet)",
              }}
            />
            <YAxis domain={[0, 100]} unit=" %" width={52} {...axis} />
            <Area dataKey="band" fill="var(--rule)" stroke="none" isAnimationActive={false} />
            <Line dataKey="exchange" stroke="var(--trace-2)" strokeWidth={2} dot={false} isAnimationActive={false} />
            <Line
              dataKey="drains"
              type="stepAfter"
              stroke="var(--trace-1)"
              strokeWidth={2}
              strokeDasharray="6 3"
              dot={false}
              isAnimationActive={false}
            />
            <ReferenceLine y={target * 100} stroke="var(--action)" strokeWidth={1.5} />
            <ReferenceDot
              x={litres(chosen.litres)}
              y={chosen.fresh * 100}
              r={6}
              fill="var(--action)"
              stroke="var(--panel)"
            />
          </ComposedChart>
        </ResponsiveContainer>
      </div>
      <figcaption className="flex flex-wrap gap-x-4 text-sm text-quiet">
        <span>
          <svg aria-hidden="true" className="mr-1 inline" width="26" height="8">
            <path d="M0 4 H26" stroke="var(--trace-1)" strokeWidth="2" strokeDasharray="6 3" />
          </svg>
          drain and fill
        </span>
        <span>
          <svg aria-hidden="true" className="mr-1 inline" width="26" height="8">
            <path d="M0 4 H26" stroke="var(--trace-2)" strokeWidth="2" />
          </svg>
          exchange, in its band between the bounds
        </span>
        <span>
          <svg aria-hidden="true" className="mr-1 inline" width="26" height="8">
            <path d="M0 4 H26" stroke="var(--action)" strokeWidth="1.5" />
          </svg>
          aim
        </span>
      </figcaption>
    </figure>
  );
}
