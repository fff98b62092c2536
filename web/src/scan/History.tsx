import { ANALYSIS_VERSION } from "@gearsense/core/drive";
import type { Quantity } from "@gearsense/core/quantity";
import { call } from "../api/client.ts";
import { useAnalyses } from "../api/queries.ts";
import { useJob } from "../job/job-context.tsx";
import { useSettings } from "../settings/settings.tsx";
import { Button, Notice } from "../shared/controls.tsx";
import { PlainTable } from "../shared/PlainTable.tsx";
import { useJudging } from "./useJudging.ts";

function useAnew(logId: string) {
  const { job } = useJob();
  const { judge, busy, problem } = useJudging(logId);
  return { anew: () => judge(() => call("analyseAnew", { params: { jobId: job.id, logId } })), busy, problem };
}

/** A result of an earlier version: one action makes it anew, the earlier one is kept. */
export function Outdated({ logId, fileName, version }: { logId: string; fileName: string; version: number }) {
  const { mayEdit } = useJob();
  const { anew, busy, problem } = useAnew(logId);
  return (
    <>
      <Notice
        tone="caution"
        title={`${fileName} was analysed by version ${version}; this is version ${ANALYSIS_VERSION}`}
        actions={
          mayEdit && (
            <Button tone="primary" data-primary disabled={busy} onClick={() => void anew()}>
              {busy ? "Analysing …" : "Analyse anew"}
            </Button>
          )
        }
      >
        The new result may differ. The earlier one is kept and can be compared with it.
      </Notice>
      {problem && (
        <Notice tone="stop" live>
          {problem}
        </Notice>
      )}
      <History logId={logId} />
    </>
  );
}

/** Every analysis of the log, newest first, with what came and went between two. */
export function History({ logId }: { logId: string }) {
  const { job, mayEdit } = useJob();
  const { show } = useSettings();
  const { data } = useAnalyses(job.id, logId);
  const { anew, busy, problem } = useAnew(logId);
  if (!data) return null;
  const when = (iso: string) => new Date(iso).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" });
  return (
    <section aria-label="Analyses of this log">
      <div className="flex items-end justify-between gap-3">
        <h3 className="text-lg">Analyses of this log</h3>
        {mayEdit && data[0]?.version === ANALYSIS_VERSION && (
          <Button disabled={busy} onClick={() => void anew()}>
            {busy ? "Analysing …" : "Analyse once more"}
          </Button>
        )}
      </div>
      {problem && (
        <Notice tone="stop" live>
          {problem}
        </Notice>
      )}
      <PlainTable
        columns={["Made", "Version", "Of", "Findings", "Against the one before"]}
        rows={data.map((a, i) => {
          const earlier = data[i + 1];
          const gone = earlier?.findings.filter((f) => !a.findings.some((g) => g.id === f.id)) ?? [];
          const fresh = earlier ? a.findings.filter((f) => !earlier.findings.some((g) => g.id === f.id)) : [];
          const moved =
            earlier?.findings.flatMap((f) => {
              const now = a.findings.find((g) => g.id === f.id);
              const [was, is] = [f, now].map((x) => x && show(x.value, x.quantity as Quantity));
              return was && is && was !== is ? [`${f.title}: ${was}, now ${is}`] : [];
            }) ?? [];
          const text = [...gone.map((f) => `gone: ${f.title}`), ...fresh.map((f) => `new: ${f.title}`), ...moved];
          return [
            when(a.madeAt),
            a.version,
            [
              a.spanS ? `${a.spanS[0].toFixed(0)} to ${a.spanS[1].toFixed(0)} s` : "whole log",
              ...a.joined.map((j) => `+ ${j}`),
            ].join(" "),
            a.findings.length,
            earlier ? text.join("; ") || "no difference" : "the first",
          ];
        })}
      />
    </section>
  );
}
