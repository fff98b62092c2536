import type { CatalogueView } from "@gearsense/contract";
import { useState } from "react";
import { useJob } from "../job/job-context.tsx";
import { Button, Choice, Notice, SelectField, TextField } from "../shared/controls.tsx";
import { Modal } from "../shared/Modal.tsx";
import { useStoreEntry } from "./useStoreEntry.ts";

/** A repair that was done, here or elsewhere, and changed nothing or something: evidence like a check. */
export function RecordTried({ repairs, onClose }: { repairs: CatalogueView["repairs"]; onClose: () => void }) {
  const { job, state } = useJob();
  const { store: storeEntry, refused, pending } = useStoreEntry(job.id, "Stored; the odds have moved.", onClose);
  const wasTried = (id: string) => state.tried.some((t) => t.body.repairId === id);
  const done = repairs.filter((r) => r.option !== "nothing" && (r.again === undefined || wasTried(r.again)));
  // after work, what was decided is what was done
  const decided = state.work.length > 0 ? (state.decision?.body.repairId.split("+") ?? []) : [];
  const [repairId, setRepairId] = useState(() => done.find((r) => decided.includes(r.id) && !wasTried(r.id))?.id ?? "");
  const [outcome, setOutcome] = useState<"no-change" | "better" | undefined>();
  const [note, setNote] = useState("");
  const [missing, setMissing] = useState(false);
  const repair = done.find((r) => r.id === repairId);
  const store = async () => {
    if (!repair || !outcome) {
      setMissing(true);
      return;
    }
    await storeEntry({
      kind: "tried",
      body: { repairId: repair.id, title: repair.title, outcome, note },
      baseSeq: state.tried.find((t) => t.body.repairId === repair.id)?.seq ?? 0,
    });
  };
  return (
    <Modal
      open
      onClose={onClose}
      title="A repair that was done"
      description="What it would have cured becomes less likely; what is seen from now on is what it has left."
      wide
    >
      <form
        className="flex flex-col gap-4"
        onSubmit={(e) => {
          e.preventDefault();
          void store();
        }}
      >
        {refused && (
          <Notice tone="stop" title="Not stored" live>
            {refused.message}
          </Notice>
        )}
        <SelectField
          label="Repair"
          value={repairId}
          onChange={(e) => setRepairId(e.target.value)}
          error={missing && !repair ? "Choose what was done." : undefined}
        >
          <option value="">choose …</option>
          {done.map((r) => (
            <option key={r.id} value={r.id}>
              {r.title}
            </option>
          ))}
        </SelectField>
        <Choice
          label="What came of it"
          value={outcome}
          options={[
            { value: "no-change", label: "No change" },
            { value: "better", label: "Better, not gone" },
          ]}
          onChange={setOutcome}
          error={missing && !outcome ? "Choose what came of it." : undefined}
        />
        <TextField label="Note" value={note} onChange={(e) => setNote(e.target.value)} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Not now</Button>
          <Button tone="primary" type="submit" disabled={pending}>
            Store it
          </Button>
        </div>
      </form>
    </Modal>
  );
}
