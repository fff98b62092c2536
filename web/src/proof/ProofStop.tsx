import type { Change } from "@gearsense/core/drive";
import type { EntryBodies } from "@gearsense/core/job";
import type { Quantity } from "@gearsense/core/quantity";
import { beforeAfterBars } from "@gearsense/core/report";
import clsx from "clsx";
import { lazy, Suspense } from "react";
import { useNavigate } from "react-router";
import { useProof } from "../api/queries.ts";
import { FormStatus } from "../job/FormStatus.tsx";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { Logs } from "../scan/ScanStop.tsx";
import { useSettings } from "../settings/settings.tsx";
import { Button, Notice, TextArea } from "../shared/controls.tsx";
import { FeltProof } from "./FeltProof.tsx";
import { VERDICT } from "./verdict.ts";

const BeforeAfterChart = lazy(() => import("./BeforeAfterChart.tsx"));

/** The same drive after the repair, finding by finding, inside equal conditions. */
export default function ProofStop() {
  const { job } = useJob();
  const { data, error } = useProof(job.id);
  return (
    <Logs when="after" title="Proof" importTitle="Drop the log of the drive after the repair here">
      {error && (
        <Notice tone="stop" live>
          {error.message}
        </Notice>
      )}
      {data && data.before.length === 0 && data.after.length > 0 && (
        <Notice tone="caution">No log from before the repair was analysed: there is nothing to compare with.</Notice>
      )}
      {data && !data.comparison && <FeltProof proof={data} />}
      {data?.comparison && <Verdicts proof={{ ...data, comparison: data.comparison }} />}
    </Logs>
  );
}

const MOST_LETTERS = 200;
const minutes = (s: number) => String(Math.floor(s / 60));
type Show = ReturnType<typeof useSettings>["show"];

/** "−49 rpm, −52 to −45": how far it moved and how sure that is. */
function changeText(change: Change, of: Quantity, show: Show): string {
  const quantity = of === "temperature" ? "temperature-difference" : of;
  const moved = show(change.value, quantity);
  if (!change.interval) return `${moved}, too few for an interval`;
  return `${moved}, ${show(change.interval[0], quantity)} to ${show(change.interval[1], quantity)}`;
}

type Proof = NonNullable<ReturnType<typeof useProof>["data"]>;
type Compared = Proof & { comparison: NonNullable<Proof["comparison"]> };

const names = (list: Proof["before"]) => list.map((l) => l.fileName).join(" and ");

