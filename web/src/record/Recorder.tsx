import type { LogRole } from "@gearsense/core/job";
import { useState } from "react";
import { ApiFailure } from "../api/client.ts";
import { useRecorder, useRecording } from "../api/queries.ts";
import { useJob } from "../job/job-context.tsx";
import { Button, Notice } from "../shared/controls.tsx";
import { Live } from "./Live.tsx";
import { Setup } from "./Setup.tsx";

/** Records a drive from the vehicle itself: who is there, what is read, the drive while it is driven, kept or dropped. */
export function Recorder({ when, onKept }: { when: LogRole; onKept: (logId: string) => void }) {
  const { job } = useJob();
  const { data: recording, error, isPending } = useRecording(job.id);
  const { start, mark, end } = useRecorder(job.id);
  const [ending, setEnding] = useState<"keep" | "drop">();
  const settle = async (wanted: "keep" | "drop") => {
    setEnding(wanted);
    const done = await end.mutateAsync(wanted).catch(() => undefined);
    setEnding(undefined);
    if (done?.recording.logId) onKept(done.recording.logId);
  };
  const trouble = error ?? end.error ?? (start.error instanceof ApiFailure ? start.error : null);
  return (
    <section aria-label="Record a drive" className="flex flex-col gap-4">
      {trouble && (
        <Notice tone="stop" live>
          {trouble.message}
        </Notice>
      )}
      {isPending && <p className="text-quiet">Looking for a recording …</p>}
      {recording && (recording.state === "open" || recording.state === "cut") ? (
        <>
          {recording.state === "cut" && ending === undefined && (
            <Notice tone="caution" live title="The recording has ended by itself">
              {recording.live.gone
                ? `${recording.live.gone[0]?.toUpperCase()}${recording.live.gone.slice(1)}.`
                : "Whoever recorded it is gone."}{" "}
              What came until then is stored: keep it or drop it.
            </Notice>
          )}
          <Live recording={recording} mark={mark} />
          <div className="flex flex-wrap items-center justify-end gap-3">
            {ending === "keep" && (
              <p role="status" className="text-quiet">
                The log is stored and analysed …
              </p>
            )}
            <DropButton busy={ending !== undefined} onDrop={() => void settle("drop")} />
            <Button tone="primary" disabled={ending !== undefined} onClick={() => void settle("keep")}>
              {recording.state === "open" ? "End and keep" : "Keep"}
            </Button>
          </div>
        </>
      ) : (
        !isPending && <Setup when={when} start={start} />
      )}
    </section>
  );
}

/** Asked once more: what is dropped is gone. */
function DropButton({ busy, onDrop }: { busy: boolean; onDrop: () => void }) {
  const [asked, setAsked] = useState(false);
  return asked ? (
    <>
      <span>Drop the whole recording?</span>
      <Button tone="quiet" onClick={() => setAsked(false)}>
        No, go on
      </Button>
      <Button tone="danger" disabled={busy} onClick={onDrop}>
        Drop it
      </Button>
    </>
  ) : (
    <Button tone="quiet" disabled={busy} onClick={() => setAsked(true)}>
      Drop
    </Button>
  );
}
