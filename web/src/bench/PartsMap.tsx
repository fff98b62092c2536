import { judgedValue } from "@gearsense/core/bench";
import type { BenchValue } from "@gearsense/core/job";
import type { Unit } from "@gearsense/core/unit";
import clsx from "clsx";
import { PlainTable } from "../shared/PlainTable.tsx";
import { TraySign } from "../shared/TraySign.tsx";

const PAD = 20;
const R = 7;

/** The map of a valve body: valves, springs, check balls and strainers where they sit; a spring that is out of its length is marked. */
export function PartsMap({ unit, values }: { unit: Unit; values: readonly BenchValue[] }) {
  const tray = unit.trays?.find((t) => t.cells.some((c) => c.kind === "ball" || c.kind === "spring"));
  if (!tray) return null;
  const xs = tray.cells.map((c) => c.atMm[0]);
  const ys = tray.cells.map((c) => c.atMm[1]);
  const [left, right, top, bottom] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const callOf = (id: string) => {
    const v = values.find((x) => x.id === id);
    return v && judgedValue(v).call;
  };
  const balls = tray.cells.filter((c) => c.kind === "ball");
  return (
    <section aria-label={`Map: ${tray.name}`} className="border border-rule bg-panel p-3">
      <h2 className="text-lg">Where the parts sit</h2>
      <svg
        viewBox={`${left - PAD} ${top - PAD} ${right - left + 2 * PAD} ${bottom - top + 2 * PAD}`}
        className="max-h-72 w-full"
        role="img"
        aria-label={`${tray.cells.length} places: ${balls.length} check balls`}
      >
        <rect
          x={left - 12}
          y={top - 12}
          width={right - left + 24}
          height={bottom - top + 24}
          className="fill-ground stroke-rule"
          strokeWidth="1.5"
        />
        {tray.cells.map((c) => {
          const call = callOf(c.id);
          return (
            <g
              key={c.id}
              className={clsx(
                "stroke-ink",
                call === "out" ? "fill-stop stroke-stop" : call === "in" ? "fill-clear-wash" : "fill-panel",
              )}
              strokeWidth={1.4}
            >
              <title>{[c.name, c.lengthMm ? `${c.lengthMm} mm` : "", c.note].filter(Boolean).join(", ")}</title>
              <TraySign cell={c} r={R} />
              {c.kind === "ball" && (
                <text
                  x={c.atMm[0]}
                  y={c.atMm[1] + 3}
                  textAnchor="middle"
                  className="figures fill-ink stroke-none text-[8px]"
                >
                  {c.name.replace(/\D/g, "")}
                </text>
              )}
            </g>
          );
        })}
      </svg>
      {balls.length > 0 && (
        <PlainTable
          caption="Check balls"
          columns={["Ball", "What it is"]}
          rows={balls.map((b) => [b.name, b.note ?? ""])}
        />
      )}
    </section>
  );
}
