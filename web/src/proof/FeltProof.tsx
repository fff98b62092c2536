import type { EntryBodies } from "@gearsense/core/job";
import clsx from "clsx";
import { useNavigate } from "react-router";
import type { useProof } from "../api/queries.ts";
import { FormStatus } from "../job/FormStatus.tsx";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { Button, Notice, TextArea } from "../shared/controls.tsx";
import { NumberField } from "../shared/NumberField.tsx";
import { VERDICT } from "./verdict.ts";

type Proof = NonNullable<ReturnType<typeof useProof>["data"]>;
type RoadTest = EntryBodies["road-test"];

/** A road test without a log: how often each complaint was driven for, and how often it was felt. */
export function FeltProof({ proof }: { proof: Proof }) {
  const { job, state, mayEdit } = useJob();
  const navigate = useNavigate();
  const asked = (state.intake?.body.symptoms ?? []).flatMap((s) =>
    (s.where.length > 0 ? s.where : [""]).map((where) => ({ where, load: s.load, temperature: s.temperature })),
  );
  const stored = state.roadTest?.body;
  const form = useEntryForm<RoadTest>("road-test", "road-test", state.roadTest, {
    drives: asked.map(
      (a) =>
        stored?.drives.find((d) => d.where === a.where && d.load === a.load && d.temperature === a.temperature) ?? {
          ...a,
          times: 0,
          felt: 0,
        },
    ),
    note: stored?.note ?? "",
  });
  const sign = useEntryForm<{ note: string }>("proof", "proof", state.proof, { note: "" });
  if (asked.length === 0)
    return <Notice tone="caution">Intake names no complaint: a road test has nothing to prove.</Notice>;
  const drives = asked.map((a, i) => form.value.drives[i] ?? { ...a, times: 0, felt: 0 });
  const change = (at: number, patch: Partial<RoadTest["drives"][number]>) =>
    form.set({ drives: drives.map((d, i) => (i === at ? { ...d, ...patch } : d)) });
  const proved = proof.felt.length > 0 && proof.felt.every((f) => f.verdict === "gone");
  const accept = async () => {
    const body: EntryBodies["proof"] = {
      beforeLogId: null,
      afterLogId: null,
      sentence: proof.feltSentence,
      note: form.value.note,
    };
    if (await sign.submit(body)) await navigate(`/jobs/${job.id}/handover`);
  };
  return (
    <section aria-labelledby="felt" className="flex flex-col gap-3">
      <h2 id="felt" className="label text-xl">
        Without a log: road test, felt
      </h2>
      <p className="text-quiet">
        Drive each complaint as the customer does, with a second person who counts. What is felt is marked as felt, not
        measured.
      </p>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void form.submit({ ...form.value, drives });
        }}
      >
        <ul className="flex flex-col gap-2">
          {proof.felt.map((f, i) => (
            <li key={f.complaint} className="border-l-4 border-rule bg-panel p-3">
              <p className="text-[17px]">
                {f.complaint}{" "}
                {state.roadTest && (
                  <span className={clsx("label px-1.5", VERDICT[f.verdict])}>
                    {f.verdict}
                    {f.times > 0 && ", felt"}
                  </span>
                )}
              </p>
              {state.roadTest && (
                <p className="text-sm text-quiet">
                  {f.reason}
                  {f.drive ? ` Drive it ${f.drive}.` : ""}
                </p>
              )}
              {mayEdit && (
                <div className="mt-2 grid max-w-md grid-cols-2 gap-3">
                  <NumberField
                    label={`Times driven: ${f.complaint}`}
                    value={drives[i]?.times ?? 0}
                    onChange={(v) => change(i, { times: Math.round(v ?? 0) })}
                    error={form.errors[`drives.${i}.times`]}
                  />
                  <NumberField
                    label={`Times felt: ${f.complaint}`}
                    value={drives[i]?.felt ?? 0}
                    onChange={(v) => change(i, { felt: Math.round(v ?? 0) })}
                    error={form.errors[`drives.${i}.felt`]}
                  />
                </div>
              )}
            </li>
          ))}
        </ul>
        {mayEdit && (
          <>
            <TextArea
              label="Note on the road test"
              hint="Road, load, who drove, who counted."
              value={form.value.note}
              onChange={(e) => form.set({ note: e.target.value })}
              rows={2}
            />
            <FormStatus form={form} />
            <div className="flex flex-wrap gap-2">
              <Button
                tone={proved ? "plain" : "primary"}
                type="submit"
                disabled={form.pending}
                data-primary={!proved || undefined}
              >
                Store the road test
              </Button>
              {state.roadTest && (
                <Button
                  tone={proved ? "primary" : "plain"}
                  type="button"
                  disabled={sign.pending}
                  data-primary={proved || undefined}
                  onClick={() => void accept()}
                >
                  {state.proof ? "Accept anew" : "Accept as felt"}
                </Button>
              )}
            </div>
            <FormStatus form={sign} />
          </>
        )}
        {state.roadTest && !proved && (
          <Notice tone="caution">Not every complaint is proved gone. A log of the same drive would measure it.</Notice>
        )}
      </form>
    </section>
  );
}
