import type { Shift } from "@gearsense/core/drive";
import { indexAtOrAfter, type Pyramid } from "@gearsense/core/log";
import { scaleLinear } from "d3-scale";
import { valueAt } from "./trace/painter.ts";
import type { StripData } from "./worker/messages.ts";

const WIDTH = 1080;
const HEIGHT = 230;
const LEFT = 56;
const BOTTOM = 26;
const LEAD_S = 0.6;
const WHOLE_S = 2;

const path = (points: readonly (readonly [number, number])[]) =>
  points.map(([x, y], i) => `${i === 0 ? "M" : "L"}${x.toFixed(1)} ${y.toFixed(1)}`).join("");

/**
 * Two seconds around a shift: the input speed between the line of the old gear and that of the new one, with the inertia
 * phase shaded and the flare filled.
 * @param ratios - of the old and the new gear
 */
export function ShiftDetail({
  shift: s,
  strips,
  dual,
  ratios,
}: {
  shift: Shift;
  strips: readonly StripData[];
  dual: boolean;
  ratios: readonly [number, number];
}) {
  const pyramid = (id: string): Pyramid | undefined => strips.find((x) => x.id === id)?.pyramid;
  const input = pyramid(dual ? "engine_rpm" : "turbine_rpm");
  const output = pyramid("output_rpm");
  if (!input || !output) return <p className="text-quiet">Input or output speed is not in the trace.</p>;
  const startS = s.commandS - LEAD_S;
  const endS = Math.max(startS + WHOLE_S, s.endS + 0.3);
  const readings = (p: Pyramid) => {
    const out: [number, number][] = [];
    for (let i = indexAtOrAfter(p.timeS, startS); i < p.timeS.length && (p.timeS[i] as number) <= endS; i++) {
      const v = p.values[i] as number;
      if (!Number.isNaN(v)) out.push([p.timeS[i] as number, v]);
    }
    return out;
  };
  const speed = readings(input);
  const lines = ratios.map((r) => readings(output).map(([t, v]): [number, number] => [t, v * Math.abs(r)]));
  const all = [...speed, ...(lines[0] ?? []), ...(lines[1] ?? [])].map(([, v]) => v);
  if (all.length < 4) return <p className="text-quiet">There are too few readings around this shift.</p>;
  const x = scaleLinear([startS, endS], [LEFT, WIDTH - 8]);
  const y = scaleLinear([Math.min(...all), Math.max(...all)], [HEIGHT - BOTTOM, 8]).nice();
  const px = ([t, v]: readonly [number, number]): [number, number] => [x(t), y(v)];
  const up = Math.abs(ratios[1]) < Math.abs(ratios[0]);
  const phaseS = s.inertiaS === undefined ? undefined : [s.endS - s.inertiaS, s.endS];
  // what rises above the line it should follow: the old one going up, the new one going down
  const line = Math.abs(up ? ratios[0] : ratios[1]);
  const flare = speed.flatMap(([t, v]): [number, number, number][] => {
    const should = valueAt(output, t, false) * line;
    const within = up ? t <= (phaseS?.[0] ?? s.endS) + 0.1 && t >= s.commandS : t >= s.commandS && t <= s.endS + 0.6;
    return within && v > should ? [[t, v, should]] : [];
  });
  return (
    <figure>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        role="img"
        aria-label={`Shift ${s.name}: input speed from the line of gear ${s.from} to that of gear ${s.to}${s.inertiaS === undefined ? "" : ` in ${s.inertiaS.toFixed(2)} s`}`}
        className="w-full bg-panel"
      >
        {phaseS && (
          <rect
            x={x(phaseS[0] as number)}
            width={Math.max(1, x(phaseS[1] as number) - x(phaseS[0] as number))}
            y={8}
            height={HEIGHT - BOTTOM - 8}
            fill="var(--action-wash)"
          />
        )}
        {y.ticks(4).map((tick) => (
          <g key={tick}>
            <line x1={LEFT} x2={WIDTH - 8} y1={y(tick)} y2={y(tick)} stroke="var(--rule)" />
            <text x={LEFT - 6} y={y(tick) + 5} textAnchor="end" fill="var(--quiet)" className="figures" fontSize={16}>
              {tick}
            </text>
          </g>
        ))}
        {flare.length > 1 && (
          <path
            d={`${path(flare.map(([t, v]) => px([t, v])))}${path(
              [...flare].reverse().map(([t, , should]) => px([t, should])),
            ).replace("M", "L")}Z`}
            fill="var(--action)"
            fillOpacity={0.35}
          />
        )}
        <line
          x1={x(s.commandS)}
          x2={x(s.commandS)}
          y1={8}
          y2={HEIGHT - BOTTOM}
          stroke="var(--ink)"
          strokeDasharray="3 3"
        />
        {lines.map((l, i) => (
          <path
            key={ratios[i]}
            d={path(l.map(px))}
            fill="none"
            stroke="var(--quiet)"
            strokeWidth={1.5}
            strokeDasharray={i === 0 ? "7 4" : "2 4"}
          />
        ))}
        <path d={path(speed.map(px))} fill="none" stroke="var(--trace-1)" strokeWidth={2.5} />
        {speed.length < 90 &&
          speed.map(([t, v]) => <circle key={t} cx={x(t)} cy={y(v)} r={2.6} fill="var(--trace-1)" />)}
        {x.ticks(8).map((tick) => (
          <text
            key={tick}
            x={x(tick)}
            y={HEIGHT - 6}
            textAnchor="middle"
            fill="var(--quiet)"
            className="figures"
            fontSize={16}
          >
            {(tick - s.commandS).toFixed(2)} s
          </text>
        ))}
      </svg>
      <figcaption className="text-sm text-quiet">
        Full line: input speed. Long dashes: gear {s.from} held, short dashes: gear {s.to} held. Shaded: inertia phase.
        Filled: flare. Time from the command.
      </figcaption>
    </figure>
  );
}
