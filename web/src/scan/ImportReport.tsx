import type { Import } from "./useImport.ts";

/** What was made of the file: nothing is dropped silently. */
export function Report({ report }: { report: NonNullable<Import["report"]> }) {
  const lines = (list: readonly number[]) =>
    list.length === 0 ? "" : ` (line${list.length === 1 ? "" : "s"} ${list.join(", ")})`;
  const { lines: l } = report;
  return (
    <div className="border border-rule bg-panel p-3">
      <p className="figures text-lg">
        {report.rows} rows · {report.durationS.toFixed(0)} s · {report.rateHz.toFixed(1)} rows a second ·{" "}
        {report.gaps.length} gaps · {report.rejectCount} rejected · {report.emptyCells} empty cells ·{" "}
        {report.invalidCells} impossible values
      </p>
      {l && (
        <p className="text-sm text-quiet">
          {l.read} lines read: {l.rows} with readings, {l.head} above them, {l.blank} blank, {l.repeatedHeader} headers
          repeated, {l.rejected} rejected{l.unused > 0 ? `, ${l.unused} frames of nothing that is asked for` : ""}
          {report.rows > report.rowsUsed ? `; ${report.rows - report.rowsUsed} rows without a time` : ""}.
        </p>
      )}
      {(report.rejects.length > 0 || report.repairs.length > 0 || report.gaps.length > 0) && (
        <details className="mt-1" open={report.rejectCount < 6}>
          <summary className="label cursor-pointer">Places</summary>
          <ul className="list-disc pl-5 text-sm">
            {report.repairs.map((r) => (
              <li key={r.what}>
                {r.what}: {r.count}
                {lines(r.lines)}
                {r.lines.length > 0 && r.count > r.lines.length ? " …" : ""}
              </li>
            ))}
            {report.gaps.slice(0, 20).map((g) => (
              <li key={g.line}>
                gap of {(g.endS - g.startS).toFixed(1)} s before line {g.line}
              </li>
            ))}
            {report.rejects.slice(0, 20).map((r) => (
              <li key={r.line}>
                line {r.line} {r.reason}: rejected
              </li>
            ))}
            {report.rejectCount > 20 && <li>and {report.rejectCount - 20} more rejected</li>}
          </ul>
        </details>
      )}
    </div>
  );
}
