import type { Analysis } from "@gearsense/core/drive";
import { conditionsText, limitText } from "@gearsense/core/report";
import { useAnalysis } from "../api/queries.ts";
import { useJob } from "../job/job-context.tsx";
import { useSettings } from "../settings/settings.tsx";

/** What the drive after the repair has to show, and under which conditions: read before the vehicle leaves the lift. */
export function ToProve() {
  const { job, state } = useJob();
  const { system } = useSettings();
  const analysed = state.logs.findLast(
    (l) => l.body.role === "before" && state.analyses.some((a) => a.body.logId === l.body.logId),
  );
  const { data } = useAnalysis(job.id, analysed?.body.logId);
  const findings = (data?.analysis as Analysis | undefined)?.findings ?? [];
  if (findings.length === 0) return null;
  return (
    <section aria-label="To be proved after the work">
      <h2 className="text-xl">To be proved after the work</h2>
      <p className="text-quiet">The same channels, the same road, a helper at the wheel.</p>
      <table className="mt-1 w-full text-left">
        <thead>
          <tr className="border-b border-ink">
            <th className="py-1">Found before</th>
            <th>Drive again</th>
            <th>At or under</th>
          </tr>
        </thead>
        <tbody>
          {findings.map((f) => (
            <tr key={f.id} className="border-b border-rule align-top">
              <td className="py-1.5 pr-3 font-semibold">{f.title}</td>
              <td className="py-1.5 pr-3">{conditionsText(f, system)}</td>
              <td className="figures py-1.5 whitespace-nowrap">{f.limit ? limitText(f, system) : "none"}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
