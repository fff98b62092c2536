import type { CatalogueView, NewEntryInput } from "@gearsense/contract";
import { checkEntry } from "@gearsense/core/suspect";
import { useState } from "react";
import { useJob } from "../job/job-context.tsx";
import { Cautions, HoldsOpen, useHolds } from "../shared/Caution.tsx";
import { Button, Choice, Notice, TextField } from "../shared/controls.tsx";
import { Modal } from "../shared/Modal.tsx";
import { type Measured, MeasureFields } from "./MeasureFields.tsx";
import { useStoreEntry } from "./useStoreEntry.ts";

type Check = CatalogueView["checks"][number];

/** How to make a check, its cautions before it, and its result. */
export function RecordCheck({ check, onClose }: { check: Check; onClose: () => void }) {
  const { job, state } = useJob();
  const { store: storeEntry, refused, pending } = useStoreEntry(job.id, "Result stored; the odds have moved.", onClose);
  const [outcome, setOutcome] = useState<string | undefined>();
  const [minutes, setMinutes] = useState(String(check.minutes));
  const [note, setNote] = useState("");
  const [missing, setMissing] = useState(false);
  const [measured, setMeasured] = useState<Measured | undefined>();
  const holds = useHolds(check.cautions);
  const shown = outcome ?? measured?.outcome;
  const standing = state.checks.find((c) => c.body.checkId === check.id);
  const store = async () => {
    if (!shown) {
      setMissing(true);
      return;
    }
    const spent = Number(minutes);
    await storeEntry({
      kind: "check",
      body: checkEntry(
        check,
        shown,
        minutes.trim() !== "" && Number.isFinite(spent) ? spent : null,
        note,
        // what was chosen against the numbers rests on the eye
        measured && {
          values: [...measured.values],
          ...(shown === measured.outcome ? { weight: measured.weight } : {}),
        },
      ),
      baseSeq: standing?.seq ?? 0,
    } as NewEntryInput);
  };
  return (
    <Modal
      open
      onClose={onClose}
      title={check.title}
      description={`About ${check.minutes} min, ${check.intrusiveness}.`}
      wide
    >
      <form
        className="flex flex-col gap-4"
        onSubmit={(e) => {
          e.preventDefault();
          void store();
        }}
      >
        <Cautions names={check.cautions} holds={holds} />
        <div>
          {check.needs.length > 0 && (
            <p>
              <span className="label">Before it:</span> {check.needs.join("; ")}.
            </p>
          )}
          <p className="text-lg">{check.how}</p>
          <p className="text-quiet">Write down: {check.record}</p>
        </div>
        {refused && (
          <Notice tone="stop" title="Not stored" live>
            {refused.message}
          </Notice>
        )}
        {check.measures && (
          <MeasureFields measures={check.measures} component={check.component} onChange={setMeasured} />
        )}
        <Choice
          label="Result"
          value={shown}
          options={check.outcomes.map((o) => ({ value: o.id, label: o.label }))}
          onChange={setOutcome}
          error={missing && !shown ? "Choose what the check showed." : undefined}
        />
        <div className="grid gap-3 sm:grid-cols-[120px_1fr]">
          <TextField
            label="Minutes spent"
            inputMode="numeric"
            value={minutes}
            onChange={(e) => setMinutes(e.target.value)}
          />
          <TextField label="Note or reading" value={note} onChange={(e) => setNote(e.target.value)} />
        </div>
        <div className="flex flex-wrap items-center justify-end gap-2">
          <HoldsOpen holds={holds} />
          <Button onClick={onClose}>Not now</Button>
          <Button tone="primary" type="submit" disabled={pending || holds.open.length > 0}>
            Store the result
          </Button>
        </div>
      </form>
    </Modal>
  );
}
