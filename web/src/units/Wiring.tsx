import type { Net, Unit } from "@gearsense/core/unit";

const ROW = 40;
const LEFT = 210;
const TOP = 92;
const COLUMN = 62;
const LINE: Record<Net["kind"], { dash: string; word: string }> = {
  supply: { dash: "", word: "supply" },
  ground: { dash: "8 4", word: "ground" },
  signal: { dash: "2 4", word: "signal" },
};

/** Nets as lines from the controller's pins, a dot for each component that hangs on them: shared wires are seen at once. */
export function Wiring({ unit }: { unit: Unit }) {
  const parts = [...unit.sensors, ...unit.solenoids].filter((c) => unit.nets.some((n) => n.connects.includes(c.id)));
  const x = (id: string) => LEFT + 40 + parts.findIndex((p) => p.id === id) * COLUMN;
  const width = LEFT + 60 + parts.length * COLUMN;
  const height = TOP + unit.nets.length * ROW + 8;
  const words = unit.nets
    .map(
      (n) => `${n.name}, pin ${n.pins}: ${n.connects.map((c) => parts.find((p) => p.id === c)?.name ?? c).join(", ")}`,
    )
    .join(". ");
  return (
    <div className="overflow-x-auto border border-rule bg-panel p-2">
      <svg viewBox={`0 0 ${width} ${height}`} style={{ minWidth: Math.min(width, 760) }} role="img" aria-label={words}>
        {parts.map((p) => (
          <g key={p.id}>
            <line x1={x(p.id)} x2={x(p.id)} y1={TOP - 8} y2={height - 12} stroke="var(--rule)" />
            <text
              transform={`translate(${x(p.id) + 4} ${TOP - 14}) rotate(-38)`}
              className="label"
              fontSize="14"
              fill="var(--ink)"
            >
              {p.id.replace(/^sol_/, "").replace(/^sen_(.*)/, "$1 sensor")}
            </text>
          </g>
        ))}
        {unit.nets.map((n, i) => {
          const y = TOP + i * ROW + 14;
          const ends = n.connects.filter((c) => parts.some((p) => p.id === c)).map(x);
          return (
            <g key={n.id}>
              <text x={4} y={y - 2} className="label" fontSize="15" fill="var(--ink)">
                {n.name}
              </text>
              <text x={4} y={y + 14} fontSize="12.5" fill="var(--quiet)">
                {LINE[n.kind].word} · {n.pins}
                {n.wires ? ` · ${n.wires}` : ""}
              </text>
              <line
                x1={LEFT}
                x2={Math.max(LEFT + 20, ...ends)}
                y1={y}
                y2={y}
                stroke="var(--ink)"
                strokeWidth="2"
                strokeDasharray={LINE[n.kind].dash}
              />
              <rect x={LEFT - 8} y={y - 7} width="14" height="14" fill="var(--ink)" />
              {n.connects.map((c) => (
                <circle key={c} cx={x(c)} cy={y} r="6" fill="var(--action)" />
              ))}
            </g>
          );
        })}
      </svg>
    </div>
  );
}
