import type { EntryBodies } from "@gearsense/core/job";
import { useState } from "react";
import { FormStatus } from "../job/FormStatus.tsx";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { Button, Choice, TextArea } from "../shared/controls.tsx";
import { NumberField } from "../shared/NumberField.tsx";

interface Typed {
  what: string;
  odometerKm: number | null;
  lasted: "no" | "yes" | undefined;
}

/** It came back: the job is opened again with all that was known, and a repair that did not last counts against itself. */
export function Reopen() {
  const { state } = useJob();
  const [typing, setTyping] = useState(false);
  const form = useEntryForm<Typed>("comeback", "comeback.new", undefined, {
    what: "",
    odometerKm: null,
    lasted: undefined,
  });
  const { value, set, errors } = form;
  const repair = state.decision?.body;
  if (!typing)
    return (
      <div className="flex justify-end">
        <Button onClick={() => setTyping(true)}>It came back …</Button>
      </div>
    );
  const submit = () => {
    const body: EntryBodies["comeback"] = {
      what: value.what,
      odometerKm: value.odometerKm ?? Number.NaN,
      repairId: repair && value.lasted === "no" ? repair.repairId : null,
    };
    return form.submit(body);
  };
  return (
    <section aria-label="It came back" className="flex flex-col gap-3 border border-rule bg-panel p-4">
      <h2 className="text-xl">It came back</h2>
      <p className="text-quiet">
        The job is opened again with its history; decision, proof and hand-over are done anew.
      </p>
      <FormStatus form={form} />
      <TextArea
        label="What it does"
        value={value.what}
        onChange={(e) => set({ what: e.target.value })}
        error={errors.what}
      />
      <NumberField
        label="Odometer, km"
        decimals={0}
        value={value.odometerKm}
        onChange={(odometerKm) => set({ odometerKm })}
        error={errors.odometerKm}
      />
      {repair && (
        <Choice
          label={`Is it what “${repair.title}” was meant to fix?`}
          value={value.lasted}
          options={[
            { value: "no", label: "Yes: the repair did not last" },
            { value: "yes", label: "No: another trouble" },
          ]}
          onChange={(lasted) => set({ lasted })}
        />
      )}
      <div className="flex justify-end gap-3">
        <Button tone="quiet" onClick={() => setTyping(false)}>
          Cancel
        </Button>
        <Button
          tone="primary"
          disabled={form.pending || (repair !== undefined && value.lasted === undefined)}
          onClick={() => void submit()}
        >
          Reopen the job
        </Button>
      </div>
    </section>
  );
}
