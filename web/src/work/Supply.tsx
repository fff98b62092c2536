import { chosenParts } from "@gearsense/core/bench";
import type { EntryBodies } from "@gearsense/core/job";
import { Download, Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import { urlOf } from "../api/client.ts";
import { usePlan, useWeek } from "../api/queries.ts";
import { FormStatus } from "../job/FormStatus.tsx";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { useSettings } from "../settings/settings.tsx";
import { Button, Notice, TextField } from "../shared/controls.tsx";
import { NumberField } from "../shared/NumberField.tsx";
import { localWords, oddsAt } from "../week/when.ts";

type Supply = EntryBodies["supply"];
type Part = Supply["parts"][number];
const DATES = [
  ["orderedOn", "Ordered on"],
  ["dueOn", "Supplier says"],
  ["cameOn", "Came on"],
] as const;
const LINK = "label inline-flex min-h-11 items-center gap-2 rounded-sm border border-field px-3 hover:border-ink";

/** Parts that have to come, when it is promised, and the papers of the plan. */
export function Supply() {
  const { job, state, mayEdit } = useJob();
  const { system } = useSettings();
  const { data: plan } = usePlan(job.id);
  // the week is reckoned for those who look
  const [open, setOpen] = useState(false);
  const form = useEntryForm<Supply>("supply", "supply", state.supply, state.supply?.body ?? { parts: [] });
  const { parts } = form.value;
  const setPart = (i: number, patch: Partial<Part>) =>
    form.set({ parts: parts.map((p, k) => (k === i ? { ...p, ...patch } : p)) });
  const known = new Set(parts.map((p) => p.name));
  const wanted = [
    ...(plan?.steps ?? []).flatMap((s) => (s.parts ?? []).map((p) => p.name)),
    ...chosenParts(state).map((c) => c.name),
  ];
  const named = [...new Set(wanted)].filter((n) => !known.has(n));
  const empty = (name: string): Part => ({
    name,
    quantity: 1,
    leadDays: 1,
    orderedOn: null,
    dueOn: null,
    cameOn: null,
  });
  return (
    <details className="border border-rule bg-panel p-3" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="label flex min-h-11 cursor-pointer items-center text-lg">
        Parts, promise and papers
        <span className="pl-2 text-quiet">{summary(state.supply?.body.parts ?? [], state.promise?.body.at)}</span>
      </summary>
      <div className="flex flex-col gap-4">
        <div className="flex flex-wrap gap-2">
          <a href={urlOf("jobCard", { jobId: job.id }, { system })} className={LINK} download>
            <Download aria-hidden="true" className="size-5" />
            Job card, PDF
          </a>
          <a href={urlOf("partsList", { jobId: job.id })} className={LINK} download>
            <Download aria-hidden="true" className="size-5" />
            Parts list, CSV
          </a>
        </div>
        <form
          noValidate
          aria-label="Parts to come"
          className="flex flex-col gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            void form.submit();
          }}
        >
          <FormStatus form={form} />
          {parts.map((p, i) => (
            <fieldset
              // biome-ignore lint/suspicious/noArrayIndexKey: a part line has no identity but its place
              key={i}
              disabled={!mayEdit}
              className="grid items-end gap-2 border-b border-rule pb-2 sm:grid-cols-[1fr_90px_150px_150px_150px_auto]"
            >
              <legend className="sr-only">{`Part ${i + 1}`}</legend>
              <TextField
                label={`Part ${i + 1}`}
                value={p.name}
                onChange={(e) => setPart(i, { name: e.target.value })}
                error={form.errors[`parts.${i}.name`]}
              />
              <NumberField
                label="Lead time, days"
                decimals={0}
                value={p.leadDays}
                onChange={(leadDays) => setPart(i, { leadDays })}
                error={form.errors[`parts.${i}.leadDays`]}
              />
              {DATES.map(([key, label]) => (
                <TextField
                  key={key}
                  label={label}
                  type="date"
                  value={p[key] ?? ""}
                  onChange={(e) => setPart(i, { [key]: e.target.value === "" ? null : e.target.value })}
                />
              ))}
              <Button
                tone="quiet"
                aria-label={`Remove ${p.name || `part ${i + 1}`}`}
                onClick={() => form.set({ parts: parts.filter((_, k) => k !== i) })}
              >
                <Trash2 aria-hidden="true" className="size-5" />
              </Button>
            </fieldset>
          ))}
          {mayEdit && (
            <div className="flex flex-wrap gap-2">
              <Button onClick={() => form.set({ parts: [...parts, empty("")] })}>
                <Plus aria-hidden="true" className="size-5" />
                Add a part
              </Button>
              {named.length > 0 && (
                <Button onClick={() => form.set({ parts: [...parts, ...named.map(empty)] })}>
                  Add the plan’s {named.length} parts
                </Button>
              )}
              <Button
                type="submit"
                disabled={form.pending || parts.some((p) => p.name.trim() === "")}
                className="border-slate"
              >
                Store the parts
              </Button>
            </div>
          )}
        </form>
        {open && <Promised />}
      </div>
    </details>
  );
}

const summary = (parts: readonly Part[], promised: string | undefined): string =>
  [
    parts.length > 0 ? `${parts.filter((p) => p.cameOn !== null).length} of ${parts.length} are here` : "",
    promised ? `promised ${localWords(promised)}` : "",
  ]
    .filter(Boolean)
    .join(", ");

/** When it is promised for, with the odds that the week gives it. */
function Promised() {
  const { job, state, mayEdit } = useJob();
  const { data: week } = useWeek();
  const mine = week?.jobs.find((j) => j.jobId === job.id);
  const form = useEntryForm<{ at: string }>("promise", "promise", state.promise, { at: state.promise?.body.at ?? "" });
  const odds = mine && oddsAt(mine.ends, form.value.at);
  return (
    <form
      noValidate
      aria-label="Promise"
      className="flex flex-col gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        void form.submit({ at: form.value.at, odds: odds ?? null, note: "" });
      }}
    >
      <FormStatus form={form} />
      {mine?.problem && <Notice tone="caution">It {mine.problem}.</Notice>}
      <div className="flex flex-wrap items-end gap-3">
        <TextField
          className="w-64"
          label="Promised for"
          type="datetime-local"
          value={form.value.at}
          disabled={!mayEdit}
          error={form.errors.at}
          onChange={(e) => form.set({ at: e.target.value.slice(0, 16) })}
        />
        {mayEdit && (
          <Button type="submit" disabled={form.pending || form.value.at === ""} className="border-slate">
            Promise
          </Button>
        )}
        {mayEdit && mine?.sureAt && (
          <Button onClick={() => form.set({ at: upToQuarter(mine.sureAt as string) })}>
            Safe (9 in 10): {localWords(mine.sureAt)}
          </Button>
        )}
      </div>
      {mine && (
        <p className="text-quiet">
          {mine.readyAt ? `Likely ready ${localWords(mine.readyAt)}.` : ""}{" "}
          {odds === undefined ? "" : `Ready by what stands there: ${Math.round(odds * 20) * 5} % as the week stands.`}
        </p>
      )}
    </form>
  );
}

/** The next full quarter of an hour: nobody promises 14:07. */
export function upToQuarter(at: string): string {
  const [day = "", time = "00:00"] = at.split("T");
  const [h = 0, m = 0] = time.split(":").map(Number);
  const up = Math.min(23 * 60 + 45, Math.ceil((h * 60 + m) / 15) * 15);
  return `${day}T${String(Math.floor(up / 60)).padStart(2, "0")}:${String(up % 60).padStart(2, "0")}`;
}
