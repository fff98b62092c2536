import type { EntryOf } from "@gearsense/core/job";
import { useMemo, useState } from "react";
import { useAnalysis } from "../api/queries.ts";
import { useJob } from "../job/job-context.tsx";
import { Notice, Progress } from "../shared/controls.tsx";
import { FindingsTable } from "./FindingsTable.tsx";
import { Report } from "./ImportPanel.tsx";
import { MeasuresTables } from "./MeasuresTables.tsx";
import { marksOf, Trace } from "./trace/Trace.tsx";
import { useTrace } from "./useTrace.ts";

/** One analysed log: trace, findings, and what was made of the file. */
export function LogView({ log }: { log: EntryOf<"log"> }) {
  const { job } = useJob();
  const { logId } = log.body;
  // the job is fetched again and again: its unit stays the same
  // biome-ignore lint/correctness/useExhaustiveDependencies: a unit file never changes within a version
  const unit = useMemo(() => job.unit, [job.unit.id, job.unit.version]);
  const { data, error } = useAnalysis(job.id, logId);
  const trace = useTrace(job.id, logId, data?.mapping, unit);
  const [selected, setSelected] = useState<string | undefined>();
  const [measures, setMeasures] = useState(false);
  const analysis = data?.analysis;
  const marks = useMemo(() => marksOf(analysis?.findings ?? []), [analysis]);
  const ribbon = useMemo(
    () => ({
      spans: analysis?.gearSpans ?? [],
      clutch: analysis?.converter?.episodes ?? [],
      faults: (analysis?.findings ?? []).filter((f) => f.kind !== "limp").flatMap((f) => f.occurrences),
    }),
    [analysis],
  );
  if (error)
    return (
      <Notice tone="stop" title="The findings cannot be shown" live>
        {error.message}
      </Notice>
    );
  if (!data || !analysis) return <p role="status">Loading the findings …</p>;
  const { findings } = analysis;
  return (
    <div className="flex flex-col gap-4">
      <p className="text-quiet">
        {log.body.fileName} · {analysis.rateHz.toFixed(0)} Hz · {data.mapping.filter((m) => m.channel).length} channels
        · {Math.floor(analysis.durationS / 60)} min {Math.round(analysis.durationS % 60)} s · {analysis.shifts.length}{" "}
        shifts · ratios agree in {Math.round(analysis.ratioFit.share * 100)} % of the steady driving
      </p>
      {trace.state === "loading" && <Progress label="Reading the log for the trace" share={trace.share} />}
      {trace.state === "failed" && (
        <Notice tone="stop" title="The trace cannot be drawn" live>
          {trace.message}
        </Notice>
      )}
      {trace.state === "ready" && (
        <Trace
          strips={trace.recorded.strips}
          ribbon={ribbon}
          durationS={analysis.durationS}
          marks={marks}
          selected={selected}
          onSelect={setSelected}
          height={430}
        />
      )}
      <section aria-label="Findings">
        <h2 className="text-xl">
          {findings.length === 0
            ? "No finding over a limit"
            : `${findings.length} finding${findings.length === 1 ? "" : "s"}`}
        </h2>
        {findings.length > 0 && <FindingsTable findings={findings} selected={selected} onSelect={setSelected} />}
        {analysis.notes.map((n) => (
          <p key={n} className="mt-1 text-sm text-quiet">
            {n}
          </p>
        ))}
      </section>
      <details onToggle={(e) => setMeasures(e.currentTarget.open)}>
        <summary className="label min-h-11 cursor-pointer">All measures: gears held, shifts, converter clutch</summary>
        {/* hundreds of shifts: drawn when asked for, not with the trace */}
        {measures && <MeasuresTables analysis={analysis} />}
      </details>
      <details>
        <summary className="label min-h-11 cursor-pointer">What was made of the file</summary>
        <Report report={data.report} />
      </details>
    </div>
  );
}
