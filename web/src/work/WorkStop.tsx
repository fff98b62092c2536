import type { EntryBodies, EntryOf } from "@gearsense/core/job";
import { relearnAfter } from "@gearsense/core/relearn";
import { estimateAgainst } from "@gearsense/core/report";
import type { Unit } from "@gearsense/core/unit";
import { ListChecks, Plus, Ruler, Trash2 } from "lucide-react";
import { Link } from "react-router";
import { useCatalogue, useSuspects } from "../api/queries.ts";
import { FormStatus } from "../job/FormStatus.tsx";
import { useJob } from "../job/job-context.tsx";
import { LevelMissing } from "../job/LevelMissing.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { Cautions, HoldsOpen, useHolds } from "../shared/Caution.tsx";
import { Button, EmptyState, Heading, Notice, TextArea, TextField } from "../shared/controls.tsx";
import { PlainTable } from "../shared/PlainTable.tsx";
import { useMoney } from "../shared/useMoney.ts";
import { Plan } from "./Plan.tsx";
import { ToProve } from "./ToProve.tsx";

interface PartText {
  name: string;
  quantity: string;
  cost: string;
}
interface WorkText {
  text: string;
  minutes: string;
  parts: PartText[];
}

/** What the ticked steps say of the work. */
const fromSteps = (steps: readonly EntryOf<"step">[]): Pick<WorkText, "text" | "minutes"> => ({
  minutes: String(Math.round(steps.reduce((sum, s) => sum + (s.body.minutes ?? 0), 0))),
  text: steps
    .map((s) => [s.body.title, ...s.body.trouble, s.body.note].filter(Boolean).join(", "))
    .join("; ")
    .slice(0, 2000),
});

const EMPTY: WorkText = { text: "", minutes: "", parts: [] };
const number = (t: string) => (t.trim() === "" ? Number.NaN : Number(t.replace(",", ".")));