function Verdicts({ proof }: { proof: Compared }) {
  const { job, state, mayEdit } = useJob();
  const { show, system } = useSettings();
  const navigate = useNavigate();
  const { comparison, before, after, hotDriving } = proof;
  const tooCold = hotDriving && hotDriving.drivenS < hotDriving.neededS ? hotDriving : undefined;
  const form = useEntryForm<{ note: string }>("proof", "proof", state.proof, { note: state.proof?.body.note ?? "" });
  const open =
    comparison.complaintNotDriven.length > 0 ||
    comparison.findings.some((f) => f.verdict !== "gone" && f.verdict !== "better");
  const toDrive = [...new Set(comparison.findings.flatMap((f) => f.drive ?? []))];
  const cured = comparison.findings.every((f) => f.verdict !== "same" && f.verdict !== "worse");
  const bars = beforeAfterBars({ ...comparison, fresh: [] }, system);
  const [firstLog, lastLog] = [before.at(-1), after.at(-1)];
  const signedOff = comparison.findings
    .filter((f) => f.verdict === "gone" || f.verdict === "better")
    .map((f) => `${f.title}: ${f.verdict}`);
  const notShown = [
    ...comparison.findings
      .filter((f) => f.verdict !== "gone" && f.verdict !== "better")
      .map((f) => `${f.title}: ${f.verdict}`),
    ...comparison.complaintNotDriven.map((c) => `not driven: ${c}`),
    ...(tooCold ? [`driven hot for ${minutes(tooCold.drivenS)} of ${minutes(tooCold.neededS)} min`] : []),
  ].map((s) => s.slice(0, MOST_LETTERS));
  // what was not driven is not signed off without a word on why
  const owesReason = notShown.length > 0 && form.value.note.trim() === "";
  const accept = async () => {
    if (!firstLog || !lastLog) return;
    const body: EntryBodies["proof"] = {
      beforeLogId: firstLog.logId,
      afterLogId: lastLog.logId,
      sentence: comparison.sentence,
      signedOff,
      notShown,
      note: form.value.note,
    };
    if (await form.submit(body)) await navigate(`/jobs/${job.id}/handover`);
  };
  return (
    <form
      className="flex flex-col gap-4"
      onSubmit={(e) => {
        e.preventDefault();
        void accept();
      }}
    >
      <div className="flex items-start justify-between gap-4">
        <div>
          <p className="label text-2xl leading-7">{comparison.sentence}</p>
          <p className="text-quiet">
            {names(before)} against {names(after)}
          </p>
        </div>
        {mayEdit && (
          <Button
            tone={cured ? "primary" : "plain"}
            type="submit"
            disabled={form.pending || owesReason}
            data-primary={cured || undefined}
          >
            {state.proof ? "Accept anew" : "Accept the proof"}
          </Button>
        )}
      </div>
      <FormStatus form={form} />
      {mayEdit && owesReason && (
        <p className="text-quiet">
          Signed off: {signedOff.length} of {signedOff.length + notShown.length}, those driven and shown. Drive the
          rest, or say in the note below why you sign off without it.
        </p>
      )}
      {tooCold && (
        <Notice tone="caution" title="Too little hot driving to judge the fluid">
          {minutes(tooCold.drivenS)} of {minutes(tooCold.neededS)} min hot: a change of fluid or an additive shows its
          worth once it has been driven hot.
        </Notice>
      )}
      {open && (
        <Notice
          tone="caution"
          actions={
            mayEdit &&
            !cured && (
              <Button
                tone="primary"
                data-primary
                onClick={() => void navigate(`/jobs/${job.id}/suspects?record=repair`)}
              >
                Record that it is not cured
              </Button>
            )
          }
        >
          Not every finding is proved gone. A sign-off needs the conditions of the complaint.
        </Notice>
      )}
      {comparison.complaintNotDriven.length > 0 && (
        <Notice tone="caution" title="The complaint itself was not driven">
          Drive it as the customer does: {comparison.complaintNotDriven.join("; ")}.
        </Notice>
      )}
      {toDrive.length > 0 && (
        <section aria-labelledby="to-drive" className="border-l-4 border-caution pl-3">
          <h2 id="to-drive" className="label text-lg">
            Still to drive
          </h2>
          <ul className="list-disc pl-5">
            {toDrive.map((d) => (
              <li key={d}>{d}</li>
            ))}
          </ul>
        </section>
      )}
      <div className="grid items-start gap-4 2xl:grid-cols-2">
        <table className="w-full text-left">
          <thead>
            <tr className="border-b border-ink">
              <th className="py-1">Finding and condition</th>
              <th>Before</th>
              <th>After</th>
              <th>Change, 95 % interval</th>
              <th>Limit</th>
            </tr>
          </thead>
          {comparison.findings.map((f) => (
            <tbody key={f.findingId}>
              <tr>
                <th colSpan={5} className="pt-2 text-left">
                  <span className="mr-2 text-[17px]">{f.title}</span>
                  <span className={clsx("label px-1.5", VERDICT[f.verdict])}>{f.verdict}</span>
                  <span className="block text-sm font-medium text-quiet">{f.reason}</span>
                </th>
              </tr>
              {f.groups.map((g) => (
                <tr key={g.label} className="border-b border-rule">
                  <td className="py-1 pr-2">{g.label}</td>
                  <td className="figures pr-2">{show(g.before, f.quantity)}</td>
                  <td className="figures pr-2">{g.after === undefined ? "not driven" : show(g.after, f.quantity)}</td>
                  <td className="figures pr-2 text-quiet">
                    {g.change && f.quantity !== "count" ? changeText(g.change, f.quantity, show) : "–"}
                  </td>
                  <td className="figures">{f.limit === undefined ? "–" : show(f.limit, f.quantity)}</td>
                </tr>
              ))}
            </tbody>
          ))}
        </table>
        {bars.length > 0 && (
          <Suspense fallback={<p role="status">Drawing …</p>}>
            <BeforeAfterChart bars={bars} />
          </Suspense>
        )}
      </div>
      {comparison.fresh.length > 0 && (
        <Notice tone="caution" title="New in the second drive">
          {comparison.fresh.map((f) => f.title).join("; ")}
        </Notice>
      )}
      {mayEdit && (
        <TextArea
          label="Note on the proof"
          hint="Road, load, leaks looked for again."
          value={form.value.note}
          onChange={(e) => form.set({ note: e.target.value })}
          rows={2}
        />
      )}
    </form>
  );
}
