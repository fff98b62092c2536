import type { EntryOf } from "@gearsense/core/job";
import { Camera, CloudOff, X } from "lucide-react";
import { useEffect, useMemo, useState } from "react";
import { urlOf } from "../api/client.ts";
import { useJob } from "../job/job-context.tsx";
import { Button, Notice } from "../shared/controls.tsx";
import { FileButton } from "../shared/FileButton.tsx";
import { PhotoDialog } from "./PhotoDialog.tsx";
import type { WaitingPhoto } from "./photo-queue.ts";
import { type PhotoAbout, usePhotos } from "./usePhotos.ts";

export const ABOUT_WORDS: Readonly<Record<PhotoAbout, string>> = {
  fluid: "the fluid",
  pan: "the pan",
  magnet: "the magnet",
  filter: "the filter",
  leak: "a leak",
  connector: "a connector",
  other: "something else",
};

/** Photos of a job that show certain things: taken here, those that wait for the network among them. */
export function PhotoStrip({ about, take }: { about: readonly PhotoAbout[]; take: PhotoAbout }) {
  const { job, state, mayEdit } = useJob();
  const photos = usePhotos(job.id);
  const [open, setOpen] = useState<string | undefined>();
  const shown = state.photos.filter((p) => about.includes(p.body.about));
  const waiting = photos.waiting.filter((p) => about.includes(p.about as PhotoAbout));
  const opened = shown.find((p) => p.body.photoId === open);
  return (
    <section aria-label={`Photos of ${ABOUT_WORDS[take]}`} className="flex flex-col gap-2">
      <div className="flex flex-wrap items-start gap-2">
        {shown.map((p) => (
          <Thumbnail key={p.body.photoId} photo={p} onOpen={() => setOpen(p.body.photoId)} />
        ))}
        {waiting.map((p) => (
          <Waiting key={p.photoId} photo={p} onDrop={() => void photos.drop(p.photoId)} />
        ))}
        {mayEdit && (
          <FileButton
            label={`Photo of ${ABOUT_WORDS[take]}`}
            accept="image/jpeg,image/png,image/webp,image/*"
            className="h-24 w-28 flex-col px-1 whitespace-normal leading-5"
            onFile={(f) => void photos.take(f, take)}
          >
            <Camera aria-hidden="true" className="size-6" />
            Photo of {ABOUT_WORDS[take]}
          </FileButton>
        )}
      </div>
      {waiting.some((p) => !p.refused) && (
        <p role="status" className="text-sm text-quiet">
          {waiting.filter((p) => !p.refused).length} kept on this device, sent when the network is back.
        </p>
      )}
      {waiting
        .filter((p) => p.refused)
        .map((p) => (
          <Notice
            key={p.photoId}
            tone="stop"
            title="This photo was not taken"
            live
            actions={<Button onClick={() => void photos.drop(p.photoId)}>Drop it</Button>}
          >
            {p.refused}
          </Notice>
        ))}
      {opened && <PhotoDialog photo={opened} onClose={() => setOpen(undefined)} />}
    </section>
  );
}

function Thumbnail({ photo, onOpen }: { photo: EntryOf<"photo">; onOpen: () => void }) {
  const { job } = useJob();
  const { photoId, about, caption, markers } = photo.body;
  return (
    <button
      type="button"
      onClick={onOpen}
      aria-label={`Open the photo of ${ABOUT_WORDS[about]}${caption ? `: ${caption}` : ""}`}
      className="relative h-24 w-28 overflow-hidden border border-field bg-panel"
    >
      <img src={urlOf("photo", { jobId: job.id, photoId })} alt="" className="size-full object-cover" />
      {markers.length > 0 && (
        <span className="figures absolute right-0 bottom-0 bg-slate px-1.5 text-on-slate">{markers.length} marked</span>
      )}
    </button>
  );
}

function Waiting({ photo, onDrop }: { photo: WaitingPhoto; onDrop: () => void }) {
  const url = useMemo(() => URL.createObjectURL(photo.file), [photo.file]);
  useEffect(() => () => URL.revokeObjectURL(url), [url]);
  return (
    <div className="relative h-24 w-28 overflow-hidden border-2 border-dashed border-caution bg-panel">
      <img src={url} alt={`Waiting: ${photo.about}`} className="size-full object-cover opacity-60" />
      <span className="label absolute bottom-0 left-0 flex items-center gap-1 bg-caution-wash px-1 text-sm">
        <CloudOff aria-hidden="true" className="size-4" />
        {photo.refused ? "refused" : "waits"}
      </span>
      {photo.refused && (
        <button
          type="button"
          aria-label="Drop the refused photo"
          onClick={onDrop}
          className="absolute top-0 right-0 grid size-11 place-items-center bg-panel"
        >
          <X aria-hidden="true" className="size-5" />
        </button>
      )}
    </div>
  );
}
