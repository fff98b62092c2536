import type { Analysis, Shift } from "@gearsense/core/drive";
import { gearByName, type Unit } from "@gearsense/core/unit";
import {
  type ColumnDef,
  getCoreRowModel,
  getSortedRowModel,
  type SortingState,
  useReactTable,
} from "@tanstack/react-table";
import clsx from "clsx";
import { ChevronDown, ChevronRight } from "lucide-react";
import { Fragment, useMemo, useState } from "react";
import { useSettings } from "../settings/settings.tsx";
import { Button } from "../shared/controls.tsx";
import { ShiftDetail } from "./ShiftDetail.tsx";
import { overLimit, SHIFT_COLUMNS, shownShifts, usualWords } from "./shift-rows.ts";
import type { StripData } from "./worker/messages.ts";

const FIRST_ROWS = 60;
const SORTED: Readonly<Record<string, "ascending" | "descending">> = { asc: "ascending", desc: "descending" };

/** What was not measured stands last, whichever way it is sorted. */
const columnDef = (c: (typeof SHIFT_COLUMNS)[number]): ColumnDef<Shift> => ({
  id: c.id,
  header: c.label,
  accessorFn: c.of,
  sortUndefined: "last",
  sortingFn: c.id === "name" ? "text" : "basic",
  // the worst first; time and name from the beginning
  sortDescFirst: c.id !== "at" && c.id !== "name",
});

/** Every shift, to be sorted and filtered; a row opens its two seconds. */
export function ShiftTable({
  analysis,
  unit,
  strips,
  onShow,
}: {
  analysis: Analysis;
  unit: Unit;
  strips: readonly StripData[];
  onShow: (startS: number, endS: number) => void;
}) {
  const { show } = useSettings();
  const [sorting, setSorting] = useState<SortingState>([{ id: "at", desc: false }]);
  const [name, setName] = useState("");
  const [onlyOver, setOnlyOver] = useState(false);
  const [open, setOpen] = useState<number | undefined>();
  const [all, setAll] = useState(false);
  const names = useMemo(() => [...new Set(analysis.shifts.map((s) => s.name))].sort(), [analysis]);
  const data = useMemo(() => shownShifts(analysis.shifts, unit, { name, onlyOver }), [analysis, unit, name, onlyOver]);
  // what this unit never shows has no column
  const columns = useMemo(
    () => SHIFT_COLUMNS.filter((c) => analysis.shifts.some((s) => c.of(s) !== undefined)),
    [analysis],
  );
  const table = useReactTable({
    data,
    columns: useMemo(() => columns.map(columnDef), [columns]),
    state: { sorting },
    onSortingChange: setSorting,
    enableSortingRemoval: false,
    getRowId: (s) => String(s.commandS),
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
  });
  if (analysis.shifts.length === 0) return <p className="text-quiet">No shift was commanded.</p>;
  const rows = table.getSortedRowModel().rows.map((r) => r.original);
  const listed = all ? rows : rows.slice(0, FIRST_ROWS);
  return (
    <section aria-label="Shifts">
      <div className="mb-2 flex flex-wrap items-end gap-4">
        <label className="flex flex-col">
          <span className="label text-sm">Shift</span>
          <select
            className="min-h-11 border border-field bg-panel px-2"
            value={name}
            onChange={(e) => setName(e.target.value)}
          >
            <option value="">all {analysis.shifts.length}</option>
            {names.map((n) => (
              <option key={n} value={n}>
                {n}
              </option>
            ))}
          </select>
        </label>
        <label className="flex min-h-11 items-center gap-2">
          <input
            type="checkbox"
            className="size-5"
            checked={onlyOver}
            onChange={(e) => setOnlyOver(e.target.checked)}
          />
          only over a limit
        </label>
        <p className="text-quiet">{rows.length} shown; a row opens the two seconds around it.</p>
      </div>
      <table className="w-full text-left">
        <thead>
          <tr className="border-b border-ink">
            <th className="w-8" aria-label="Open" />
            {table.getFlatHeaders().map(({ column }) => {
              const sorted = column.getIsSorted();
              return (
                <th key={column.id} aria-sort={SORTED[String(sorted)] ?? "none"} className="pr-2">
                  <button
                    type="button"
                    className="label min-h-11 text-left underline decoration-field underline-offset-4"
                    onClick={column.getToggleSortingHandler()}
                  >
                    {String(column.columnDef.header)}
                    {sorted === "desc" ? " ↓" : sorted === "asc" ? " ↑" : ""}
                  </button>
                </th>
              );
            })}
          </tr>
        </thead>
        <tbody>
          {listed.map((s) => {
            const over = overLimit(s, unit);
            const isOpen = open === s.commandS;
            return (
              <Fragment key={s.commandS}>
                <tr className={clsx("border-b border-rule", isOpen && "bg-action-wash")}>
                  <td>
                    <button
                      type="button"
                      aria-expanded={isOpen}
                      aria-label={`Shift ${s.name} at ${s.commandS.toFixed(1)} s`}
                      className="grid size-11 place-items-center"
                      onClick={() => setOpen(isOpen ? undefined : s.commandS)}
                    >
                      {isOpen ? (
                        <ChevronDown aria-hidden="true" className="size-5" />
                      ) : (
                        <ChevronRight aria-hidden="true" className="size-5" />
                      )}
                    </button>
                  </td>
                  {columns.map((c) => {
                    const v = c.of(s);
                    const text =
                      c.id === "name" && !s.completed
                        ? `${s.name}, not made`
                        : typeof v === "string"
                          ? v
                          : v === undefined || !c.quantity
                            ? "–"
                            : show(v, c.quantity, c.decimals);
                    return (
                      <td key={c.id} className="figures pr-2">
                        <span className={clsx(over.has(c.id) && "-mx-1 bg-action px-1 py-0.5 text-on-action")}>
                          {text}
                        </span>
                      </td>
                    );
                  })}
                </tr>
                {isOpen && (
                  <tr>
                    <td colSpan={columns.length + 1} className="border-b border-ink p-2">
                      <ShiftDetail
                        shift={s}
                        strips={strips}
                        dual={unit.kind !== "planetary"}
                        ratios={[gearByName(unit, s.from)?.ratio ?? 1, gearByName(unit, s.to)?.ratio ?? 1]}
                      />
                      {usualWords(s, unit, (x) => show(x, "duration")).map((line) => (
                        <p key={line} className="figures">
                          {line}
                        </p>
                      ))}
                      <Button onClick={() => onShow(s.commandS - 1, s.endS + 1)}>Show it on the trace</Button>
                    </td>
                  </tr>
                )}
              </Fragment>
            );
          })}
        </tbody>
      </table>
      {rows.length > listed.length && (
        <Button className="mt-2" onClick={() => setAll(true)}>
          Show the other {rows.length - listed.length}
        </Button>
      )}
    </section>
  );
}
