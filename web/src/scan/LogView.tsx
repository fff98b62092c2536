import { ANALYSIS_VERSION } from "@gearsense/core/drive";
import type { EntryOf } from "@gearsense/core/job";
import { Tabs } from "radix-ui";
import { useMemo, useRef, useState } from "react";
import { useAnalysis } from "../api/queries.ts";
import { useJob } from "../job/job-context.tsx";
import { Notice, Progress } from "../shared/controls.tsx";
import { alignments } from "./alignments.ts";
import { CoverageGrid } from "./CoverageGrid.tsx";
import { FindingsTable } from "./FindingsTable.tsx";
import { History, Outdated } from "./History.tsx";
import { Report } from "./ImportReport.tsx";
import { MeasuresTables } from "./MeasuresTables.tsx";
import { QualityTable } from "./QualityTable.tsx";
import { hitSpans, marksIn } from "./ribbon.ts";
import { ShiftTable } from "./ShiftTable.tsx";
import { SlipMap } from "./SlipMap.tsx";
import { SpanTools } from "./SpanTools.tsx";
import { type Overlay, StripTools, useStripChoice } from "./StripTools.tsx";
import { marksOf, type Shown, type SpanNote, Trace } from "./trace/Trace.tsx";
import { useTrace } from "./useTrace.ts";
import { VibrationTab } from "./VibrationTab.tsx";

const TABS = [
  ["findings", "Findings"],
  ["shifts", "Shifts"],
  ["slip", "Slip map"],
  ["coverage", "Coverage"],
  ["vibration", "Vibration"],
  ["measures", "All measures"],
  ["file", "File and channels"],
] as const;
type TabName = (typeof TABS)[number][0];

const NO_MARKS: readonly number[] = [];
const minutesOf = (durationS: number): string => {
  const whole = Math.round(durationS);
  return `${Math.floor(whole / 60)} min ${whole % 60} s`;
};

/**
 * One analysed log: trace, findings, shifts, maps, vibration, and what was read of the file.
 * @param finding - id of the one that is opened at first
 */
