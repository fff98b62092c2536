import type { EntryBodies, Sureness } from "@gearsense/core/job";
import type { QuickCheckStep } from "@gearsense/core/observe";
import clsx from "clsx";
import { Check, ChevronDown, ChevronRight, SkipForward, TriangleAlert } from "lucide-react";
import { Collapsible } from "radix-ui";
import { useRef, useState } from "react";
import { FormStatus } from "../job/FormStatus.tsx";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { PhotoStrip } from "../photos/PhotoStrip.tsx";
import type { PhotoAbout } from "../photos/usePhotos.ts";
import { Cautions } from "../shared/Caution.tsx";
import { Button, Choice, TextField } from "../shared/controls.tsx";
import { NumberField } from "../shared/NumberField.tsx";
import { RungFields } from "./RungFields.tsx";

type Observation = EntryBodies["observation"];

export const SURE: readonly { value: Sureness; label: string }[] = [
  { value: "sure", label: "Sure" },
  { value: "fairly", label: "Fairly" },
  { value: "doubtful", label: "Doubtful" },
];
const PHOTOS: Readonly<Record<string, PhotoAbout>> = { leaks: "leak", connector: "connector" };

/** One rung: folded to a line; open with its caution, how it is done, and what was seen. */
export function RungCard({
  step,
  open,
  onOpen,
}: {
  step: QuickCheckStep;
  open: boolean;
  onOpen: (open: boolean) => void;
}) {
  const { state } = useJob();
  const { rung } = step;
  const stored = state.observations.find((o) => o.body.rung === rung.id);
  const b = stored?.body;
  return (
    <Collapsible.Root open={open} onOpenChange={onOpen} asChild>
      <li className={clsx("border border-b-0 border-rule bg-panel last:border-b", open && "border-ink")}>
        <Collapsible.Trigger className="flex min-h-[52px] w-full items-center gap-3 px-3 text-left">
          {open ? (
            <ChevronDown aria-hidden="true" className="size-5 shrink-0" />
          ) : (
            <ChevronRight aria-hidden="true" className="size-5 shrink-0" />
          )}
          <span className="min-w-0 flex-1">
            <span className="label block text-[17px]">{rung.title}</span>
            <span className="block text-sm text-quiet">{step.reason}</span>
          </span>
          {b && (
            <span
              className={clsx(
                "flex items-center gap-1.5 text-right",
                b.skipped ? "text-caution" : b.abnormal ? "text-action" : "text-clear",
              )}
            >
              {b.skipped ? (
                <SkipForward aria-hidden="true" className="size-5" />
              ) : b.abnormal ? (
                <TriangleAlert aria-hidden="true" className="size-5" />
              ) : (
                <Check aria-hidden="true" className="size-5" />
              )}
              {b.skipped ? `skipped: ${b.skipped}` : b.outcomeLabel}
            </span>
          )}
          <span className="figures w-16 shrink-0 text-right text-quiet">{b ? (b.minutes ?? 0) : rung.minutes} min</span>
        </Collapsible.Trigger>
        <Collapsible.Content>
          <RungForm step={step} onDone={() => onOpen(false)} />
        </Collapsible.Content>
      </li>
    </Collapsible.Root>
  );
}

function RungForm({ step, onDone }: { step: QuickCheckStep; onDone: () => void }) {
  const { state, mayEdit } = useJob();
  const { rung } = step;
  const stored = state.observations.find((o) => o.body.rung === rung.id);
  const form = useEntryForm<Observation>(
    "observation",
    `observation.${rung.id}`,
    stored,
    stored?.body ?? {
      rung: rung.id,
      title: rung.title,
      outcome: "",
      outcomeLabel: "",
      abnormal: false,
      method: "",
      sure: "sure",
      values: {},
      minutes: null,
      skipped: "",
      note: "",
    },
  );
  const [leaving, setLeaving] = useState(false);
  const begun = useRef(Date.now());
  const v = form.value;
  const spent = () => v.minutes ?? Math.max(1, Math.round((Date.now() - begun.current) / 60_000));
  const choose = (outcome: string | undefined, values = v.values) => {
    const found = rung.outcomes.find((o) => o.id === outcome);
    form.set({
      outcome: found?.id ?? "",
      outcomeLabel: found?.label ?? "",
      abnormal: found?.abnormal ?? false,
      skipped: "",
      values,
    });
  };
  const store = async (body: Observation) => {
    if (await form.submit(body)) onDone();
  };
  const about = PHOTOS[rung.id];
  return (
    <form
      aria-label={rung.title}
      noValidate
      className="flex flex-col gap-3 border-t border-rule p-3"
      onSubmit={(e) => {
        e.preventDefault();
        void store({ ...v, outcome: v.outcome === "skipped" ? "" : v.outcome, skipped: "", minutes: spent() });
      }}
    >
      <p>{rung.why}</p>
      {mayEdit && rung.cautions.length > 0 && <Cautions names={rung.cautions} />}
      <p>
        <span className="label">How: </span>
        {rung.how}
      </p>
      <FormStatus form={form} />
      <fieldset disabled={!mayEdit} className="flex flex-col gap-3">
        <RungFields rung={rung} value={v} choose={choose} error={form.errors.outcome} />
        {about && <PhotoStrip about={[about]} take={about} />}
        <div className="flex flex-wrap items-start gap-3">
          <Choice label="How sure" value={v.sure} options={SURE} onChange={(sure) => form.set({ sure })} />
          <TextField
            className="min-w-52 flex-1"
            label="By what, under which conditions"
            placeholder="meter; engine warm"
            maxLength={120}
            value={v.method}
            onChange={(e) => form.set({ method: e.target.value })}
          />
          <TextField
            className="min-w-52 flex-1"
            label="Note"
            value={v.note}
            onChange={(e) => form.set({ note: e.target.value })}
          />
          <div className="w-32">
            <NumberField
              label="Minutes"
              hint="timed if empty"
              value={v.minutes}
              onChange={(minutes) => form.set({ minutes })}
              error={form.errors.minutes}
            />
          </div>
        </div>
        {mayEdit && (
          <div className="flex flex-wrap justify-end gap-2">
            {leaving ? (
              <div className="flex flex-1 flex-wrap items-end gap-2">
                <TextField
                  className="min-w-52 flex-1"
                  label="Why it is skipped"
                  hint={`It leaves open: ${rung.leavesOpen}.`}
                  value={v.skipped}
                  onChange={(e) => form.set({ skipped: e.target.value })}
                />
                <Button
                  disabled={v.skipped.trim() === "" || form.pending}
                  onClick={() =>
                    void store({
                      ...v,
                      outcome: "skipped",
                      outcomeLabel: "skipped",
                      abnormal: false,
                      values: {},
                      minutes: 0,
                    })
                  }
                >
                  Skip
                </Button>
                <Button tone="quiet" onClick={() => setLeaving(false)}>
                  Do it after all
                </Button>
              </div>
            ) : (
              <Button tone="quiet" onClick={() => setLeaving(true)}>
                Skip …
              </Button>
            )}
            <Button type="submit" disabled={form.pending || v.outcome === "" || v.outcome === "skipped"}>
              Store what was seen
            </Button>
          </div>
        )}
      </fieldset>
    </form>
  );
}
