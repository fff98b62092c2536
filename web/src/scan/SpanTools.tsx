import type { ReadingInput, StoredReadingView } from "@gearsense/contract";
import type { EntryOf } from "@gearsense/core/job";
import { DropdownMenu } from "radix-ui";
import { type RefObject, useState } from "react";
import { call } from "../api/client.ts";
import { useJob } from "../job/job-context.tsx";
import { useAddEntry } from "../offline/useAddEntry.ts";
import { Button, Notice, TextArea } from "../shared/controls.tsx";
import { download } from "../shared/download.ts";
import { Modal } from "../shared/Modal.tsx";
import type { Shown } from "./trace/Trace.tsx";
import { useJudging } from "./useJudging.ts";
import type { LogClient } from "./worker/client.ts";

const itemClass =
  "label flex min-h-11 cursor-pointer items-center px-3 data-[highlighted]:bg-action-wash data-[disabled]:text-quiet";

/** What can be done with the span that the trace shows, and with the log as a whole. */
export function SpanTools({
  log,
  reading,
  client,
  shown,
}: {
  log: EntryOf<"log">;
  reading: StoredReadingView;
  client: LogClient;
  shown: RefObject<Shown>;
}) {
  const { job, state, mayEdit } = useJob();
  const { logId, fileName } = log.body;
  const [noting, setNoting] = useState<{ startS: number; endS: number } | undefined>();
  const [failed, setFailed] = useState<string | undefined>();
  const { judge: judging, busy, problem } = useJudging(logId);
  /** Only a span of it, or with others behind it. */
  const judge = (patch: Pick<ReadingInput, "spanS" | "joined">) => {
    const { joined: _j, spanS: _s, ...own } = reading;
    return judging(() => call("analyseLog", { params: { jobId: job.id, logId }, body: { ...own, ...patch } }));
  };
  const base = fileName.replace(/\.[^.]+$/, "");
  const spanName = () => {
    const { startS, endS } = shown.current.view;
    return `${base}-${startS.toFixed(0)}-${endS.toFixed(0)}s`;
  };
  const csv = async () => {
    try {
      const { startS, endS } = shown.current.view;
      download(`${spanName()}.csv`, new Blob([await client.csv(startS, endS)], { type: "text/csv" }));
    } catch (error) {
      setFailed(error instanceof Error ? error.message : String(error));
    }
  };
  const picture = async () => {
    const blob = await shown.current.picture();
    if (blob) download(`${spanName()}.png`, blob);
    else setFailed("The picture could not be made.");
  };
  const whole = reading.spanS || reading.joined;
  const others = state.logs.filter(
    (l) =>
      l.body.logId !== logId &&
      l.body.role === log.body.role &&
      state.analyses.some((a) => a.body.logId === l.body.logId) &&
      !reading.joined?.some((j) => j.logId === l.body.logId),
  );
  const joinedIds = (reading.joined ?? []).map((j) => j.logId);
  const trouble = failed ?? problem;
  return (
    <div className="flex flex-col items-end gap-2">
      <div className="flex flex-wrap justify-end gap-2">
        {mayEdit && (
          <Button onClick={() => setNoting({ ...shown.current.view })} disabled={busy}>
            Note on this span
          </Button>
        )}
        <DropdownMenu.Root>
          <DropdownMenu.Trigger asChild>
            <Button disabled={busy}>{busy ? "Analysing …" : "Span and log"}</Button>
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content align="end" className="z-40 min-w-64 border-2 border-ink bg-panel text-ink">
              <DropdownMenu.Item className={itemClass} onSelect={() => void csv()}>
                Save what is shown as CSV
              </DropdownMenu.Item>
              <DropdownMenu.Item className={itemClass} onSelect={() => void picture()}>
                Save what is shown as a picture
              </DropdownMenu.Item>
              {mayEdit && (
                <>
                  <DropdownMenu.Separator className="h-px bg-rule" />
                  <DropdownMenu.Item
                    className={itemClass}
                    disabled={reading.spanS !== undefined}
                    onSelect={() => {
                      const { startS, endS } = shown.current.view;
                      void judge({ spanS: [startS, endS], joined: joinedIds });
                    }}
                  >
                    Judge only what is shown
                  </DropdownMenu.Item>
                  {others.map((l) => (
                    <DropdownMenu.Item
                      key={l.id}
                      className={itemClass}
                      disabled={reading.spanS !== undefined}
                      onSelect={() => void judge({ joined: [...joinedIds, l.body.logId] })}
                    >
                      Join {l.body.label ? `${l.body.label}, ` : ""}
                      {l.body.fileName} behind it
                    </DropdownMenu.Item>
                  ))}
                  {whole && (
                    <DropdownMenu.Item className={itemClass} onSelect={() => void judge({})}>
                      Judge the whole log by itself
                    </DropdownMenu.Item>
                  )}
                </>
              )}
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      </div>
      {trouble && (
        <Notice tone="stop" live>
          {trouble}
        </Notice>
      )}
      {noting && <NoteDialog jobId={job.id} logId={logId} span={noting} onClose={() => setNoting(undefined)} />}
    </div>
  );
}

function NoteDialog({
  jobId,
  logId,
  span,
  onClose,
}: {
  jobId: string;
  logId: string;
  span: { startS: number; endS: number };
  onClose: () => void;
}) {
  const [text, setText] = useState("");
  const add = useAddEntry(jobId);
  return (
    <Modal
      open
      onClose={onClose}
      title="Note on this span"
      description={`${span.startS.toFixed(1)} to ${span.endS.toFixed(1)} s; it stands on the timeline as well`}
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          add.mutate({ kind: "note", body: { text, span: { logId, ...span } }, baseSeq: 0 }, { onSuccess: onClose });
        }}
      >
        <TextArea label="Note" value={text} onChange={(e) => setText(e.target.value)} rows={3} required />
        {add.error && (
          <Notice tone="stop" live>
            {add.error.message}
          </Notice>
        )}
        <Button tone="primary" type="submit" disabled={add.isPending || text.trim() === ""}>
          Keep the note
        </Button>
      </form>
    </Modal>
  );
}