export function LogView({ log, finding }: { log: EntryOf<"log">; finding?: string | undefined }) {
  const { job, state } = useJob();
  const { logId } = log.body;
  // the job is fetched again and again: its unit stays the same
  // biome-ignore lint/correctness/useExhaustiveDependencies: a unit file never changes within a version
  const unit = useMemo(() => job.unit, [job.unit.id, job.unit.version]);
  const { data, error } = useAnalysis(job.id, logId);
  const analysis = data?.analysis;
  const current = analysis?.version === ANALYSIS_VERSION;
  const trace = useTrace(job.id, logId, current ? data?.reading : undefined, unit);
  const [selected, setSelected] = useState<string | undefined>(finding);
  const [goTo, setGoTo] = useState<{ startS: number; endS: number } | undefined>();
  const [tab, setTab] = useState<TabName>("findings");
  const shown = useRef<Shown>({ view: { startS: 0, endS: 0 }, picture: () => Promise.resolve(null) });
  const strips = useStripChoice();
  const [overlay, setOverlay] = useState<Overlay | undefined>();
  const otherQuery = useAnalysis(job.id, overlay?.logId);
  const otherData = overlay ? otherQuery.data : undefined;
  const otherTrace = useTrace(job.id, overlay?.logId ?? "", otherData?.reading, unit);
  const ways = useMemo(
    () => (analysis && otherData ? alignments(analysis, otherData.analysis) : []),
    [analysis, otherData],
  );
  const shiftS = ways.find((w) => w.id === overlay?.align)?.shiftS ?? 0;
  const other = useMemo(
    () => (overlay && otherTrace.state === "ready" ? { data: otherTrace.recorded.strips, shiftS } : undefined),
    [overlay, otherTrace, shiftS],
  );
  const marks = useMemo(() => marksOf((current && analysis?.findings) || []), [analysis, current]);
  const recorded = trace.state === "ready" ? trace.recorded : undefined;
  const ribbon = useMemo(
    () => ({
      spans: hitSpans(analysis),
      clutch: analysis?.converter?.episodes ?? [],
      marks: recorded ? marksIn(recorded.strips) : NO_MARKS,
    }),
    [analysis, recorded],
  );
  const notes = useMemo(
    () =>
      state.notes.flatMap((n): SpanNote[] =>
        n.body.span?.logId === logId
          ? [{ id: n.id, text: n.body.text, author: n.author, startS: n.body.span.startS, endS: n.body.span.endS }]
          : [],
      ),
    [state.notes, logId],
  );
  if (error)
    return (
      <Notice tone="stop" title="The findings cannot be shown" live>
        {error.message}
      </Notice>
    );
  if (!data || !analysis) return <p role="status">Loading the findings …</p>;
  if (!current) return <Outdated logId={logId} fileName={log.body.fileName} version={analysis.version} />;
  const { findings } = analysis;
  const { reading } = data;
  const show = (startS: number, endS: number) => setGoTo({ startS, endS });
  return (
    <div className="flex flex-col gap-3">
      <p className="text-quiet">
        {log.body.label ? `${log.body.label} · ` : ""}
        {log.body.fileName}
        {reading.joined?.map((j) => ` + ${j.fileName}`).join("")}
        {reading.spanS ? `, ${reading.spanS[0].toFixed(0)} to ${reading.spanS[1].toFixed(0)} s of it` : ""} ·{" "}
        {analysis.rateHz.toFixed(0)} Hz · {reading.mapping.filter((m) => m.channel).length} channels ·{" "}
        {minutesOf(analysis.durationS)} · {analysis.shifts.length} {analysis.shifts.length === 1 ? "shift" : "shifts"} ·
        ratios agree in {Math.round(analysis.ratioFit.share * 100)} % of the steady driving
      </p>
      {trace.state === "loading" && <Progress label="Reading the log for the trace" share={trace.share} />}
      {trace.state === "failed" && (
        <Notice tone="stop" title="The trace cannot be drawn" live>
          {trace.message}
        </Notice>
      )}
      {trace.state === "ready" && (
        <>
          <div className="flex flex-wrap items-end justify-between gap-x-4 gap-y-2">
            <StripTools
              strips={strips}
              data={trace.recorded.strips}
              logId={logId}
              overlay={overlay}
              setOverlay={setOverlay}
              ways={ways}
              loading={overlay !== undefined && otherTrace.state === "loading"}
            />
            <SpanTools log={log} reading={reading} client={trace.client} shown={shown} />
          </div>
          <Trace
            strips={trace.recorded.strips}
            ribbon={ribbon}
            durationS={analysis.durationS}
            marks={marks}
            selected={selected}
            onSelect={setSelected}
            height={400}
            chosen={strips.chosen}
            other={other}
            notes={notes}
            goTo={goTo}
            shown={shown}
          />
        </>
      )}
      {notes.length > 0 && (
        <ul aria-label="Notes on the trace" className="flex flex-col gap-1">
          {notes.map((n) => (
            <li key={n.id}>
              <button
                type="button"
                className="min-h-11 border-l-4 border-caution bg-panel px-3 text-left"
                onClick={() => show(n.startS, n.endS)}
              >
                <span className="figures text-quiet">
                  {n.startS.toFixed(1)} to {n.endS.toFixed(1)} s
                </span>{" "}
                {n.text} <span className="text-sm text-quiet">{n.author}</span>
              </button>
            </li>
          ))}
        </ul>
      )}
      <Tabs.Root value={tab} onValueChange={(v) => setTab(v as TabName)}>
        <Tabs.List aria-label="What the log shows" className="flex flex-wrap gap-1 border-b border-ink">
          {TABS.map(([id, label]) => (
            <Tabs.Trigger
              key={id}
              value={id}
              className="label min-h-11 px-3 data-[state=active]:bg-slate data-[state=active]:text-on-slate"
            >
              {id === "findings" ? `Findings ${findings.length}` : label}
            </Tabs.Trigger>
          ))}
        </Tabs.List>
        <Tabs.Content value="findings" className="pt-3">
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
        </Tabs.Content>
        <Tabs.Content value="shifts" className="pt-3">
          <ShiftTable analysis={analysis} unit={unit} strips={recorded?.strips ?? []} onShow={show} />
        </Tabs.Content>
        <Tabs.Content value="slip" className="pt-3">
          <SlipMap analysis={analysis} unit={unit} />
        </Tabs.Content>
        <Tabs.Content value="coverage" className="pt-3">
          <CoverageGrid coverage={analysis.coverage} />
        </Tabs.Content>
        <Tabs.Content value="vibration" className="pt-3">
          <VibrationTab
            analysis={analysis}
            client={trace.state === "ready" ? trace.client : undefined}
            strips={recorded?.strips ?? []}
            shown={shown}
            onShow={show}
          />
        </Tabs.Content>
        <Tabs.Content value="measures" className="pt-3">
          <MeasuresTables analysis={analysis} dual={unit.kind !== "planetary"} />
        </Tabs.Content>
        <Tabs.Content value="file" className="flex flex-col gap-4 pt-3">
          <Report report={data.report} />
          <QualityTable quality={analysis.quality} />
          <History logId={logId} />
        </Tabs.Content>
      </Tabs.Root>
    </div>
  );
}
