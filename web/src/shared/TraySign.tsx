import type { TrayCell } from "@gearsense/core/unit";

/** A sign a kind, so that it is told without colour: bolts are six-sided, balls round, springs stacked, valves long. */
export function TraySign({ cell, r }: { cell: Pick<TrayCell, "kind" | "atMm">; r: number }) {
  const [x, y] = cell.atMm;
  switch (cell.kind) {
    case "bolt":
      return (
        <polygon
          points={Array.from({ length: 6 }, (_, i) =>
            [x + r * Math.cos((i * Math.PI) / 3), y + r * Math.sin((i * Math.PI) / 3)].join(),
          ).join(" ")}
        />
      );
    case "ball":
      return <circle cx={x} cy={y} r={r} />;
    case "spring":
      return (
        <path
          d={[-1, -0.4, 0.2, 0.8].map((k) => `M${x - r} ${y + k * r} l${2 * r} ${0.35 * r}`).join(" ")}
          strokeWidth={r / 3}
          fill="none"
        />
      );
    case "valve":
      return <rect x={x - r * 0.55} y={y - r * 1.2} width={r * 1.1} height={r * 2.4} />;
    default:
      return <rect x={x - r} y={y - r} width={2 * r} height={2 * r} />;
  }
}
