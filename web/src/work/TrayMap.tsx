import { type Cell, leftInTray, type Plan, type PlanStep, trayOf } from "@gearsense/core/procedure";
import type { Unit } from "@gearsense/core/unit";
import clsx from "clsx";
import { useState } from "react";
import { useJob } from "../job/job-context.tsx";
import { Button } from "../shared/controls.tsx";
import { TraySign } from "../shared/TraySign.tsx";
import { useTicks } from "./useTicks.ts";

const PAD = 22;
const WORDS: Readonly<Record<Cell["kind"], string>> = {
  bolt: "bolt",
  valve: "valve",
  spring: "spring",
  ball: "ball",
  strainer: "strainer",
  pin: "pin",
};

/** What a step takes off lies here, each in its cell; what puts it back empties them. A full cell at the refit is named. */
export function TrayMap({ plan, step }: { plan: Plan; step: PlanStep }) {
  const { job, state, mayEdit } = useJob();
  const ticks = useTicks(job.id);
  const [shown, setShown] = useState<string | undefined>();
  const tray = trayOf(job.unit as Unit, plan, step);
  if (!tray) return null;
  const entry = state.trays.find((t) => t.body.step === tray.step);
  const waiting = ticks.waiting.findLast((t) => t.kind === "tray" && !t.refused && t.body.step === tray.step);
  const full = waiting?.kind === "tray" ? waiting.body.full : (entry?.body.full ?? []);
  const backing = step.undoneKey !== undefined;
  const write = (next: readonly string[]) =>
    // a write that waits is one of the same person's: the newer one goes after it
    void ticks.write(
      { kind: "tray", body: { step: tray.step, full: [...next] } },
      `Tray: ${tray.title}`,
      entry?.seq ?? 0,
    );
  const toggle = (id: string) => {
    setShown(id);
    if (mayEdit) write(full.includes(id) ? full.filter((f) => f !== id) : [...full, id]);
  };
  const xs = tray.cells.map((c) => c.atMm[0]);
  const ys = tray.cells.map((c) => c.atMm[1]);
  const [left, right, top, bottom] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const r = Math.max(5, Math.min(9, (right - left) / 22));
  const cell = tray.cells.find((c) => c.id === shown);
  const names = leftInTray(job.unit as Unit, plan, step, full);
  const kinds = [...new Set(tray.cells.map((c) => c.kind))];
  return (
    <section aria-label={`Tray: ${tray.title}`} className="border border-rule p-3">
      <div className="flex flex-wrap items-baseline justify-between gap-2">
        <h4 className="text-lg">Tray: {tray.title}</h4>
        <p className="figures" role="status">
          {full.length} of {tray.cells.length} cells full
        </p>
      </div>
      <p className="text-sm text-quiet">
        {kinds
          .map(
            (k) =>
              `${tray.cells.filter((c) => c.kind === k).length} ${WORDS[k]}${tray.cells.filter((c) => c.kind === k).length === 1 ? "" : "s"}`,
          )
          .join(", ")}
        {tray.cells.some((c) => c.other) && "; a thick rim marks another length"}.{" "}
        {backing ? "Touch what goes back." : "Touch what comes out."}
      </p>
      <svg
        viewBox={`${left - PAD} ${top - PAD} ${right - left + 2 * PAD} ${bottom - top + 2 * PAD}`}
        className="mt-2 max-h-80 w-full touch-manipulation"
      >
        <title>Cells where the parts sit</title>
        <rect
          x={left - 12}
          y={top - 12}
          width={right - left + 24}
          height={bottom - top + 24}
          className="fill-ground stroke-rule"
          strokeWidth="1.5"
        />
        {tray.cells.map((c) => {
          const isFull = full.includes(c.id);
          return (
            // biome-ignore lint/a11y/useSemanticElements: a button cannot stand in a drawing
            <g
              key={c.id}
              role="button"
              tabIndex={0}
              aria-pressed={isFull}
              aria-label={`${c.name}${c.lengthMm ? `, ${c.lengthMm} mm` : ""}`}
              onClick={() => toggle(c.id)}
              onKeyDown={(e) => {
                if (e.key === "Enter" || e.key === " ") {
                  e.preventDefault();
                  toggle(c.id);
                }
              }}
              className={clsx("cursor-pointer stroke-ink", isFull ? "fill-action" : "fill-panel")}
              strokeWidth={c.other ? 3.5 : 1.4}
            >
              <circle cx={c.atMm[0]} cy={c.atMm[1]} r={r + 3} className="fill-transparent stroke-none" />
              <TraySign cell={c} r={r} />
            </g>
          );
        })}
      </svg>
      {cell && (
        <p className="figures">
          {[
            cell.name,
            cell.lengthMm ? `${cell.lengthMm} mm` : "",
            cell.other ? "another length than most" : "",
            cell.note,
          ]
            .filter(Boolean)
            .join(" · ")}
        </p>
      )}
      {mayEdit && (
        <div className="mt-2 flex flex-wrap gap-2">
          {backing ? (
            <Button onClick={() => write([])} disabled={full.length === 0}>
              All are back
            </Button>
          ) : (
            <Button onClick={() => write(tray.cells.map((c) => c.id))} disabled={full.length === tray.cells.length}>
              All are out
            </Button>
          )}
        </div>
      )}
      {names.length > 0 && (
        <p className="mt-2 border-l-4 border-caution bg-caution-wash p-2 font-semibold">
          Still in the tray: {names.slice(0, 5).join(", ")}
          {names.length > 5 && ` and ${names.length - 5} more`}.
        </p>
      )}
    </section>
  );
}
