import type { BenchView } from "@gearsense/contract";
import { UNKNOWN_CAUSE } from "@gearsense/core/bench";
import type { BenchKnowledge } from "@gearsense/core/knowledge";
import { percent } from "@gearsense/core/quantity";
import { FormStatus } from "../job/FormStatus.tsx";
import { useJob } from "../job/job-context.tsx";
import { factor } from "../job/OddsStrip.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { Button, Choice, Notice, TextArea } from "../shared/controls.tsx";

const SHOWN = 5;
const TOLD = 4;
/** A sign that moves a cause by less is not told. */
const LEAST_BITS = 0.25;

/** Odds of every cause with what speaks for and against it, and the answer that the job asks for. */
export function CausePanel({ bench, knowledge }: { bench: BenchView | undefined; knowledge: BenchKnowledge }) {
  const { state, mayEdit } = useJob();
  const stored = state.bench.find((e) => e.body.place === "cause");
  const form = useEntryForm<{ cause: string; note: string }>("bench", "bench:cause", stored, {
    cause: stored?.body.looks.find((l) => l.id === "cause")?.outcome ?? "",
    note: stored?.body.note ?? "",
  });
  const { cause, note } = form.value;
  const named = knowledge.causes.find((c) => c.id === cause);
  const options = [
    ...[...knowledge.causes]
      .sort((a, b) => odds(bench, b.id) - odds(bench, a.id))
      .map((c) => ({ value: c.id, label: c.title })),
    { value: UNKNOWN_CAUSE, label: "Not known" },
  ];
  const store = () =>
    form.submit({
      place: "cause",
      title: "What broke it",
      values: [],
      looks: [
        {
          id: "cause",
          name: "What broke it",
          outcome: cause,
          label: options.find((o) => o.value === cause)?.label ?? cause,
          pass: null,
        },
      ],
      chosen: [],
      note,
    });
  return (
    <div className="flex flex-col gap-4">
      {bench && bench.signs.length === 0 && (
        <p className="text-quiet">
          Nothing speaks of the cause yet. Measures and looks of the other places, the intake, the pan and the logs do.
        </p>
      )}
      {bench && bench.signs.length > 0 && (
        <ol aria-label="Causes" className="border border-rule bg-panel">
          {bench.causes.slice(0, SHOWN).map((c) => (
            <li key={c.id} className="border-b border-rule p-3">
              <div className="flex items-baseline justify-between gap-3">
                <span className="label text-lg">{c.title}</span>
                <span className="figures text-lg">{percent(c.probability)}</span>
              </div>
              <div aria-hidden="true" className="my-1 h-2 bg-rule">
                <div className="h-2 bg-slate" style={{ width: `${100 * c.probability}%` }} />
              </div>
              <p className="text-[15px]">
                {c.weights
                  .filter((w) => Math.abs(w.bits) >= LEAST_BITS)
                  .slice(0, TOLD)
                  .map((w) => (
                    <span key={w.sign.sign} title={w.why} className="mr-3 inline-block">
                      {w.sign.label}{" "}
                      <span className={`figures ${w.bits > 0 ? "text-clear" : "text-stop"}`}>
                        {factor(2 ** w.bits)}
                      </span>
                    </span>
                  ))}
              </p>
            </li>
          ))}
        </ol>
      )}
      <form
        noValidate
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void store();
        }}
      >
        <FormStatus form={form} />
        <Choice
          label="What broke it"
          value={cause === "" ? undefined : cause}
          options={options}
          disabled={!mayEdit}
          onChange={(v) => form.set({ cause: v })}
        />
        {named && (
          <Notice tone="plain" title={`Before it goes back: ${named.remedy}`}>
            Told to the owner: {named.again}
          </Notice>
        )}
        <TextArea
          label="How it is known"
          value={note}
          disabled={!mayEdit}
          onChange={(e) => form.set({ note: e.target.value })}
        />
        {mayEdit && (
          <div className="flex justify-end">
            <Button tone="primary" type="submit" data-primary disabled={cause === "" || form.pending}>
              Store the answer
            </Button>
          </div>
        )}
      </form>
    </div>
  );
}

const odds = (bench: BenchView | undefined, id: string) => bench?.causes.find((c) => c.id === id)?.probability ?? 0;
