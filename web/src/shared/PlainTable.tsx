import clsx from "clsx";
import type { ReactNode } from "react";

export type Cell = ReactNode;

/**
 * A table to be read: column names over rows that do not move.
 * @param figures - columns whose cells are numbers, by index; all when true
 * @param caption - for those who do not see the heading above it
 */
export function PlainTable({
  columns,
  rows,
  figures = [],
  caption,
}: {
  columns: readonly string[];
  rows: readonly (readonly Cell[])[];
  figures?: readonly number[] | true;
  caption?: string;
}) {
  return (
    <table className="mt-1 w-full text-left">
      {caption && <caption className="sr-only">{caption}</caption>}
      <thead>
        <tr className="border-b border-ink">
          {columns.map((c) => (
            <th key={c} className="py-1 pr-3">
              {c}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((r, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: rows of a table that is only read do not move
          <tr key={i} className="border-b border-rule align-top">
            {r.map((cell, k) => (
              <td
                key={columns[k]}
                className={clsx("py-1.5 pr-3", (figures === true || figures.includes(k)) && "figures")}
              >
                {cell}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
