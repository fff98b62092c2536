import type { EntryBodies, EntryOf } from "@gearsense/core/job";
import { markerSigns } from "@gearsense/core/observe";
import { Trash2 } from "lucide-react";
import type { PointerEvent } from "react";
import { urlOf } from "../api/client.ts";
import { useObservations } from "../api/queries.ts";
import { FormStatus } from "../job/FormStatus.tsx";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { Button, SelectField, TextField } from "../shared/controls.tsx";
import { Modal } from "../shared/Modal.tsx";

const MOST_MARKERS = 20;

/** A photo with its markers: touch the picture to set one, name it, store. */
export function PhotoDialog({ photo, onClose }: { photo: EntryOf<"photo">; onClose: () => void }) {
  const { job, mayEdit } = useJob();
  const form = useEntryForm<EntryBodies["photo"]>("photo", `photo.${photo.body.photoId}`, photo, photo.body);
  const { markers } = form.value;
  const { data: known } = useObservations();
  const signs = known ? markerSigns(photo.body.about, known.debris) : [];
  const change = (at: number, patch: Partial<(typeof markers)[number]>) =>
    form.set({ markers: markers.map((m, i) => (i === at ? { ...m, ...patch } : m)) });
  /** what a sign is called is its text, unless somebody wrote another */
  const choose = (at: number, id: string) => {
    const labels = new Set(["", ...signs.map((s) => s.label)]);
    const label = signs.find((s) => s.id === id)?.label ?? "";
    change(at, {
      shows: id === "" ? undefined : id,
      ...(labels.has(markers[at]?.text ?? "") ? { text: label } : {}),
    });
  };
  const add = (x: number, y: number) =>
    markers.length < MOST_MARKERS && form.set({ markers: [...markers, { x, y, text: "" }] });
  const onPointerUp = (e: PointerEvent<HTMLDivElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    if (mayEdit) add((e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height);
  };
  return (
    <Modal
      open
      onClose={onClose}
      title={form.value.caption || `Photo: ${form.value.about}`}
      description={`${photo.author}, ${photo.body.widthPx} × ${photo.body.heightPx} px, hash ${photo.body.sha256.slice(0, 8)}…`}
      wide
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void form.submit().then((ok) => ok && onClose());
        }}
      >
        <FormStatus form={form} />
        <div className="relative self-center" onPointerUp={onPointerUp} style={{ touchAction: "manipulation" }}>
          <img
            src={urlOf("photo", { jobId: job.id, photoId: photo.body.photoId })}
            alt={`${form.value.about}, ${markers.length} marked`}
            className="max-h-[46vh] w-auto"
          />
          {markers.map((m, i) => (
            <span
              // biome-ignore lint/suspicious/noArrayIndexKey: markers are numbered by their place
              key={i}
              className="figures pointer-events-none absolute grid size-7 -translate-x-1/2 -translate-y-1/2 place-items-center rounded-full border-2 border-on-action bg-action text-on-action"
              style={{ left: `${m.x * 100}%`, top: `${m.y * 100}%` }}
            >
              {i + 1}
            </span>
          ))}
        </div>
        <fieldset disabled={!mayEdit} className="flex flex-col gap-2">
          <div className="flex items-center justify-between gap-2">
            <p className="text-quiet">
              Touch the picture to mark a place.
              {signs.length > 0 && " What a marker shows counts in the odds, unless it is written down elsewhere."}
            </p>
            <Button onClick={() => add(0.5, 0.5)} disabled={markers.length >= MOST_MARKERS}>
              Mark the middle
            </Button>
          </div>
          {markers.map((m, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: as above
            <div key={i} className="flex flex-wrap items-end gap-2">
              {signs.length > 0 && (
                <SelectField
                  label={`Marker ${i + 1} shows`}
                  value={m.shows ?? ""}
                  onChange={(e) => choose(i, e.target.value)}
                >
                  <option value="">Something else</option>
                  {signs.map((s) => (
                    <option key={s.id} value={s.id}>
                      {s.label}
                    </option>
                  ))}
                </SelectField>
              )}
              <TextField
                className="flex-1"
                label={`Marker ${i + 1}`}
                value={m.text}
                onChange={(e) => change(i, { text: e.target.value })}
              />
              <Button
                tone="quiet"
                aria-label={`Remove marker ${i + 1}`}
                onClick={() => form.set({ markers: markers.filter((_, k) => k !== i) })}
              >
                <Trash2 aria-hidden="true" className="size-5" />
              </Button>
            </div>
          ))}
          <TextField
            label="What it shows"
            value={form.value.caption}
            onChange={(e) => form.set({ caption: e.target.value })}
          />
          <div className="flex justify-end gap-2">
            <Button onClick={onClose}>Close</Button>
            <Button tone="primary" type="submit" disabled={form.pending || !form.drafted}>
              Store the markers
            </Button>
          </div>
        </fieldset>
      </form>
    </Modal>
  );
}
