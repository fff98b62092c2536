import type { InstrumentsView } from "@gearsense/contract";
import { Plus } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import { ApiFailure } from "../api/client.ts";
import { useInstruments, useSaveInstruments } from "../api/queries.ts";
import { Button, Notice, SelectField, TextField } from "../shared/controls.tsx";
import { Modal } from "../shared/Modal.tsx";
import { NumberField } from "../shared/NumberField.tsx";

type Instrument = InstrumentsView["instruments"][number];
const UNITS = ["mm", "kPa", "Ω", "MΩ", "V", "mV", "A", "ms", "s", "%", "°C", "l/min", "rpm"];

/** How sure the shop's instruments are: one standard deviation, as a share of the reading and fixed. */
export function Instruments({ mayEdit, onClose }: { mayEdit: boolean; onClose: () => void }) {
  const { data, error } = useInstruments(true);
  const save = useSaveInstruments();
  const [changed, setChanged] = useState<readonly Instrument[] | undefined>();
  const list = changed ?? data?.instruments ?? [];
  const set = (i: number, patch: Partial<Instrument>) =>
    setChanged(list.map((x, k) => (k === i ? { ...x, ...patch } : x)));
  const failure = save.error instanceof ApiFailure ? save.error : undefined;
  const store = async () => {
    if (!data) return;
    try {
      await save.mutateAsync({ instruments: [...list], baseSeq: data.seq });
    } catch (e) {
      if (e instanceof ApiFailure) return;
      throw e;
    }
    toast.success("Instruments stored; new readings count with them.");
    onClose();
  };
  return (
    <Modal
      open
      wide
      onClose={onClose}
      title="Instruments of the shop"
      description="How far a reading may be off: in two of three readings by no more than this share of it and this fixed part together."
    >
      <form
        noValidate
        className="flex flex-col gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          void store();
        }}
      >
        {error && <Notice tone="stop">{error.message}</Notice>}
        {failure && (
          <Notice tone="stop" title="Not stored" live>
            {failure.message}
          </Notice>
        )}
        {list.map((x, i) => (
          <fieldset
            key={x.id}
            disabled={!mayEdit}
            className="grid items-end gap-2 border-b border-rule pb-2 sm:grid-cols-[1fr_110px_130px_110px]"
          >
            <legend className="sr-only">{x.name}</legend>
            <TextField
              label="Instrument"
              value={x.name}
              error={failure?.fields[`instruments.${i}.name`]}
              onChange={(e) => set(i, { name: e.target.value })}
            />
            <NumberField
              label="Share, %"
              decimals={3}
              value={x.percent}
              error={failure?.fields[`instruments.${i}.percent`]}
              onChange={(n) => set(i, { percent: n ?? 0 })}
            />
            <NumberField
              label={`Fixed, ${x.unit ?? "its unit"}`}
              decimals={4}
              value={x.fixed}
              error={failure?.fields[`instruments.${i}.fixed`]}
              onChange={(n) => set(i, { fixed: n ?? 0 })}
            />
            <SelectField
              label="Reads"
              value={x.unit ?? ""}
              onChange={(e) => set(i, { unit: e.target.value === "" ? undefined : e.target.value })}
            >
              <option value="">several</option>
              {[...new Set([...UNITS, ...(x.unit ? [x.unit] : [])])].map((u) => (
                <option key={u} value={u}>
                  {u}
                </option>
              ))}
            </SelectField>
          </fieldset>
        ))}
        {mayEdit && (
          <div className="flex justify-between gap-2">
            <Button
              onClick={() =>
                setChanged([...list, { id: `own-${list.length}`, name: "", percent: 0, fixed: 0.01, unit: "mm" }])
              }
            >
              <Plus aria-hidden="true" className="size-5" />
              Add an instrument
            </Button>
            <Button tone="primary" type="submit" disabled={!changed || save.isPending}>
              Store the instruments
            </Button>
          </div>
        )}
      </form>
    </Modal>
  );
}
