import { type GearState, leverOf, type PlanetarySet } from "@gearsense/core/unit";
import { scaleLinear } from "d3-scale";

const WIDTH = 232;
const HEIGHT = 190;
const EDGE = 30;
const RIGHT = 50;
const LETTER = { sun: "S", ring: "R", carrier: "C" } as const;

/** One set as a lever: places along it by the teeth, speeds up; a straight line in every gear. */
export function Lever({ set, gear }: { set: PlanetarySet; gear: GearState }) {
  const points = leverOf(set, gear.state);
  const speeds = points.map((p) => p.speed ?? 0);
  const y = scaleLinear([Math.min(-0.4, ...speeds), Math.max(1.4, ...speeds)], [HEIGHT - 26, 22]);
  const x = scaleLinear([points[0]?.at ?? 0, points.at(-1)?.at ?? 1], [EDGE, WIDTH - RIGHT]);
  const known = points.filter((p) => p.speed !== undefined);
  const [first, last] = [known[0], known.at(-1)];
  const words = points.map((p) => `${p.member} ${p.speed === undefined ? "free" : p.speed.toFixed(2)}`).join(", ");
  return (
    <figure className="border border-rule bg-panel p-2">
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} role="img" aria-label={`Set ${set.id} in gear ${gear.gear}: ${words}`}>
        <line x1={EDGE - 14} x2={WIDTH - 8} y1={y(0)} y2={y(0)} stroke="var(--ink)" strokeWidth="1.5" />
        <line x1={EDGE - 14} x2={WIDTH - 8} y1={y(1)} y2={y(1)} stroke="var(--rule)" strokeDasharray="4 3" />
        <text x={4} y={y(0) + 5} className="label" fontSize="14" fill="var(--quiet)">
          0
        </text>
        <text x={4} y={y(1) + 5} className="label" fontSize="14" fill="var(--quiet)">
          1
        </text>
        {first && last && (
          <line
            x1={x(first.at)}
            y1={y(first.speed ?? 0)}
            x2={x(last.at)}
            y2={y(last.speed ?? 0)}
            stroke="var(--action)"
            strokeWidth="2.5"
          />
        )}
        {points.map((p) => (
          <g key={p.member}>
            <line x1={x(p.at)} x2={x(p.at)} y1={18} y2={HEIGHT - 22} stroke="var(--rule)" />
            {p.speed !== undefined && (
              <>
                <circle cx={x(p.at)} cy={y(p.speed)} r="5" fill="var(--ink)" />
                <text
                  x={x(p.at) + 8}
                  y={y(p.speed) - 7}
                  className="figures"
                  fontSize="16"
                  fill="var(--ink)"
                  paintOrder="stroke"
                  stroke="var(--panel)"
                  strokeWidth="4"
                >
                  {p.speed.toFixed(2)}
                </text>
              </>
            )}
            <text x={x(p.at)} y={HEIGHT - 6} textAnchor="middle" className="label" fontSize="16" fill="var(--ink)">
              {LETTER[p.member]}
            </text>
          </g>
        ))}
      </svg>
      <figcaption className="text-sm text-quiet">
        <span className="label text-ink">{set.id}</span> sun {set.sunTeeth}, ring {set.ringTeeth}
        {set.kind === "double" ? ", double planets" : ""}
      </figcaption>
    </figure>
  );
}
