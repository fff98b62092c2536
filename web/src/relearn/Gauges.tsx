import type { LearnedGauge } from "@gearsense/core/relearn";
import clsx from "clsx";
import { useSettings } from "../settings/settings.tsx";

const STATE = {
  "as-new": "as new",
  worn: "wearing",
  near: "near its limit",
  "at-limit": "at its limit",
} as const;
const TONE = { "as-new": "text-ink", worn: "text-caution", near: "text-stop", "at-limit": "text-stop" } as const;
const WIDE = 400;
const TALL = 40;
const EDGE = 8;

/** One value between its limits: where it is now, where it was, where a new unit has it. */
function Bar({ gauge }: { gauge: LearnedGauge }) {
  const { adaptation: a, points } = gauge;
  const [low, high] = a.limits;
  const x = (v: number) =>
    EDGE + ((Math.min(high, Math.max(low, v)) - low) / Math.max(1e-9, high - low)) * (WIDE - 2 * EDGE);
  const last = points.at(-1);
  const earlier = points.slice(0, -1);
  return (
    <svg
      role="img"
      aria-label={`${a.name}: ${last ? `${last.value} ${a.unit}` : "not read"}, limits ${low} to ${high}, new ${a.newValue}${
        earlier.length > 0 ? `; before ${earlier.map((p) => p.value).join(", ")}` : ""
      }`}
      viewBox={`0 0 ${WIDE} ${TALL}`}
      className="h-10 w-full min-w-40"
      preserveAspectRatio="none"
    >
      <line x1={EDGE} x2={WIDE - EDGE} y1={26} y2={26} className="stroke-rule" strokeWidth={6} />
      {last && (
        <line
          x1={x(a.newValue)}
          x2={x(last.value)}
          y1={26}
          y2={26}
          className={
            gauge.state === "as-new" ? "stroke-clear" : gauge.state === "worn" ? "stroke-caution" : "stroke-stop"
          }
          strokeWidth={6}
        />
      )}
      <line x1={x(a.newValue)} x2={x(a.newValue)} y1={14} y2={38} className="stroke-quiet" strokeWidth={2} />
      {earlier.map((p) => (
        <line
          key={`${p.at} ${p.value}`}
          x1={x(p.value)}
          x2={x(p.value)}
          y1={19}
          y2={33}
          className="stroke-quiet"
          strokeWidth={1}
        />
      ))}
      {last && <line x1={x(last.value)} x2={x(last.value)} y1={8} y2={38} className="stroke-ink" strokeWidth={4} />}
    </svg>
  );
}

/** Learned values as gauges of wear, with their pace over the visits. */
export function Gauges({ gauges }: { gauges: readonly LearnedGauge[] }) {
  const { show } = useSettings();
  return (
    <table aria-label="Learned values" className="w-full text-left">
      <thead>
        <tr className="border-b border-ink">
          <th className="py-1 pr-3">Value</th>
          <th className="pr-3">From limit to limit</th>
          <th className="pr-3 text-right">New</th>
          <th className="pr-3 text-right">Now</th>
          <th>What it says</th>
        </tr>
      </thead>
      <tbody>
        {gauges.map((g) => {
          const { adaptation: a, points, per10000Km, kmLeft } = g;
          const last = points.at(-1);
          return (
            <tr key={a.id} className="border-b border-rule align-middle">
              <th scope="row" className="label py-1 pr-3 whitespace-nowrap">
                {a.name}
              </th>
              <td className="w-2/5 pr-3">
                <Bar gauge={g} />
                <span className="figures flex justify-between text-sm text-quiet">
                  <span>{a.limits[0]}</span>
                  <span>
                    {a.limits[1]} {a.unit}
                  </span>
                </span>
              </td>
              <td className="figures pr-3 text-right text-quiet">{a.newValue}</td>
              <td className="figures pr-3 text-right text-xl">{last ? last.value : "–"}</td>
              <td className={clsx("text-[15px]", TONE[g.state])}>
                {last === undefined ? (
                  <span className="text-quiet">not read yet</span>
                ) : (
                  <>
                    <span className="label">{STATE[g.state]}</span>
                    <span className="text-quiet">
                      {" "}
                      {Math.round(last.used * 100)} % of the way to the limit
                      {per10000Km !== undefined &&
                        `; ${per10000Km >= 0 ? "+" : "−"}${Math.abs(per10000Km).toFixed(1)} ${a.unit} in ${show(10_000, "distance", 0)}`}
                      {kmLeft !== undefined && kmLeft > 0 && `, at its limit in about ${show(kmLeft, "distance", 0)}`}
                    </span>
                  </>
                )}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