/** What was done, with which parts, in how many minutes. Cautions of the repair stand before it. */
export default function WorkStop() {
  const { job, state, mayEdit } = useJob();
  const { data } = useSuspects(job.id);
  const money = useMoney();
  const form = useEntryForm<WorkText>("work", "work.new", undefined, EMPTY);
  const decision = state.decision;
  const { data: catalogue } = useCatalogue(job.id);
  // several repairs in one visit stand together
  const parts = (decision?.body.repairId ?? "").split("+");
  const repairs = catalogue?.repairs.filter((r) => parts.includes(r.id)) ?? [];
  const relearn = relearnAfter(job.unit as Unit, repairs, state.fluid?.body.smell === "burnt");
  const names = [...new Set(repairs.flatMap((r) => r.cautions))];
  // they stand before the first step, not before each line that is written of it
  const holds = useHolds(state.work.length === 0 ? names : []);
  const unknown = decision !== undefined && catalogue === undefined;
  const { value, set, errors } = form;
  const setPart = (i: number, patch: Partial<PartText>) =>
    set({ parts: value.parts.map((p, k) => (k === i ? { ...p, ...patch } : p)) });
  const submit = () => {
    const body: EntryBodies["work"] = {
      text: value.text,
      minutes: number(value.minutes),
      parts: value.parts.map((p) => ({ name: p.name, quantity: number(p.quantity), cost: number(p.cost) })),
    };
    return form.submit(body);
  };
  return (
    <div>
      <Heading
        title="Work"
        actions={
          <Link
            to={`/jobs/${job.id}/bench`}
            className="label inline-flex min-h-11 items-center gap-2 rounded-sm border border-field px-3 hover:border-ink"
          >
            <Ruler aria-hidden="true" className="size-5" />
            Bench
          </Link>
        }
      >
        {decision ? `Decided: ${decision.body.title}` : "No decision has been recorded."}
      </Heading>
      <div className="flex flex-col gap-4">
        {data && !data.levelKnown && repairs.some((r) => r.costly) && (
          <LevelMissing>This repair is costly, and a low level explains many faults.</LevelMissing>
        )}
        {!decision && (
          <EmptyState title="Decide first">
            <Link className="underline" to={`/jobs/${job.id}/decide`}>
              Choose a repair with its reason
            </Link>
            , or record work that was done anyway.
          </EmptyState>
        )}
        {decision && <Plan />}
        {relearn && (
          <Notice
            tone={relearn.policy === "required" ? "caution" : "plain"}
            title={
              relearn.policy === "required"
                ? "Relearn before it is driven hard"
                : "Drive first, relearn only if need be"
            }
          >
            {relearn.procedures.map((r) => r.name).join("; ")}.{" "}
            <Link className="underline" to={`/jobs/${job.id}/relearn`}>
              Go to the relearn
            </Link>
          </Notice>
        )}
        {state.work.map((w) => (
          <article key={w.id} className="border border-rule bg-panel p-3">
            <p>{w.body.text}</p>
            <p className="figures mt-1 text-quiet">
              {w.body.minutes} min · {w.author}
              {w.body.parts.length > 0 &&
                ` · ${w.body.parts.map((p) => `${p.quantity} × ${p.name} ${money(p.cost)}`).join(", ")}`}
            </p>
          </article>
        ))}
        {mayEdit && repairs.length > 0 && <Cautions names={names} holds={holds} />}
        {mayEdit && (
          <form
            noValidate
            aria-label="New work"
            className="flex flex-col gap-3 border border-rule bg-panel p-4"
            onSubmit={(e) => {
              e.preventDefault();
              void submit();
            }}
          >
            <h2 className="text-xl">What was done</h2>
            <p className="text-quiet">Goes to the report and ends the work: the proof is next.</p>
            <FormStatus form={form} />
            <HoldsOpen holds={holds} />
            <div className="grid gap-3 sm:grid-cols-[1fr_140px]">
              <TextArea
                label="What was done and found"
                value={value.text}
                onChange={(e) => set({ text: e.target.value })}
                error={errors.text}
              />
              <TextField
                label="Minutes"
                inputMode="numeric"
                value={value.minutes}
                onChange={(e) => set({ minutes: e.target.value })}
                error={errors.minutes}
              />
            </div>
            {value.parts.map((p, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a part line has no identity but its place
              <div key={i} className="grid grid-cols-[1fr_90px_120px_auto] items-end gap-3">
                <TextField
                  label={`Part ${i + 1}`}
                  value={p.name}
                  onChange={(e) => setPart(i, { name: e.target.value })}
                  error={errors[`parts.${i}.name`]}
                />
                <TextField
                  label="Quantity"
                  inputMode="decimal"
                  value={p.quantity}
                  onChange={(e) => setPart(i, { quantity: e.target.value })}
                  error={errors[`parts.${i}.quantity`] && "A number"}
                />
                <TextField
                  label="Each"
                  inputMode="decimal"
                  value={p.cost}
                  onChange={(e) => setPart(i, { cost: e.target.value })}
                  error={errors[`parts.${i}.cost`] && "A number"}
                />
                <Button
                  tone="quiet"
                  onClick={() => set({ parts: value.parts.filter((_, k) => k !== i) })}
                  aria-label={`Remove part ${i + 1}`}
                >
                  <Trash2 aria-hidden="true" className="size-5" />
                </Button>
              </div>
            ))}
            <div className="flex flex-wrap gap-3">
              <Button onClick={() => set({ parts: [...value.parts, { name: "", quantity: "1", cost: "" }] })}>
                <Plus aria-hidden="true" className="size-5" />
                Add a part
              </Button>
              {state.steps.length > 0 && (
                <Button onClick={() => set(fromSteps(state.steps))}>
                  <ListChecks aria-hidden="true" className="size-5" />
                  Minutes and text from the plan
                </Button>
              )}
              <Button
                tone="primary"
                type="submit"
                disabled={form.pending || unknown || holds.open.length > 0}
                {...(decision ? {} : { "data-primary": true })}
              >
                Store the work
              </Button>
            </div>
          </form>
        )}
        <AgainstEstimate />
        <ToProve />
      </div>
    </div>
  );
}

/** Hours and parts of the estimate beside what it took so far. */
function AgainstEstimate() {
  const { state } = useJob();
  const money = useMoney();
  const against = estimateAgainst(state);
  if (!against) return null;
  return (
    <section aria-label="Estimate against actual" className="border border-rule bg-panel p-3">
      <h2 className="text-lg">Estimate against actual</h2>
      <PlainTable
        columns={["", "Estimated", "Actual"]}
        rows={[
          ["Hours", against.estimatedH.toFixed(1), against.takenH.toFixed(1)],
          ["Parts", money(against.estimatedParts), money(against.usedParts)],
        ]}
      />
    </section>
  );
}
